"""Opens zip, tar and 7z archives, also of several volumes, and lists what they hold, trusting nothing that they say.

A member that would land outside, a link, a device, two members of one name, or more than the limits allow makes the
whole archive be left alone. Names of old zips that are no UTF-8 are read in the encoding that they most likely have.
"""

from __future__ import annotations

import io
import lzma
import os
import re
import tarfile
import tempfile
import zipfile
import zlib
from collections.abc import Iterable, Iterator, Sequence
from contextlib import ExitStack, contextmanager
from typing import IO, NamedTuple, Protocol, TypeGuard

from lazy_magpie.change.archives.zip_directory import (
    MOST_MEMBERS,
    Listed,
    end_of,
    glance,
    is_encrypted,
    is_link,
    place_in_volumes,
    zip_name,
)
from lazy_magpie.change.filesystem.access import Filesystem
from lazy_magpie.change.run_context import DamagedArchive, Skip
from lazy_magpie.naming.safe import is_safe
from lazy_magpie.paths import name_of, same_name, written
from lazy_magpie.split_archives import JoinedVolumes, pieces_of, volumes_before

MOST_RATIO = 200
_LONGEST_HEADER = 1 << 20
"""Bytes that the name of a member, or its other attributes, may take in a tar (pax, POSIX.1-2001)."""
SMALL = 64 << 20
"""An archive may unpack to 64 MiB whatever its size, beyond that to 200 times its own size."""
_PATH = r"\w[\w. -]{0,99}(?:/\w[\w. -]{0,99})*"
_PLAIN, _ALL_PLAIN = re.compile(_PATH, re.ASCII), re.compile(rf"{_PATH}(?:\0{_PATH})*", re.ASCII)
"""Most names, and many of them with nothing between: they need no closer look."""


class SevenEntry(Protocol):
    """What py7zr, which has no types, says of a member."""

    filename: str
    is_file: bool
    is_directory: bool
    is_symlink: bool
    uncompressed: int | None
    crc32: int | None


class SevenArchive(Protocol):
    """What is used of py7zr.SevenZipFile."""

    def list(self) -> Iterable[SevenEntry]:
        """Return its members."""

    def extract(self, path: str, targets: Sequence[str]) -> None:
        """Unpack some members into a folder."""


Packed = zipfile.ZipFile | tarfile.TarFile | SevenArchive
"""An open archive."""
_SEVEN = b"7z\xbc\xaf\x27\x1c"


class Archive(NamedTuple):
    """An open archive, and how large it is, with all its volumes, in bytes."""

    packed: Packed
    size: int


class Member(NamedTuple):
    """A member of an archive: its path below the new folder, its size in bytes (-1: a folder), how to read it.

    `crc` is its CRC-32, None where the format has none.
    """

    path: str
    size: int
    key: zipfile.ZipInfo | tarfile.TarInfo | str
    crc: int | None = None


def contents(disk: Filesystem, archive: str) -> Listed:
    """Return the files in an archive, each looked at. Raises Skip with the reason why it is to be left alone."""
    if listed := plain_contents(disk, archive):
        return listed
    with open_archive(disk, archive) as whole:
        members = [member for member in check_members(whole) if member.size >= 0]
    return Listed([one.path for one in members], [one.size for one in members], [one.crc for one in members])


def plain_contents(disk: Filesystem, archive: str) -> Listed | None:
    """Return the files in a zip whose directory is as plain as most are; None where it needs a closer look."""
    try:
        with disk.open_old(archive) as file:
            listed = glance(file)
            limit = max(SMALL, file.seek(0, os.SEEK_END) * MOST_RATIO)
    except OSError:
        return None
    fits = listed is not None and sum(listed.sizes) <= limit and _are_plain(listed.names)
    return listed if fits else None


def _are_plain(paths: Sequence[str]) -> bool:
    """Say whether members are files, named as those of most archives are, and each otherwise than all others."""
    together = "\0".join(paths)
    return _ALL_PLAIN.fullmatch(together) is not None and len(set(together.lower().split("\0"))) == len(paths)


