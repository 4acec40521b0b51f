"""Facts of archives: zip (APPNOTE 6.3), RAR, 7z, tar with gzip, bzip2, xz or Zstandard (POSIX.1), programs' packages.

Nothing is unpacked. JAR and wheels are zips; a Debian package is an `ar` archive that holds a tar (deb(5)).

| fact | what it is |
|---|---|
| members | how many files are in it |
| unpacked | bytes that they have together |
| encrypted | true where a member needs a password; missing else |
| top | the one folder that everything lies in, if there is one |
| holds | the ending that all members have, papers apart; missing where they have several |
| contents | the first 100,000 members: path, bytes, CRC-32 (null where the format has none) |
"""

from __future__ import annotations

import os
from collections.abc import Iterable, Iterator
from contextlib import suppress
from typing import IO, Any

ENDINGS = frozenset(".zip .7z .rar .tar .tgz .tbz2 .txz .gz .bz2 .xz .zst .tzst .jar .whl .apk .deb".split())
MOST = 1_000_000
"""Members that are counted at the most."""
_KEPT = 100_000
_PAPERS = frozenset([".txt", ".nfo", ".diz", ".md"])
CONTENTS = "contents"
Member = tuple[str, int, bool, int | None]
"""Path, bytes, whether it is encrypted, CRC-32."""


def read(path: str) -> dict[str, Any]:
    """Return the facts of the archive at `path`; raises ValueError, and what the modules do, where it is damaged."""
    import tarfile
    import zipfile

    from lazy_magpie.change.archives.stream_formats import unpacked_stream

    if zipfile.is_zipfile(path):
        return _facts(_zip(path))
    with open(path, "rb") as file:
        head = file.read(7)
        file.seek(0)
        if head.startswith(b"7z\xbc\xaf\x27\x1c"):
            return _facts(_seven(path))
        if head.startswith(b"Rar!\x1a\x07"):
            return _facts(_rar(path))
        if head.startswith(_AR[:7]):
            return _facts(_package(file))
        with suppress(tarfile.ReadError):
            if not path.lower().endswith(_TARS) and not head.strip(b"\0"):
                raise ValueError("it holds nothing but zeros")  # which as a tar would be an empty one
            return _facts(_tar(unpacked_stream(file, head) or path))
    if path.lower().endswith((".gz", ".bz2", ".xz", ".zst")) and ".tar" not in path.lower():
        return {"members": 1}
    raise ValueError("the archive is damaged or of a kind that can't be read")


def _zip(path: str) -> Iterator[Member]:
    import zipfile

    with zipfile.ZipFile(path) as packed:
        for info in packed.infolist():
            if not info.is_dir():
                yield info.filename, info.file_size, bool(info.flag_bits & 1), info.CRC


def _rar(path: str) -> Iterator[Member]:
    import rarfile

    with suppress(rarfile.NeedFirstVolume), rarfile.RarFile(path) as packed:
        for info in packed.infolist():
            if not info.is_dir():
                locked = bool(info.needs_password())
                yield info.filename, int(info.file_size or 0), locked, None if locked else info.CRC


def _package(file: IO[bytes]) -> Iterator[Member]:
    """Yield the files in a Debian package. Raises ValueError where it has none."""
    from lazy_magpie.change.archives.stream_formats import unpacked_stream

    at, end = len(_AR), file.seek(0, os.SEEK_END)
    while at + _AR_HEAD <= end:
        file.seek(at)
        head = file.read(_AR_HEAD)
        size = int(head[48:58])
        at += _AR_HEAD
        if head.startswith(b"data.tar"):
            file.seek(at)
            packed = unpacked_stream(file, file.read(7))
            file.seek(at)
            return _tar(packed or file)
        at += size + size % 2
    raise ValueError("the package holds no files")


_TARS = (".tar", ".tgz", ".tbz2", ".txz", ".tzst")
_AR, _AR_HEAD = b"!<arch>\n", 60


def _tar(source: IO[bytes] | str) -> Iterator[Member]:
    import tarfile

    with tarfile.open(source) if isinstance(source, str) else tarfile.open(fileobj=source, mode="r:") as packed:
        for entry in packed:
            if entry.isfile():
                yield entry.name.removeprefix("./"), entry.size, False, None


def _seven(path: str) -> Iterator[Member]:
    import py7zr

    with py7zr.SevenZipFile(path) as packed:
        locked = packed.needs_password()
        for info in packed.list():
            if not info.is_directory:
                yield info.filename, int(info.uncompressed or 0), locked, info.crc32


def _facts(members: Iterable[Member]) -> dict[str, Any]:
    count = size = 0
    encrypted = False
    tops: set[str] = set()
    contents = []
    for path, bytes_, locked, crc in members:
        if count < _KEPT:
            contents.append((path, bytes_, crc))
        count += 1
        size += bytes_
        encrypted = encrypted or locked
        if len(tops) < 2:
            tops.add(path.split("/")[0] if "/" in path else "")
        if count >= MOST:
            break
    facts: dict[str, Any] = {"members": count, "unpacked": size, CONTENTS: contents}
    if encrypted:
        facts["encrypted"] = True
    endings = {os.path.splitext(path)[1].lower() for path, *_ in contents} - _PAPERS
    if len(endings) == 1 and (ending := endings.pop()):
        facts["holds"] = ending
    if len(tops) == 1 and (top := tops.pop()):
        facts["top"] = top
    return facts
