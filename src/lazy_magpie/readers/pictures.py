"""Facts of pictures, through Pillow; only the header is read.

| fact | what it is |
|---|---|
| width, height | pixels |
| colour_mode | Pillow's mode: RGB, L (grey), P (palette), CMYK … |
| frames | how many pictures there are in it, where more than one |
| taken | the day on which it was taken (EXIF 2.3, DateTimeOriginal) |
| keywords | words of its XMP packet (dc:subject) |
| transparent | whether it has an alpha channel or a transparent colour |
"""

from __future__ import annotations

import datetime
from contextlib import suppress
from typing import Any

from lazy_magpie.embedded_keywords import subjects
from lazy_magpie.model import Value

ENDINGS = frozenset(
    (
        ".jpg .jpeg .png .gif .webp .bmp .tif .tiff .tbn .heic .heif .hif .avif .jp2 .j2k .xpm .xbm .tga .pcx .ico "
        ".ppm .pgm .pbm .psd"
    ).split()
)


def read(path: str) -> dict[str, Value]:
    """Return the facts of the picture at `path`; raises what Pillow does for a file that it can't open."""
    from lazy_magpie import picture_files

    with picture_files.opened(path, vast=True) as picture:
        facts: dict[str, Value] = {
            "width": picture.width,
            "height": picture.height,
            "colour_mode": picture.mode,
            "transparent": "A" in picture.getbands() or "transparency" in picture.info,
        }
        frames = getattr(picture, "n_frames", 1)
        if frames > 1:
            facts["frames"] = frames
        if picture.format in _WITH_EXIF and (day := _taken(picture)):
            facts["taken"] = day
        packet = picture.info.get("xmp") or picture.info.get("XML:com.adobe.xmp") or b""
        with suppress(ValueError):
            words = subjects(packet.encode() if isinstance(packet, str) else packet) if packet else []
            if words:
                facts["keywords"] = words
        picture.verify()
    return facts


_WITH_EXIF = ("JPEG", "MPO", "WEBP", "TIFF", "HEIF", "AVIF")
"""Formats whose header says when a picture was taken; of others the whole picture would be read for it."""
_EXIF, _TAKEN, _MADE = 0x8769, 0x9003, 0x0132
"""Tags of EXIF 2.3: where its own block is, when the picture was taken, when the file was changed last."""


def _taken(picture: Any) -> str:
    """Return the day on which a picture was taken, "" where it does not say so."""
    exif = picture.getexif()
    text = str(exif.get_ifd(_EXIF).get(_TAKEN) or exif.get(_MADE) or "")
    with suppress(ValueError):
        return datetime.datetime.strptime(text[:10], "%Y:%m:%d").date().isoformat()
    return ""
