"""Plans the tidying of a collection as it lies on the disk."""

from __future__ import annotations

import os
from collections.abc import Callable, Mapping
from dataclasses import replace

from lazy_magpie import __version__
from lazy_magpie.catalogue import Catalogue, Condition
from lazy_magpie.collection import Collection
from lazy_magpie.config import FILE_NAME
from lazy_magpie.model import Plan, Value
from lazy_magpie.planners.filing.known_places import KnownPlaces
from lazy_magpie.planners.filing.tidy import TidySources, tidy
from lazy_magpie.planners.filing.versions import versions_of
from lazy_magpie.readers.worker_pool import read_one
from lazy_magpie.services.listing import listing_of
from lazy_magpie.services.placements import placed_in
from lazy_magpie.stable_hash import stable_bytes


def _quiet(count: int) -> None:
    """Report no progress."""


def tidy_collection(
    catalogue: Catalogue,
    collection: Collection,
    condition: Condition | None = None,
    progress: Callable[[int], None] = _quiet,
    *,
    unplayable: bool = False,
    keep_both: bool = False,
) -> Plan:
    """Plan the tidying of a collection as it lies on the disk; with `unplayable` also what can't be played.

    With `keep_both`, films that would have one name are told apart by what differs, and filed side by side.
    """
    root = str(collection.root)

    def measure(path: str) -> Mapping[str, Value]:
        try:
            size = os.stat(os.path.join(root, path)).st_size
        except OSError:
            return {}
        return {"size": size, **read_one(os.path.join(root, path))}

    placed = placed_in(catalogue, collection)
    config = replace(collection.config, files_unplayable=unplayable or collection.config.files_unplayable)
    rules = stable_bytes((__version__, (collection.root / FILE_NAME).read_bytes()), 16)
    keep = catalogue.placements.put_in_place if catalogue.writable else None
    places = KnownPlaces(catalogue.placements.in_place, rules, keep)
    sources = TidySources(listing_of(root), measure, places, placed, listed=_listed_folders(catalogue, collection))
    plan = tidy(catalogue, config, sources, condition, progress)
    if keep_both and (versions := versions_of(catalogue, plan.conflicts)):
        plan = tidy(catalogue, config, replace(sources, versions=versions), condition, progress)
    places.keep_found()
    return plan


def _listed_folders(catalogue: Catalogue, collection: Collection) -> set[str]:
    """Return the folders in which reference lists say what lies where."""
    if not collection.config.lists:
        return set()
    from lazy_magpie.lists.loading import list_folders, load_lists

    if catalogue.writable:
        load_lists(catalogue, collection.config, str(collection.root))
    return list_folders(catalogue, collection.config)
