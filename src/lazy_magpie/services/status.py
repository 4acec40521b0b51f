"""How a collection stands: roots, what is new, in doubt, pending, unfinished and held, and the next sensible step."""

from __future__ import annotations

import os
from collections.abc import Iterator
from typing import NamedTuple

from lazy_magpie.catalogue import Catalogue
from lazy_magpie.collection import Collection
from lazy_magpie.paths import join


class RootStatus(NamedTuple):
    """A root: its name ("" for the collection's own), where it is, whether it is away, when it was scanned last (ISO
    8601, UTC, "" for never), and the files and bytes that this scan saw."""

    name: str
    path: str
    away: bool
    scanned: str
    files: int
    bytes: int


class Status(NamedTuple):
    """How a collection stands. `new` are files that the latest scan found, `doubtful` items, `plans` the numbers of the
    pending ones, `unfinished` a change that a crash has left (0 for none)."""

    roots: tuple[RootStatus, ...]
    new: int
    doubtful: int
    plans: tuple[int, ...]
    unfinished: int
    held_files: int
    held_bytes: int

    @property
    def next(self) -> str:
        """The next sensible step, as a command."""
        if self.unfinished or not self.roots[0].scanned:
            return "magpie scan"
        if self.plans:
            return f"magpie plans {self.plans[-1]}"
        return "magpie settle" if self.doubtful else "magpie tidy"


def status_of(collection: Collection, catalogue: Catalogue | None) -> Status:
    """Return how a collection stands; `catalogue` is None where nothing was scanned yet."""
    from lazy_magpie.drives import present

    roots = [RootStatus("", str(collection.root), False, "", 0, 0)]
    new, doubtful = 0, 0
    plans: tuple[int, ...] = ()
    if catalogue:
        here = present(catalogue, collection)
        seen = catalogue.roots.scans()
        roots = [
            RootStatus(root.name, here.get(root.name, root.place), root.name not in here, *seen[root.number])
            for root in catalogue.roots.all()
        ]
        new, doubtful = int(catalogue.noted("new") or 0), catalogue.items.doubtful()
        plans = tuple(plan.number for plan in catalogue.plans.list())
    held = list(_held(collection)) if collection.has_journals() else []
    return Status(tuple(roots), new, doubtful, plans, _unfinished(collection), len(held), sum(held))


def _unfinished(collection: Collection) -> int:
    if not collection.has_journals():
        return 0
    from lazy_magpie.change import Filesystem, JournalStore, unfinished

    found = unfinished(JournalStore(Filesystem(str(collection.root))))
    return found[-1].number if found else 0


def _held(collection: Collection) -> Iterator[int]:
    """Yield the sizes of the files in the holding areas of the collection's own root."""
    from lazy_magpie.change import Filesystem, StateFolders
    from lazy_magpie.change.run_context import MANIFEST
    from lazy_magpie.change.state_folders import HELD, STATE_DIR

    for top in StateFolders(Filesystem(str(collection.root))).tops():
        area = os.path.join(str(collection.root), join(top, f"{STATE_DIR}/{HELD}"))
        for folder, _, names in os.walk(area):
            for name in names:
                if name != MANIFEST or os.path.dirname(folder) != area:
                    yield os.lstat(os.path.join(folder, name)).st_size
