"""How files and folders look: what a plan keeps to know them again, and what a look at the disk tells."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import NamedTuple

FOLDER_SIZE = -1
"""The size that stands for a folder."""


class FileStamp(NamedTuple):
    """How a file looked when a plan was made: size in bytes, mtime in nanoseconds, inode number.

    For a folder the size is -1 and only the inode counts.
    """

    size: int
    mtime: int
    inode: int

    @property
    def is_folder(self) -> bool:
        """Say whether this is how a folder looked."""
        return self.size < 0


class FileStatus(NamedTuple):
    """What there is under a name. `size` is -1 for a folder; `mode` holds the permission bits; `device` the drive."""

    size: int
    mtime: int
    inode: int
    mode: int
    device: int
    is_folder: bool
    is_link: bool
    links: int

    @property
    def file_id(self) -> tuple[int, int]:
        """Device and inode: one file has one, whatever its names."""
        return self.device, self.inode

    @property
    def stamp(self) -> FileStamp:
        """The part that a plan keeps to know the file again."""
        return FileStamp(self.size, self.mtime, self.inode)


class PathStamp(NamedTuple):
    """A path, and how the file or folder there looked."""

    path: str
    stamp: FileStamp


@dataclass(frozen=True, slots=True)
class FolderAttributes:
    """What a folder has besides the names in it; None for what is not known.

    `mode` holds the permission bits, `owner` user and group where they are not this user's own, `mtime` the time of
    last change in nanoseconds, `xattrs` the extended attributes (xattr(7)).
    """

    mode: int | None = None
    owner: tuple[int, int] | None = None
    mtime: int | None = None
    xattrs: Mapping[str, bytes] = field(default_factory=dict)


_COARSE, _HOUR = 2_000_000_000, 3_600_000_000_000
"""Nanoseconds: FAT keeps times to two seconds, and in local time, so that they differ by the hour of summer time."""


def times_are_near(one: int, other: int) -> bool:
    """Say whether two times (nanoseconds) are one, as coarsely as some drives keep them."""
    apart = abs(one - other)
    return min(apart, abs(apart - _HOUR)) <= _COARSE
