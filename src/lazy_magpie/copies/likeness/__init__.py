"""What is alike without holding the same bytes: one sort of likeness a file, all of one shape.

Each has `SORT`; `take(path)`, the print of a file (b"" where there is nothing to go by); `candidates(prints)`, the
pairs among many prints that may be alike, found through an index; and `alike(one, other)`, the second look at two
files, which decides. A sort is added by a row here.
"""

from __future__ import annotations

from collections.abc import Mapping
from importlib import import_module
from typing import TYPE_CHECKING, Protocol, cast

from lazy_magpie.model import Kind

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

MODULES: Mapping[str, str] = {
    "picture": "pictures",
    "sound": "sounds",
    "video": "films",
    "glyphs": "glyphs",
    "stitches": "stitches",
}
SORT_OF: Mapping[Kind, str] = {
    Kind.PICTURE: "picture",
    Kind.TRACK: "sound",
    Kind.MOVIE: "video",
    Kind.EPISODE: "video",
    Kind.EXTRA: "video",
    Kind.FONT: "glyphs",
    Kind.DESIGN: "stitches",
}
"""By which sort of likeness items of a kind are compared."""


class Likeness(Protocol):
    """What each module of a sort has."""

    SORT: str

    def take(self, path: str) -> bytes:
        """Return the print of a file, b"" where there is nothing to go by."""

    def candidates(self, prints: list[bytes]) -> NDArray[np.int64]:
        """Return the pairs (rows of two places) of prints that may be alike."""

    def alike(self, one: str, other: str) -> bool:
        """Say whether two files are alike."""


def likeness(sort: str) -> Likeness:
    """Return the module of a sort."""
    return cast(Likeness, import_module(f"{__name__}.{MODULES[sort]}"))
