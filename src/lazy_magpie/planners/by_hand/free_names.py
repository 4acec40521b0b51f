"""Which names are free for what a plan makes: each is claimed by one thing."""

from __future__ import annotations

from lazy_magpie.model import Conflict
from lazy_magpie.paths import same_name, written
from lazy_magpie.planners.directory_index import Listing, Names


class FreeNames:
    """The names that are on the disk, and those that a plan has claimed."""

    def __init__(self, listing: Listing) -> None:
        self._names = Names(listing)
        self._claimed: dict[str, str] = {}

    def claim(self, target: str, source: str) -> Conflict | None:
        """Claim a name for what comes from `source`; return the conflict where it is not free."""
        if occupant := self._names.existing(target):
            return Conflict(target, (source, occupant), f"“{written(occupant)}” is there already")
        if other := self._claimed.get(same_name(target)):
            return Conflict(target, (source, other), f"“{written(other)}” is to have this name, too")
        self._claimed[same_name(target)] = source
        return None
