"""Reads files whole on both sides at once: one reader a side, in the order of their inodes, which is near the disk's.

What was read is handed out as it comes, so that a run that is stopped has lost nothing.
"""

from __future__ import annotations

import os
import queue
import threading
import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import NamedTuple

from lazy_magpie.hashing import whole_of
from lazy_magpie.mirrors.compare import Entry


class Side(NamedTuple):
    """A side to be read: its name, its folder, and its files."""

    name: str
    top: str
    files: Mapping[str, Entry]


class WasRead(NamedTuple):
    """A file that was read: its side, path, digest (b"" where that failed), why it failed, and when (seconds)."""

    side: str
    path: str
    digest: bytes
    why: str
    at: int


def read_sides(sides: Sequence[Side], stop: Callable[[], bool] = lambda: False) -> Iterator[WasRead]:
    """Yield files as they are read, until all are, or `stop` says so."""
    answers: queue.SimpleQueue[WasRead | None] = queue.SimpleQueue()
    ended = threading.Event()
    threads = [threading.Thread(target=_read, args=(side, answers, ended), daemon=True) for side in sides]
    for thread in threads:
        thread.start()
    at_work = len(threads)
    try:
        while at_work and not stop():
            one = answers.get()
            if one is None:
                at_work -= 1
            else:
                yield one
    finally:
        ended.set()
        for thread in threads:
            thread.join()


def _read(side: Side, answers: queue.SimpleQueue[WasRead | None], ended: threading.Event) -> None:
    for path, entry in sorted(side.files.items(), key=lambda pair: pair[1].inode):
        if ended.is_set():
            break
        if entry.link is not None:
            continue
        try:
            digest = whole_of(os.path.join(side.top, path))
        except OSError as error:
            answers.put(WasRead(side.name, path, b"", (error.strerror or str(error)).lower(), int(time.time())))
            continue
        answers.put(WasRead(side.name, path, digest, "", int(time.time())))
    answers.put(None)
