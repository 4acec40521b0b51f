"""Understands a heap of downloads: which files and archives belong together, what they are, what is there already."""

from __future__ import annotations

from lazy_magpie.intake.bundles import Makers, Named, named, named_all, sort_of
from lazy_magpie.intake.heap import Bundle, Heap, Piece, Source, look
from lazy_magpie.intake.layout import Laid, holds_the_same, laid_out
from lazy_magpie.intake.there import Already

__all__ = [
    "Already",
    "Bundle",
    "Heap",
    "Laid",
    "Makers",
    "Named",
    "Piece",
    "Source",
    "holds_the_same",
    "laid_out",
    "look",
    "named",
    "named_all",
    "sort_of",
]
