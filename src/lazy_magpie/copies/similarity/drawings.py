"""Drawn pictures that are the same drawing in another size or form: icons, clip art, lines on a transparent ground.

Here a mark in a corner makes another picture, so the worst place decides, not the mean. The larger picture is made as
small as the other one in linear light, over the alpha; both are looked at on black and on white; a point counts as
different by as much as it lies outside of what its neighbours in the other picture are, half a point around, since the
same drawing falls on another grid in another size. In one size it falls on the same grid: there each point is held
against its own, so that a star with one point more is another one.
"""

from __future__ import annotations

import itertools
from functools import cache, cached_property
from typing import TYPE_CHECKING, Any, NamedTuple

from lazy_magpie.copies.similarity.likeness import Likeness

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray
    from PIL.Image import Image

    Points = NDArray[np.uint8]
    Levels = NDArray[np.float32]
    Seen = NDArray[np.int16]

SMALL = 128
"""A picture with no side longer than this is looked at as drawn."""
LARGEST, _COARSE = 400, 64
"""Points on a side in which drawings are compared at the most, and at first."""
SIDE = 16
"""Points on a side of what a drawing is described by."""
_FEW, _GRID = 32, 128
"""A picture with no more colours than this, in a grid of so many points on a side, is drawn."""
_FINE = 64
"""Up to this many points on a side, half points are looked at."""
_SAME, _SAME_TINY, _SAME_FINE, _PERHAPS = 0.057, 0.04, 0.09, 0.15
"""How different the worst place may be, from 0 to 1: of the same drawing, tiny, or of so many points that a place is a
small part of it and lies on another grid; and of what may be the same."""
_TINY, _LEAST, _MANY = 32, 16, 256
"""Points on a side of what is tiny; so few that nothing is certain; and so many that a place is a small part."""
_GLANCE, _GLANCE_LARGE, _LARGE = 110, 80, 64
"""How far (levels of 255) a place of one description may lie outside of what is there, and around it, in the other; and
of two drawings that are so large that their descriptions are exact."""
_OPAQUE = 255
_FULL = 16_384
"""The highest level that is seen: in whole numbers of 16 bits, which are compared fastest."""
_KEPT = 4
"""Sizes in which what is seen of a drawing is kept."""
_SHAPES = 0.04
"""How far the proportions of two drawings may differ, and one point besides."""


def is_drawn(picture: Image) -> bool:
    """Say whether a picture is drawn: something in it is transparent, it is small, or has few colours."""
    if max(picture.size) <= SMALL or has_clear(picture):
        return True
    if picture.mode in ("1", "P"):
        return True
    grid = picture.convert("RGB").resize((_GRID, _GRID), 0)
    return grid.getcolors(_FEW) is not None


def has_clear(picture: Image) -> bool:
    """Say whether anything in a picture is transparent."""
    if "transparency" in picture.info:
        return True
    if "A" not in picture.getbands():
        return False
    return any(picture.getchannel("A").histogram()[:255])


def reduced(picture: Image, side: int) -> Image:
    """Return a picture in red, green, blue and alpha, several points made one while more than twice a side is left."""
    times = max(picture.size) // (2 * side)
    if times < 2:
        return picture.convert("RGBA")
    return picture.convert("RGBA").convert("RGBa").reduce(times).convert("RGBA")


def points_of(picture: Image, side: int = LARGEST) -> Points:
    """Return a picture as (height, width, 4) bytes of red, green, blue and alpha, no side longer than `side`."""
    import numpy as np

    whole = reduced(picture, side)
    if max(whole.size) > side:
        scale = side / max(whole.size)
        return _bytes(_scaled(_light(np.asarray(whole)), *(max(1, round(one * scale)) for one in whole.size)))
    points: Points = np.asarray(whole)
    return points


def description(picture: Image) -> Points:
    """Return what a drawing looks like from afar: (`SIDE`, `SIDE`, 4) levels, what is clear being black."""
    import numpy as np

    light = _scaled(_light(points_of(picture, SMALL)), SIDE, SIDE)
    levels = np.concatenate([_perceived(light[:3]).astype(np.float32) / _FULL, np.clip(light[3:], 0, 1)])
    described: Points = np.round(levels * _OPAQUE).astype(np.uint8).transpose(1, 2, 0)
    return described


