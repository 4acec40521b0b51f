"""Which drives are mounted, and where one is to be; what kind of file system a drive has (Linux: mountinfo, fstab)."""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import suppress
from functools import cache
from typing import NamedTuple

from lazy_magpie.paths import is_below

_TABLE = "/proc/self/mountinfo"
_TO_BE = "/etc/fstab"
_BY_ID = "/dev/disk/by-uuid"
_FOR_DRIVES = ("/media", "/run/media", "/mnt", "/Volumes")
"""Below these drives are mounted when they are plugged in."""
_WITHOUT_INODES = frozenset(["vfat", "exfat", "msdos", "cifs", "smb3", "9p", "fuseblk", "fuse"])


class Mount(NamedTuple):
    """A mounted file system: the folder it is mounted at, its device number, its kind, what is mounted."""

    folder: str
    device: int
    kind: str
    source: str


def all_mounts() -> Iterator[Mount]:
    """Yield all that is mounted; nothing where the system does not say."""
    try:
        with open(_TABLE, encoding="utf-8", errors="surrogateescape") as file:
            rows = [line.split(" ") for line in file.read().splitlines()]
    except OSError:
        return
    for row in rows:
        major, minor = row[2].split(":")
        end = row.index("-")
        yield Mount(_unescaped(row[4]), os.makedev(int(major), int(minor)), row[end + 1], _unescaped(row[end + 2]))


def _unescaped(text: str) -> str:
    """Return a path of the table as it is: blanks, tabs, newlines and backslashes stand there in octal."""
    for code, character in (("\\040", " "), ("\\011", "\t"), ("\\012", "\n"), ("\\134", "\\")):
        text = text.replace(code, character)
    return text


def mounts_inside(root: str) -> dict[str, str] | None:
    """Return the folders of `root` at which other drives (or other folders) are mounted, each with an id of what is.

    None where the system keeps no such table.
    """
    if not os.path.exists(_TABLE):
        return None
    top = os.path.realpath(root).rstrip("/") + "/"
    return {mount.folder[len(top) :]: _id_of(mount) for mount in all_mounts() if mount.folder.startswith(top)}


def drives_mounted() -> Iterator[str]:
    """Yield where what lies on devices of this machine is mounted."""
    return (mount.folder for mount in all_mounts() if mount.source.startswith("/dev/"))


def why_away(folder: str) -> str:
    """Return a sentence where `folder` is but the empty place for a drive that is not mounted now, "" else."""
    if not _waits_for_drive(folder):
        return ""
    return (
        f"{folder} is empty, and no drive is mounted there. Plug it in; if the empty folder itself is meant, put a "
        "file into it first."
    )


def _waits_for_drive(folder: str) -> bool:
    top = os.path.realpath(folder)
    places = [place for place in (*_FOR_DRIVES, *_to_be_mounted()) if is_below(top, place)]
    if not places or not _is_empty(top):
        return False
    mounted = top_of_drive(top)
    return not any(is_below(mounted, place) for place in places)


def top_of_drive(folder: str) -> str:
    """Return the folder at which the file system that `folder` lies on is mounted."""
    top = os.path.realpath(folder)
    device = os.stat(top).st_dev
    while (above := os.path.dirname(top)) != top and os.stat(above).st_dev == device:
        top = above
    return top


def _is_empty(folder: str) -> bool:
    try:
        with os.scandir(folder) as entries:
            return not any(entries)
    except OSError:  # what can't be looked into is no place that we would fill
        return False


def _to_be_mounted() -> Iterator[str]:
    """Yield the folders that this machine keeps for drives, mounted or not; its own top is none of them."""
    with suppress(OSError), open(_TO_BE, encoding="utf-8", errors="surrogateescape") as file:
        rows = [line.split() for line in file if not line.lstrip().startswith("#")]
        yield from (_unescaped(row[1]) for row in rows if len(row) > 1 and row[1].startswith("/") and row[1] != "/")


def id_of(folder: str) -> str:
    """Return what tells the file system that a folder lies on from any other."""
    top = os.path.realpath(folder)
    around = [mount for mount in all_mounts() if is_below(top, mount.folder.rstrip("/"))]
    return _id_of(max(around, key=lambda mount: len(mount.folder))) if around else ""


def kind_of(folder: str) -> str:
    """Return the kind of file system that a folder lies on, "" where that is not known."""
    return _kinds().get(os.stat(folder).st_dev, "")


def _id_of(mount: Mount) -> str:
    """Return what tells a mounted file system from any other, also after the next start of the machine."""
    with suppress(OSError):
        for name in os.listdir(_BY_ID):
            if os.stat(os.path.join(_BY_ID, name)).st_rdev == mount.device:
                return name
    with suppress(OSError):
        if number := os.statvfs(mount.folder).f_fsid:
            return f"{mount.kind} {number:x}"
    return f"{mount.kind} {mount.source}"


@cache
def _kinds() -> dict[int, str]:
    """Return the kind of file system by device number."""
    return {mount.device: mount.kind for mount in all_mounts()}


def clear_cache() -> None:
    """Forget what was mounted when it was looked up last."""
    _kinds.cache_clear()
    any_in_user_space.cache_clear()


@cache
def any_in_user_space() -> bool:
    """Say whether any drive at all has its driver in user space."""
    return any(kind.startswith("fuse") for kind in _kinds().values())


def is_in_user_space(folder: str) -> bool:
    """Say whether the driver of the drive that a folder lies on is in user space."""
    return _kinds().get(os.stat(folder).st_dev, "").startswith("fuse")


def keeps_inodes(device: int) -> bool:
    """Say whether a drive gives its files lasting numbers; FAT, exFAT and network shares do not."""
    kind = _kinds().get(device, "")
    return kind not in _WITHOUT_INODES and not kind.startswith("fuse.")
