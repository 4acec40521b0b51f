"""Tar archives (POSIX.1), packed as a whole by gzip, bzip2, xz or Zstandard, and single files that are packed so."""

from __future__ import annotations

import sys
import tarfile
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from typing import IO

from lazy_magpie.change.archives.packed import Member, OneByOne
from lazy_magpie.change.run_context import DamagedArchive, Skip
from lazy_magpie.paths import name_of, split_ending, written
from lazy_magpie.streams import CHUNK

_LONGEST_HEADER = 1 << 20
"""Bytes that the name of a member, or its other attributes, may take in a tar (pax, POSIX.1-2001)."""


def _gzip(file: IO[bytes]) -> IO[bytes]:
    import gzip

    return gzip.GzipFile(fileobj=file)  # type: ignore[return-value]


def _bzip2(file: IO[bytes]) -> IO[bytes]:
    import bz2

    return bz2.BZ2File(file)


def _xz(file: IO[bytes]) -> IO[bytes]:
    import lzma

    return lzma.LZMAFile(file)


def _zstandard(file: IO[bytes]) -> IO[bytes]:
    if sys.version_info >= (3, 14):
        from compression import zstd
    else:
        from backports import zstd

    return zstd.ZstdFile(file)  # type: ignore[return-value]


STREAMS: Sequence[tuple[bytes, Callable[[IO[bytes]], IO[bytes]]]] = (
    (b"\x1f\x8b", _gzip),  # RFC 1952
    (b"BZh", _bzip2),
    (b"\xfd7zXZ\x00", _xz),
    (b"\x28\xb5\x2f\xfd", _zstandard),  # RFC 8878
)
"""What a packed stream begins with, and what reads it."""


def unpacked_stream(file: IO[bytes], head: bytes) -> IO[bytes] | None:
    """Return what a packed stream holds, None where it is none."""
    read = next((read for magic, read in STREAMS if head.startswith(magic)), None)
    return read(file) if read else None


class _Header(tarfile.TarInfo):
    """A header of a tar that takes no more memory than a name needs, however long it says that its own texts are."""

    def _proc_member(self, tarfile: tarfile.TarFile) -> tarfile.TarInfo:
        long_texts = (b"L", b"K", b"x", b"X", b"g")
        if self.type in long_texts and self.size > _LONGEST_HEADER:
            raise Skip("the archive has a header that is far too long, as a trap would")
        return super()._proc_member(tarfile)  # type: ignore[misc, no-any-return]


class TarPacked(OneByOne):
    """An open tar."""

    indexed = False

    def __init__(self, packed: tarfile.TarFile, size: int) -> None:
        self._packed, self.size = packed, size

    def members(self) -> Iterator[Member]:
        """Yield its members."""
        packed = self._packed
        for entry in packed:
            if not (entry.isfile() or entry.isdir()):
                raise Skip(f"its member “{written(entry.name)}” is a link or a device")
            name = entry.name.removeprefix("./").rstrip("/")
            if name not in ("", "."):
                yield Member(name, -1 if entry.isdir() else entry.size, entry)
        if packed.fileobj is not None and packed.fileobj.tell() <= packed.offset:
            raise DamagedArchive("the archive has no end: it is damaged, or its download has not ended")

    def open(self, member: Member) -> IO[bytes]:
        """Open a member."""
        source = self._packed.extractfile(member.key)
        assert source is not None
        return source


class SinglePacked(OneByOne):
    """One file, packed by itself; `most` is how many bytes it may come to."""

    indexed = False

    def __init__(self, stream: IO[bytes], size: int, name: str, most: int) -> None:
        self._stream, self.size, self._name, self._most = stream, size, name, most

    def members(self) -> Iterator[Member]:
        """Yield the file: it is read once, to know how long it is and that it is whole."""
        length = self._stream.seek(0)
        while chunk := self._stream.read(CHUNK):
            length += len(chunk)
            if length > self._most:
                raise Skip("the archive unpacks to far more than its own size, as a trap would")
        stem, ending = split_ending(name_of(self._name))
        yield Member(stem if ending else f"{stem}.unpacked", length, None)

    def open(self, member: Member) -> IO[bytes]:
        """Open the file."""
        self._stream.seek(0)
        return self._stream


@contextmanager
def open_stream(file: IO[bytes], head: bytes, size: int, archive: str, most: int) -> Iterator[TarPacked | SinglePacked]:
    """Open a tar, packed or not, or a single packed file. Raises DamagedArchive for what is neither."""
    stream = unpacked_stream(file, head)
    try:
        with tarfile.open(fileobj=stream or file, mode="r:", tarinfo=_Header) as packed:
            if stream is not None and not is_called_tar(archive) and _is_empty(packed):
                raise tarfile.ReadError("nothing but zeros, which is an empty tar, too")
            yield TarPacked(packed, size)
            return
    except tarfile.ReadError as error:
        if stream is None or is_called_tar(archive):
            raise DamagedArchive("the archive is damaged or of a kind that can't be read") from error
    yield SinglePacked(stream, size, archive, most)


def is_called_tar(name: str) -> bool:
    """Say whether a name promises a packed tar."""
    stem, ending = split_ending(name_of(name).lower())
    return ending in (".tgz", ".tbz2", ".txz", ".tzst", ".tar") or stem.endswith(".tar")


def _is_empty(packed: tarfile.TarFile) -> bool:
    """Say whether a tar has no members: the first is read as soon as it is opened."""
    return not packed.members  # type: ignore[attr-defined]
