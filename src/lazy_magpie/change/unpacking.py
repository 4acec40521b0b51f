"""Unpacks zip, tar and 7z archives into a new folder, trusting nothing that they say.

A member that would land outside, a link, a device, two members of one name, or more than the limits allow makes the
whole archive be left alone. Names of old zips that are no UTF-8 are read in the encoding that they most likely have.
"""

from __future__ import annotations

import lzma
import os
import re
import struct
import tarfile
import zipfile
import zlib
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from typing import IO, Any, NamedTuple

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
_LONGEST_DIRECTORY = 128 << 20
_PLAIN = re.compile(r"\w[\w. -]{0,99}(?:/\w[\w. -]{0,99})*", re.ASCII)
"""Most names: they need no closer look."""
_END_MARK, _FAR_MARK = b"PK\5\6", b"PK\6\6"
_END = struct.Struct("<4s4H2LH")
"""The end of a zip's directory: mark, disks, members here and in all, bytes and place of the directory, comment."""
_FAR_END = struct.Struct("<4sQ2H2L4Q")
"""The same for large zips: mark, size, versions, disks, members here and in all, bytes and place of the directory."""
_FAR = struct.Struct("<4sLQL")
"""Where that one is, in front of the end."""


Packed = Any
"""An open archive: zipfile.ZipFile, tarfile.TarFile, or py7zr.SevenZipFile, which has no stubs."""
_SEVEN = b"7z\xbc\xaf\x27\x1c"
_STAGE = ".seven"


class Member(NamedTuple):
    """A member of an archive: its path below the new folder, its size in bytes (-1: a folder), how to read it.

    `crc` is its CRC-32, None where the format has none.
    """

    path: str
    size: int
    key: Any
    crc: int | None = None


class Part(NamedTuple):
    """An archive to unpack: where it is, and where its members go below the new folder; None: where they say.

    With a layout, members that are not in it stay in the archive.
    """

    archive: str
    layout: Mapping[str, str] | None = None


def contents(disk: Disk, archive: str) -> list[Member]:
    """Return the files in an archive, each looked at. Raises Skip with the reason why it is to be left alone."""
    with _opened(disk, archive) as packed:
        return [member for member in _checked(packed, _size(disk, archive)) if member.size >= 0]


def head_of(disk: Disk, archive: str, path: str, most: int) -> bytes:
    """Return the first `most` bytes of a file in an archive; b"" where that can't be read without unpacking more."""
    try:
        with _opened(disk, archive) as packed:
            if not isinstance(packed, zipfile.ZipFile):
                return b""
            found = next((member for member in _members(packed) if member.path == path), None)
            if found is None:
                return b""
            with _reading(packed, found) as file:
                return file.read(most)
    except (Skip, OSError):
        return b""


def unpack(disk: Disk, parts: Sequence[Part], folder: str) -> None:
    """Unpack archives into the new `folder`, everything synced. Raises Skip, with the reason, before it is made."""
    folders: set[str] = set()
    for part in parts:
        with _opened(disk, part.archive) as packed:
            members = list(_placed(_checked(packed, _size(disk, part.archive)), part.layout))
            if not folders:
                disk.make_folder(folder)
                folders.add(folder)
            for member, path in members:
                _make_folders(disk, folder, path if member.size < 0 else parent(path), folders)
            if _is_seven(packed):
                _extract(disk, packed, [(m, join(folder, path)) for m, path in members if m.size >= 0], folder)
                continue
            for member, path in members:
                if member.size >= 0:
                    _write(disk, packed, member, join(folder, path))
                    point("unpack-member")
    for made in sorted(folders, reverse=True):
        disk.sync_folder(made)


def _placed(members: Iterator[Member], layout: Mapping[str, str] | None) -> Iterator[tuple[Member, str]]:
    """Yield members with where they go below the new folder."""
    for member in members:
        if layout is None:
            yield member, member.path
        elif member.size >= 0 and member.path in layout:
            yield member, layout[member.path]


def holds(disk: Disk, parts: Sequence[Part], folder: str) -> bool:
    """Say whether `folder` holds every member of the archives with its size."""
    for part in parts:
        try:
            with _opened(disk, part.archive) as packed:
                placed = list(_placed(_checked(packed, _size(disk, part.archive)), part.layout))
        except (Skip, OSError):
            return False
        for member, path in placed:
            status = disk.status(join(folder, path))
            if member.size >= 0 and (status is None or status.size != member.size):
                return False
    return True


