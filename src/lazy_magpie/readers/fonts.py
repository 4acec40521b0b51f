"""Facts of fonts, through fontTools (OpenType 1.9, WOFF 1 and 2, collections).

| fact | what it is |
|---|---|
| family, style | from the name table: the typographic names where it has them |
| weight | 100 to 900, of the OS/2 table |
| version | as the font says it |
| created | the day on which this version was made (`head`, modified) |
| licence, licence_name | the licence's text, else its address; cut at 200 characters; what it is called in short |
| vendor | the maker's four letters in the OS/2 table, or the manufacturer's name |
| glyphs | how many |
| scripts | the scripts that most of its letters are of |
| faces | how many fonts a collection holds, where it is one |
"""

from __future__ import annotations

import datetime
import logging
import unicodedata
from collections import Counter
from contextlib import suppress
from typing import Any

from lazy_magpie.licences import short_name
from lazy_magpie.model import Value

ENDINGS = frozenset(".ttf .otf .ttc .otc .woff .woff2".split())
_NAMES = {"family": (16, 1), "style": (17, 2), "version": (5,), "licence": (13, 14), "vendor": (8,)}
_COPYRIGHT, _FIRST_YEAR = 0, 1985
_FEW = 5


def read(path: str) -> dict[str, Value]:
    """Return the facts of the font at `path`, of the first one in a collection; raises what fontTools does."""
    from fontTools.ttLib import TTCollection, TTFont

    logging.getLogger("fontTools").setLevel(logging.CRITICAL)  # it warns of times that it takes for others
    with open(path, "rb") as file:
        if file.read(4) == b"ttcf":
            with TTCollection(path, lazy=True) as collection:
                return {**_facts(collection.fonts[0]), "faces": len(collection.fonts)}
    with TTFont(path, lazy=True) as font:
        return _facts(font)


def _facts(font: Any) -> dict[str, Value]:
    facts: dict[str, Value] = {"glyphs": int(font["maxp"].numGlyphs)}
    table = font["name"]
    for field, ids in _NAMES.items():
        texts = (table.getDebugName(id) for id in ids)
        if text := next((text.strip() for text in texts if text and text.strip()), ""):
            facts[field] = text[:200]
    if name := short_name(" ".join(str(table.getDebugName(id) or "") for id in (*_NAMES["licence"], _COPYRIGHT))):
        facts["licence_name"] = name
    if "head" in font and (day := _day(int(font["head"].modified))):
        facts["created"] = day
    if "OS/2" in font:
        facts["weight"] = int(font["OS/2"].usWeightClass)
        facts.setdefault("vendor", str(font["OS/2"].achVendID).strip())
    if scripts := _scripts(font.getBestCmap() or {}):
        facts["scripts"] = scripts
    return {key: value for key, value in facts.items() if value != ""}


def _day(seconds: int) -> str:
    """Return the day of a time in seconds since 1904, "" for one at which no such font was made."""
    with suppress(OverflowError):
        day = datetime.date(1904, 1, 1) + datetime.timedelta(seconds=seconds)
        return day.isoformat() if day.year >= _FIRST_YEAR else ""
    return ""


def _scripts(letters: Any) -> list[str]:
    """Return the scripts that a font has more than a few letters of, by the first word of the letters' names."""
    counts: Counter[str] = Counter()
    for code in letters:
        if unicodedata.category(chr(code)).startswith("L"):
            counts[unicodedata.name(chr(code), "").partition(" ")[0].lower()] += 1
    return [script for script, count in counts.most_common(8) if script and count > _FEW]
