"""A show as a file's name and its folder spell it: one of them in another script, shortened, or with a remark."""

from __future__ import annotations

from lazy_magpie.identify.title_keys import key_of
from lazy_magpie.identify.vocabulary import SMALL_WORDS
from lazy_magpie.patterns import pattern
from lazy_magpie.words import folded, meaning

_SPELLED_ALIKE = 0.85
"""So alike at the least are a name and the same name written in other letters."""
_REMARK = pattern(r"^(?P<show>.+?)(?:, (?P<said>[^\W\d_A-Z].*)| - (?P<all>.+))$")
_LEFT_OUT = frozenset(["and", "l", "d", "s", "und", "et", "y", "e"])
"""Words besides the small ones that are left out of a shortened name."""


def one_spelling(show: str, of_folder: str) -> str:
    """Return how a show is written that a name calls `show` and its folder `of_folder`, "" if that may be two shows."""
    if remark := _REMARK.match(of_folder):
        said_more = remark["said"] or "complete" in meaning(remark["all"])
        if said_more and key_of(remark["show"]) == key_of(show):
            return show
    if show.isascii() != of_folder.isascii() and _spelled_alike(show, of_folder):
        return of_folder
    return of_folder if _is_shortened(folded(show).split(), folded(of_folder).split()) else ""


def _spelled_alike(one: str, other: str) -> bool:
    """Say whether two names are nearly the same once both are in Latin letters."""
    from rapidfuzz.distance import Indel

    return Indel.normalized_similarity(key_of(one), key_of(other)) >= _SPELLED_ALIKE


def _is_shortened(short: list[str], whole: list[str]) -> bool:
    """Say whether a name has the words of another one in their order, without its small words."""
    left = iter(whole)
    passed: list[str] = []
    for word in short:
        for other in left:
            if other == word:
                break
            passed.append(other)
        else:
            return False
    passed += left
    return len(short) > 1 and all(word in SMALL_WORDS or word in _LEFT_OUT for word in passed)
