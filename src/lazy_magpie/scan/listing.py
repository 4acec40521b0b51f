"""Lists folders: the files in them, with sizes and times, and the folders. On a slow drive many calls at a time."""

from __future__ import annotations

import errno
import os
import stat
import time
from collections.abc import Callable, Iterable, Iterator, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import suppress
from dataclasses import dataclass, field
from threading import Lock

from lazy_magpie.collection import CATALOGUE_NAME, STATE_DIR_NAME
from lazy_magpie.config import FILE_NAME
from lazy_magpie.identify.vocabulary import DISC_FOLDERS
from lazy_magpie.model import FOLDER_SIZE
from lazy_magpie.paths import join, written

AT_ONCE = 16
"""Calls that wait for a slow drive at the same time."""
_SLOW = 0.0002
"""Seconds that a file takes on a slow drive, at the least."""
_CHUNK = 8
"""Files that are looked at in one go; after so many it is known whether the drive is slow."""
_UNASKED = 0.00005
"""Seconds in which no drive is asked."""
_SMALL = 32
"""Files of a folder that one thread looks at; what there is more is shared."""
_AHEAD = 64 * AT_ONCE
"""Folders that are listed before their turn on a slow drive, at the most."""

ListedFile = tuple[str, int, int, int, int]
"""A file as it lies in a folder: name (written form), size, mtime, inode, and when anything about it changed last."""


@dataclass(slots=True)
class FolderContents:
    """What lies in a folder: its files, the paths of its folders, how many links; what could not be read, and why.

    `apart` says that the folder is a collection of its own, which is kept wholly apart from the one around it.
    """

    files: list[ListedFile] = field(default_factory=list)
    folders: list[str] = field(default_factory=list)
    links: int = 0
    unreadable: list[tuple[str, str]] = field(default_factory=list)
    apart: bool = False

    def add(self, other: FolderContents) -> None:
        """Add what else lies in the folder."""
        self.files += other.files
        self.folders += other.folders
        self.links += other.links
        self.unreadable += other.unreadable
        self.apart |= other.apart


class FolderLister:
    """Lists the folders of a root. Where the drive lets each call wait, the folders that come next are listed ahead."""

    def __init__(self, root: str) -> None:
        self.root = root
        self._seconds = 0.0
        self._calls = 0
        self._pool: ThreadPoolExecutor | None = None
        self._shared: ThreadPoolExecutor | None = None
        self._ahead: dict[str, Future[_Begun]] = {}
        self._lock = Lock()

    def close(self) -> None:
        """Wait for nothing that was begun and is not needed any more."""
        for pool in (self._pool, self._shared):
            if pool:
                pool.shutdown(wait=False, cancel_futures=True)

    def contents(self, folder: str, waiting: Sequence[str], tick: Callable[[int], None]) -> FolderContents:
        """Return what lies in a folder; the last of `waiting` come next. `tick` is told of the files looked at so far.

        Raises OSError where the folder can't be listed.
        """
        self._list_ahead(waiting[: -2 * AT_ONCE : -1])
        begun = self._ahead.pop(folder, None)
        found, rest = begun.result() if begun else self._timed(folder)
        tick(len(found.files))
        if self._shared:
            chunks = (rest[at : at + _CHUNK] for at in range(0, len(rest), _CHUNK))
            for more in self._shared.map(lambda chunk: _look(self.root, folder, _asked(chunk)), chunks):
                found.add(more)
                tick(len(found.files))
        elif rest:
            found.add(_look(self.root, folder, rest))
        return found

    def _list_ahead(self, folders: Iterable[str]) -> None:
        """Begin with folders, and with those in them, before it is their turn; threads call this, too."""
        if not self._pool:
            return
        for folder in folders:
            with self._lock:
                if folder in self._ahead or len(self._ahead) >= _AHEAD:
                    continue
                with suppress(RuntimeError):  # the pool was closed meanwhile
                    self._ahead[folder] = self._pool.submit(self._begin_ahead, folder)

    def _begin_ahead(self, folder: str) -> _Begun:
        listed = _listed(self.root, folder)
        found = _look(self.root, folder, _asked(listed[:_SMALL]))
        self._list_ahead(found.folders)
        return found, listed[_SMALL:]

    def _timed(self, folder: str) -> _Begun:
        """Begin with a folder, and find out whether the drive is slow."""
        start = time.perf_counter()
        found, rest = _begin(self.root, folder)
        self._seconds += time.perf_counter() - start
        self._calls += 1 + len(found.files) + len(found.folders)
        if not self._pool and self._calls > _CHUNK and self._seconds > self._calls * _SLOW:
            self._pool, self._shared = ThreadPoolExecutor(AT_ONCE), ThreadPoolExecutor(AT_ONCE)
        return found, rest


