"""Rectangles whose areas stand for numbers, as near to squares as may be, side by side in one rectangle."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import accumulate
from typing import NamedTuple

_THIN = 1e-300


class Box(NamedTuple):
    """A rectangle: its lower left corner, its width and height."""

    x: float
    y: float
    width: float
    height: float


def boxes(sizes: Sequence[float], whole: Box) -> list[Box]:
    """Return a box for each size, in the same order; sizes are above 0, the largest first.

    Boxes are laid in rows along the shorter side of what is left; a row takes one more as long as that makes its worst
    box no longer in shape. All are shares of what is left, so that a byte beside a terabyte lies inside, too.
    """
    found: list[Box] = []
    left, at = whole, 0
    rest = list(accumulate(reversed(sizes)))[::-1]
    while at < len(sizes):
        scale = left.width * left.height / rest[at]
        side = max(min(left.width, left.height), _THIN)
        end = at + 1
        while end < len(sizes) and _worst(sizes[at : end + 1], scale, side) <= _worst(sizes[at:end], scale, side):
            end += 1
        share = 1.0 if end == len(sizes) else sum(sizes[at:end]) / rest[at]
        row, left = _laid(sizes[at:end], share, left)
        found += row
        at = end
    return found


def _worst(sizes: Sequence[float], scale: float, side: float) -> float:
    """Return how much longer than wide the worst box of a row along a side is."""
    thick = max(sum(sizes) * scale / side, _THIN)
    long = [max(size * scale / thick, _THIN) for size in (sizes[0], sizes[-1])]
    return max(max(one / thick, thick / one) for one in long)


def _laid(sizes: Sequence[float], share: float, left: Box) -> tuple[list[Box], Box]:
    """Return the boxes of a row that takes a share of what is left, and what is left then."""
    row: list[Box] = []
    whole, before = sum(sizes), 0.0
    is_wide = left.width >= left.height
    thick = share * (left.width if is_wide else left.height)
    for size in sizes:
        if is_wide:
            row.append(Box(left.x, left.y + before * left.height, thick, size / whole * left.height))
        else:
            row.append(Box(left.x + before * left.width, left.y, size / whole * left.width, thick))
        before += size / whole
    if is_wide:
        return row, Box(left.x + thick, left.y, left.width - thick, left.height)
    return row, Box(left.x, left.y + thick, left.width, left.height - thick)
