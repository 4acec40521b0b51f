"""Runs a program that asks for a password on its terminal, and types it there: it stands on no command line."""

from __future__ import annotations

import os
import select
import subprocess
import time
from collections.abc import Sequence

from lazy_magpie.change.file_limit import limit

_LISTENS = 0.05
"""Seconds until a program that asks has thrown away what was typed before, and listens."""
_KEPT = 4096


def _on_terminal() -> None:
    """Make what is about to run the one program of the terminal that it has as its input."""
    import fcntl
    import termios

    fcntl.ioctl(0, termios.TIOCSCTTY, 0)


def run_with_password(command: Sequence[str], password: str, prompt: str, most: int) -> bool:
    """Run a program on a terminal of its own and type the password once it asks; say whether it ended well.

    A program that asks again has been told the wrong one, and is ended. It writes no file larger than `most` bytes.
    """
    ours, theirs = os.openpty()
    typed, seen = False, b""
    with subprocess.Popen(
        command,
        stdin=theirs,
        stdout=theirs,
        stderr=theirs,
        start_new_session=True,
        preexec_fn=_on_terminal,  # noqa: PLW1509 - no thread runs here
    ) as process:
        os.close(theirs)
        limit(process.pid, most)
        try:
            while (data := _said(ours)) and not (typed and _asks(seen + data, prompt)):
                seen = (seen + data)[-_KEPT:]
                if not typed and _asks(seen, prompt):
                    time.sleep(_LISTENS)
                    os.write(ours, password.encode() + b"\n")
                    typed, seen = True, b""
            if data:
                process.kill()
        finally:
            os.close(ours)
        return process.wait() == 0


def _asks(seen: bytes, prompt: str) -> bool:
    return seen.rstrip(b" ").endswith(prompt.encode())


def _said(ours: int) -> bytes:
    """Return what the program has said next, b"" where it has ended."""
    try:
        select.select([ours], [], [])
        return os.read(ours, 1 << 16)
    except OSError:  # its end of the terminal is closed
        return b""
