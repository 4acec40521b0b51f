"""Facts of disc images and cue sheets.

| fact | what it is |
|---|---|
| volume | the volume's name in the primary volume descriptor (ECMA-119, ISO 9660, sector 16) |
| disc_system | the system identifier there |
| tracks | of a cue sheet: how many tracks it names |
| files | of a cue sheet: the files it names |

The primary volume descriptor, in bytes from its beginning:

    0    1   type (1)
    1    5   "CD001"
    8   32   system identifier, ASCII, filled up with spaces
    40  32   volume identifier, likewise
"""

from __future__ import annotations

import re

from lazy_magpie.model import Value

ENDINGS = frozenset(".iso .img .bin .cue".split())
_SECTORS = ((2048, 0), (2352, 16), (2352, 24))
"""Bytes in a sector and how many of them come before the data: plain, mode 1 raw, mode 2 raw."""
_FILE = re.compile(r'^\s*FILE\s+(?:"([^"]+)"|(\S+))', re.IGNORECASE)
_TRACK = re.compile(r"^\s*TRACK\s+\d+", re.IGNORECASE)
_LARGEST_SHEET = 1 << 20


def read(path: str) -> dict[str, Value]:
    """Return the facts of the image or cue sheet at `path`; {} for an image that is no disc of this standard."""
    return _sheet(path) if path.lower().endswith(".cue") else _image(path)


def _sheet(path: str) -> dict[str, Value]:
    with open(path, "rb") as file:
        lines = file.read(_LARGEST_SHEET).decode("utf-8", "replace").splitlines()
    files = [match[1] or match[2] for line in lines if (match := _FILE.match(line))]
    tracks = sum(1 for line in lines if _TRACK.match(line))
    if not files or not tracks:
        raise ValueError("no cue sheet: it names no file or no track")
    return {"tracks": tracks, "files": files}


def _image(path: str) -> dict[str, Value]:
    with open(path, "rb") as file:
        for size, before in _SECTORS:
            file.seek(16 * size + before)
            descriptor = file.read(72)
            if descriptor[:6] == b"\x01CD001":
                texts = {"disc_system": descriptor[8:40], "volume": descriptor[40:72]}
                named = {key: text.decode("ascii", "replace").strip(" \0") for key, text in texts.items()}
                return {key: text for key, text in named.items() if text}
    return {}