class Drawing:
    """A drawing as it is compared: its points, and how many it has as it is kept (width, height).

    What is seen of it is kept in the latest sizes, since one drawing is held against many.
    """

    def __init__(self, points: Points, size: tuple[int, int]) -> None:
        self.points = points
        self.size = size
        self._kept: dict[tuple[int, int, int, bool], Seen] = {}

    @cached_property
    def is_clear(self) -> bool:
        """Whether anything in it is transparent."""
        return bool((self.points[..., 3] < _OPAQUE).any())

    def seen(self, wide: int, high: int, finer: int, on_black: bool) -> Seen:
        """Return what an eye sees of it in a size made so many times finer, on white and, if asked for, on black:
        (3 or 6, height, width) levels."""
        key = wide, high, finer, on_black
        if key not in self._kept:
            if len(self._kept) == _KEPT:
                self._kept.pop(next(iter(self._kept)))
            fitting = _scaled(_light(self.points), wide, high)
            self._kept[key] = _seen(_scaled(fitting, wide * finer, high * finer), on_black=on_black)
        return self._kept[key]


def sameness(one: Drawing, other: Drawing) -> Likeness:
    """Return whether two drawings are the same."""
    small, large = sorted((one, other), key=lambda drawing: drawing.points.shape[0] * drawing.points.shape[1])
    (high, wide), (taller, wider) = small.points.shape[:2], large.points.shape[:2]
    if abs(wider * high / taller - wide) > 1 + _SHAPES * wide:
        return Likeness.NOT
    both_clear = small.is_clear == large.is_clear
    way = _Look(on_black=both_clear, on_one_grid=one.size == other.size)
    if max(high, wide) > _COARSE and _worst(small, large, _COARSE, way) > _PERHAPS:
        return Likeness.NOT
    worst = _worst(small, large, LARGEST, way)
    least = min(high, wide)
    same = _SAME_TINY if least < _TINY else _SAME_FINE if least >= _MANY and not way.on_one_grid else _SAME
    if worst < same and least >= _LEAST and both_clear:
        return Likeness.SURELY
    return Likeness.PERHAPS if worst < _PERHAPS else Likeness.NOT


class _Look(NamedTuple):
    """How two drawings are looked at: on black besides white, and point against point."""

    on_black: bool
    on_one_grid: bool


def _worst(small: Drawing, large: Drawing, side: int, way: _Look) -> float:
    """Return how different two drawings are where they differ most, in at most `side` points, from 0 to 1."""
    import numpy as np
    from scipy.ndimage import uniform_filter

    high, wide = small.points.shape[:2]
    scale = min(1.0, side / max(high, wide))
    size = max(1, round(wide * scale)), max(1, round(high * scale))
    finer = 2 if max(size) <= _FINE and not way.on_one_grid else 1
    left, right = (drawing.seen(*size, finer, way.on_black) for drawing in (small, large))
    if way.on_one_grid:
        return float(np.abs(left - right).max()) / _FULL
    one, other = left.mean(axis=0, dtype=np.float32), right.mean(axis=0, dtype=np.float32)
    moves = itertools.product((0, -1, 1), repeat=2)
    by = min(moves, key=lambda by: float(np.square(one - np.roll(other, by, (0, 1))).sum()))
    right = np.roll(right, by, (1, 2))
    outside = (_outside(here, there).astype(np.float32) for here, there in ((left, right), (right, left)))
    return float(max(uniform_filter(one, 3 * finer, mode="constant").max() for one in outside)) / _FULL


def _outside(here: Seen, there: Seen) -> Seen:
    """Return how far each point lies outside of what it and its neighbours in another picture are, in any band."""
    import numpy as np

    above = (here - around(there, np.maximum)).max(axis=0)
    below = (around(there, np.minimum) - here).max(axis=0)
    outside: Seen = np.maximum(np.maximum(above, below), 0)
    return outside


