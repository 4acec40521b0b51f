"""One writer at a time: a lock that the system lets go when its holder ends, however it ends.

The file says who holds it, for whoever has to wait. That is why it is ours: a general lock (filelock) empties the file
when another process only tries to take it.
"""

from __future__ import annotations

import datetime
import json
import os
import socket
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import IO

from lazy_magpie.errors import BusyError, MagpieError


@contextmanager
def locked(own: Path, command: str) -> Iterator[None]:
    """Hold the collection's lock. Raises BusyError, saying who holds it since when, if another process does."""
    path = own / "lock"
    try:
        own.mkdir(exist_ok=True)
        file = open(path, "a+", encoding="utf-8")
    except OSError as error:
        raise MagpieError(
            f"Nothing can be written in {own}: {error.strerror}. Check its permissions, and that the disk is not "
            "read-only."
        ) from error
    with file:
        if not _take(file):
            raise BusyError(_holder(path))
        file.seek(0)
        file.truncate()
        since = datetime.datetime.now().astimezone().isoformat(timespec="seconds")
        json.dump({"process": os.getpid(), "host": socket.gethostname(), "since": since, "command": command}, file)
        file.flush()
        try:
            yield
        finally:
            file.seek(0)
            file.truncate()


def _take(file: IO[str]) -> bool:
    """Take the lock; a lock whose holder has died is free."""
    if os.name == "nt":
        return _take_on_windows(file)
    import fcntl

    try:
        fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        return False
    return True


def _take_on_windows(file: IO[str]) -> bool:
    import msvcrt

    try:
        file.seek(1 << 30)
        msvcrt.locking(file.fileno(), msvcrt.LK_NBLCK, 1)  # type: ignore[attr-defined]
    except OSError:
        return False
    return True


def _holder(path: Path) -> str:
    try:
        held = json.loads(path.read_text("utf-8"))
        who = f"“magpie {held['command']}” (process {held['process']} on {held['host']}, since {held['since']})"
    except (OSError, ValueError, KeyError):
        who = "another magpie"
    return f"{who} is writing in this collection; wait until it has ended, then try again."
