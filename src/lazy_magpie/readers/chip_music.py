"""Facts of music that the sound chips of old machines play: SID, NSF, SPC and VGM.

| fact | what it is |
|---|---|
| header_title | the title as the file says it |
| author | who wrote it; released by whom is no author |
| year | of its first release, where the file says it |
| tracks | how many songs it holds |
| length | seconds, where the file says it |

Layouts: PSID and RSID 1 to 4 (the header that the archive of such music describes), NSF 1 and 2, SPC 0.31 with ID666,
VGM 1.72 with GD3.
"""

from __future__ import annotations

import re
import struct
from collections.abc import Callable, Sequence

from lazy_magpie.model import Value

ENDINGS = frozenset(".sid .psid .nsf .spc .vgm .vgz".split())
_LARGEST = 64 << 20
_LONGEST = 200
_SAMPLES = 44_100
"""Samples a second, in which a VGM counts."""
_FIRST_YEAR, _LAST_YEAR = 1970, 2100
_UNKNOWN = frozenset(["<?>", "?", "unknown"])


def read(path: str) -> dict[str, Value]:
    """Return the facts of the file at `path`. Raises ValueError, struct.error where it is none or cut off."""
    import gzip

    with open(path, "rb") as file:
        data = file.read(_LARGEST)
        if data.startswith(b"\x1f\x8b"):
            file.seek(0)
            data = gzip.GzipFile(fileobj=file).read(_LARGEST)
    for mark, read_one in _FORMATS:
        if data.startswith(mark):
            return {name: value for name, value in read_one(data).items() if value}
    raise ValueError("no music of a chip that is known")


def _text(data: bytes, encoding: str = "latin-1") -> str:
    text = " ".join(data.split(b"\0")[0].decode(encoding, "replace").split())[:_LONGEST]
    return "" if text.lower() in _UNKNOWN else text


def _year(text: str) -> int:
    found = re.search(r"\b(\d{4})\b", text)
    year = int(found[1]) if found else 0
    return year if _FIRST_YEAR <= year <= _LAST_YEAR else 0


def _sid(data: bytes) -> dict[str, Value]:
    (songs,) = struct.unpack_from(">H", data, 14)
    title, author, released = (_text(data[at : at + 32]) for at in (22, 54, 86))
    return {"header_title": title, "author": author, "year": _year(released), "tracks": songs}


def _nsf(data: bytes) -> dict[str, Value]:
    title, author, rights = (_text(data[at : at + 32]) for at in (14, 46, 78))
    return {"header_title": title, "author": author, "year": _year(rights), "tracks": data[6]}


def _spc(data: bytes) -> dict[str, Value]:
    if data[0x23:0x24] != b"\x1a":  # it says nothing of itself
        return {}
    seconds = _text(data[0xA9:0xAC])
    author = _text(data[0xB1:0xD1] if seconds.isdigit() or not seconds else data[0xB0:0xD0])
    facts: dict[str, Value] = {"header_title": _text(data[0x2E:0x4E]), "author": author}
    return facts | ({"length": float(seconds)} if seconds.isdigit() else {})


def _vgm(data: bytes) -> dict[str, Value]:
    (samples,) = struct.unpack_from("<I", data, 0x18)
    (place,) = struct.unpack_from("<I", data, 0x14)
    facts: dict[str, Value] = {"length": round(samples / _SAMPLES, 1)}
    if place and data[0x14 + place : 0x18 + place] == b"Gd3 ":
        at = 0x14 + place + 12
        texts = [" ".join(text.split()) for text in data[at:].decode("utf-16-le", "replace").split("\0")]
        english, author, released = texts[0], texts[6:7], texts[8:9]
        facts |= {"header_title": (english or "".join(texts[1:2]))[:_LONGEST], "author": "".join(author)[:_LONGEST]}
        facts["year"] = _year("".join(released).replace("/", " "))
    return facts


_FORMATS: Sequence[tuple[bytes, Callable[[bytes], dict[str, Value]]]] = (
    (b"PSID", _sid),
    (b"RSID", _sid),
    (b"NESM\x1a", _nsf),
    (b"SNES-SPC700 Sound File Data", _spc),
    (b"Vgm ", _vgm),
)
"""What a file of each sort begins with, and what reads it."""
