"""Readings of fonts: font files, named as foundries do, and fonts made of stitch files, a letter a file."""

from __future__ import annotations

import re
from collections.abc import Iterator

from lazy_magpie.identify.candidates import Candidate
from lazy_magpie.identify.folders import FolderContext
from lazy_magpie.identify.kit_sections import chain_of, named, spaced
from lazy_magpie.identify.title_text import in_written_case, match_key
from lazy_magpie.model import Evidence, Kind, Value
from lazy_magpie.patterns import pattern

STYLES = frozenset(
    (
        "thin hairline extralight ultralight light semilight demilight book regular normal roman medium semibold "
        "demibold demi bold extrabold ultrabold black heavy extrablack ultrablack italic oblique slanted condensed "
        "narrow compressed semicondensed extracondensed ultracondensed expanded extended wide semiexpanded it ital "
        "bolditalic lightitalic mediumitalic boldit bd rg lt blk bi"
    ).split()
)
"""Words that name a style of a font family, lower case."""
REGULAR = frozenset(["", "regular", "book", "roman", "normal"])
"""Styles, folded, of the face that a family is known by."""
_WEIGHTS = {
    "100": "Thin", "200": "Extra Light", "300": "Light", "400": "Regular", "500": "Medium", "600": "Semi Bold",
    "700": "Bold", "800": "Extra Bold", "900": "Black",
}  # fmt: skip
"""Weights by number, as CSS and OpenType name them."""
_SHORT = {
    "bd": "Bold",
    "it": "Italic",
    "ital": "Italic",
    "rg": "Regular",
    "lt": "Light",
    "blk": "Black",
    "bi": "Bold Italic",
    "bolditalic": "Bold Italic",
    "boldit": "Bold Italic",
}
_SUBSET = pattern(r"(?i)v\d{1,3}|latin|latinext|cyrillic|greek|vietnamese|webfont|vf|variablefont|variable|wght|wdth")
"""What web fonts have in their names besides: a version, and the letters that a file covers."""
_NUMBERED_ITALIC = pattern(r"(?i)([1-9]00)i(?:talic)?$")
_GLUED_STYLE = pattern(
    r"(?i)(thin|extralight|ultralight|light|book|medium|semibold|demibold|extrabold|ultrabold|black|heavy)(italic|oblique)"
)
_STYLE_ENDS = pattern(r"(?i)^(.*?)[ _-]*\[[a-z,]+\]$")
_CAMEL_ONLY = pattern(r"(?<=[a-z])(?=[A-Z])|(?<=[A-Z])(?=[A-Z][a-z])")


def font(stem: str, place: FolderContext, known: frozenset[str] = frozenset()) -> Iterator[Candidate]:
    """Yield the reading of a font file: family and style, as foundries write them in file names.

    A folder above the family's is a maker's only where that is one of the `known`, folded: as often it says of what
    sort the fonts in it are.
    """
    family, style = _family_and_style(stem)
    why = [Evidence("family", family, "name", stem)]
    titles = place.titles()
    near = next((f.title for f in titles if match_key(f.title) == match_key(family)), "")
    if titles and not style and family.lower() in STYLES:  # nothing but the style: "Bold.ttf"
        near, style = titles[0].title, [family]
        family = near
    if near:
        family = near if " " in near or " " not in family else family
        why.append(Evidence("family", family, "folder", near))
    fields: dict[str, Value] = {"family": family} if family else {}
    if maker := next(
        (f for f in titles if match_key(f.title) in known and match_key(f.title) != match_key(family)), None
    ):
        fields = {"maker": maker.title, **fields}
        why.append(Evidence("maker", maker.title, "folder", maker.text))
    if style:
        words = [_WEIGHTS.get(word) or _SHORT.get(word.lower()) or word for word in style]
        fields["style"] = " ".join(word.title() if word.islower() or word.isupper() else spaced(word) for word in words)
        why.append(Evidence("style", fields["style"], "name", " ".join(style)))
    yield Candidate(Kind.FONT, 4.0, fields, tuple(why))


def _family_and_style(stem: str) -> tuple[str, list[str]]:
    """Part a font file's name into the family's name, in a written case, and the words of its style."""
    text = match[1] if (match := _STYLE_ENDS.match(stem)) else stem
    text = _NUMBERED_ITALIC.sub(r"\1 italic", text).replace("VariableFont", "variablefont")
    words = [word for word in re.split(r"[ ._-]+", _CAMEL_ONLY.sub(" ", text) if not text.isupper() else text) if word]
    style: list[str] = []
    words = [word for word in words if not _SUBSET.fullmatch(word)] or words
    if words and (glued := _GLUED_STYLE.fullmatch(words[-1])):
        words[-1:] = glued.groups()
    while len(words) > 1 and (words[-1].lower() in STYLES or words[-1] in _WEIGHTS):
        style.insert(0, words.pop())
    while style[:1] and len(words) > 1 and words[-1].lower() in ("semi", "extra", "ultra", "demi"):
        style.insert(0, words.pop())
    return in_written_case(" ".join(words)), style


_OF_LETTERS = pattern(r"(?i) (?:font|alphabet|letters|monogram)s?$")
_GLYPH = pattern(
    r"(?i)^(?:(?P<name>.+?)[ ._-]+)?(?:(?P<case>lower|upper|small|cap(?:ital)?)[ ._-]?)?"
    r"(?P<glyph>[^\W_]|(?<![^ ])[&!?@#$%+](?![^ ])|ampersand|at|hash|question|exclamation|period|comma)"
    r"(?:[ ._-]+(?P<behind>lower|upper|small|cap(?:ital)?))?$"
)


def stitch_font(stem: str, place: FolderContext, *, many: bool = False) -> Iterator[Candidate]:
    """Yield the reading of a stitch file as one letter of a font: on a shelf of fonts, in the folder of one by its
    name, or one of `many` letters."""
    chain = chain_of(place)
    if place.shelf is not Kind.FONT and not many and not _OF_LETTERS.search(chain.texts[1] or chain.texts[0]):
        return
    match = _GLYPH.match(stem)
    if match is None:
        return
    maker, family = (chain.maker, chain.title) if chain.title else ("", chain.maker)
    if not family and match["name"]:
        family = named(match["name"])
    fields: dict[str, Value] = {}
    why = []
    for name, value, text in (("maker", maker, chain.texts[0]), ("family", family, chain.texts[1] or chain.texts[0])):
        if value:
            fields[name] = value
            why.append(Evidence(name, value, "folder" if text else "name", text or stem))
    glyph = match["glyph"]
    if case := match["case"] or match["behind"]:
        glyph = glyph.lower() if case.lower() in ("lower", "small") else glyph.upper()
    fields["glyph"] = glyph
    why.append(Evidence("glyph", glyph, "name", stem))
    yield Candidate(Kind.FONT, 6.0, fields, tuple(why))
