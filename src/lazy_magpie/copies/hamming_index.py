"""Pairs of hashes that differ in few bits, found through an index of their parts, never by comparing all with all.

Two hashes of 64 bits that differ in at most d bits agree nearly in one of four parts of 16 bits: by the pigeonhole
principle at most `reach` bits differ in at least one part, if the reaches of the four add up to d - 3. So it is
enough to compare what lies in one bucket of a part, or in two buckets that are so near each other (Norouzi, Punjani
and Fleet, Fast search in Hamming space with multi-index hashing, CVPR 2012).
"""

from __future__ import annotations

from collections.abc import Iterator
from itertools import combinations
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    Hashes = NDArray[np.uint64]
    Pairs = NDArray[np.int64]
    Places = NDArray[np.int32]

PARTS, BITS = 4, 16
MOST = PARTS * 3 - 1
"""The largest distance that is searched for."""
_AT_ONCE = 1 << 21
"""Candidates that are compared at a time: what bounds the memory."""


def pairs_within(hashes: Hashes, distance: int) -> Pairs:
    """Return all pairs (rows of two places, the smaller first) of hashes that differ in at most `distance` bits.

    `hashes` has shape (n,), `distance` is at most `MOST`; the result has shape (pairs, 2), sorted, each pair once.
    """
    import numpy as np

    pairs = _pairs(hashes, hashes, distance, within=True)
    return np.unique(np.sort(pairs, axis=1), axis=0)


def pairs_between(ones: Hashes, others: Hashes, distance: int) -> Pairs:
    """Return all pairs (place in `ones`, place in `others`) that differ in at most `distance` bits, each pair once."""
    import numpy as np

    return np.unique(_pairs(ones, others, distance, within=False), axis=0)


def _pairs(ones: Hashes, others: Hashes, distance: int, *, within: bool) -> Pairs:
    import numpy as np

    found = [np.empty((0, 2), np.int64)]
    for part, reach in enumerate(_reaches(distance)):
        if reach >= 0:
            found += _by_part(ones, others, part, reach, distance, within=within)
    return np.concatenate(found)


def _reaches(distance: int) -> list[int]:
    """Return how many bits may differ in each part, -1 for a part that need not be looked at."""
    if not 0 <= distance <= MOST:
        raise ValueError(f"a distance of {distance} bits is not between 0 and {MOST}")
    shared, more = divmod(distance + 1, PARTS)
    return [shared - 1 + (part < more) for part in range(PARTS)]


def _by_part(ones: Hashes, others: Hashes, part: int, reach: int, distance: int, *, within: bool) -> Iterator[Pairs]:
    """Yield the pairs that differ in at most `reach` bits of one part."""
    import numpy as np

    keys, ones, places = _ordered(ones, part)
    other_keys, others, other_places = (keys, ones, places) if within else _ordered(others, part)
    starts = np.searchsorted(other_keys, np.arange((1 << BITS) + 1)).astype(np.int32)
    behind = np.arange(1, len(ones) + 1, dtype=np.int32)
    for mask in _masks(reach):
        wanted = keys ^ mask
        first = behind if within and not mask else starts[wanted]
        lengths = starts[wanted + 1] - first
        if within:  # each pair of buckets once
            lengths = np.where(keys <= wanted, lengths, 0)
        for left, right in _crossed(first, lengths):
            close = np.bitwise_count(ones[left] ^ others[right]) <= distance
            yield np.stack([places[left[close]], other_places[right[close]]], axis=1)


def _ordered(hashes: Hashes, part: int) -> tuple[Places, Hashes, Pairs]:
    """Return one part of each hash, the hashes, and their places, all in the order of that part."""
    import numpy as np

    keys = (hashes >> np.uint64(part * BITS) & np.uint64((1 << BITS) - 1)).astype(np.int32)
    order = np.argsort(keys, kind="stable")
    return keys[order], hashes[order], order


def _masks(reach: int) -> list[int]:
    return [sum(1 << bit for bit in bits) for size in range(reach + 1) for bits in combinations(range(BITS), size)]


def _crossed(first: Places, lengths: Places) -> Iterator[tuple[Places, Places]]:
    """Yield each place with each of the `lengths` places from its `first` on, many at a time."""
    import numpy as np

    some = np.flatnonzero(lengths > 0).astype(np.int32)
    lengths, first = lengths[some], first[some]
    ends = np.cumsum(lengths, dtype=np.int64)
    at = 0
    while at < len(some):
        done = int(ends[at - 1]) if at else 0
        stop = max(at + 1, int(np.searchsorted(ends, done + _AT_ONCE, side="right")))
        now = slice(at, stop)
        before = (ends[now] - lengths[now] - done).astype(np.int32)
        total = int(ends[stop - 1]) - done
        right = np.arange(total, dtype=np.int32) + np.repeat(first[now] - before, lengths[now])
        yield np.repeat(some[now], lengths[now]), right
        at = stop
