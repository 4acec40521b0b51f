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


_FAT, _HOUR = 2_000_000_000, 3_600_000_000_000
_GRAINS = (_FAT, 1_000_000_000, 10_000_000, 1_000, 100)
"""Nanoseconds to which drives keep times: FAT two seconds, and in local time, so that they differ by the hour of summer
time; others a second, exFAT 10 ms, some network drives a microsecond, NTFS 100 ns."""


def is_kept_time(time: int, kept: int) -> bool:
    """Say whether a drive that tells the time `kept` (nanoseconds) was given `time`.

    It may be as coarse as it keeps times, which its own shows, and no more: a file can be written anew within a second.
    """
    apart, grain = abs(time - kept), next((grain for grain in _GRAINS if kept % grain == 0), 0)
    return min(apart, abs(apart - _HOUR) if grain == _FAT else apart) <= grain
