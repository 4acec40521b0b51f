"""Titles in the order of the alphabet: articles passed over, letters and ranges of letters for big shelves."""

from __future__ import annotations

import unicodedata

from lazy_magpie.articles import PASSED_OVER, leading

_ARTICLE = leading(PASSED_OVER)


def sorted_title(text: str) -> str:
    """Move an article in front to the end: The Salt Orchard → Salt Orchard, The."""
    match = _ARTICLE.match(text)
    return f"{text[match.end() :]}, {match.group(1)}" if match else text


def letter(text: str) -> str:
    """Return the capital letter that a title stands under: articles passed over, accents dropped, digits as 0-9.

    A title in a script without Latin letters stands under its own first letter; one without letters under #.
    """
    bare = _ARTICLE.sub("", text)
    first = next((c for c in bare if c.isalnum()), "#")
    plain = unicodedata.normalize("NFKD", first)[0]
    return "0-9" if plain.isdigit() else plain.upper()


def range_of(text: str, ranges: list[str]) -> str:
    """Return the first of `ranges` (A-L, M-Z, 0-9, or a single letter) that holds the title's letter.

    A title that no range holds stands under its letter alone.
    """
    own = letter(text)
    for part in ranges:
        first, _, last = part.upper().partition("-")
        if own == part or (len(own) == 1 and first <= own <= (last or first)) or (own == "0-9" and first.isdigit()):
            return part
    return own
