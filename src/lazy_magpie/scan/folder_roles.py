"""Keeps what the folders are taken for: worked out anew where anything has changed, for each root as a whole."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from lazy_magpie.catalogue import Catalogue
from lazy_magpie.identify.roles import FolderReading, read_tree
from lazy_magpie.paths import parent


def refresh(catalogue: Catalogue, dirty: Iterable[int]) -> set[int]:
    """Work out the roles on the roots of these folders (ids) anew; return the folders that lie in those of another
    role now, which are dirty."""
    marked: set[int] = set()
    for root in {root for root, _ in catalogue.files.places(dirty).values()}:
        before = catalogue.roles.all(root)
        tree = read_tree(catalogue.files.listing(root), catalogue.roles.told(root))
        readings = {path: _text(reading) for path, reading in tree.items()}
        changed = {path for path, (_, text) in before.items() if _meaning(text) != _meaning(readings.get(path, ""))}
        catalogue.roles.keep((readings.get(path, ""), id) for path, (id, text) in before.items()
                                   if readings.get(path, "") != text)  # fmt: skip
        marked |= {id for path, (id, _) in before.items() if _is_at_or_below(path, changed)}
    catalogue.files.mark_dirty(marked)
    return marked


def _is_at_or_below(path: str, folders: set[str]) -> bool:
    while path and folders:
        if path in folders:
            return True
        path = parent(path)
    return False


def _text(reading: FolderReading) -> str:
    said = "told" if reading.told else reading.sureness
    return f"{reading.role}|{reading.other}|{reading.matter}|{said}|{reading.chance:.3f}"


def _meaning(text: str) -> str:
    """Return what of a role as it is kept makes a difference to the files: all but how likely it is."""
    return text.rpartition("|")[0]


def read(text: str) -> FolderReading | None:
    """Return a role as it was kept, None for "": a folder without files below it has none."""
    if not text:
        return None
    role, other, matter, said, chance = text.split("|")
    return FolderReading(role, float(chance), other, matter, said == "told")


class FolderRoles:
    """Says what folders, and those above them, are taken for; each is looked up in the catalogue once."""

    def __init__(self, catalogue: Catalogue) -> None:
        self.catalogue = catalogue
        self._known: dict[tuple[int, str], FolderReading | None] = {}

    def of(self, root: int, path: str) -> FolderReading | None:
        """Return what a folder is taken for, None where nothing is known of it."""
        if (root, path) not in self._known:
            self._known[root, path] = read(self.catalogue.roles.at(root, path))
        return self._known[root, path]

    def above(self, root: int, path: str) -> Mapping[str, FolderReading]:
        """Return what a folder and those above it are taken for, the nearest first."""
        found = {}
        while path:
            if reading := self.of(root, path):
                found[path] = reading
            path = parent(path)
        return found
