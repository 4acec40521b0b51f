"""Makes plans from a collection as it lies on the disk: each planner gets what it looks at, and nothing else."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence

from lazy_magpie.catalogue import All, Catalogue, Condition, Is, View
from lazy_magpie.change import Filesystem, head_of, held_things
from lazy_magpie.collection import Collection
from lazy_magpie.intake import ExistingFiles, Makers, identify_bundles, read_downloads
from lazy_magpie.model import Kind, Plan, Step, Value
from lazy_magpie.planners import path_references, plan_csv, views
from lazy_magpie.planners.filing import play_lists
from lazy_magpie.planners.intake.intake_sources import IntakeSources
from lazy_magpie.planners.intake.planner import IntakePlanner
from lazy_magpie.planners.tagging import with_carried_tags
from lazy_magpie.readers.worker_pool import read_all
from lazy_magpie.services.journals import journal_store
from lazy_magpie.services.listing import listing_of
from lazy_magpie.services.placements import placed_in


def _quiet(count: int) -> None:
    """Report no progress."""


def plan_intake(
    collection: Collection,
    catalogue: Catalogue,
    tops: Sequence[str],
    now: float,
    take: str = "",
    progress: Callable[[int], None] = _quiet,
) -> Plan:
    """Plan bringing in the downloads in `tops`, folders as steps name them, as they are `now` (seconds)."""
    root, config = str(collection.root), collection.config
    disk = Filesystem(root)
    downloads, files = [], 0
    for top in tops:
        downloads.append(read_downloads(disk, top, now))
        files += downloads[-1].files
        progress(files)
    sizes = {size for heap in downloads for size in heap.sizes()}
    makers = Makers(sorted(catalogue.items.makers()), config.makers)
    sources = IntakeSources(
        disk=disk,
        listing=listing_of(root),
        downloads=downloads,
        existing=ExistingFiles(catalogue, root, tops, sizes),
        makers=makers,
        in_effect=placed_in(catalogue, collection).in_effect,
        identify=lambda sold: identify_bundles(disk, sold, makers),
        read_facts=lambda paths: _facts_below(root, paths),
    )
    return IntakePlanner(catalogue, config, sources, take).plan()


def _facts_below(root: str, paths: Iterable[str]) -> Iterator[tuple[str, Mapping[str, Value]]]:
    whole = {os.path.join(root, path): path for path in paths}
    return ((whole[path], facts) for path, facts in read_all(whole))


def plan_view(collection: Collection, catalogue: Catalogue, view: View, condition: Condition) -> Plan:
    """Plan what brings a view up to date."""
    disk = journal_store(collection).disk
    return views.refresh(catalogue, collection.config, disk, lambda: _held_paths(collection), view, condition)


def plan_view_removal(collection: Collection, catalogue: Catalogue, view: View) -> Plan:
    """Plan taking a view away."""
    return views.drop(catalogue, journal_store(collection).disk, lambda: _held_paths(collection), view)


def _held_paths(collection: Collection) -> dict[int, str]:
    return {one.stamp.inode: one.path for one in held_things(journal_store(collection))}


def with_play_lists(collection: Collection, catalogue: Catalogue, condition: Condition, plan: Plan) -> Plan:
    """Return a plan with the play lists of games on several discs, where a player wants them."""
    if not any(player.play_lists for player in collection.config.players.values()):
        return plan
    games = list(catalogue.items.ask(All((condition, Is("kind", Kind.GAME.value)))))
    return play_lists.with_play_lists(plan, games, collection.config, journal_store(collection).disk)


def with_references(collection: Collection, catalogue: Catalogue, plan: Plan) -> Plan:
    """Return a plan with the steps by which cue sheets, play lists and disc descriptors follow what it moves."""
    disk = journal_store(collection).disk
    return path_references.with_references(catalogue, disk, lambda *member: head_of(disk, *member), plan)


def with_tags(collection: Collection, steps: Iterable[Step]) -> Iterator[Step]:
    """Yield steps, and behind each that changes tags those by which the file carries them."""
    return with_carried_tags(steps, collection.config, journal_store(collection).disk)


def corrected(collection: Collection, catalogue: Catalogue, plan: Plan, text: str, source: str) -> Plan:
    """Return a plan as a CSV file of it says, `source` in errors. Raises UsageError for what can't be meant."""
    root, keep = str(collection.root), [shelf.folder for shelf in collection.config.shelves]
    everywhere = collection.config.everywhere
    edited = plan_csv.from_csv(text, source, plan, listing_of(root), Filesystem(root), keep=keep, everywhere=everywhere)
    return edited if edited is plan else with_references(collection, catalogue, edited)
