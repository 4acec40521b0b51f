"""Pictures, drawings, and what cameras and layout programs write."""

from __future__ import annotations

import io
import struct
import zlib
from collections.abc import Callable, Mapping

import numpy as np
from PIL import Image

from tests.samples.sample import Sample, gzipped


def _picture() -> Image.Image:
    """Return a kite of two colours."""
    points = np.zeros((48, 64, 3), np.uint8)
    points[12:36, 16:48] = (200, 60, 40)
    return Image.fromarray(points)


def _saved(ending: str) -> Callable[[], bytes]:
    def data() -> bytes:
        if ending == "heic":
            from pillow_heif import register_heif_opener

            register_heif_opener()
        into = io.BytesIO()
        _picture().save(into, format={"jp2": "JPEG2000", "heic": "HEIF"}.get(ending, ending.upper()))
        return into.getvalue()

    return data


def vast_png(width: int, height: int) -> bytes:
    """Return a PNG that says to be of any size; of what it shows there is a line."""

    def chunk(name: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data))

    head = chunk(b"IHDR", struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0))
    body = chunk(b"IDAT", zlib.compress(bytes(3 * width)))
    return b"\x89PNG\r\n\x1a\n" + head + body + chunk(b"IEND", b"")


_XPM = b"""/* XPM */
static char *kite[] = {
"4 2 2 1",
"  c None",
"x c #C83C28",
"xx  ",
"  xx"
};
"""


def _psd() -> bytes:
    head = b"8BPS" + struct.pack(">H6xHIIHH", 1, 3, 48, 64, 8, 3)
    return head + struct.pack(">III", 0, 0, 0) + struct.pack(">H", 0) + bytes(3 * 48 * 64)


def _dng() -> bytes:
    """Return a picture of a camera as it was measured, point for point (TIFF 6.0, DNG 1.4)."""
    width, height = 64, 48
    texts = {306: b"2019:06:21 18:30:00\0", 271: b"Gullwick\0", 272: b"Box\0", 50708: b"Gullwick Box\0"}
    entries: list[tuple[int, int, int, bytes]] = [
        (254, 4, 1, struct.pack("<I", 0)), (256, 4, 1, struct.pack("<I", width)),
        (257, 4, 1, struct.pack("<I", height)), (258, 3, 1, struct.pack("<HH", 16, 0)),
        (259, 3, 1, struct.pack("<HH", 1, 0)), (262, 3, 1, struct.pack("<HH", 32803, 0)),
        (277, 3, 1, struct.pack("<HH", 1, 0)), (278, 4, 1, struct.pack("<I", height)),
        (279, 4, 1, struct.pack("<I", width * height * 2)), (33421, 3, 2, struct.pack("<HH", 2, 2)),
        (33422, 1, 4, bytes([0, 1, 1, 2])), (50706, 1, 4, bytes([1, 4, 0, 0])), (50707, 1, 4, bytes([1, 1, 0, 0])),
    ]  # fmt: skip
    entries += [(tag, 2, len(text), text) for tag, text in texts.items()]
    at = 8 + 2 + 12 * (len(entries) + 1) + 4
    behind, table = b"", []
    for tag, kind, count, value in sorted(entries):
        if len(value) > 4:
            table.append((tag, kind, count, struct.pack("<I", at + len(behind))))
            behind += value + bytes(len(value) % 2)
        else:
            table.append((tag, kind, count, value.ljust(4, b"\0")))
    table.append((273, 4, 1, struct.pack("<I", at + len(behind))))
    rows = b"".join(struct.pack("<HHI4s", *row) for row in sorted(table))
    points = np.arange(width * height, dtype="<u2").tobytes()
    return b"II*\0" + struct.pack("<IH", 8, len(table)) + rows + bytes(4) + behind + points


_SVG = b"""<?xml version="1.0"?>
<svg xmlns="http://www.w3.org/2000/svg" width="30mm" height="2cm" viewBox="0 0 300 200">
<title>Kite with
 a tail</title><style>.a { fill: #c83c28; }</style>
<g><title>inner</title><path class="a" style="stroke:navy;fill:none"/>
<rect fill="RGB(1, 2, 3)" stroke="none"/></g></svg>"""
_EPS = b"""%!PS-Adobe-3.0 EPSF-3.0
%%BoundingBox: 10 20 110 70
%%Title: (Kite Emblem)
%%For: Ida Marrow
%%CreationDate: 2011-09-27
%%EndComments
showpage
"""
_INDD = bytes.fromhex("0606edf5d81d46e5bd31efe7fe74b71d") + bytes(4080) + (
    b"<x:xmpmeta xmlns:x='adobe:ns:meta/'><r:RDF xmlns:r='http://www.w3.org/1999/02/22-rdf-syntax-ns#' "
    b"xmlns:dc='http://purl.org/dc/elements/1.1/'><r:Description><dc:title><r:Alt><r:li>Programme</r:li></r:Alt>"
    b"</dc:title></r:Description></r:RDF></x:xmpmeta>"
)  # fmt: skip


def _ai() -> bytes:
    from pypdf import PdfWriter

    into = io.BytesIO()
    writer = PdfWriter()
    writer.add_blank_page(300, 200)
    writer.add_metadata({"/Title": "Kite Emblem", "/Author": "Ida Marrow"})
    writer.write(into)
    return into.getvalue()


_SIZE = {"width": 64, "height": 48}


SAMPLES: Mapping[str, Sample] = {
    "a.heic": Sample(_saved("heic"), _SIZE | {"colour_mode": "RGB", "transparent": False}),
    "a.avif": Sample(_saved("avif"), _SIZE | {"colour_mode": "RGB", "transparent": False}),
    "a.jp2": Sample(_saved("jp2"), _SIZE | {"colour_mode": "RGB", "transparent": False}),
    "a.tga": Sample(_saved("tga"), _SIZE | {"colour_mode": "RGB", "transparent": False}),
    "a.pcx": Sample(_saved("pcx"), _SIZE | {"colour_mode": "RGB", "transparent": False}),
    "a.psd": Sample(_psd, _SIZE | {"colour_mode": "RGB", "transparent": False}),
    "a.xpm": Sample(lambda: _XPM, {"width": 4, "height": 2, "colour_mode": "P", "transparent": True}),
    "a.dng": Sample(_dng, _SIZE | {"camera_raw": True, "taken": "2019-06-21"}),
    "a.svg": Sample(lambda: _SVG, {"width": 113, "height": 76, "title": "Kite with a tail", "colours": 3}),
    "a.svgz": Sample(gzipped(lambda: _SVG), {"width": 113, "height": 76, "title": "Kite with a tail", "colours": 3}),
    "a.eps": Sample(
        lambda: _EPS,
        {"width": 100, "height": 50, "title": "Kite Emblem", "author": "Ida Marrow", "created": "2011-09-27"},
    ),
    "a.ai": Sample(_ai, {"pages": 1, "width": 300, "height": 200, "title": "Kite Emblem", "author": "Ida Marrow"}),
    "a.indd": Sample(lambda: _INDD, {"title": "Programme"}),
}
