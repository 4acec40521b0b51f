"""Small real pictures, papers, fonts, stitch designs, archives and games; the same bytes at every making."""

from __future__ import annotations

import io
import math
import struct
import time
import zipfile
from collections.abc import Iterable
from pathlib import Path
from typing import Any

from lazy_magpie.demo.media import seed_of

_DATE = (2021, 6, 5, 12, 0, 0)


def picture_bytes(name: str, size: int = 96) -> bytes:
    """Return a picture (JPEG or PNG by the name's ending): a kite on a ground of its own colour."""
    from PIL import Image, ImageDraw

    seed = seed_of(name)
    ground = (seed % 200 + 40, seed // 256 % 200 + 40, seed // 65536 % 200 + 40)
    image = Image.new("RGB", (size, size), ground)
    draw = ImageDraw.Draw(image)
    middle, reach = size // 2, size // 3
    kite = [
        (middle, middle - reach),
        (middle + reach // 2, middle),
        (middle, middle + reach),
        (middle - reach // 2, middle),
    ]
    draw.polygon(kite, fill=(255 - ground[0], 255 - ground[1], 90), outline=(20, 20, 40))
    draw.line([(middle, middle + reach), (middle + reach // 3, size - 4)], fill=(20, 20, 40))
    out = io.BytesIO()
    image.save(out, "PNG" if name.lower().endswith(".png") else "JPEG")
    return out.getvalue()


def chart(path: Path, title: str) -> None:
    """Write a colour chart as a PDF of one page."""
    from PIL import Image, ImageDraw

    page = Image.new("RGB", (420, 594), "white")
    draw = ImageDraw.Draw(page)
    draw.text((40, 40), f"{title}: colour chart", fill="black")
    for row, (name, colour) in enumerate((("rope", "#8a6d3b"), ("sea", "#2b6c8f"), ("sail", "#e8e2d0"))):
        draw.rectangle((40, 90 + row * 60, 120, 130 + row * 60), fill=colour, outline="black")
        draw.text((140, 100 + row * 60), f"{row + 1}. {name}", fill="black")
    moment = time.gmtime(1_620_000_000)
    page.save(path, "PDF", creationDate=moment, modDate=moment, title=title)


def font(path: Path, width: int, licence: str = "Made for the demo; free to use.") -> None:
    """Write a font of a few glyphs: letters as bars of `width` units; the ending says TrueType, OpenType or WOFF."""
    from fontTools.fontBuilder import FontBuilder
    from fontTools.pens.t2CharStringPen import T2CharStringPen
    from fontTools.pens.ttGlyphPen import TTGlyphPen

    family, _, style = path.stem.partition("-")
    cubic = path.suffix == ".otf"
    builder = FontBuilder(1000, isTTF=not cubic)
    names = [".notdef", "space", *"ABCDEFGHIKLMNOPRSTUW"]
    builder.setupGlyphOrder(names)
    builder.setupCharacterMap({32: "space", **{ord(letter): letter for letter in names[2:]}})
    glyphs = {}
    for index, name in enumerate(names):
        pen: Any = T2CharStringPen(600, None) if cubic else TTGlyphPen(None)
        if index >= 2:
            left = 60 + index * 11
            pen.moveTo((left, 0))
            for point in ((left, 700), (left + width, 700), (left + width, 0)):
                pen.lineTo(point)
            pen.closePath()
        glyphs[name] = pen.getCharString() if cubic else pen.glyph()
    if cubic:
        builder.setupCFF(path.stem, {"FullName": path.stem}, glyphs, {})
    else:
        builder.setupGlyf(glyphs)
    builder.setupHorizontalMetrics(dict.fromkeys(names, (600, 60)))
    builder.setupHorizontalHeader(ascent=800, descent=-200)
    readable = "".join(f" {c}" if c.isupper() and i else c for i, c in enumerate(family))
    builder.setupNameTable(
        {
            "familyName": readable,
            "styleName": style or "Regular",
            **({"licenseDescription": licence} if licence else {}),
        }
    )
    builder.setupOS2(sTypoAscender=800, sTypoDescender=-200)
    builder.setupPost()
    builder.font["head"].created = builder.font["head"].modified = 3_700_000_000
    builder.font.recalcTimestamp = False
    if path.suffix == ".woff":
        builder.font.flavor = "woff"
    builder.save(path)


def design(path: Path, title: str) -> None:
    """Write a stitch design in the machine format of the ending: a rose curve of the title's own."""
    import pyembroidery as stitches

    pattern = stitches.EmbPattern()
    pattern.extras["name"] = title[:8]
    leaves = seed_of(title) % 5 + 2
    for colour, size in ((0x8A6D3B, 300), (0x2B6C8F, 180)):
        pattern.add_thread({"color": colour, "name": f"thread {colour:x}"})
        for step in range(121):
            angle = math.tau * step / 120
            reach = size * math.cos(leaves * angle)
            pattern.add_stitch_absolute(stitches.STITCH, reach * math.cos(angle), reach * math.sin(angle))
        pattern.add_command(stitches.COLOR_BREAK)
    pattern.add_command(stitches.END)
    stitches.write(pattern, str(path), {"date": "20210605120000"})


def archive(path: Path, members: Iterable[tuple[str, bytes]]) -> None:
    """Write a zip with these members."""
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as file:
        for name, data in members:
            info = zipfile.ZipInfo(name, _DATE)
            info.compress_type = zipfile.ZIP_DEFLATED
            file.writestr(info, data)


def chip8_game(name: str) -> bytes:
    """Return a CHIP-8 program that clears the screen, draws a sprite of its own, and waits."""
    sprite = seed_of(name).to_bytes(4, "big")
    return bytes.fromhex("00E0A20C600A610AD014120A") + sprite


def cartridge(name: str) -> bytes:
    """Return a cartridge image of the made-up Tern 8: a magic word, a title of 16 bytes, a checksum, a program."""
    body = bytes((seed_of(name) * (i + 7)) >> 3 & 0xFF for i in range(2048))
    return (
        b"TERN8\0"
        + name.encode("ascii", "replace")[:16].ljust(16, b"\0")
        + struct.pack("<H", sum(body) & 0xFFFF)
        + body
    )


def disc(volume: str) -> tuple[bytes, str]:
    """Return a disc image with an ISO 9660 volume descriptor (ECMA-119, section 8.4), and its cue sheet's track."""
    sector = 2048
    descriptor = bytearray(sector)
    descriptor[0:7] = b"\x01CD001\x01"
    descriptor[8:40] = b"TERN SYSTEM".ljust(32)
    descriptor[40:72] = volume.upper().encode("ascii", "replace")[:32].ljust(32)
    descriptor[80:88] = struct.pack("<I", 20) + struct.pack(">I", 20)
    end = bytearray(sector)
    end[0:7] = b"\xffCD001\x01"
    image = bytes(16 * sector) + bytes(descriptor) + bytes(end) + seed_of(volume).to_bytes(4, "big") * (sector // 2)
    return image, "  TRACK 01 MODE1/2048\n    INDEX 01 00:00:00\n"
