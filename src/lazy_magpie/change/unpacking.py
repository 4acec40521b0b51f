"""Unpacks zip and tar archives into a new folder, trusting nothing that they say.

A member that would land outside, a link, a device, two members of one name, or more than the limits allow makes the
whole archive be left alone. Names that are no UTF-8 are kept as the archive has them.
"""

from __future__ import annotations

import tarfile
import zipfile
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from typing import IO, NamedTuple

from lazy_magpie.change.crash import point
from lazy_magpie.change.disk import Disk
from lazy_magpie.change.world import Skip
from lazy_magpie.naming.safe import is_safe
from lazy_magpie.paths import join, parent, same_name, written

MOST_MEMBERS = 200_000
MOST_RATIO = 200
SMALL = 64 << 20
"""An archive may unpack to 64 MiB whatever its size, beyond that to 200 times its own size."""
_CHUNK = 1 << 20


class Member(NamedTuple):
    """A member of an archive: its path below the new folder, its size in bytes (-1: a folder), how to read it."""

    path: str
    size: int
    key: zipfile.ZipInfo | tarfile.TarInfo


def unpack(disk: Disk, archive: str, folder: str) -> None:
    """Unpack `archive` into the new `folder`, everything synced. Raises Skip, with the reason, before it is made."""
    with _opened(disk, archive) as packed:
        members = list(_checked(packed, _size(disk, archive)))
        disk.make_folder(folder)
        folders = {folder}
        for member in members:
            _make_folders(disk, folder, member.path if member.size < 0 else parent(member.path), folders)
            if member.size >= 0:
                _write(disk, packed, member, join(folder, member.path))
                point("unpack-member")
        for made in sorted(folders, reverse=True):
            disk.sync_folder(made)


def holds(disk: Disk, archive: str, folder: str) -> bool:
    """Say whether `folder` holds every member of `archive` with its size."""
    try:
        with _opened(disk, archive) as packed:
            members = [member for member in _checked(packed, _size(disk, archive)) if member.size >= 0]
    except Skip:
        return False
    found = [(disk.status(join(folder, member.path)), member.size) for member in members]
    return all(status is not None and status.size == size for status, size in found)


def is_in_folder(disk: Disk, archive: str, folder: str) -> bool:
    """Say whether `folder` holds all that `archive` holds, compared byte for byte. Raises Skip for a damaged one."""
    with _opened(disk, archive) as packed:
        for member in _checked(packed, _size(disk, archive)):
            path = join(folder, member.path)
            status = disk.status(path)
            if status is None or status.is_folder != (member.size < 0):
                return False
            if member.size >= 0:
                with _reading(packed, member) as source, disk.open_old(path) as file:
                    if not _equal(source, file):
                        return False
    return True


def is_in_archive(disk: Disk, archive: str, other: str) -> bool:
    """Say whether `other` holds all that `archive` holds, whatever its order. Raises Skip for a damaged one."""
    with _opened(disk, archive) as packed, _opened(disk, other) as around:
        there = {member.path: member for member in _checked(around, _size(disk, other))}
        for member in _checked(packed, _size(disk, archive)):
            if member.size < 0:
                continue
            twin = there.get(member.path)
            if twin is None or twin.size != member.size:
                return False
            with _reading(packed, member) as source, _reading(around, twin) as file:
                if not _equal(source, file):
                    return False
    return True


def _equal(one: IO[bytes], other: IO[bytes]) -> bool:
    """Say whether two streams hold the same from here on."""
    while True:
        left, right = one.read(_CHUNK), other.read(_CHUNK)
        if left != right:
            return False
        if not left:
            return True


def _size(disk: Disk, archive: str) -> int:
    status = disk.status(archive)
    return status.size if status else 0


@contextmanager
def _opened(disk: Disk, archive: str) -> Iterator[zipfile.ZipFile | tarfile.TarFile]:
    with disk.open_old(archive) as file:
        try:
            if zipfile.is_zipfile(file):
                file.seek(0)
                with zipfile.ZipFile(file) as packed:
                    yield packed
            else:
                file.seek(0)
                with tarfile.open(fileobj=file) as streamed:
                    yield streamed
        except (zipfile.BadZipFile, tarfile.TarError, zlib.error, EOFError, NotImplementedError) as error:
            raise Skip(f"the archive is damaged or of a kind that can't be read: {error}") from error
        except RuntimeError as error:
            raise Skip(f"the archive is encrypted: {error}") from error


def _checked(packed: zipfile.ZipFile | tarfile.TarFile, size: int) -> Iterator[Member]:
    """Yield the members, each looked at before anything is written."""
    limit = max(SMALL, size * MOST_RATIO)
    total = 0
    seen: set[str] = set()
    for count, member in enumerate(_members(packed), start=1):
        if count > MOST_MEMBERS:
            raise Skip(f"the archive has more than {MOST_MEMBERS:,} members")
        total += max(member.size, 0)
        if total > limit:
            raise Skip("the archive unpacks to far more than its own size, as a trap would")
        if not all(is_safe(part, False) for part in member.path.split("/")) or "\\" in member.path:
            raise Skip(f"its member “{written(member.path)}” would land outside or can't be named here")
        if member.size >= 0 and same_name(member.path) in seen:
            raise Skip(f"it has two members called “{written(member.path)}”")
        seen.add(same_name(member.path))
        yield member


def _members(packed: zipfile.ZipFile | tarfile.TarFile) -> Iterator[Member]:
    if isinstance(packed, zipfile.ZipFile):
        for info in packed.infolist():
            is_link = (info.external_attr >> 16) & 0o170000 == 0o120000
            if is_link:
                raise Skip(f"its member “{written(info.filename)}” is a link")
            yield Member(info.filename.rstrip("/"), -1 if info.is_dir() else info.file_size, info)
        return
    for entry in packed:
        if not (entry.isfile() or entry.isdir()):
            raise Skip(f"its member “{written(entry.name)}” is a link or a device")
        name = entry.name.removeprefix("./").rstrip("/")
        if name not in ("", "."):
            yield Member(name, -1 if entry.isdir() else entry.size, entry)


def _make_folders(disk: Disk, top: str, path: str, made: set[str]) -> None:
    here = top
    for part in path.split("/") if path else ():
        here = join(here, part)
        if here not in made:
            disk.make_folder(here)
            made.add(here)


def _write(disk: Disk, packed: zipfile.ZipFile | tarfile.TarFile, member: Member, target: str) -> None:
    left = member.size
    with _reading(packed, member) as source, disk.open_new(target) as file:
        while chunk := source.read(_CHUNK):
            left -= len(chunk)
            if left < 0:
                raise Skip(f"its member “{written(member.path)}” is larger than the archive says")
            file.write(chunk)
        disk.sync_file(file)
    if left:
        raise Skip(f"its member “{written(member.path)}” is cut off")
    disk.set_mode(target, 0o644)


def _reading(packed: zipfile.ZipFile | tarfile.TarFile, member: Member) -> IO[bytes]:
    if isinstance(packed, zipfile.ZipFile):
        assert isinstance(member.key, zipfile.ZipInfo)
        return packed.open(member.key)
    assert isinstance(member.key, tarfile.TarInfo)
    source = packed.extractfile(member.key)
    assert source is not None
    return source
