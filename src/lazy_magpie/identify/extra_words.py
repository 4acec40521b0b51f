"""Which extra of a film or a show the words of a name say that something is, in any language."""

from __future__ import annotations

from lazy_magpie.patterns import pattern
from lazy_magpie.words import ends_of_extras, folded, meaning, remembered

_ROLES = {
    "extra.deleted_scene": "deleted scene", "extra.behind_the_scenes": "behind the scenes",
    "extra.making_of": "behind the scenes", "extra.trailer": "trailer", "extra.teaser": "trailer",
    "extra.tvspot": "trailer", "extra.interview": "interview", "extra.featurette": "featurette",
    "sample": "sample", "preview": "trailer", "credits": "other", "extra": "other",
}  # fmt: skip
"""The extras of the vocabulary, by the beginnings of their concepts."""
_NOT_BY_WORDS = frozenset(["extra.short", "extra.scene", "extra.introduction", "extra.commercial", "extra.music_video"])
"""What is a film or a song as often: short films, scenes."""
_LETTERS = pattern("[a-z]+")
_YEAR = pattern(r"(?<!\d)(?:19|20)\d\d(?!\d)")
_LONGEST = 3
"""Words of the longest phrase that stands in front of a title or behind it."""


@remembered(8192)
def extra_role(phrase: str, *, weak: bool = False) -> str:
    """Return which extra a whole phrase without a year means, "" for none; `weak` lets ordinary words count, too."""
    said = meaning(phrase) if may_be_one(phrase) and not _YEAR.search(phrase) else {}
    roles = (_role(concept) for concept, strength in said.items() if strength > 1 or weak)
    return next(filter(None, roles), "")


def may_be_one(text: str) -> bool:
    """Say whether words for an extra can stand in a name: in most there are none, and nothing more is looked for."""
    return not text.isascii() or not ends_of_extras().isdisjoint(_LETTERS.findall(text.lower()))


def _role(concept: str) -> str:
    if concept in _NOT_BY_WORDS:
        return ""
    return next((role for front, role in _ROLES.items() if concept.startswith(front)), "")


def role_behind(text: str) -> tuple[str, str]:
    """Return which extra the last words of a name mean, and what stands in front of them; "" where they mean none."""
    words = folded(text).split()
    for length in range(min(_LONGEST, len(words) - 1), 0, -1):
        if role := extra_role(" ".join(words[-length:])):
            return role, _without_last(text, length)
    return "", text


def role_in_front(text: str) -> str:
    """Return which extra the first words of a title mean: "Interview with the keeper"; "" where they mean none."""
    words = folded(text).split()
    for length in range(min(_LONGEST, len(words)), 0, -1):
        phrase = " ".join(words[:length])
        role = extra_role(phrase)
        if "interview" in (role, extra_role(phrase, weak=True)):
            return "interview"
        if role not in ("", "other"):
            return role
    return ""


def _without_last(text: str, words: int) -> str:
    """Return a name without its last words, as folding counts them."""
    wanted = len(folded(text).split()) - words
    cut = len(text)
    while cut and len(folded(text[:cut]).split()) > wanted:
        cut -= 1
    return text[:cut].rstrip(" ._-([")
