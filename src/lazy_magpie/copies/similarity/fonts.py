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
from lazy_magpie.copies.similarity.outlines import Outlines, faces_of

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


class _Face(NamedTuple):
    """A face as it is compared: how many glyphs, which of them each character has, its axes, shapes, covered areas,
    and the name of its family, "" where it says none."""

    glyphs: int
    characters: tuple[tuple[int, int], ...]
    axes: tuple[tuple[str, float, float], ...]
    shapes: Shapes
    areas: Shapes
    family: str


def fingerprint(path: str) -> bytes:
    """Return the print of the font at `path` as float32 values; b"" for a font without outlines.

    Of a collection of fonts it is that of the first face, with how many there are. Raises what fontTools and FreeType
    do for a file that they can't read.
    """
    import numpy as np

    faces = _read(path, _PRINTED, 0)
    first = faces[0]
    if not first.shapes[:, 1:].any():
        return b""
    rows = np.zeros((_PRINTED, _ABOUT), np.float32)
    rows[: len(first.shapes)] = first.shapes
    counts = np.array([len(faces), first.glyphs, len(first.characters)], np.float32)
    return np.concatenate([counts, rows.reshape(-1)]).tobytes()


def candidates(prints: list[bytes]) -> Pairs:
    """Return the pairs of places of prints whose counts are the same and whose characters are alike."""
    import numpy as np
    from scipy.spatial import cKDTree

    rows = np.array([np.frombuffer(one, np.float32) for one in prints]).reshape(len(prints), 3 + _PRINTED * _ABOUT)
    near: Pairs = cKDTree(rows).query_pairs(_APART, p=np.inf, output_type="ndarray").reshape(-1, 2)
    return np.unique(np.sort(near, axis=1), axis=0)


def confirm(one: str, other: str) -> Likeness:
    """Say, by a second look at both fonts, face by face, whether their glyphs are alike. Raises as `fingerprint`."""
    left, right = _looked_at(one), _looked_at(other)
    return min(map(_alike, left, right)) if len(left) == len(right) else Likeness.NOT


def _alike(left: _Face, right: _Face) -> Likeness:
    import numpy as np

    if left[:3] != right[:3]:
        return Likeness.NOT
    pairs = ((left.shapes, right.shapes), (left.areas, right.areas))
    if not all(a.shape == b.shape and bool((np.abs(a - b) <= _APART).all()) for a, b in pairs):
        return Likeness.NOT
    is_named_so = left.family == right.family or not (left.family and right.family)
    return Likeness.SURELY if is_named_so else Likeness.PERHAPS


@lru_cache(maxsize=64)
def _looked_at(path: str) -> Sequence[_Face]:
    return _read(path, _COMPARED, _COVERED)


def _read(path: str, compared: int, covered: int) -> Sequence[_Face]:
    """Return the faces of a font file with the shapes of some glyphs and the areas of some."""
    return [_face(font, outlines, compared, covered) for font, outlines in faces_of(path)]


def _face(font: Any, outlines: Outlines, compared: int, covered: int) -> _Face:
    import numpy as np

    em, count = float(font["head"].unitsPerEm), int(font["maxp"].numGlyphs)
    characters = tuple((code, font.getGlyphID(name)) for code, name in sorted((font.getBestCmap() or {}).items()))
    axes = tuple((a.axisTag, a.minValue, a.maxValue) for a in font["fvar"].axes) if "fvar" in font else ()
    glyphs = _spaced(count, compared)
    paths = [outlines.path(glyph) for glyph in glyphs]
    shapes = [(outlines.width(glyph), *path.bounds) for glyph, path in zip(glyphs, paths, strict=True)]
    areas = [_covered(path) for path in paths[::covered]] if covered else []
    return _Face(
        count,
        characters,
        axes,
        np.array(shapes, np.float32).reshape(-1, _ABOUT) / em,
        np.array(areas, np.float32).reshape(-1) / em**2,
        str(font["name"].getBestFamilyName() or "") if "name" in font else "",
    )


def _spaced(count: int, most: int) -> Sequence[int]:
    """Return at most so many of some places, evenly spaced, the first and the last among them."""
    return range(count) if count <= most else [at * (count - 1) // (most - 1) for at in range(most)]


def _covered(path: Any) -> float:
    """Return the area that an outline covers, what overlaps counted once."""
    path.simplify(fix_winding=True, keep_starting_points=False)
    return abs(float(path.area))
