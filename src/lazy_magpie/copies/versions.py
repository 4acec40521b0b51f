"""Other versions of one font: the same family and face, but another version, or more glyphs. They are no copies."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator

from lazy_magpie.copies.exact import Copies
from lazy_magpie.formatting import count_text
from lazy_magpie.identify.title_text import match_key
from lazy_magpie.model import Item, Kind

OTHER_VERSION = "version"
"""How the sets of these match."""


def other_versions(items: Iterable[Item]) -> Iterator[Copies]:
    """Yield the fonts of which there is another version: the one with most glyphs, then the newest, with each other."""
    by_face: dict[tuple[str, str], list[Item]] = defaultdict(list)
    for item in items:
        family = match_key(str(item.fields.get("family", "")))
        if item.kind is Kind.FONT and family and not item.root and "glyphs" in item.facts:
            by_face[family, match_key(_main_style(item))].append(item)
    for some in by_face.values():
        best = max(some, key=_rank)
        for other in some:
            if _version(other) != _version(best):
                why = f"{_said(best)}; the other {_said(other)}"
                yield Copies((best, other), {}, match=OTHER_VERSION, sure=False, why=why)


def _main_style(item: Item) -> str:
    """Return the style of an item's main file: the facts are of that one."""
    style = item.fields.get("style", "")
    return str(style[0]) if isinstance(style, list) and style else str(style)


def _version(item: Item) -> tuple[str, int]:
    return str(item.facts.get("version", "")), int(str(item.facts.get("glyphs", 0)))


def _rank(item: Item) -> tuple[int, str, str, str]:
    return _version(item)[1], str(item.facts.get("created", "")), _version(item)[0], item.path


def _said(item: Item) -> str:
    """Return a version as a person reads it: “2.37, 6,253 glyphs, 2016-07-30”."""
    version, glyphs = _version(item)
    number = version.removeprefix("Version ").split(";")[0].strip()
    return ", ".join(filter(None, (number, count_text(glyphs, "glyph"), str(item.facts.get("created", "")))))