def head_of(disk: Filesystem, archive: str, path: str, most: int) -> bytes:
    """Return the first `most` bytes of a file in an archive; b"" where that can't be read without unpacking much more.

    Of a tar or 7z all that stands before a file is unpacked, too, so only small ones are read.
    """
    try:
        with open_archive(disk, archive) as (packed, size):
            if not isinstance(packed, zipfile.ZipFile) and size > SMALL:
                return b""
            found = next((member for member in _members(packed) if member.path == path), None)
            if found is None:
                return b""
            if is_seven(packed):
                return _of_one(packed, found) if found.size <= most else b""
            with open_member(packed, found) as file:
                return file.read(most)
    except (Skip, OSError):
        return b""


def _of_one(packed: SevenArchive, member: Member) -> bytes:
    """Return what a small member of a 7z holds."""
    with tempfile.TemporaryDirectory() as folder:
        packed.extract(path=folder, targets=[str(member.key)])
        with open(os.path.join(folder, member.path), "rb") as file:
            return file.read(member.size)


class _VolumeHeader(tarfile.TarInfo):
    """A header of a tar that takes no more memory than a name needs, however long it says that its own texts are."""

    def _proc_member(self, tarfile: tarfile.TarFile) -> tarfile.TarInfo:
        long_texts = (b"L", b"K", b"x", b"X", b"g")
        if self.type in long_texts and self.size > _LONGEST_HEADER:
            raise _TooLong
        return super()._proc_member(tarfile)  # type: ignore[misc, no-any-return]


class _TooLong(Skip):
    """A header is longer than any that is meant seriously."""

    def __init__(self) -> None:
        super().__init__("the archive has a header that is far too long, as a trap would")


@contextmanager
def open_archive(disk: Filesystem, archive: str) -> Iterator[Archive]:
    """Open an archive, whatever its kind. Raises Skip with the reason where it is damaged, encrypted, or not whole."""
    with ExitStack() as files:
        pieces = pieces_of(archive, lambda path: disk.status(path) is not None)
        file = _joined([files.enter_context(disk.open_old(path)) for path in pieces])
        size = file.seek(0, os.SEEK_END)
        file.seek(0)
        try:
            head = file.read(len(_SEVEN))
            if not head:
                raise Skip("the archive is empty: its download may not have ended")
            file.seek(0)
            if head == _SEVEN:
                with _seven(file) as seven:
                    yield Archive(seven, size)
            elif zipfile.is_zipfile(file):
                with _zip(disk, archive, file, files) as zipped:
                    yield zipped
            else:
                file.seek(0)
                with tarfile.open(fileobj=file, tarinfo=_VolumeHeader) as streamed:
                    yield Archive(streamed, size)
        except tarfile.ReadError as error:  # it lists what each of its ways to read has said
            raise DamagedArchive("the archive is damaged or of a kind that can't be read") from error
        except (zipfile.BadZipFile, tarfile.TarError, zlib.error, EOFError, NotImplementedError) as error:
            raise DamagedArchive(f"the archive is damaged or of a kind that can't be read: {error}") from error
        except RuntimeError as error:
            raise Skip(f"the archive is encrypted: {error}") from error
        except (Skip, OSError):
            raise
        except Exception as error:  # whatever a library does with a damaged file
            raise DamagedArchive(f"the archive is damaged or of a kind that can't be read: {error!r}") from error


def _joined(files: Sequence[IO[bytes]]) -> IO[bytes]:
    return files[0] if len(files) == 1 else io.BufferedReader(JoinedVolumes(files))


@contextmanager
def _zip(disk: Filesystem, archive: str, last: IO[bytes], files: ExitStack) -> Iterator[Archive]:
    """Open a zip, with the volumes before its `last` one where it was split."""
    end = end_of(last)
    before = []
    for path in volumes_before(archive, end.volumes):
        try:
            before.append(files.enter_context(disk.open_old(path)))
        except FileNotFoundError:
            raise Skip(f"its volume “{written(name_of(path))}” is missing") from None
    size = last.seek(0, os.SEEK_END)
    last.seek(0)
    joined = JoinedVolumes([*before, last]) if before else None
    with zipfile.ZipFile(io.BufferedReader(joined) if joined else last) as packed:
        if joined:
            *starts, size = joined.starts
            place_in_volumes(packed, end.place, starts)
        yield Archive(packed, size)


