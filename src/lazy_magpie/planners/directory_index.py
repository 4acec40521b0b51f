"""The names that are on the disk, as planners need them: who has a name already, and how it is spelled."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache

from lazy_magpie.paths import join, name_of, parent, same_name, split_ending

Listing = Callable[[str], frozenset[str]]
"""Returns the names in a folder of the root as the disk has them, an empty set where there is no such folder.

A folder at which a drive is mounted has itself in it (`MOUNTED`), so that no plan takes it for one that is left empty.
"""
MOUNTED = "."


def is_mounted(listing: Listing, folder: str) -> bool:
    """Say whether a drive is mounted at a folder, which therefore stays where it is."""
    return MOUNTED in listing(folder)


class Names:
    """Looks names up in folders, whatever their case; each folder is listed once."""

    def __init__(self, listing: Listing) -> None:
        self._listing = listing
        self._keys = lru_cache(maxsize=512)(self._by_key)
        self._stems = lru_cache(maxsize=512)(self._by_stem)
        self._spelled = lru_cache(maxsize=4096)(self._as_spelled)

    def _by_key(self, folder: str) -> dict[str, str]:
        return {same_name(name): name for name in self._listing(folder)}

    def _by_stem(self, folder: str) -> dict[str, list[str]]:
        index: dict[str, list[str]] = {}
        for name in self._listing(folder):
            index.setdefault(same_name(split_ending(name)[0]), []).append(name)
        return index

    def in_folder(self, folder: str) -> frozenset[str]:
        """Return the names in a folder."""
        return self._listing(folder)

    def with_stem(self, folder: str, stem: str) -> list[str]:
        """Return the names in a folder that are `stem` with an ending, in whatever case."""
        return self._stems(folder).get(same_name(stem), [])

    def existing(self, path: str) -> str:
        """Return the path of what is there under the name of `path` in any case, "" if nothing is."""
        folder, name = parent(path), name_of(path)
        if name in self._listing(folder):
            return path
        found = self._keys(folder).get(same_name(name))
        return join(folder, found) if found else ""

    def as_spelled(self, path: str, renamed: str = "") -> str:
        """Return `path` with the folders that exist in another case spelled as they are.

        `renamed` is a folder that is renamed as a whole, whose old spelling does not count.
        """
        return join(self._spelled(parent(path), renamed), name_of(path))

    def _as_spelled(self, folder: str, renamed: str) -> str:
        if not folder:
            return ""
        above = self._spelled(parent(folder), renamed)
        here = join(above, name_of(folder))
        found = self.existing(here)
        return found if found and found != renamed else here
