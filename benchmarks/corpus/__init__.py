"""Names with known truth: made-up titles, written by messy habits drawn at random. `names(count, seed)` yields them."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from benchmarks.corpus import episodes, films, kept, odd, others
from benchmarks.corpus.chance import Chance, Truth

__all__ = ["Truth", "names"]

_MAKERS: tuple[tuple[Callable[[Chance], Truth], int], ...] = (
    (films.film, 8),
    (episodes.episode, 8),
    (episodes.below_season, 3),
    (episodes.dated, 1),
    (episodes.running, 1),
    (others.song, 3),
    (others.game, 2),
    (others.craft, 3),
    (odd.film, 3),
    (odd.episode, 3),
    (odd.beside, 2),
    (kept.episode, 1),
    (kept.film, 1),
    (kept.song, 1),
)
"""Who makes names, and how often each is asked."""


def names(count: int, seed: int = 0) -> Iterator[Truth]:
    """Yield `count` names with their truth."""
    chance = Chance(seed)
    makers, weights = zip(*_MAKERS, strict=True)
    for _ in range(count):
        yield chance.choices(makers, weights)[0](chance)
