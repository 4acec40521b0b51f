"""Items that an earlier plan found in their places: while they and the rules are the same, they are there."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from sys import intern

from lazy_magpie.catalogue import InPlace
from lazy_magpie.model import Item
from lazy_magpie.stable_hash import stable_number

_AT_ONCE = 10_000


@dataclass
class KnownPlaces:
    """What was in its place before, and what a plan adds to that; `rules` stands for all that decides it.

    `keep` takes what was found, many at a time (None: nobody wants it); the last of it waits in `found`.
    """

    before: Callable[[int], InPlace | None]
    rules: bytes
    keep: Callable[[Mapping[int, InPlace]], None] | None = None
    found: dict[int, InPlace] = field(default_factory=dict)

    def home_of(self, item: Item) -> str | None:
        """Return the folder that is an item's own ("" for none), None where it is not known to be in its place."""
        known = self.before(item.id)
        return intern(known.home) if known and known.basis == self._basis(item) else None

    def add(self, item: Item, home: str) -> None:
        """Note that an item is in its place, in a folder that is its own ("" for none)."""
        self.found[item.id] = InPlace(self._basis(item), home)
        if len(self.found) == _AT_ONCE:
            self.keep_found()

    def keep_found(self) -> None:
        """Hand over what was found since the last time."""
        if self.keep:
            self.keep(self.found)
        self.found.clear()

    def _basis(self, item: Item) -> int:
        files = [(file.path, file.role, file.part) for file in item.files]
        return stable_number((item.path, item.kind.value, dict(item.fields), dict(item.custom), files), self.rules)
