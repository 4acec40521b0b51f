"""Pictures that show the same: in another size, format or quality, brighter or darker, or with a narrow margin cut off.

The print of a picture is a hash of 64 bits of it in grey (the signs of its 64 lowest frequencies, by the discrete
cosine transform of 32 x 32 points), and the same hash of it with margins cut off: the copy with the margin cut off is
like the latter. A second look at both pictures decides, in 96 x 96 points: they are laid upon each other as they fit
best, and must then agree everywhere, in each of 64 fields, in their colours, and in their worst place. A picture with
hardly anything in it has no print. Drawn pictures (see `drawings`) are described besides, compared with what looks
nearly the same from afar, and judged as drawings.
"""

from __future__ import annotations

import sys
from functools import lru_cache
from typing import TYPE_CHECKING, NamedTuple

from lazy_magpie import picture_files
from lazy_magpie.copies.hamming_index import pairs_between
from lazy_magpie.copies.similarity.likeness import Likeness, surely

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray
    from PIL.Image import Image

    from lazy_magpie.copies.similarity.drawings import Drawing

    Grey = NDArray[np.float32]
    Levels = NDArray[np.float32]
    Pairs = NDArray[np.int64]
    Points = NDArray[np.uint8]
    Hashes = NDArray[np.uint64]
    Places = NDArray[np.intp]

DISTANCE = 10
"""Bits in which the hashes of two candidates may differ."""
_SIDE, _ENOUGH = 128, 1600
_POINTS = 32
LOOK = 96
"""Points on a side: of what hashes are taken from, of what is decoded of a vast picture, of one hash's picture, of the
second look."""
_MARGINS = (
    (0.0, 0.0, 0.0, 0.0), (0.02, 0.02, 0.02, 0.02), (0.04, 0.04, 0.04, 0.04), (0.06, 0.06, 0.06, 0.06),
    (0.05, 0.0, 0.0, 0.0), (0.0, 0.05, 0.0, 0.0), (0.0, 0.0, 0.05, 0.0), (0.0, 0.0, 0.0, 0.05),
)  # fmt: skip
"""Shares of a picture's sides that are cut off (left, top, right, bottom) for its hashes; the first is the whole."""
_PLAIN = 2.0
"""Grey levels by which a picture's points spread; with less it has nothing to be known by."""
_BLURS, _STEPS = (4.0, 2.0, 1.0), 4
_OVERLAP, _BRIGHTER, _FIELD_AGREES = 0.8, 1.6, 12.0
"""What the second look asks: the share that overlaps, how much brighter, how far a field may differ (levels of 255)."""
_HEAD = 6
"""Bytes of a print in front of its hashes: width, height, and whether it is drawn."""
_KEPT = 3_000_000
"""Points of drawings that are kept decoded, some 40 bytes each."""
_CUT_OFF = 245.0
"""The level from which on a brightened picture may have been cut off."""


def fingerprint(path: str) -> bytes:
    """Return the print of the picture at `path`: its size, eight hashes, and what it looks like if it is drawn.

    b"" if it is too plain for one. Raises what Pillow does for a picture that it can't open.
    """
    import numpy as np
    from PIL import ImageOps

    from lazy_magpie.copies.similarity import drawings

    with picture_files.opened(path, vast=True) as opened:
        bounded = picture_files.bounded(opened, path, _ENOUGH)
        size, drawn = opened.size, drawings.is_drawn(bounded)
        if not drawn:
            bounded.draft("RGB", (_SIDE * 2, _SIDE * 2))
        picture = ImageOps.exif_transpose(bounded) or bounded
        picture = drawings.reduced(picture, _SIDE) if drawn else picture
        grey = _luma(levels_of(picture, _SIDE))
        is_plain = float(grey.std()) < _PLAIN
        description = drawings.description(picture) if drawn else np.zeros(0, np.uint8)
    if is_plain and (not drawn or float(description.std(axis=(0, 1)).max()) < _PLAIN):
        return b""
    margins = _MARGINS[:1] if drawn else _MARGINS  # no one cuts a margin off a drawing
    hashes = np.zeros(len(_MARGINS), np.uint64)
    if not is_plain:
        hashes[:] = [_hash(_without(grey, margin)) for margin in margins]
    head = np.array([*(min(side, 65_535) for side in size), drawn], np.uint16)
    return head.tobytes() + hashes.tobytes() + description.tobytes()


