"""Reads checksum lists: the lines that sha256sum and its kind write (also their BSD form), SFV, BagIt manifests.

9c56cc…  Games/gull.bin        a digest, two blanks (or a blank and *), a path
SHA256 (Games/gull.bin) = 9c56cc…
Games/gull.bin 1A2B3C4D        SFV: a path, a CRC-32; lines with ; are remarks
manifest-sha256.txt            BagIt (RFC 8493): paths below data/
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import IO

from lazy_magpie.lists.checks import ListError, checked, crc, digest
from lazy_magpie.model.reference import ListedFile, ListedSet, ListHeader
from lazy_magpie.paths import name_of, parent, split_ending

_LONGEST_LINE = 1 << 14
_KINDS = {32: "md5", 40: "sha1", 64: "sha256"}
_LINE = re.compile(r"(\\?)([0-9A-Fa-f]{32,64}) [ *](.+)")
_BAG_LINE = re.compile(r"()([0-9A-Fa-f]{32,64})[ \t]+\*?(.+)")
_BSD = re.compile(r"(MD5|SHA1|SHA256) \((.+)\) = ([0-9A-Fa-f]{32,64})")
_SFV = re.compile(r"(.+?)[ \t]+([0-9A-Fa-f]{8})")
_BAG = re.compile(r"manifest-(md5|sha1|sha256)\.txt")
_ESCAPES = re.compile(r"\\(.)")


def is_named_so(name: str) -> bool:
    """Say whether a file's name is that of a checksum list."""
    low = name.lower()
    if _BAG.fullmatch(low) or low.endswith((".sfv", ".md5", ".sha1", ".sha256")):
        return True
    return low in ("md5sums", "sha1sums", "sha256sums", "md5sums.txt", "sha1sums.txt", "sha256sums.txt")


def read(path: str, file: IO[bytes]) -> Iterator[ListHeader | ListedSet]:
    """Yield the header of a list, which is its file's name, then a set a file. Raises ListError with the line."""
    name = name_of(path)
    is_bag = bool(_BAG.fullmatch(name.lower()))
    yield ListHeader(name_of(parent(path)) if is_bag else split_ending(name)[0])
    for line, where, one in sums(path, file):
        where = checked(path, line, "file", where.removeprefix("./").removeprefix("data/" if is_bag else "./"))
        folder, own = parent(where), name_of(where)
        files = (ListedFile(own, crc=one.crc, md5=one.md5, sha1=one.sha1, sha256=one.sha256),)
        yield ListedSet(folder or split_ending(own)[0], files, line=line, in_folder=bool(folder))


def sums(path: str, file: IO[bytes]) -> Iterator[tuple[int, str, ListedFile]]:
    """Yield line, name as it stands there, and checksums of each file of a list. Raises ListError with the line."""
    name = name_of(path).lower()
    is_bag, is_sfv = bool(_BAG.fullmatch(name)), name.endswith(".sfv")
    for line, text in _lines(path, file):
        if not text.strip() or text.startswith(("#", ";")):
            continue
        found = _sfv(path, line, text) if is_sfv else _sum(path, line, text, _BAG_LINE if is_bag else _LINE)
        if found is None:
            raise ListError(path, line, "this line is no checksum with a name; correct the list.")
        yield line, *found


def _lines(path: str, file: IO[bytes]) -> Iterator[tuple[int, str]]:
    number = 0
    while raw := file.readline(_LONGEST_LINE):
        number += 1
        if len(raw) == _LONGEST_LINE:
            raise ListError(path, number, "this line is longer than any list needs.")
        yield number, raw.decode("utf-8-sig" if number == 1 else "utf-8", "surrogateescape").rstrip("\r\n")


def _sfv(path: str, line: int, text: str) -> tuple[str, ListedFile] | None:
    match = _SFV.fullmatch(text.rstrip())
    return (match[1], ListedFile(match[1], crc=crc(path, line, match[2]))) if match else None


def _sum(path: str, line: int, text: str, form: re.Pattern[str]) -> tuple[str, ListedFile] | None:
    if match := _BSD.fullmatch(text):
        name, digits, kind = match[2], match[3], match[1].lower()
    elif match := form.fullmatch(text):
        name, digits, kind = match[3], match[2], _KINDS.get(len(match[2]), "")
        if match[1]:  # the form for names with line breaks
            name = _ESCAPES.sub(lambda found: {"n": "\n", "r": "\r"}.get(found[1], found[1]), name)
    else:
        return None
    if not kind:
        return None
    return name, ListedFile(name, **{kind: digest(path, line, kind, digits)})  # type: ignore[arg-type]
