"""The one door to a person's files: every disk call that a change makes goes through a `Filesystem`.

Paths are relative to the root. Tests put another disk in its place, one that fails at will or forgets what was not
synced.
"""

from __future__ import annotations

import errno
import os
import shutil
import stat
from collections.abc import Callable, Iterable, Mapping
from functools import cached_property
from typing import BinaryIO

from lazy_magpie import embedded_keywords, inner_tags, mounts, xattrs
from lazy_magpie.change.filesystem import delete, folder_removal
from lazy_magpie.change.filesystem.attributes import (
    WITHOUT_MODES,
    attributes_of,
    copy_owner,
    copy_times_and_modes,
    ignored,
    set_attributes,
)
from lazy_magpie.change.filesystem.rename import Claimed, rename_no_replace
from lazy_magpie.model import FOLDER_SIZE, FileStatus, FolderAttributes, Value
from lazy_magpie.paths import is_below, on_target, target_path

_SYNCED_TOGETHER = 8
"""So many files or folders are synced at once: a disk writes for all of them what it else writes for each."""
_WORTH_THREADS = 4
"""Fewer are synced one after the other."""


class Filesystem:
    """The real disk below a root folder, and the targets that are there now: their folders by their names."""

    def __init__(self, root: str, targets: Mapping[str, str] | None = None) -> None:
        self.root = root
        self.targets = targets or {}

    def path(self, path: str) -> str:
        """Return the absolute path of `path`."""
        if self.targets and (there := on_target(path)) and (top := self.targets.get(there[0])):
            return f"{top}/{there[1]}" if there[1] else top
        return f"{self.root}/{path}" if path else self.root

    def status(self, path: str) -> FileStatus | None:
        """Return what is there under `path`, None if nothing is. Links are not followed."""
        try:
            found = os.lstat(self.path(path))
        except (FileNotFoundError, NotADirectoryError):
            return None
        is_folder = stat.S_ISDIR(found.st_mode)
        return FileStatus(
            FOLDER_SIZE if is_folder else found.st_size,
            found.st_mtime_ns,
            found.st_ino,
            stat.S_IMODE(found.st_mode),
            found.st_dev,
            is_folder,
            stat.S_ISLNK(found.st_mode),
            found.st_nlink,
        )

    def is_inside(self, folder: str) -> bool:
        """Say whether a folder, with every link above it followed, lies inside the root."""
        there = on_target(folder) if self.targets else None
        root = os.path.realpath(self.targets[there[0]]) if there and there[0] in self.targets else self._real_root
        return is_below(os.path.realpath(self.path(folder)), root)

    @cached_property
    def _real_root(self) -> str:
        return os.path.realpath(self.root).rstrip("/")

    def names(self, path: str) -> list[str]:
        """Return the names in a folder."""
        return os.listdir(self.path(path))

    def rename(self, source: str, target: str, claimed: Claimed = lambda claim: None) -> None:
        """Rename without ever replacing: FileExistsError if `target` is there, also one that appears just now.

        Where a drive can do that only by claiming the name with an empty file first, `claimed` hears of that file.
        """
        rename_no_replace(self.path(source), self.path(target), claimed)

    def make_folder(self, path: str, mode: int = 0o777) -> None:
        """Make one folder; never the one that a target is mounted at: that it is not there says that it was pulled."""
        there = on_target(f"{path}/")
        if there is not None and not there[1]:
            raise FileNotFoundError(errno.ENOENT, "the target is away", path)
        os.mkdir(self.path(path), mode)

    def drop_folder(self, path: str) -> None:
        """Take away an empty folder."""
        folder_removal.drop_folder(self.path(path))

    def drop_file(self, path: str) -> None:
        """Take away a file or link that a change made itself: a temporary file, a link. Never a person's file."""
        os.unlink(self.path(path))

    def delete(self, path: str, top: str) -> None:
        """Delete what is held at `path`, below the folder `top`, for good; no link is followed, no drive left."""
        delete.delete(self.path(top), path[len(top) + 1 :] if top else path)

    def set_times(self, path: str, mtime: int) -> None:
        """Set the time of last change, in nanoseconds."""
        os.utime(self.path(path), ns=(mtime, mtime), follow_symlinks=False)

    def set_mode(self, path: str, mode: int) -> None:
        """Set the permission bits."""
        with ignored(*WITHOUT_MODES):
            os.chmod(self.path(path), mode)

    def link(self, source: str, target: str) -> None:
        """Give a file a second name; FileExistsError if that is taken."""
        os.link(self.path(source), self.path(target), follow_symlinks=False)

    def soft_link(self, text: str, target: str) -> None:
        """Make a symbolic link that says `text`; FileExistsError if the name is taken."""
        os.symlink(text, self.path(target))

    def is_mounted(self, path: str) -> bool:
        """Say whether something is mounted at a folder below the root."""
        return path in self._mounted

    @cached_property
    def _mounted(self) -> frozenset[str]:
        return frozenset(mounts.mounts_inside(self.root) or ())

    def link_text(self, path: str) -> str:
        """Return what a symbolic link says."""
        return os.readlink(self.path(path))

    def open_new(self, path: str) -> BinaryIO:
        """Open a new file for writing; FileExistsError if the name is taken."""
        return os.fdopen(os.open(self.path(path), os.O_CREAT | os.O_EXCL | os.O_WRONLY, 0o600), "wb")

    def append(self, path: str) -> BinaryIO:
        """Open one of magpie's own files to write at its end; it is made if it is not there."""
        return open(self.path(path), "ab")

    def truncate(self, path: str, size: int) -> None:
        """Cut one of magpie's own files to `size` bytes."""
        os.truncate(self.path(path), size)

    def open_old(self, path: str) -> BinaryIO:
        """Open a file for reading, without following a link."""
        return os.fdopen(os.open(self.path(path), os.O_RDONLY | getattr(os, "O_NOFOLLOW", 0)), "rb")

    def identity(self, file: BinaryIO) -> tuple[int, int]:
        """Return the device and inode of an open file: two names of one file have one identity."""
        found = os.fstat(file.fileno())
        return found.st_dev, found.st_ino

    def is_sparse(self, file: BinaryIO) -> bool:
        """Say whether an open file takes less room than it is long: holes in it take none."""
        found = os.fstat(file.fileno())
        return getattr(found, "st_blocks", found.st_size) * 512 < found.st_size

    def begin_sync(self, file: BinaryIO) -> None:
        """Let the disk begin to write a file's contents, without waiting for it."""
        file.flush()
        if hasattr(os, "posix_fadvise"):
            os.posix_fadvise(file.fileno(), 0, 0, os.POSIX_FADV_DONTNEED)

    def sync_file(self, file: BinaryIO) -> None:
        """Make a file's contents last, and let go of them in memory, so that reading them reads the disk."""
        file.flush()
        os.fsync(file.fileno())
        if hasattr(os, "posix_fadvise"):
            os.posix_fadvise(file.fileno(), 0, 0, os.POSIX_FADV_DONTNEED)

    def sync_files(self, paths: Iterable[str]) -> None:
        """Make the contents of files last, several at a time."""

        def sync(path: str) -> None:
            with self.open_old(path) as file:
                self.sync_file(file)

        _together(sync, paths)

    def copy_attributes(self, source: str, target: str) -> None:
        """Give a copy the mode, extended attributes and times of its original, and its owner where this user may."""
        copy_owner(self.path(source), self.path(target))
        copy_times_and_modes(self.path(source), self.path(target))

    def attributes(self, folder: str) -> FolderAttributes:
        """Return what a folder has besides its names: mode, owner, time, extended attributes."""
        return attributes_of(self.path(folder))

    def set_attributes(self, folder: str, wanted: FolderAttributes) -> str:
        """Give a folder these attributes; return what could not be given, in words, "" for nothing."""
        return set_attributes(self.path(folder), wanted)

    def tags(self, path: str) -> tuple[str, ...] | None:
        """Return the tags that a file carries, None where its drive has no room for them."""
        return xattrs.tags_of(self.path(path))

    def put_tags(self, path: str, tags: Iterable[str]) -> None:
        """Write these tags to a file, where its drive takes them; nothing else about the file changes."""
        xattrs.put_tags(self.path(path), tags)

    def raw_tags(self, path: str) -> str | None:
        """Return the attribute that carries a file's tags, as it is, in hexadecimal digits; None where it has none."""
        return xattrs.raw_of(self.path(path))

    def put_raw_tags(self, path: str, raw: str | None) -> None:
        """Give a file that attribute back as it was."""
        xattrs.put_raw(self.path(path), raw)

    def keywords(self, path: str) -> list[str]:
        """Return the keywords inside a file. Raises ValueError, and what the format's reader does."""
        return embedded_keywords.of(self.path(path), os.path.splitext(path)[1])

    def put_keywords(self, path: str, ending: str, words: Iterable[str]) -> None:
        """Write keywords into a temporary file of magpie's own, of the format of `ending`; raises as `keywords`."""
        embedded_keywords.put(self.path(path), ending, words)

    def put_inner_tags(self, path: str, ending: str, tags: Mapping[str, Value], cover: bytes) -> None:
        """Write fields and a cover into a temporary file of magpie's own; raises what the format's reader does."""
        inner_tags.put(self.path(path), ending.lower(), tags, cover)

    def may_change_names(self, folder: str) -> bool:
        """Say whether this user may take names out of a folder."""
        return os.access(self.path(folder), os.W_OK | os.X_OK)

    def keeps_inodes(self, device: int) -> bool:
        """Say whether a drive gives its files lasting numbers; FAT, exFAT and network shares do not."""
        return mounts.keeps_inodes(device)

    def drives(self) -> dict[str, str] | None:
        """Return where other drives are mounted inside the root, each with its id; None where that can't be told."""
        mounts.clear_cache()
        found = mounts.mounts_inside(self.root)
        if found is None:
            return None
        return found | {target_path(name): mounts.id_of(folder) for name, folder in self.targets.items()}

    def free(self, path: str) -> int:
        """Return the bytes that can still be written on the drive of a folder."""
        found = os.statvfs(self.path(path)) if hasattr(os, "statvfs") else None
        return found.f_bavail * found.f_frsize if found else shutil.disk_usage(self.path(path)).free

    def sync_folder(self, path: str) -> None:
        """Make what happened to the names in a folder last, also through a power cut."""
        try:
            handle = os.open(self.path(path), os.O_RDONLY | getattr(os, "O_DIRECTORY", 0))
        except (FileNotFoundError, NotADirectoryError, PermissionError):
            return
        try:
            os.fsync(handle)
        except OSError as error:  # some network shares can't sync a folder
            if error.errno not in (errno.EINVAL, errno.ENOTSUP):
                raise
        finally:
            os.close(handle)

    def sync_folders(self, paths: Iterable[str]) -> None:
        """Do the same for folders, several at a time."""
        _together(self.sync_folder, paths)


def _together(sync: Callable[[str], None], paths: Iterable[str]) -> None:
    """Sync what lies at `paths`, a share of them in each of several threads. Raises the first error of any share."""
    waiting = list(paths)

    def each(share: Iterable[str]) -> None:
        for path in share:
            sync(path)

    if len(waiting) < _WORTH_THREADS:
        each(waiting)
        return
    from concurrent.futures import ThreadPoolExecutor

    with ThreadPoolExecutor(_SYNCED_TOGETHER) as pool:
        for _ in pool.map(each, (waiting[first::_SYNCED_TOGETHER] for first in range(_SYNCED_TOGETHER))):
            pass