def rank(print: bytes) -> int:
    """Return how many points a picture has: the one with the most is what others are held against."""
    return int.from_bytes(print[:2], sys.byteorder) * int.from_bytes(print[2:4], sys.byteorder)


def hash_of(picture: Image) -> int:
    """Return the hash of the whole of an opened picture, 0 if it is too plain for one."""
    grey = _luma(levels_of(picture, _SIDE))
    return 0 if float(grey.std()) < _PLAIN else _hash(_without(grey, _MARGINS[0]))


def candidates(prints: list[bytes]) -> Pairs:
    """Return the pairs of places of prints that may be of one picture: one whole is like the other, or its inner.

    Of two that are drawn, those are meant that look nearly the same from afar, the nearest first.
    """
    import numpy as np

    hashes = np.array([np.frombuffer(one[_HEAD : _HEAD + 8 * len(_MARGINS)], np.uint64) for one in prints])
    hashes = hashes.reshape(len(prints), len(_MARGINS))
    drawn = np.array([one[4] == 1 for one in prints], bool)
    known = hashes[:, 0] != 0
    taken, others = np.flatnonzero(known & ~drawn), np.flatnonzero(known)
    found = [_of_one_picture(hashes, taken, others), _of_one_picture(hashes, np.flatnonzero(known & drawn), taken)]
    pairs = np.unique(np.sort(np.concatenate(found), axis=1), axis=0)
    return np.concatenate([pairs[pairs[:, 0] != pairs[:, 1]], _near_drawings(prints, np.flatnonzero(drawn))])