@contextmanager
def _seven(file: IO[bytes]) -> Iterator[SevenArchive]:
    import py7zr
    import py7zr.exceptions

    try:
        with py7zr.SevenZipFile(file) as packed:
            if packed.needs_password():
                raise Skip("the archive is encrypted")
            yield packed
    except (py7zr.exceptions.ArchiveError, lzma.LZMAError) as error:
        raise DamagedArchive(f"the archive is damaged or of a kind that can't be read: {error}") from error


def is_seven(packed: Packed) -> TypeGuard[SevenArchive]:
    """Say whether an open archive is a 7z: its members are not read one by one."""
    return not isinstance(packed, zipfile.ZipFile | tarfile.TarFile)


def check_members(archive: Archive) -> Iterator[Member]:
    """Yield the members of an archive, each looked at before anything is written."""
    limit = max(SMALL, archive.size * MOST_RATIO)
    total = 0
    names: set[str] = set()
    for count, member in enumerate(_members(archive.packed), start=1):
        if count > MOST_MEMBERS:
            raise Skip(f"the archive has more than {MOST_MEMBERS:,} members")
        total += max(member.size, 0)
        if total > limit:
            raise Skip("the archive unpacks to far more than its own size, as a trap would")
        path, key = member.path, same_name(member.path)
        safe = _PLAIN.fullmatch(path) or _is_safe(path)
        if not safe:
            raise Skip(f"its member “{written(path)}” would land outside or can't be named here")
        if member.size >= 0 and key in names:
            raise Skip(f"it has two members called “{written(path)}”")
        names.add(key)
        yield member


def _is_safe(path: str) -> bool:
    return "\\" not in path and all(is_safe(part, everywhere=False) for part in path.split("/"))


def _members(packed: Packed) -> Iterator[Member]:
    if isinstance(packed, zipfile.ZipFile):
        return _of_zip(packed)
    if isinstance(packed, tarfile.TarFile):
        return _of_tar(packed)
    return _of_seven(packed.list())


def _of_zip(packed: zipfile.ZipFile) -> Iterator[Member]:
    for info in packed.infolist():
        if is_link(info):
            raise Skip(f"its member “{written(info.filename)}” is a link")
        if is_encrypted(info):
            raise Skip("the archive is encrypted")
        yield Member(zip_name(info).rstrip("/"), -1 if info.is_dir() else info.file_size, info, info.CRC)


def _of_tar(packed: tarfile.TarFile) -> Iterator[Member]:
    for entry in packed:
        if not (entry.isfile() or entry.isdir()):
            raise Skip(f"its member “{written(entry.name)}” is a link or a device")
        name = entry.name.removeprefix("./").rstrip("/")
        if name not in ("", "."):
            yield Member(name, -1 if entry.isdir() else entry.size, entry)
    if packed.fileobj is not None and packed.fileobj.tell() <= packed.offset:
        raise DamagedArchive("the archive has no end: it is damaged, or its download has not ended")


def _of_seven(entries: Iterable[SevenEntry]) -> Iterator[Member]:
    for one in entries:
        if not (one.is_file or one.is_directory) or one.is_symlink:
            raise Skip(f"its member “{written(one.filename)}” is a link or a device")
        size = -1 if one.is_directory else int(one.uncompressed or 0)
        yield Member(one.filename.rstrip("/"), size, one.filename, one.crc32)


def open_member(packed: Packed, member: Member) -> IO[bytes]:
    """Open a member of a zip or tar for reading."""
    if isinstance(packed, zipfile.ZipFile) and isinstance(member.key, zipfile.ZipInfo):
        return packed.open(member.key)
    assert isinstance(packed, tarfile.TarFile) and isinstance(member.key, tarfile.TarInfo)
    source = packed.extractfile(member.key)
    assert source is not None
    return source
