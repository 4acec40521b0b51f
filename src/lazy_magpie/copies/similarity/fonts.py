"""Fonts with the same outlines in another container: TrueType or CFF outlines, plain or as a web font.

The print has how many glyphs and characters a font has, and of some of its characters how wide each is and its box, as
shares of the em. Neighbours in a tree of these numbers are candidates; a second look asks for the same characters, the
same number of glyphs, the same axes, and compares widths, boxes, and the areas that the outlines cover once what
overlaps is made one: curves written anew in another form keep all of that to a thousandth of the em, another weight or
slant does not. That goes for glyphs without a character, too: fonts for several ways of writing one script differ in
nothing else. A font with more glyphs is another version, and no copy; one of another family is perhaps one.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from typing import TYPE_CHECKING, Any, NamedTuple

from lazy_magpie.copies.similarity.likeness import Likeness

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    Pairs = NDArray[np.int64]
    Shapes = NDArray[np.float32]

_PRINTED, _COMPARED, _COVERED = 24, 180, 3
"""Glyphs, evenly spaced, of which the print and the second look are made; of each third of these areas are compared."""
_ABOUT = 5
"""Numbers about a glyph: advance, box (4)."""
_APART = 0.004
"""Shares of the em (of its square, for an area) by which a glyph may differ."""


class _Font(NamedTuple):
    """A font as it is compared: how many glyphs, which of them each character has, its axes, shapes, covered areas,
    and the name of its family, "" where it says none."""

    glyphs: int
    characters: tuple[tuple[int, int], ...]
    axes: tuple[tuple[str, float, float], ...]
    shapes: Shapes
    areas: Shapes
    family: str


def fingerprint(path: str) -> bytes:
    """Return the print of the font at `path` as float32 values; b"" for a collection and a font without outlines.

    Raises what fontTools does for a file that it can't read.
    """
    import numpy as np

    found = _read(path, _PRINTED, 0)
    if found is None or not found.shapes[:, 1:].any():
        return b""
    rows = np.zeros((_PRINTED, _ABOUT), np.float32)
    rows[: len(found.shapes)] = found.shapes
    return np.concatenate([np.array([found.glyphs, len(found.characters)], np.float32), rows.reshape(-1)]).tobytes()


def candidates(prints: list[bytes]) -> Pairs:
    """Return the pairs of places of prints whose counts are the same and whose characters are alike."""
    import numpy as np
    from scipy.spatial import cKDTree

    rows = np.array([np.frombuffer(one, np.float32) for one in prints]).reshape(len(prints), 2 + _PRINTED * _ABOUT)
    near: Pairs = cKDTree(rows).query_pairs(_APART, p=np.inf, output_type="ndarray").reshape(-1, 2)
    return np.unique(np.sort(near, axis=1), axis=0)


def confirm(one: str, other: str) -> Likeness:
    """Say, by a second look at both fonts, whether their glyphs are alike. Raises what fontTools does."""
    import numpy as np

    left, right = _looked_at(one), _looked_at(other)
    if left is None or right is None or left[:3] != right[:3]:
        return Likeness.NOT
    pairs = ((left.shapes, right.shapes), (left.areas, right.areas))
    if not all(a.shape == b.shape and bool((np.abs(a - b) <= _APART).all()) for a, b in pairs):
        return Likeness.NOT
    is_named_so = left.family == right.family or not (left.family and right.family)
    return Likeness.SURELY if is_named_so else Likeness.PERHAPS


@lru_cache(maxsize=64)
def _looked_at(path: str) -> _Font | None:
    return _read(path, _COMPARED, _COVERED)


def _read(path: str, compared: int, covered: int) -> _Font | None:
    """Return a font with the shapes of some characters and the areas of some; None for a collection of fonts."""
    import numpy as np
    from fontTools.ttLib import TTFont

    with open(path, "rb") as file:
        if file.read(4) == b"ttcf":
            return None
    with TTFont(path, lazy=True) as font:
        em = float(font["head"].unitsPerEm)
        order = font.getGlyphOrder()
        places = {name: place for place, name in enumerate(order)}
        characters = tuple((code, places[name]) for code, name in sorted((font.getBestCmap() or {}).items()))
        axes = tuple((a.axisTag, a.minValue, a.maxValue) for a in font["fvar"].axes) if "fvar" in font else ()
        glyphs = font.getGlyphSet()
        outlines = [(glyphs[name].width, _outline(glyphs, name)) for name in _spaced(order, compared)]
        shapes = [(width, *outline.bounds) for width, outline in outlines]
        areas = [_covered(outline) for _, outline in outlines[::covered]] if covered else []
        return _Font(
            len(order),
            characters,
            axes,
            np.array(shapes, np.float32).reshape(-1, _ABOUT) / em,
            np.array(areas, np.float32).reshape(-1) / em**2,
            str(font["name"].getBestFamilyName() or "") if "name" in font else "",
        )


def _spaced(names: Sequence[str], most: int) -> Sequence[str]:
    """Return at most so many of some names, evenly spaced, the first and the last among them."""
    if len(names) <= most:
        return names
    return [names[at * (len(names) - 1) // (most - 1)] for at in range(most)] if most > 1 else names[:most]


def _outline(glyphs: Any, name: str) -> Any:
    """Return the outline of a glyph as a path."""
    import pathops

    path = pathops.Path()
    glyphs[name].draw(path.getPen(glyphSet=glyphs))
    return path


def _covered(path: Any) -> float:
    """Return the area that an outline covers, what overlaps counted once."""
    path.simplify(fix_winding=True, keep_starting_points=False)
    return abs(float(path.area))
