"""Drawn pictures that are the same drawing in another size or form: icons, clip art, lines on a transparent ground.

Here a mark in a corner makes another picture, so the worst place decides, not the mean. The larger picture is made as
small as the other one in linear light, over the alpha; both are looked at on black and on white; a point counts as
different by as much as it lies outside of what its neighbours in the other picture are, half a point around, since the
same drawing falls on another grid in another size. In one size it falls on the same grid: there each point is held
against its own, so that a star with one point more is another one.
"""

from __future__ import annotations

import itertools
from functools import cache
from typing import TYPE_CHECKING, Any, NamedTuple

from lazy_magpie.copies.similarity.likeness import Likeness

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray
    from PIL.Image import Image

    Points = NDArray[np.uint8]
    Levels = NDArray[np.float32]

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
_GLANCE, _GLANCE_LARGE, _LARGE = 75, 25, 64
"""How far (levels of 255) a place of one description may lie outside of what is there, and around it, in the other; and
of two drawings that are so large that their descriptions are exact."""
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
    levels = np.concatenate([_perceived(light[..., :3]), light[..., 3:]], axis=2)
    described: Points = np.round(np.clip(levels, 0, 1) * 255).astype(np.uint8)
    return described


class Drawing(NamedTuple):
    """A drawing as it is compared: its points, and how many it has as it is kept (width, height)."""

    points: Points
    size: tuple[int, int]


def sameness(one: Drawing, other: Drawing) -> Likeness:
    """Return whether two drawings are the same."""
    small, large = sorted((one.points, other.points), key=lambda points: points.shape[0] * points.shape[1])
    high, wide = small.shape[:2]
    if abs(large.shape[1] * high / large.shape[0] - wide) > 1 + _SHAPES * wide:
        return Likeness.NOT
    both_clear = bool((small[..., 3] < 255).any()) == bool((large[..., 3] < 255).any())
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


def _worst(small: Points, large: Points, side: int, way: _Look) -> float:
    """Return how different two drawings are where they differ most, in at most `side` points."""
    import numpy as np
    from scipy.ndimage import uniform_filter

    high, wide = small.shape[:2]
    scale = min(1.0, side / max(high, wide))
    size = max(1, round(wide * scale)), max(1, round(high * scale))
    finer = 2 if max(size) <= _FINE and not way.on_one_grid else 1
    left, right = (_seen(_finer(_scaled(_light(one), *size), finer), on_black=way.on_black) for one in (small, large))
    one, other = left.mean(axis=2), right.mean(axis=2)
    moves = [(0, 0)] if way.on_one_grid else itertools.product((0, -1, 1), repeat=2)
    by = min(moves, key=lambda by: float(np.square(one - np.roll(other, by, (0, 1))).mean()))
    right = np.roll(right, by, (0, 1))
    apart = np.zeros(left.shape[:2], np.float32)
    for here, there in ((left, right), (right, left)):
        most, least = (there, there) if way.on_one_grid else (around(there, np.maximum), around(there, np.minimum))
        outside = np.maximum(np.maximum(here - most, least - here), 0).max(axis=2)
        around_it = outside if way.on_one_grid else uniform_filter(outside, 3 * finer, mode="constant")
        apart = np.maximum(apart, around_it)
    return float(apart.max())


def around(levels: NDArray[Any], most: np.ufunc) -> NDArray[Any]:
    """Return for each point of pictures (…, height, width, bands) the most, or the least, of it and its neighbours."""
    import numpy as np

    for axis in (-3, -2):
        sides = [(1, 1) if at == levels.ndim + axis else (0, 0) for at in range(levels.ndim)]
        padded = np.moveaxis(np.pad(levels, sides, mode="edge"), axis, 0)
        levels = np.moveaxis(most(most(padded[:-2], padded[1:-1]), padded[2:]), 0, axis)
    return levels


def far_apart(ones: Points, others: Points, sides: NDArray[np.uint16]) -> NDArray[np.bool_]:
    """Say for pairs of descriptions whether they are of other drawings, at a glance: their worst places differ much.

    `sides` has the shortest side of each pair.
    """
    import numpy as np

    worst = np.zeros(len(ones), np.int16)
    for here, there in ((ones, others), (others, ones)):
        above = here.astype(np.int16) - around(there, np.maximum)
        below = around(there, np.minimum).astype(np.int16) - here
        worst = np.maximum(worst, np.maximum(above, below).max(axis=(1, 2, 3)))
    far: NDArray[np.bool_] = worst > np.where(sides >= _LARGE, _GLANCE_LARGE, _GLANCE)
    return far


def _light(points: Points) -> Levels:
    """Return points as linear light, each as much as it covers (premultiplied by its alpha)."""
    import numpy as np

    light: Levels = _linear()[points]
    light[..., 3] = points[..., 3].astype(np.float32) / 255
    light[..., :3] *= light[..., 3:]
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

    alpha = light[..., 3:]
    colour = _perceived(np.divide(light[..., :3], alpha, out=np.zeros_like(light[..., :3]), where=alpha > 0))
    points: Points = np.round(np.clip(np.concatenate([colour, alpha], axis=2), 0, 1) * 255).astype(np.uint8)
    return points


def _perceived(light: Levels) -> Levels:
    """Return linear light as the eye takes it (sRGB, IEC 61966-2-1)."""
    import numpy as np

    light = np.clip(light, 0, 1)
    levels: Levels = np.power(light, np.float32(1 / 2.4)) * np.float32(1.055) - np.float32(0.055)
    dark = light <= 0.0031308
    levels[dark] = light[dark] * np.float32(12.92)
    return levels


def _scaled(light: Levels, wide: int, high: int) -> Levels:
    """Return a picture in another size; a smaller one has the mean of what falls on each of its points."""
    import numpy as np
    from PIL import Image

    if light.shape[:2] == (high, wide):
        return light
    way = Image.Resampling.BOX if light.shape[1] >= wide else Image.Resampling.BICUBIC
    bands = [Image.fromarray(light[..., band]).resize((wide, high), way) for band in range(light.shape[2])]
    scaled: Levels = np.clip(np.stack([np.asarray(band, np.float32) for band in bands], axis=2), 0, 1)
    return scaled


def _finer(light: Levels, times: int) -> Levels:
    return _scaled(light, light.shape[1] * times, light.shape[0] * times)


def _seen(light: Levels, *, on_black: bool) -> Levels:
    """Return what an eye sees of a picture on white, and on black."""
    import numpy as np

    on_white = _perceived(light[..., :3] + (1 - light[..., 3:]))
    return np.concatenate([on_white, _perceived(light[..., :3])], axis=2) if on_black else on_white
