"""Plans taking things away by hand: into the holding area, file by file, so that each can be brought back."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from lazy_magpie.config import Config
from lazy_magpie.model import FileStamp, Plan, Step
from lazy_magpie.model.steps import Hold
from lazy_magpie.paths import parent
from lazy_magpie.planners.by_hand.chosen import Chosen
from lazy_magpie.planners.directory_index import Listing
from lazy_magpie.planners.disk_view import DiskView, tree_below
from lazy_magpie.planners.step_order import ordered_steps


def hold_by_hand(chosen: Sequence[Chosen], config: Config, disk: DiskView, listing: Listing, why: str) -> Plan:
    """Plan holding what was chosen: files with what is their own, folders with all that is in them."""
    steps: dict[str, Step] = {}
    for bundle, one in enumerate(chosen, start=1):
        group = (one.path if one.is_folder else parent(one.path)) or "."
        for path, stamp in _files_of(one, disk):
            steps.setdefault(path, Hold(source=path, why=why, group=group, bundle=bundle, stamp=stamp))
    keep = [shelf.folder for shelf in config.shelves]
    return Plan("hold", ordered_steps(list(steps.values()), listing, keep))


def _files_of(one: Chosen, disk: DiskView) -> Iterator[tuple[str, FileStamp | None]]:
    if one.is_folder:
        below = tree_below(disk, one.path)
        yield from ((path, status.stamp) for path, status in below if status.is_link or not status.is_folder)
        return
    yield one.path, one.stamp
    for file in one.beside:
        yield file.path, file.stamp
