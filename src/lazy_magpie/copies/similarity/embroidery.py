"""Stitch designs that sew the same, in another machine's format.

The print has the size, the number of stitches, and how these spread over 8 x 8 fields. Neighbours in a tree of such
prints are candidates; a second look decides, needle point by needle point: formats split long stitches and round to a
tenth of a millimetre, but the needle goes in at the same places, and the thread is of one length.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from lazy_magpie.copies.similarity.likeness import Likeness, surely

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    Points = NDArray[np.float64]
    Pairs = NDArray[np.int64]

_FIELDS = 8
_SIZE_APART, _SPREAD_APART, _COUNT_APART = 1.5, 0.06, 0.2
"""How far candidates may lie apart: millimetres of size, share of stitches in a field, share of their number."""
_NEAR, _MOST_NEAR = 0.35, 0.97
"""Millimetres from a needle point to the other design's nearest, for so large a share of them."""
_LONGER = 0.06
"""Share by which the thread of one may be longer."""


def fingerprint(path: str) -> bytes:
    """Return the print of the design at `path` as float32 values; b"" where it has no stitches.

    Raises what pyembroidery does for a file that it can't read.
    """
    import numpy as np

    points = points_of(path)
    if len(points) < 2:
        return b""
    width, height = points.max(axis=0)
    spread, _, _ = np.histogram2d(points[:, 0], points[:, 1], _FIELDS, [[0, max(width, 0.1)], [0, max(height, 0.1)]])
    return np.array([width, height, len(points), *(spread.ravel() / len(points))], np.float32).tobytes()


def candidates(prints: list[bytes]) -> Pairs:
    """Return the pairs of places of prints of one size whose stitches spread alike."""
    import numpy as np
    from scipy.spatial import cKDTree

    rows = np.array([np.frombuffer(one, np.float32) for one in prints]).reshape(len(prints), 3 + _FIELDS**2)
    scales = [_SIZE_APART, _SIZE_APART, _COUNT_APART] + [_SPREAD_APART] * _FIELDS**2
    places = np.concatenate([rows[:, :2], np.log(rows[:, 2:3]), rows[:, 3:]], axis=1) / scales
    near: Pairs = cKDTree(places).query_pairs(1.0, p=np.inf, output_type="ndarray").reshape(-1, 2)
    return np.unique(np.sort(near, axis=1), axis=0)


def confirm(one: str, other: str) -> Likeness:
    """Say, by a second look at both designs, whether they sew the same. Raises what pyembroidery does."""
    import numpy as np
    from scipy.spatial import cKDTree

    left, right = points_of(one), points_of(other)
    lengths = sorted(float(np.hypot(*np.diff(points, axis=0).T).sum()) for points in (left, right))
    if lengths[1] > lengths[0] * (1 + _LONGER) + 1.0:
        return Likeness.NOT
    there, back = cKDTree(right).query(left)[0], cKDTree(left).query(right)[0]
    return surely(min((there <= _NEAR).mean(), (back <= _NEAR).mean()) >= _MOST_NEAR)


def points_of(path: str) -> Points:
    """Return the needle points of a design in millimetres from its left upper corner: shape (stitches, 2)."""
    import numpy as np
    import pyembroidery

    pattern = pyembroidery.read(path)
    if pattern is None:
        raise ValueError("no stitch design that can be read")
    command = pyembroidery.COMMAND_MASK
    points = [(x, y) for x, y, what in pattern.stitches if what & command == pyembroidery.STITCH]
    found = np.array(points, np.float64).reshape(-1, 2) / 10
    return found - found.min(axis=0) if len(found) else found
