"""Rectangles whose areas stand for numbers, as near to squares as may be, side by side in one rectangle."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple


class Box(NamedTuple):
    """A rectangle: its lower left corner, its width and height."""

    x: float
    y: float
    width: float
    height: float


def boxes(sizes: Sequence[float], whole: Box) -> list[Box]:
    """Return a box for each size, in the same order; sizes are above 0, the largest first.

    Boxes are laid in rows along the shorter side of what is left; a row takes one more as long as that makes its worst
    box no longer in shape.
    """
    found: list[Box] = []
    left, scale = whole, whole.width * whole.height / sum(sizes) if sizes else 0.0
    areas = [size * scale for size in sizes]
    at = 0
    while at < len(areas):
        side = min(left.width, left.height)
        end = at + 1
        while end < len(areas) and _worst(areas[at : end + 1], side) <= _worst(areas[at:end], side):
            end += 1
        row, left = _laid(areas[at:end], left)
        found += row
        at = end
    return found


def _worst(areas: Sequence[float], side: float) -> float:
    """Return how much longer than wide the worst box of a row along a side is."""
    thick = sum(areas) / side
    return max(max(area / thick / thick, thick * thick / area) for area in areas)


def _laid(areas: Sequence[float], left: Box) -> tuple[list[Box], Box]:
    """Return the boxes of a row, and what is left beside it."""
    row: list[Box] = []
    if left.width >= left.height:
        thick, y = sum(areas) / left.height, left.y
        for area in areas:
            row.append(Box(left.x, y, thick, area / thick))
            y += area / thick
        return row, Box(left.x + thick, left.y, left.width - thick, left.height)
    thick, x = sum(areas) / left.width, left.x
    for area in areas:
        row.append(Box(x, left.y, area / thick, thick))
        x += area / thick
    return row, Box(left.x, left.y + thick, left.width, left.height - thick)
