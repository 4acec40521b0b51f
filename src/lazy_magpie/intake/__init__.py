"""Understands a heap of downloads: which files and archives belong together, what they are, what is there already."""

from __future__ import annotations

from lazy_magpie.intake.bundles import BundleIdentity, Makers, identify_bundle, identify_bundles, sort_of
from lazy_magpie.intake.downloads import Bundle, Downloads, Piece, Source, read_downloads
from lazy_magpie.intake.existing import ExistingFiles
from lazy_magpie.intake.layout import Layout, holds_the_same, layout_of

__all__ = [
    "Bundle",
    "BundleIdentity",
    "Downloads",
    "ExistingFiles",
    "Layout",
    "Makers",
    "Piece",
    "Source",
    "holds_the_same",
    "identify_bundle",
    "identify_bundles",
    "layout_of",
    "read_downloads",
    "sort_of",
]
