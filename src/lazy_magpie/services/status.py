"""How a collection stands: roots, what is new, in doubt, pending, unfinished and held, and the next sensible step."""

from __future__ import annotations

import os
import tomllib
from collections.abc import Iterator
from typing import NamedTuple

from lazy_magpie.catalogue.glance import Glance, RootSeen, glance
from lazy_magpie.collection import HELD_NAME, MANIFEST_NAME, STATE_DIR_NAME, Collection
from lazy_magpie.mounts import mounts_inside
from lazy_magpie.paths import CONFIG_NAME


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


def name_of(collection: Collection) -> str:
    """Return a collection's name without checking all of its configuration."""
    try:
        named = tomllib.loads((collection.root / CONFIG_NAME).read_text("utf-8")).get("collection")
    except (OSError, ValueError):
        named = None
    name = named.get("name") if isinstance(named, dict) else None
    return str(name or collection.root.name)


def status_of(collection: Collection) -> Status:
    """Return how a collection stands; nothing more is loaded than that needs."""
    seen = _seen(collection)
    roots = [RootStatus("", str(collection.root), False, "", 0, 0)]
    if seen:
        roots = [_root(root, collection) for root in seen.roots]
    held = list(_held(collection)) if collection.has_journals() else []
    unfinished = _unfinished(collection) if collection.has_journals() and (seen is None or seen.acting) else 0
    new, doubtful, plans = (seen.new, seen.doubtful, seen.plans) if seen else (0, 0, ())
    return Status(tuple(roots), new, doubtful, plans, unfinished, len(held), sum(held))


def _seen(collection: Collection) -> Glance | None:
    """Return what the catalogue says at a glance, brought up to date where an older magpie made it; None for none."""
    path = collection.catalogue_path
    if not path.exists():
        return None
    found = glance(path)
    if found is None:
        from lazy_magpie.catalogue import opened

        with opened(collection, scanned=False):  # says what is wrong with it, or brings it up to date
            found = glance(path)
    return found


def _root(root: RootSeen, collection: Collection) -> RootStatus:
    if not root.name:
        return RootStatus("", str(collection.root), False, root.scanned, root.files, root.bytes)
    from lazy_magpie.drives import place_of_mark

    place = place_of_mark(root.mark, root.place)
    return RootStatus(root.name, place or root.place, not place, root.scanned, root.files, root.bytes)


def _unfinished(collection: Collection) -> int:
    from lazy_magpie.change import Filesystem, JournalStore, unfinished

    found = unfinished(JournalStore(Filesystem(str(collection.root))))
    return found[-1].number if found else 0


def _held(collection: Collection) -> Iterator[int]:
    """Yield the sizes of the files in the holding areas of the collection's own root."""
    for area in _areas(collection):
        for folder, _, names in os.walk(area):
            for name in names:
                if name != MANIFEST_NAME or os.path.dirname(folder) != area:
                    yield os.lstat(os.path.join(folder, name)).st_size


def _areas(collection: Collection) -> list[str]:
    """Return the holding areas of the root: its own, and those of drives that are mounted inside it."""
    root = str(collection.root)
    if mounts_inside(root) == {}:
        return [os.path.join(root, STATE_DIR_NAME, HELD_NAME)]
    from lazy_magpie.change import Filesystem, StateFolders

    return [os.path.join(root, top, STATE_DIR_NAME, HELD_NAME) for top in StateFolders(Filesystem(root)).tops()]
