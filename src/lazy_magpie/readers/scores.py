"""Facts of music that is played from notes: Standard MIDI Files 1.0, and tracker modules (ProTracker, S3M, XM).

| fact | what it is |
|---|---|
| header_title | the title as the file says it: of a MIDI file the name of its first track |
| length | seconds, of a MIDI file |
| channels | of a ProTracker module and of an XM |
"""

from __future__ import annotations

import re
import struct
from typing import Any

from lazy_magpie.model import Value

ENDINGS = frozenset(".mid .midi .mod .s3m .xm".split())
_LARGEST = 64 << 20
_TRACK_NAME, _END_OF_TRACK = 0x03, 0x2F
_CHANNELS = re.compile(rb"(\d{1,2})CH[NS]?")
_FOUR = (b"M.K.", b"M!K!", b"FLT4", b"N.T.")
_LONGEST = 200


def read(path: str) -> dict[str, Value]:
    """Return the facts of the file at `path`. Raises ValueError for what is no such file."""
    with open(path, "rb") as file:
        data = file.read(_LARGEST)
    if data.startswith(b"MThd"):
        return _midi(path, data)
    if data.startswith(b"Extended Module: "):
        (channels,) = struct.unpack_from("<H", data.ljust(70, b"\0"), 68)
        return _facts(data[17:37], channels)
    if data[44:48] == b"SCRM":
        return _facts(data[:28], 0)
    if data[1080:1084] in _FOUR:
        return _facts(data[:20], 4)
    if match := _CHANNELS.match(data[1080:1084]):
        return _facts(data[:20], int(match[1]))
    raise ValueError("it is neither a MIDI file nor a module of notes and samples that is known")


def _facts(title: bytes, channels: int) -> dict[str, Value]:
    text = " ".join(title.split(b"\0")[0].decode("cp437", "replace").split())
    facts: dict[str, Value] = {"header_title": text} if any(c.isalnum() for c in text) else {}
    return facts | ({"channels": channels} if channels else {})


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