def _of_one_picture(hashes: Hashes, wholes: Places, others: Places) -> Pairs:
    """Return the pairs of places (in `wholes`, in `others`) where a whole is like the other one, or like its inner."""
    import numpy as np

    if not len(wholes) or not len(others):
        return np.empty((0, 2), np.int64)
    found = pairs_between(hashes[wholes, 0], hashes[others].reshape(-1), DISTANCE)
    pairs: Pairs = np.stack([wholes[found[:, 0]], others[found[:, 1] // len(_MARGINS)]], axis=1)
    return pairs


def _near_drawings(prints: list[bytes], drawn: Places) -> Pairs:
    """Return the pairs of drawings that look the same from afar, and then those that nearly do, the nearest first."""
    import numpy as np

    from lazy_magpie.copies.similarity import drawing_neighbours

    if len(drawn) < 2:
        return np.empty((0, 2), np.int64)
    sizes = np.array([np.frombuffer(prints[at][:4], np.uint16) for at in drawn], np.int64)
    descriptions = np.array([np.frombuffer(prints[at][_HEAD + 8 * len(_MARGINS) :], np.uint8) for at in drawn])
    found: Pairs = drawn[drawing_neighbours.pairs(descriptions, sizes)]
    return found


def confirm(one: str, other: str) -> Likeness:
    """Say, by a second look at both pictures, how alike they are. Raises what Pillow does."""
    from lazy_magpie.copies.similarity import drawings

    left, right = _LATEST.drawing(one), _LATEST.drawing(other)
    if left is not None and right is not None:
        return drawings.sameness(left, right)
    return surely(agree(_looked_at(one), _looked_at(other)))


class _Latest:
    """The drawings that were looked at last, as many as have `_KEPT` points."""

    def __init__(self) -> None:
        self._kept: dict[str, Drawing | None] = {}
        self._points = 0

    def drawing(self, path: str) -> Drawing | None:
        """Return a drawn picture as it is compared, None for what is none."""
        if path not in self._kept:
            self._kept[path] = _drawing_of(path)
            self._points += _points(self._kept[path])
            while self._points > _KEPT and len(self._kept) > 2:
                self._points -= _points(self._kept.pop(next(iter(self._kept))))
        else:
            self._kept[path] = self._kept.pop(path)  # now the latest one
        return self._kept[path]


_LATEST = _Latest()


def _points(drawing: Drawing | None) -> int:
    return drawing.points.shape[0] * drawing.points.shape[1] if drawing else 1


def _drawing_of(path: str) -> Drawing | None:
    """Return a drawn picture as it is compared, None for what is none."""
    from PIL import ImageOps

    from lazy_magpie.copies.similarity import drawings

    with picture_files.opened(path, vast=True) as opened:
        picture = picture_files.bounded(opened, path, _ENOUGH)
        if not drawings.is_drawn(picture):
            return None
        return drawings.Drawing(drawings.points_of(ImageOps.exif_transpose(picture) or picture), opened.size)


def _opened(path: str, side: int) -> Levels:
    from PIL import ImageOps

    with picture_files.opened(path, vast=True) as opened:
        picture = picture_files.bounded(opened, path, _ENOUGH)
        picture.draft("RGB", (side * 2, side * 2))
        return levels_of(ImageOps.exif_transpose(picture) or picture, side)


def levels_of(picture: Image, side: int) -> Levels:
    """Return a picture as (side, side, 3) levels of red, green and blue."""
    import numpy as np
    from PIL import Image

    small = on_white(picture).resize((side, side), Image.Resampling.BOX, reducing_gap=3.0)
    return np.asarray(small, np.float32)


def on_white(picture: Image) -> Image:
    """Return a picture in red, green and blue, what is transparent being white."""
    from PIL import Image

    if "A" not in picture.getbands() and "transparency" not in picture.info:
        return picture.convert("RGB")
    ground = Image.new("RGBA", picture.size, "white")
    ground.alpha_composite(picture.convert("RGBA"))
    return ground.convert("RGB")


def _luma(levels: Levels) -> Grey:
    import numpy as np

    return levels @ np.array([0.299, 0.587, 0.114], np.float32)


def _without(grey: Grey, margin: tuple[float, float, float, float]) -> Grey:
    """Return a picture without its margins, in `_POINTS` x `_POINTS`."""
    import numpy as np
    from PIL import Image

    left, top, right, bottom = (share * _SIDE for share in margin)
    box = (left, top, _SIDE - right, _SIDE - bottom)
    size = (_POINTS, _POINTS)
    return np.asarray(Image.fromarray(grey).resize(size, Image.Resampling.BILINEAR, box=box), np.float32)


def _hash(grey: Grey) -> int:
    """Return the signs of the 64 lowest frequencies but the mean, as the bits of a number."""
    import numpy as np
    from scipy.fft import dctn

    waves = dctn(grey, norm="ortho")
    bits = waves[_LOWEST_ROWS, _LOWEST_COLUMNS] > 0
    return int.from_bytes(np.packbits(bits).tobytes(), "little")


_LOWEST = sorted(
    ((row, column) for row in range(12) for column in range(12) if row or column),
    key=lambda at: (at[0] + at[1], at),
)[:64]
_LOWEST_ROWS = [row for row, _ in _LOWEST]
_LOWEST_COLUMNS = [column for _, column in _LOWEST]


@lru_cache(maxsize=512)
def _looked_at(path: str) -> Levels:
    return _opened(path, LOOK)


def agree(one: Levels, other: Levels) -> bool:
    """Say whether two pictures agree where they overlap, laid upon each other by size, place and brightness."""
    from scipy.ndimage import gaussian_filter

    fit = _Fit(1.0, 0.0, 1.0, 0.0)
    for blur in _BLURS:
        fit = _fitted(gaussian_filter(_luma(one), blur), gaussian_filter(_luma(other), blur), fit)
    inside = fit.inside()
    if inside.mean() < _OVERLAP or not 0.85 < fit.wide < 1.18 or not 0.85 < fit.high < 1.18:
        return False
    still, moved = _blurred(one), fit.taken_from(_blurred(other))
    return _is_brightened(still, moved, inside) or _is_brightened(moved, still, inside)


def _is_brightened(light: Levels, dark: Levels, inside: NDArray[np.bool_]) -> bool:
    """Say whether `light` is `dark` made brighter or darker, what is too bright for a picture being cut off."""
    import numpy as np

    open_ = inside & (np.maximum(light, dark).max(axis=2) < _CUT_OFF)
    known = open_ if open_.mean() > 0.1 else inside
    gain, level = np.polyfit(_luma(dark)[known], _luma(light)[known], 1)
    if not 1 / _BRIGHTER < gain < _BRIGHTER:
        return False
    apart = np.abs(light - np.clip(dark * gain + level, 0, 255)) * inside[:, :, None]
    fields = _by_field(apart) / np.maximum(_by_field(inside[:, :, None].astype(np.float32)), 0.25)
    return bool(fields.max() < _FIELD_AGREES)


def _blurred(levels: Levels) -> Levels:
    from scipy.ndimage import gaussian_filter

    blurred: Levels = gaussian_filter(levels, (1.0, 1.0, 0.0))
    return blurred


def _by_field(levels: Levels) -> Levels:
    """Return the mean of each of 64 fields of a picture."""
    side = LOOK // 8
    means: Levels = levels.reshape(8, side, 8, side, -1).mean(axis=(1, 3))
    return means


class _Fit(NamedTuple):
    """How one picture lies upon another: a point at (x, y) is found in the other at (wide x + left, high y + top)."""

    wide: float
    unmoved: float
    high: float
    top: float

    def rows_and_columns(self) -> tuple[Grey, Grey]:
        """Return where in the other picture each row and each column is found."""
        import numpy as np

        at = np.arange(LOOK, dtype=np.float32)
        return self.high * at + self.top, self.wide * at + self.unmoved

    def inside(self) -> NDArray[np.bool_]:
        """Say for each point whether it lies in the other picture."""
        rows, columns = (at for at in self.rows_and_columns())
        return ((rows >= 0) & (rows <= LOOK - 1))[:, None] & ((columns >= 0) & (columns <= LOOK - 1))[None, :]

    def taken_from(self, grey: Grey) -> Grey:
        """Return what the other picture has at each point, between its points by their distance."""
        import numpy as np

        rows, columns = self.rows_and_columns()
        for axis, places in ((0, rows), (1, columns)):
            places = np.clip(places, 0, LOOK - 1.001)
            low = places.astype(np.int32)
            share = places - low
            share = share.reshape((-1, 1) if axis == 0 else (1, -1))
            share = share[:, :, None] if grey.ndim == 3 else share
            grey = np.take(grey, low, axis) * (1 - share) + np.take(grey, low + 1, axis) * share
        return grey


def _fitted(one: Grey, other: Grey, fit: _Fit) -> _Fit:
    """Return a better fit, by a few steps of least squares (Lucas and Kanade) over size, place, and brightness."""
    import numpy as np

    at = np.broadcast_to(np.arange(LOOK, dtype=np.float32), (LOOK, LOOK))
    for _ in range(_STEPS):
        seen, inside = fit.taken_from(other), fit.inside()
        if inside.mean() < _OVERLAP / 2:
            break
        down, across = np.gradient(seen, axis=0), np.gradient(seen, axis=1)
        columns = (across * at, across, down * at.T, down, seen, np.ones_like(seen))
        parts = np.stack([column[inside] for column in columns], axis=1)
        found: Grey = np.linalg.lstsq(parts.T @ parts, parts.T @ one[inside], rcond=None)[0]
        gain = found[4] if abs(found[4]) > 0.1 else 1.0
        step = found[:4] / gain
        fit = _Fit(
            fit.wide * (1 + float(step[0])), fit.unmoved + float(step[1]) * fit.wide,
            fit.high * (1 + float(step[2])), fit.top + float(step[3]) * fit.high,
        )  # fmt: skip
    return fit
