"""What is alike without holding the same bytes: one sort of likeness a file, all of one shape.

Each has `take(path)`, the print of a file (b"" where there is nothing to go by); `candidates(prints)`, the
pairs among many prints that may be alike, found through an index; and `alike(one, other)`, the second look at two
files, which decides. A sort is added by a row here.
"""

from __future__ import annotations

from collections.abc import Mapping
from importlib import import_module
from typing import TYPE_CHECKING, NamedTuple, Protocol, cast

from lazy_magpie.model import Kind

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray


class Sort(NamedTuple):
    """A sort of likeness: its module here, the family of formats that it can compare (of `readers`), kinds of items."""

    module: str
    family: str
    kinds: tuple[Kind, ...]


SORTS: Mapping[str, Sort] = {
    "picture": Sort("pictures", "pictures", (Kind.PICTURE,)),
    "sound": Sort("sounds", "music", (Kind.TRACK,)),
    "video": Sort("films", "video", (Kind.MOVIE, Kind.EPISODE, Kind.EXTRA)),
    "glyphs": Sort("glyphs", "fonts", (Kind.FONT,)),
    "stitches": Sort("stitches", "stitches", (Kind.DESIGN,)),
}


class Likeness(Protocol):
    """What each module of a sort has."""

    def take(self, path: str) -> bytes:
        """Return the print of a file, b"" where there is nothing to go by."""

    def candidates(self, prints: list[bytes]) -> NDArray[np.int64]:
        """Return the pairs (rows of two places) of prints that may be alike."""

    def alike(self, one: str, other: str) -> bool:
        """Say whether two files are alike."""


def likeness(sort: str) -> Likeness:
    """Return the module of a sort."""
    return cast(Likeness, import_module(f"{__name__}.{SORTS[sort].module}"))
