"""What the planner of intake looks at, handed to it as values and functions."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass

from lazy_magpie.intake import Bundle, BundleIdentity, Downloads, ExistingFiles, Makers
from lazy_magpie.model import Kind
from lazy_magpie.planners.directory_index import Listing
from lazy_magpie.planners.disk_view import DiskView
from lazy_magpie.planners.intake.intake_items import ReadFacts


@dataclass(frozen=True)
class IntakeSources:
    """What the planner looks at: the disk, the downloads that were read, what is in the collection already.

    `in_effect` are the numbers of the changes in effect; `identify` says what bundles are called, by their names and
    by the files in them; `read_facts` yields what files, by their paths in the collection, say of themselves.
    """

    disk: DiskView
    listing: Listing
    downloads: Sequence[Downloads]
    existing: ExistingFiles
    makers: Makers
    in_effect: Collection[int]
    identify: Callable[[Sequence[tuple[Bundle, Kind]]], Sequence[BundleIdentity]]
    read_facts: ReadFacts
