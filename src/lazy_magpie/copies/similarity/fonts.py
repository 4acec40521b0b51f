"""Fonts with the same outlines in another container: TrueType or CFF outlines, plain or as a web font.

The print has of the first characters of a font how wide each is, its box and its area, as shares of the em.
Neighbours in a tree of a few of these are candidates; a second look compares all characters of both fonts in the same
way: curves written anew in another form keep width, box and area to a thousandth of the em, another weight or slant
does not.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    Pairs = NDArray[np.int64]

_PRINTED = 24
_ABOUT = 6
"""Numbers about a character: advance, box (4), area."""
_APART = 0.004
"""Shares of the em (of its square, for an area) by which a character may differ."""
_MOST = 3_000
"""Characters that are looked at."""


def fingerprint(path: str) -> bytes:
    """Return the print of the font at `path` as float32 values; b"" for a collection and a font without outlines.

    Raises what fontTools does for a file that it can't read.
    """
    import numpy as np

    shapes = shapes_of(path, _PRINTED)
    if not shapes or not any(shape[-1] for shape in shapes.values()):
        return b""
    rows = np.zeros((_PRINTED, _ABOUT), np.float32)
    rows[: len(shapes)] = list(shapes.values())
    return rows.tobytes()


def candidates(prints: list[bytes]) -> Pairs:
    """Return the pairs of places of prints whose first characters are alike."""
    import numpy as np
    from scipy.spatial import cKDTree

    rows = np.array([np.frombuffer(one, np.float32) for one in prints]).reshape(len(prints), _PRINTED * _ABOUT)
    near: Pairs = cKDTree(rows).query_pairs(_APART, p=np.inf, output_type="ndarray").reshape(-1, 2)
    return np.unique(np.sort(near, axis=1), axis=0)


def confirm(one: str, other: str) -> bool:
    """Say, by a second look at both fonts, whether all their characters are alike. Raises what fontTools does."""
    left, right = shapes_of(one, _MOST), shapes_of(other, _MOST)
    return left.keys() == right.keys() and all(
        abs(here - there) <= _APART for code in left for here, there in zip(left[code], right[code], strict=True)
    )


def shapes_of(path: str, most: int) -> Mapping[int, tuple[float, ...]]:
    """Return for the first `most` characters of a font, by code, advance, box and area as shares of the em."""
    from fontTools.pens.areaPen import AreaPen
    from fontTools.pens.boundsPen import BoundsPen
    from fontTools.ttLib import TTFont

    with open(path, "rb") as file:
        if file.read(4) == b"ttcf":
            return {}
    with TTFont(path, lazy=True) as font:
        em = float(font["head"].unitsPerEm)
        glyphs, names = font.getGlyphSet(), font.getBestCmap() or {}
        found = {}
        for code in sorted(names)[:most]:
            glyph, box, area = glyphs[names[code]], BoundsPen(glyphs), AreaPen(glyphs)
            glyph.draw(box)
            glyph.draw(area)
            sides = box.bounds or (0, 0, 0, 0)
            found[code] = (glyph.width / em, *(side / em for side in sides), abs(area.value) / em**2)
    return found
