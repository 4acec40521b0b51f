"""Which files of a heap have not all arrived yet: written to right now, held open, growing, with holes, or stalled."""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import suppress
from functools import cached_property

from lazy_magpie.formatting import day_text
from lazy_magpie.identify.file_types import BY_ENDING
from lazy_magpie.model import Kind
from lazy_magpie.paths import name_of, split_ending
from lazy_magpie.words import is_unfinished

YOUNG = 60
"""Seconds within which a file that was written to may still be written to."""
STALLED = 86_400
"""Seconds after which a download that has not ended, and was not written to since, has stalled."""
_WITHOUT_HOLES = (Kind.MOVIE, Kind.TRACK, Kind.ARCHIVE)
"""Kinds whose files are packed so closely that a hole in one says that something is missing."""
_WRITING = os.O_WRONLY | os.O_RDWR


class Arrivals:
    """Says of files whether all of them is there; `now` is the time in seconds."""

    def __init__(self, now: float) -> None:
        self.now = now

    def why_not(self, path: str, size: int, mtime: int) -> str:
        """Return why a file at a whole path is not taken yet, "" where all of it seems to be there."""
        age = self.now - mtime / 1e9
        ending = split_ending(name_of(path))[1].lower()
        if is_unfinished(name_of(path)):
            return _stalled("an unfinished download", mtime, age)
        if age < YOUNG:
            return "younger than a minute: it may still be written to"
        try:
            status = os.stat(path, follow_symlinks=False)
        except OSError:
            return "it has vanished"
        if (status.st_size, status.st_mtime_ns) != (size, mtime):
            return "it grows: its download has not ended"
        if (status.st_dev, status.st_ino) in self._written_to:
            return "a program has it open for writing: its download may not have ended"
        kind = BY_ENDING.get(ending)
        if not size and kind not in (None, Kind.COMPANION, Kind.DOCUMENT, Kind.ARCHIVE):
            return _stalled("it is empty: its download may not have begun", mtime, age)
        if kind in _WITHOUT_HOLES and _has_hole(path, size):
            return _stalled("parts of it are missing: its download has not ended", mtime, age)
        return ""

    @cached_property
    def _written_to(self) -> frozenset[tuple[int, int]]:
        """The files that programs have open for writing, as far as this user may see that (proc(5))."""
        return frozenset(_open_for_writing())


def _stalled(why: str, mtime: int, age: float) -> str:
    return f"{why}, and has stalled: nothing came since {day_text(mtime)}" if age > STALLED else why


def _open_for_writing() -> Iterator[tuple[int, int]]:
    if not os.path.isdir("/proc/self/fd"):
        return
    for process in os.listdir("/proc"):
        if not process.isdecimal() or int(process) == os.getpid():
            continue
        with suppress(OSError):
            for handle in os.listdir(f"/proc/{process}/fd"):
                with suppress(OSError, ValueError, StopIteration):
                    with open(f"/proc/{process}/fdinfo/{handle}", encoding="ascii") as file:
                        flags = int(next(line for line in file if line.startswith("flags:")).split()[1], 8)
                    if flags & _WRITING:
                        status = os.stat(f"/proc/{process}/fd/{handle}")
                        yield status.st_dev, status.st_ino


def _has_hole(path: str, size: int) -> bool:
    """Say whether a file has a stretch that was never written (lseek(2), SEEK_HOLE)."""
    if not hasattr(os, "SEEK_HOLE") or not size:
        return False
    try:
        handle = os.open(path, os.O_RDONLY)
    except OSError:
        return False
    try:
        return os.lseek(handle, 0, os.SEEK_HOLE) < size
    except OSError:
        return False
    finally:
        os.close(handle)
