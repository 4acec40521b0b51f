"""Which drawings may be the same: those that look so from afar, found among many by a few numbers of each.

Drawings of one description stand as one, the largest for all, so that a crowd of equal ones hides no other.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from lazy_magpie.copies.similarity import drawings

if TYPE_CHECKING:
    from collections.abc import Iterator

    import numpy as np
    from numpy.typing import NDArray

    Numbers = NDArray[np.float32]
    Pairs = NDArray[np.int64]
    Points = NDArray[np.uint8]

_AT_ONCE = 5_000
"""Descriptions, and pairs of them, that are looked at at a time: what bounds the memory."""
_NUMBERS, _NEIGHBOURS, _FROM_AFAR = 24, 12, 0.13
"""Drawings are neighbours by so many numbers, so many of them, if they are no further apart than this."""


def pairs(descriptions: Points, sizes: NDArray[np.int64]) -> Pairs:
    """Return pairs of places of drawings that may be the same: first those described alike, then the nearest first.

    `descriptions` are (count, levels), `sizes` (count, 2) the points on their sides.
    """
    import numpy as np

    order = np.argsort(-sizes.prod(axis=1), kind="stable")
    _, firsts, which = np.unique(descriptions[order], axis=0, return_index=True, return_inverse=True)
    first_of = firsts[which.reshape(-1)]
    equal = np.flatnonzero(first_of != np.arange(len(order)))
    kept = order[np.sort(firsts)]
    near = _neighbours(descriptions[kept], sizes[kept].min(axis=1))
    return np.concatenate([np.stack([order[first_of[equal]], order[equal]], axis=1), kept[near]])


def _neighbours(descriptions: Points, sides: NDArray[np.int64]) -> Pairs:
    """Return the pairs of places of descriptions that are neighbours, and not far apart at a glance."""
    import numpy as np
    from scipy.spatial import cKDTree

    found = [np.empty((0, 2), np.int64)]
    if len(descriptions) < 2:
        return found[0]
    few = _few_numbers(descriptions)
    count = min(_NEIGHBOURS, len(few))
    apart, near = cKDTree(few).query(few, k=count, distance_upper_bound=_FROM_AFAR, workers=-1)
    ones = np.repeat(np.arange(len(few)), count).reshape(near.shape)
    kept = np.isfinite(apart) & (ones != near)
    both = np.sort(np.stack([ones[kept], near[kept]], axis=1), axis=1)[np.argsort(apart[kept], kind="stable")]
    both = both[np.sort(np.unique(both, axis=0, return_index=True)[1])]
    squares = descriptions.reshape(-1, drawings.SIDE, drawings.SIDE, 4)
    for at in range(0, len(both), _AT_ONCE):
        part = both[at : at + _AT_ONCE]
        far = drawings.far_apart(squares[part[:, 0]], squares[part[:, 1]], sides[part].min(axis=1))
        found.append(part[~far])
    return np.concatenate(found)


def _few_numbers(descriptions: Points) -> Numbers:
    """Return the numbers along which descriptions differ most, of each."""
    import numpy as np

    middle = descriptions.mean(axis=0)
    whole = 255 * np.sqrt(descriptions.shape[1])

    def centred() -> Iterator[Numbers]:
        for at in range(0, len(descriptions), _AT_ONCE):
            yield ((descriptions[at : at + _AT_ONCE] - middle) / whole).astype(np.float32)

    _, axes = np.linalg.eigh(sum(part.T @ part for part in centred()))
    few: Numbers = np.concatenate([part @ axes[:, -_NUMBERS:] for part in centred()])
    return few
