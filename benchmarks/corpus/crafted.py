"""Made-up fonts in three containers and designs in five formats, with near-twins in another style."""

from __future__ import annotations

import math
import random
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pyembroidery
from fontTools.fontBuilder import FontBuilder
from fontTools.pens.t2CharStringPen import T2CharStringPen
from fontTools.pens.ttGlyphPen import TTGlyphPen
from fontTools.ttLib import TTFont

LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789"
FORMATS = ("dst", "pes", "jef", "exp", "vp3")


def _draw(pen: Any, seed: int, letter: str, weight: float, slant: float) -> None:
    """Draw one letter of a made-up font: a stem and a bow, as its seed has it."""
    chance = random.Random(f"{seed} {letter}")
    high, wide = chance.uniform(450, 750), chance.uniform(220, 520)
    stem = 60 * weight

    def at(x: float, y: float) -> tuple[int, int]:
        return round(x + slant * y), round(y)

    pen.moveTo(at(50, 0))
    pen.lineTo(at(50, high))
    pen.lineTo(at(50 + stem, high))
    pen.lineTo(at(50 + stem, 0))
    pen.closePath()
    low = chance.uniform(0, high / 2)
    pen.moveTo(at(50 + stem, low))
    pen.qCurveTo(at(wide, low), at(wide, low + 150))
    pen.qCurveTo(at(wide, low + 300), at(50 + stem, low + 300 * chance.uniform(0.8, 1.1)))
    pen.closePath()


def write_font(path: Path, seed: int, *, weight: float = 1.0, slant: float = 0.0) -> None:
    """Write the font of a seed; the ending says in which container: .ttf, .otf (CFF outlines), .woff, .woff2."""
    names = [".notdef", *(f"letter{number}" for number in range(len(LETTERS)))]
    builder = FontBuilder(1000, isTTF=path.suffix != ".otf")
    builder.setupGlyphOrder(names)
    builder.setupCharacterMap({ord(letter): name for letter, name in zip(LETTERS, names[1:], strict=True)})
    widths = {name: round(300 + random.Random(f"{seed} {name}").uniform(0, 300)) for name in names}
    if path.suffix == ".otf":
        strings = {}
        for name, letter in zip(names, " " + LETTERS, strict=True):
            pen = T2CharStringPen(widths[name], None)
            _draw(pen, seed, letter, weight, slant)
            strings[name] = pen.getCharString()
        builder.setupCFF(f"Made{seed}", {}, strings, {})
    else:
        glyphs = {}
        for name, letter in zip(names, " " + LETTERS, strict=True):
            pen = TTGlyphPen(None)
            _draw(pen, seed, letter, weight, slant)
            glyphs[name] = pen.glyph()
        builder.setupGlyf(glyphs)
    builder.setupHorizontalMetrics({name: (width, 50) for name, width in widths.items()})
    builder.setupHorizontalHeader(ascent=800, descent=-200)
    builder.setupNameTable({"familyName": f"Made {seed}", "styleName": "Regular"})
    builder.setupOS2()
    builder.setupPost()
    if path.suffix.startswith(".woff"):
        builder.font.flavor = path.suffix[1:]
    builder.save(path)


def fonts(folder: Path, count: int) -> Iterator[tuple[Path, int, str]]:
    """Write `count` fonts in three containers, and two near-twins of every third; yield (path, which, sort)."""
    for seed in range(count):
        for ending in (".ttf", ".otf", ".woff2"):
            path = folder / f"made {seed:04}{ending}"
            write_font(path, seed)
            yield path, seed, ending[1:]
        if seed % 3 == 0:
            for number, (name, ways) in enumerate((("bolder", {"weight": 1.3}), ("slanted", {"slant": 0.1})), start=1):
                path = folder / f"made {seed:04} {name}.ttf"
                write_font(path, seed, **ways)
                assert TTFont(path)["head"].unitsPerEm == 1000
                yield path, count * number + seed, name


def design(seed: int, *, style: float = 1.0) -> pyembroidery.EmbPattern:
    """Return the design of a seed: a few filled curves in as many colours. Another `style` is sewn more densely."""
    chance = random.Random(seed)
    pattern = pyembroidery.EmbPattern()
    for colour in range(chance.randrange(2, 5)):
        if colour:
            pattern.color_change()
        pattern.add_thread({"color": chance.randrange(1 << 24)})
        middle = chance.uniform(-300, 300), chance.uniform(-300, 300)
        wide, high, turns = chance.uniform(80, 350), chance.uniform(80, 350), chance.uniform(0.5, 3)
        steps = int(chance.randrange(250, 700) * style)
        for step in range(steps):
            angle = 2 * math.pi * step / steps * turns
            reach = 0.35 + 0.65 * (step % 2)
            x, y = wide * reach * math.cos(angle), high * reach * math.sin(angle * 1.5)
            pattern.stitch_abs(round(middle[0] + x), round(middle[1] + y))
    pattern.end()
    return pattern


def designs(folder: Path, count: int) -> Iterator[tuple[Path, int, str]]:
    """Write `count` designs in five formats, and a near-twin of every third; yield (path, which, sort)."""
    for seed in range(count):
        pattern = design(seed)
        for ending in FORMATS:
            path = folder / f"design {seed:04}.{ending}"
            pyembroidery.write(pattern, str(path))
            yield path, seed, ending
        if seed % 3 == 0:
            path = folder / f"design {seed:04} other style.dst"
            pyembroidery.write(design(seed, style=1.15), str(path))
            yield path, count + seed, "other style"
