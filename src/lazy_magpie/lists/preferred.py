"""Chooses one of each game: by regions, languages and revision, and never a beta or demo, as a person prefers."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Hashable, Iterable, Iterator, Sequence
from typing import NamedTuple

from lazy_magpie.config.sections.prefer import Prefer
from lazy_magpie.formatting import count_text

_GOOD = ("", "verified", "fixed")
"""How good an image may be that is chosen where there is any such: bad ones, and changed ones, come after."""
_PART = re.compile(r"(\d+)|([a-z]+)", re.IGNORECASE)


class Version(NamedTuple):
    """One version of a game. `game` is the same for all versions of one game; `place` is its path.

    `status` are words like beta, `dump` says how good the image is, `is_parent` that a list has others as its clones,
    `is_complete` that nothing of it is missing.
    """

    id: int
    game: Hashable
    place: str
    regions: Sequence[str] = ()
    languages: Sequence[str] = ()
    revision: str = ""
    status: Sequence[str] = ()
    dump: str = ""
    is_parent: bool = True
    is_complete: bool = True


class Verdict(NamedTuple):
    """Whether a version is the preferred one, and why."""

    is_preferred: bool
    why: str


def choose(versions: Iterable[Version], prefer: Prefer) -> Iterator[tuple[int, Verdict]]:
    """Yield for each version whether it is preferred, and why."""
    games: dict[Hashable, list[Version]] = defaultdict(list)
    for one in versions:
        games[one.game].append(one)
    for several in games.values():
        yield from _of_game(several, prefer)


def _of_game(several: Sequence[Version], prefer: Prefer) -> Iterator[tuple[int, Verdict]]:
    allowed = []
    for one in several:
        if refused := [word for word in one.status if word in prefer.without]:
            yield one.id, Verdict(False, f"a {refused[0]}")
        else:
            allowed.append(one)
    if not allowed:
        return
    best = min(allowed, key=lambda one: _order(one, prefer))
    for one in allowed:
        if one is best:
            others = count_text(len(allowed) - 1, "other version")
            yield one.id, Verdict(True, f"preferred to {others}" if len(allowed) > 1 else "the only version")
        else:
            yield one.id, Verdict(False, _why_not(one, best, prefer))


def _order(one: Version, prefer: Prefer) -> tuple[object, ...]:
    """Return what versions are sorted by, the best one first."""
    return tuple(value for _, value in _reasons(one, prefer))


def _reasons(one: Version, prefer: Prefer) -> Iterator[tuple[str, object]]:
    """Yield what counts, the most first, each with the words for a version that is behind in it."""
    yield "not whole, other", not one.is_complete
    yield "a worse image", one.dump not in _GOOD
    yield "another region", _rank(one.regions, prefer.regions)
    yield "another language", _rank(one.languages, prefer.languages)
    yield "an older revision", [-part if isinstance(part, int) else part for part in _newest_first(one.revision)]
    yield "a clone", not one.is_parent
    yield "its place", (len(one.place), one.place)


def _rank(said: Sequence[str], liked: Sequence[str]) -> int:
    """Return the place of the best of some words in an order; what says nothing, or nothing liked, comes last."""
    return min((liked.index(word) for word in said if word in liked), default=len(liked))


def _newest_first(revision: str) -> list[int]:
    """Return numbers by which a newer revision comes first: 10 before 9, B before A, any before none."""
    parts = [int(digits) if digits else ord(letters[0].lower()) for digits, letters in _PART.findall(revision)]
    return [*parts, -1]


def _why_not(one: Version, best: Version, prefer: Prefer) -> str:
    for (words, mine), (_, other) in zip(_reasons(one, prefer), _reasons(best, prefer), strict=True):
        if mine != other:
            return f"{words} than {best.place}"
    return f"the same as {best.place}"