def is_in_folder(disk: Disk, archive: str, folder: str, layout: Mapping[str, str] | None = None) -> bool:
    """Say whether `folder` holds all that `archive` holds, compared byte for byte; of a 7z by its checksums.

    Raises Skip for a damaged one. With a layout, members that are not in it are compared with nothing: it is False;
    those that go nowhere by it ("") are passed by.
    """
    with _opened(disk, archive) as packed:
        for member in _checked(packed, _size(disk, archive)):
            if layout is not None and (member.size < 0 or layout.get(member.path) == ""):
                continue
            if layout is not None and member.path not in layout:
                return False
            path = join(folder, member.path if layout is None else layout[member.path])
            status = disk.status(path)
            if status is None or status.is_folder != (member.size < 0):
                return False
            if member.size >= 0 and not _is_same(disk, packed, member, path):
                return False
    return True


def _is_same(disk: Disk, packed: Packed, member: Member, path: str) -> bool:
    with disk.open_old(path) as file:
        if _is_seven(packed):
            crc = 0
            while chunk := file.read(_CHUNK):
                crc = zlib.crc32(chunk, crc)
            return crc == member.crc and member.crc is not None
        with _reading(packed, member) as source:
            return _equal(source, file)


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
            if _is_seven(packed) or _is_seven(around):
                if member.crc is None or member.crc != twin.crc:
                    return False
                continue
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
def _opened(disk: Disk, archive: str) -> Iterator[Packed]:
    with disk.open_old(archive) as file:
        try:
            head = file.read(len(_SEVEN))
            if not head:
                raise Skip("the archive is empty: its download may not have ended")
            file.seek(0)
            if head == _SEVEN:
                with _seven(file) as seven:
                    yield seven
            elif zipfile.is_zipfile(file):
                _check_directory(file)
                file.seek(0)
                with zipfile.ZipFile(file) as packed:
                    yield packed
            else:
                file.seek(0)
                with tarfile.open(fileobj=file) as streamed:
                    yield streamed
        except tarfile.ReadError as error:  # it lists what each of its ways to read has said
            raise Skip("the archive is damaged or of a kind that can't be read") from error
        except (zipfile.BadZipFile, tarfile.TarError, zlib.error, EOFError, NotImplementedError) as error:
            raise Skip(f"the archive is damaged or of a kind that can't be read: {error}") from error
        except RuntimeError as error:
            raise Skip(f"the archive is encrypted: {error}") from error


def _check_directory(file: IO[bytes]) -> None:
    """Raise Skip for a zip whose end says that its directory is far too long to be read (APPNOTE 4.3.14 to 4.3.16)."""
    size = file.seek(0, os.SEEK_END)
    start = max(size - _END.size - (1 << 16) - _FAR.size - _FAR_END.size, 0)
    file.seek(start)
    tail = file.read()
    at = tail.rfind(_END_MARK)
    if at < 0 or at + _END.size > len(tail):
        return
    _, _, _, _, count, length, _, _ = _END.unpack_from(tail, at)
    far = tail.rfind(_FAR_MARK, 0, at)
    if far >= 0 and far + _FAR_END.size <= len(tail):
        count, length = max(count, _FAR_END.unpack_from(tail, far)[7]), _FAR_END.unpack_from(tail, far)[8]
    if count > MOST_MEMBERS or length > _LONGEST_DIRECTORY:
        raise Skip(f"the archive has more than {MOST_MEMBERS:,} members")


@contextmanager
def _seven(file: Any) -> Iterator[Packed]:
    import py7zr
    import py7zr.exceptions

    try:
        with py7zr.SevenZipFile(file) as packed:
            if packed.needs_password():
                raise Skip("the archive is encrypted")
            yield packed
    except (py7zr.exceptions.ArchiveError, lzma.LZMAError) as error:
        raise Skip(f"the archive is damaged or of a kind that can't be read: {error}") from error


def _is_seven(packed: Packed) -> bool:
    return not isinstance(packed, zipfile.ZipFile | tarfile.TarFile)


