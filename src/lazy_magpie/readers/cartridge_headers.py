"""Facts of game images: what the header says, for formats whose header is openly described.

| fact | what it is |
|---|---|
| header | the format of the header |
| header_title | the title that stands in the header, as the maker wrote it there |
| header_ok | whether the header's own checksum is right; missing where it has none |
| program, graphics | bytes of program and of pictures, where the header tells them apart |
| battery | whether the cartridge keeps what was saved |

`HEADERS` is a table: a format is a row, with what recognises it and where its texts and numbers lie, as the
open descriptions of these formats say.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import NamedTuple

from lazy_magpie.model import Value

ENDINGS = frozenset(".nes .gb .gbc .gba .rom".split())
_HEAD = 0x200


class Header(NamedTuple):
    """A header: the name of the format, how it is recognised, and what it says (from the first 512 bytes)."""

    name: str
    fits: Callable[[bytes], bool]
    facts: Callable[[bytes], Mapping[str, Value]]


def _text(data: bytes) -> str:
    return data.split(b"\0")[0].decode("ascii", "replace").replace("\ufffd", "").strip()


def _sixteen_bytes(head: bytes) -> Mapping[str, Value]:
    """Byte 4: program in 16 KiB, 5: graphics in 8 KiB, 6 bit 1: battery."""
    return {"program": head[4] * 16_384, "graphics": head[5] * 8_192, "battery": bool(head[6] & 2)}


def _handheld(head: bytes) -> Mapping[str, Value]:
    """0x134 to 0x143: title; 0x14D: checksum of 0x134 to 0x14C, each subtracted with one more."""
    checksum = -sum(byte + 1 for byte in head[0x134:0x14D]) & 0xFF
    return {"header_title": _text(head[0x134:0x143]), "header_ok": checksum == head[0x14D]}


def _advanced(head: bytes) -> Mapping[str, Value]:
    """0xA0 to 0xAB: title; 0xBD: checksum of 0xA0 to 0xBC."""
    checksum = (-sum(head[0xA0:0xBD]) - 0x19) & 0xFF
    return {"header_title": _text(head[0xA0:0xAC]), "header_ok": checksum == head[0xBD]}


HEADERS = (
    Header("cartridge-16", lambda head: head[:4] == b"NES\x1a", _sixteen_bytes),
    Header("handheld", lambda head: head[0x104:0x108] == b"\xce\xed\x66\x66", _handheld),
    Header("advanced handheld", lambda head: head[0x04:0x08] == b"\x24\xff\xae\x51" and head[0xB2] == 0x96, _advanced),
)


def read(path: str) -> dict[str, Value]:
    """Return the facts of the image at `path`; {} where it has no header that is known."""
    with open(path, "rb") as file:
        head = file.read(_HEAD)
    if len(head) < _HEAD:
        return {}
    found = next((header for header in HEADERS if header.fits(head)), None)
    if found is None:
        return {}
    facts = {key: value for key, value in found.facts(head).items() if value != ""}
    return {"header": found.name, **facts}
