"""What is alike without holding the same bytes: one similarity method a file, all of one shape.

Each has `fingerprint(path)`, the print of a file (b"" where there is nothing to go by); `candidates(prints)`, the
pairs among many prints that may be alike, found through an index, the most likely first; and `confirm(one, other)`, the
second look at two files, which decides. Where prints tell which file is the better one, `rank(print)` does. A sort is
added by a row here.
"""

from __future__ import annotations

from collections.abc import Mapping
from importlib import import_module
from typing import TYPE_CHECKING, NamedTuple, Protocol, cast

from lazy_magpie.copies.similarity.likeness import Likeness
from lazy_magpie.model import Kind

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray


class SimilarityMethod(NamedTuple):
    """A similarity method: its module here, the family of formats that it compares (of `readers`), kinds of items."""

    module: str
    family: str
    kinds: tuple[Kind, ...]


METHODS: Mapping[str, SimilarityMethod] = {
    "picture": SimilarityMethod("pictures", "pictures", (Kind.PICTURE,)),
    "sound": SimilarityMethod("audio", "audio", (Kind.TRACK,)),
    "video": SimilarityMethod("video", "video", (Kind.MOVIE, Kind.EPISODE, Kind.EXTRA)),
    "glyphs": SimilarityMethod("fonts", "fonts", (Kind.FONT,)),
    "stitches": SimilarityMethod("embroidery", "embroidery", (Kind.DESIGN,)),
}


class SimilarityModule(Protocol):
    """What each module of a sort has."""

    def fingerprint(self, path: str) -> bytes:
        """Return the print of a file, b"" where there is nothing to go by."""

    def candidates(self, prints: list[bytes]) -> NDArray[np.int64]:
        """Return the pairs (rows of two places) of prints that may be alike."""

    def confirm(self, one: str, other: str) -> Likeness:
        """Say how alike two files are."""


def module_of(method: str) -> SimilarityModule:
    """Return the module of a sort."""
    return cast(SimilarityModule, import_module(f"{__name__}.{METHODS[method].module}"))


def rank_of(method: str, print: bytes) -> int:
    """Return how good a file is by its print: the best of a class is what others are held against."""
    rank = getattr(module_of(method), "rank", None)
    return int(rank(print)) if rank else 0