def around(levels: NDArray[Any], most: np.ufunc, axes: tuple[int, int] = (-2, -1)) -> NDArray[Any]:
    """Return for each point the most, or the least, of it and its neighbours; `axes` are those down and across."""
    import numpy as np

    for axis in axes:
        lines = np.moveaxis(levels, axis, 0)
        levels = levels.copy()
        wider = np.moveaxis(levels, axis, 0)
        most(wider[1:], lines[:-1], out=wider[1:])
        most(wider[:-1], lines[1:], out=wider[:-1])
    return levels


def far_apart(ones: Points, others: Points, sides: NDArray[np.int64]) -> NDArray[np.bool_]:
    """Say for pairs of descriptions whether they are of other drawings, at a glance: their worst places differ much.

    `sides` has the shortest side of each pair.
    """
    import numpy as np

    worst = np.zeros(len(ones), np.int16)
    for here, there in ((ones, others), (others, ones)):
        above = here.astype(np.int16) - around(there, np.maximum, (-3, -2))
        below = around(there, np.minimum, (-3, -2)).astype(np.int16) - here
        worst = np.maximum(worst, np.maximum(above, below).max(axis=(1, 2, 3)))
    far: NDArray[np.bool_] = worst > np.where(sides >= _LARGE, _GLANCE_LARGE, _GLANCE)
    return far


def _light(points: Points) -> Levels:
    """Return points as (4, height, width) levels of linear light, each as much as it covers (premultiplied)."""
    import numpy as np

    planes = np.ascontiguousarray(points.transpose(2, 0, 1))
    light: Levels = _linear()[planes.astype(np.intp)]
    np.divide(planes[3], np.float32(_OPAQUE), out=light[3])
    light[:3] *= light[3]
    return light


@cache
def _linear() -> Levels:
    """Return the light of each of 256 levels (sRGB, IEC 61966-2-1)."""
    import numpy as np

    levels = np.arange(256) / 255
    return np.where(levels <= 0.04045, levels / 12.92, ((levels + 0.055) / 1.055) ** 2.4).astype(np.float32)


def _bytes(light: Levels) -> Points:
    """Return linear light as points again."""
    import numpy as np

    alpha = light[3:]
    colour = _perceived(np.divide(light[:3], alpha, out=np.zeros_like(light[:3]), where=alpha > 0))
    levels = np.concatenate([colour.astype(np.float32) / _FULL, np.clip(alpha, 0, 1)])
    points: Points = np.round(levels * _OPAQUE).astype(np.uint8).transpose(1, 2, 0)
    return points


def _perceived(light: Levels) -> Seen:
    """Return linear light from 0 to 1 as the eye takes it (sRGB, IEC 61966-2-1), in levels from 0 to `_FULL`."""
    import numpy as np

    fine = np.clip(light, 0, 1) * np.float32(65_535) + np.float32(0.5)
    seen: Seen = _levels()[fine.astype(np.intp)]
    return seen


@cache
def _levels() -> Seen:
    """Return the levels of 65,536 of light."""
    import numpy as np

    light = np.arange(65_536) / 65_535
    seen = np.where(light <= 0.0031308, light * 12.92, np.power(light, 1 / 2.4) * 1.055 - 0.055)
    return np.round(seen * _FULL).astype(np.int16)


def _scaled(light: Levels, wide: int, high: int) -> Levels:
    """Return a picture in another size; a smaller one has the mean of what falls on each of its points."""
    import numpy as np
    from PIL import Image

    if light.shape[1:] == (high, wide):
        return light
    way = Image.Resampling.BOX if light.shape[2] >= wide else Image.Resampling.BICUBIC
    bands = [np.asarray(Image.fromarray(band).resize((wide, high), way)) for band in light]
    scaled: Levels = np.clip(np.stack(bands), 0, 1)
    return scaled


def _seen(light: Levels, *, on_black: bool) -> Seen:
    """Return what an eye sees of a picture on white, and on black."""
    import numpy as np

    on_white = light[:3] + (1 - light[3:])
    return _perceived(np.concatenate([on_white, light[:3]]) if on_black else on_white)
