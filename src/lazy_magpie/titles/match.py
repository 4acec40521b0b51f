"""Which title of the lists a name may mean: candidates, the best first, each with its likeness and the reason."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import NamedTuple

from lazy_magpie.catalogue import Title, Titles
from lazy_magpie.identify.title_keys import key_of, keys_of

SAME = 0.999
"""The likeness from which two spellings are one title."""
LEAST = 0.72
"""The likeness below which a title is no candidate."""
CLEAR_LIKENESS, CLEAR_SCORE, CLEAR_LEAD = 0.9, 0.9, 0.08
_YEAR_SAME, _YEAR_NEAR, _YEAR_UNKNOWN, _YEAR_OTHER = 0.2, 0.13, 0.1, -0.1
_SUBTITLE = 0.86
_MOST_ALIKE = 40
_LEAST_LETTERS = 3
"""Shorter words are in no index."""


class TitleMatch(NamedTuple):
    """A title that may be meant. `score` runs from 0 to 1; `why` says what speaks for it, and what does not."""

    title: Title
    score: float
    likeness: float
    why: str

    @property
    def text(self) -> str:
        """The title with its year, as a person reads it."""
        return f"{self.title.title} ({self.title.year})" if self.title.year else self.title.title


def candidates(titles: Titles, kind: str, title: str, year: int = 0, most: int = 8) -> list[TitleMatch]:
    """Return the titles of `kind` that `title` (of `year`, 0 if not known) may mean, the best first."""
    key = key_of(title)
    if not key:
        return []
    found = titles.by_key(key, (kind,)) or _alike(titles, key, kind)
    distinct = {(one.title, one.year): one for one in reversed(found)}
    weighed = [weigh(one, key, year) for one in distinct.values()]
    good = [candidate for candidate in weighed if candidate.likeness >= LEAST]
    return sorted(good, key=lambda candidate: (-candidate.score, candidate.title.title, candidate.title.year))[:most]


def ranked(titles: Titles, kinds: Iterable[str], title: str, year: int = 0) -> list[TitleMatch]:
    """Return the candidates of several kinds, the best first."""
    found = (one for kind in kinds for one in candidates(titles, kind, title, year))
    return sorted(found, key=lambda candidate: -candidate.score)


def containing(titles: Titles, kinds: Sequence[str], text: str, most: int = 50) -> list[TitleMatch]:
    """Return the titles of some kinds that have all the words of `text` in one of their names, anywhere in it."""
    words = [word for part in text.split() if len(word := key_of(part)) >= _LEAST_LETTERS]
    if not words:
        return []
    found = []
    for one in titles.holding(words, kinds, most * 10):
        names = (set(map(key_of, name.split())) for name in (one.title, *one.others))
        if any(set(words) <= name for name in names):
            share = len(words) / max(len(one.title.split()), 1)
            found.append(TitleMatch(one, 0.5 * min(share, 1.0), share, f"has “{text}” in it"))
    return sorted(found, key=lambda match: (-match.score, match.title.title))[:most]


def _alike(titles: Titles, key: str, kind: str) -> list[Title]:
    """Return the titles of a kind whose names are most like a key."""
    best: dict[int, float] = {}
    for id, name in titles.like_key(key):
        best[id] = max(best.get(id, 0.0), _likeness(key, name))
    good = sorted((id for id, likeness in best.items() if likeness >= LEAST), key=lambda id: -best[id])
    return titles.by_ids(good[:_MOST_ALIKE], (kind,))


def weigh(title: Title, key: str, year: int) -> TitleMatch:
    """Weigh one title against a name's key and year."""
    names = ((other, name) for name in (title.title, *title.others) for other in keys_of(name))
    likeness, name = max((_likeness(key, other), name) for other, name in names)
    reasons = []
    if likeness >= SAME:
        reasons.append("the same title" if name == title.title else f"also called “{name}”")
    else:
        reasons.append(f"like “{name}”")
    if not year or not title.year:
        points = _YEAR_UNKNOWN
        reasons.append("no year to compare" if not year else "the list has no year")
    elif year == title.year:
        points = _YEAR_SAME
        reasons.append("the same year")
    elif abs(year - title.year) == 1:
        points = _YEAR_NEAR
        reasons.append("a year apart")
    else:
        points = _YEAR_OTHER
        reasons.append(f"{abs(year - title.year)} years apart")
    return TitleMatch(title, max(0.0, 0.8 * likeness + points), likeness, ", ".join(reasons))


def is_clear(found: Sequence[TitleMatch]) -> bool:
    """Say whether the first candidate is the one beyond doubt: the same or nearly the same title, well ahead.

    A title that is only like the name's counts only with the very year; one without a year to compare only if the
    lists have no other of that name.
    """
    if not found:
        return False
    best = found[0]
    lead = best.score - (found[1].score if len(found) > 1 else 0.0)
    if "years apart" in best.why or lead < CLEAR_LEAD:
        return False
    if best.likeness >= SAME:
        return best.score >= CLEAR_SCORE - 1e-9
    return best.likeness >= CLEAR_LIKENESS and best.why.endswith("the same year")


def _likeness(one: str, other: str) -> float:
    from rapidfuzz.fuzz import ratio

    if one == other:
        return 1.0
    likeness = ratio(one, other) / 100
    shorter, longer = sorted((one, other), key=len)
    if len(shorter) >= 5 and longer.startswith(shorter):
        return max(likeness, _SUBTITLE)
    return likeness