class _Entry:
    """What was listed in a folder, as `os.DirEntry` has it, whose calls let no other thread run while they wait."""

    def __init__(self, entry: os.DirEntry[str]) -> None:
        self.name = entry.name
        self._status: os.stat_result | OSError
        try:
            self._status = os.lstat(entry.path)
        except OSError as error:
            self._status = error

    def _is(self, mode: Callable[[int], bool]) -> bool:
        return isinstance(self._status, os.stat_result) and mode(self._status.st_mode)

    def is_file(self, *, follow_symlinks: bool) -> bool:
        """Say whether it is a file; what can't be looked at is taken for one."""
        return self._is(stat.S_ISREG) or isinstance(self._status, OSError)

    def is_dir(self, *, follow_symlinks: bool) -> bool:
        """Say whether it is a folder."""
        return self._is(stat.S_ISDIR)

    def is_symlink(self) -> bool:
        """Say whether it is a symbolic link."""
        return self._is(stat.S_ISLNK)

    def stat(self, *, follow_symlinks: bool) -> os.stat_result:
        """Return its status. Raises OSError where there is none."""
        if isinstance(self._status, OSError):
            raise self._status
        return self._status


def _asked(entries: Sequence[os.DirEntry[str]]) -> Iterator[os.DirEntry[str] | _Entry]:
    """Ask what entries are, all but the folders where the list itself says which these are, as it says it at once."""
    start = time.perf_counter()
    said = bool(entries) and entries[0].is_symlink() is not None and time.perf_counter() - start < _UNASKED
    yield from (entry if said and entry.is_dir(follow_symlinks=False) else _Entry(entry) for entry in entries)


_Begun = tuple[FolderContents, list[os.DirEntry[str]]]
"""What is known of a folder's contents, and what of it was not yet looked at."""


def _begin(root: str, folder: str) -> _Begun:
    """List a folder and look at the first of what lies in it. Raises OSError where that can't be done."""
    rest = _listed(root, folder)
    return _look(root, folder, rest[:_CHUNK]), rest[_CHUNK:]


def _listed(root: str, folder: str) -> list[os.DirEntry[str]]:
    with os.scandir(os.path.join(root, folder)) as entries:
        return list(entries)


def _look(root: str, folder: str, entries: Iterable[os.DirEntry[str] | _Entry]) -> FolderContents:
    """Look at what was listed in a folder."""
    found = FolderContents()
    for entry in entries:
        name = entry.name
        if name == FILE_NAME and not folder:  # the configuration is ours, not the collection's
            continue
        if not entry.is_file(follow_symlinks=False):
            _take_other(entry, folder, found)
            continue
        if name == FILE_NAME and os.path.exists(os.path.join(root, folder, STATE_DIR_NAME, CATALOGUE_NAME)):
            found.apart = True
        if (status := _status(entry, folder, found)) is not None:
            text = name if name.isascii() and name.isprintable() and "\\" not in name else written(name)
            found.files.append((text, status.st_size, status.st_mtime_ns, status.st_ino, status.st_ctime_ns))
    return found


def _take_other(entry: os.DirEntry[str] | _Entry, folder: str, found: FolderContents) -> None:
    """Take what is no file: a folder to be walked, a disc's folder that is one thing, a link to be passed by."""
    name = entry.name
    if entry.is_symlink():
        found.links += 1
    elif entry.is_dir(follow_symlinks=False):
        if name.lower() not in DISC_FOLDERS:
            found.folders.append(join(folder, name))
        elif (status := _status(entry, folder, found)) is not None:
            found.files.append((written(name), FOLDER_SIZE, status.st_mtime_ns, status.st_ino, status.st_ctime_ns))


def _status(entry: os.DirEntry[str] | _Entry, folder: str, found: FolderContents) -> os.stat_result | None:
    """Return the status of what was listed, None where it has vanished or can't be read."""
    try:
        return entry.stat(follow_symlinks=False)
    except OSError as error:
        if error.errno != errno.ENOENT:
            found.unreadable.append((join(folder, entry.name), error.strerror or "unreadable"))
        return None
