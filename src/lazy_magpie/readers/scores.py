"""Facts of music that is played from notes: Standard MIDI Files 1.0, also those with the words of a song (.kar).

| fact | what it is |
|---|---|
| header_title | the name of the first track |
| length | seconds |
"""

from __future__ import annotations

import struct
from typing import Any

from lazy_magpie.model import Value

ENDINGS = frozenset(".mid .midi .kar".split())
_LARGEST = 64 << 20
_TRACK_NAME, _END_OF_TRACK = 0x03, 0x2F
_LONGEST = 200


def read(path: str) -> dict[str, Value]:
    """Return the facts of the file at `path`. Raises ValueError for what is no such file."""
    with open(path, "rb") as file:
        data = file.read(_LARGEST)
    if not data.startswith(b"MThd"):
        raise ValueError("it is no MIDI file")
    return _midi(path, data)


def _midi(path: str, data: bytes) -> dict[str, Value]:
    from mutagen import smf

    told: Any = smf.SMF(path)  # type: ignore[no-untyped-call]
    facts: dict[str, Value] = {"length": round(float(told.info.length), 2)}
    at = 8 + struct.unpack_from(">I", data, 4)[0]
    if data[at : at + 4] == b"MTrk" and (name := _track_name(data, at + 8)):
        facts["header_title"] = name
    return facts


def _track_name(data: bytes, at: int) -> str:
    """Return the name of the track whose events begin at a place, "" where it has none before its first note."""
    while at < len(data) - 2:
        _, at = _number(data, at)  # the time that has passed
        if data[at : at + 1] != b"\xff":
            return ""
        kind = data[at + 1]
        length, start = _number(data, at + 2)
        if kind == _TRACK_NAME:
            text = data[start : start + min(length, _LONGEST)].decode("utf-8", "replace")
            return " ".join(text.replace("\0", " ").split())
        if kind == _END_OF_TRACK:
            return ""
        at = start + length
    return ""


def _number(data: bytes, at: int) -> tuple[int, int]:
    """Return a number of seven bits a byte, and where it ends. Raises ValueError where it never does."""
    value = 0
    for place in range(at, min(at + 4, len(data))):
        value = value << 7 | data[place] & 0x7F
        if data[place] < 0x80:
            return value, place + 1
    raise ValueError("a number in it never ends")