def _checked(packed: Packed, size: int) -> Iterator[Member]:
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
        path, key = member.path, same_name(member.path)
        safe = _PLAIN.fullmatch(path) or ("\\" not in path and all(is_safe(part, False) for part in path.split("/")))
        if not safe:
            raise Skip(f"its member “{written(path)}” would land outside or can't be named here")
        if member.size >= 0 and key in seen:
            raise Skip(f"it has two members called “{written(path)}”")
        seen.add(key)
        yield member


def _members(packed: Packed) -> Iterator[Member]:
    if isinstance(packed, zipfile.ZipFile):
        for info in packed.infolist():
            is_link = (info.external_attr >> 16) & 0o170000 == 0o120000
            if is_link:
                raise Skip(f"its member “{written(info.filename)}” is a link")
            if info.flag_bits & 1:
                raise Skip("the archive is encrypted")
            yield Member(zip_name(info).rstrip("/"), -1 if info.is_dir() else info.file_size, info, info.CRC)
    elif isinstance(packed, tarfile.TarFile):
        for entry in packed:
            if not (entry.isfile() or entry.isdir()):
                raise Skip(f"its member “{written(entry.name)}” is a link or a device")
            name = entry.name.removeprefix("./").rstrip("/")
            if name not in ("", "."):
                yield Member(name, -1 if entry.isdir() else entry.size, entry)
    else:
        for one in packed.list():
            if not (one.is_file or one.is_directory) or one.is_symlink:
                raise Skip(f"its member “{written(one.filename)}” is a link or a device")
            size = -1 if one.is_directory else int(one.uncompressed or 0)
            yield Member(one.filename.rstrip("/"), size, one.filename, one.crc32)


_UTF8_FLAG = 1 << 11


def zip_name(info: zipfile.ZipInfo) -> str:
    """Return a member's name: what is not marked as UTF-8 (APPNOTE 4.4.4) is UTF-8 or Shift JIS where it can be, else
    of Windows where that gives letters, else of the first PCs, as the format has it."""
    if info.flag_bits & _UTF8_FLAG or info.filename.isascii():
        return info.filename
    raw = info.filename.encode("cp437", "replace")
    for encoding in ("utf-8", "cp932"):
        try:
            text = raw.decode(encoding)
        except UnicodeDecodeError:
            continue
        if encoding == "utf-8" or any("\u3040" <= letter <= "\u30ff" for letter in text):
            return text
    drawn = any("\u2500" <= letter <= "\u259f" for letter in info.filename)
    return raw.decode("cp1252", "replace") if drawn else info.filename


def _extract(disk: Disk, packed: Packed, targets: Sequence[tuple[Member, str]], folder: str) -> None:
    """Unpack members of a 7z: the package writes them into a folder beside, from which each is put into its place."""
    stage = join(folder, _STAGE)
    disk.make_folder(stage)
    packed.extract(path=disk.path(stage), targets=[member.key for member, _ in targets])
    for member, target in targets:
        made = join(stage, member.path)
        status = disk.status(made)
        if status is None or status.is_link or status.is_folder or status.size != member.size:
            raise Skip(f"its member “{written(member.path)}” is damaged or cut off")
        with disk.open_old(made) as file:
            disk.sync_file(file)
        disk.rename(made, target)
        disk.set_mode(target, 0o644)
        point("unpack-member")
    for left in sorted({join(stage, at) for member, _ in targets for at in _above(member.path)}, reverse=True):
        disk.drop_folder(left)
    disk.drop_folder(stage)


def _above(path: str) -> Iterator[str]:
    while path := parent(path):
        yield path


def _make_folders(disk: Disk, top: str, path: str, made: set[str]) -> None:
    here = top
    for part in path.split("/") if path else ():
        here = join(here, part)
        if here not in made:
            disk.make_folder(here)
            made.add(here)


def _write(disk: Disk, packed: Packed, member: Member, target: str) -> None:
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


def _reading(packed: Packed, member: Member) -> IO[bytes]:
    if isinstance(packed, zipfile.ZipFile):
        return packed.open(member.key)
    source: IO[bytes] | None = packed.extractfile(member.key)
    assert source is not None
    return source
