"""What a plan by lists may take from where, and what becomes of it once all that it holds is in its place."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

from lazy_magpie.catalogue.sums import Place
from lazy_magpie.lists.matched import Holding
from lazy_magpie.model import File
from lazy_magpie.model.proofs import InArchive, Proof, SameBytes, Spread
from lazy_magpie.model.steps import Hold
from lazy_magpie.paths import name_of, written
from lazy_magpie.planners.directory_index import Listing
from lazy_magpie.planners.disk_view import DiskView

Goal = tuple[str, str]
"""Where a content is once the plan is done: a path, and a member of the archive there ("": the file itself)."""


@dataclass(frozen=True)
class ListSources:
    """What the plan looks at.

    `named` gives a file's path as steps name it, None while its drive is away; `members` the sizes of an archive's
    members by their names; `beside` the companions of an item. `settled` are the files that are where a list
    has them, each with its path.
    """

    disk: DiskView
    listing: Listing
    named: Callable[[Place], str | None]
    members: Callable[[int], Mapping[str, int]]
    beside: Callable[[int], Sequence[File]]
    settled: Mapping[int, str]


class Taken:
    """What was taken from where, so that what holds nothing else can go."""

    def __init__(self, sources: ListSources) -> None:
        self._sources = sources
        self._goals: dict[int, dict[str, Goal]] = {}
        self._places: dict[int, Holding] = {}
        self._last: dict[str, str] = {}
        self.moved: set[int] = set()

    def note(self, holding: Holding, goal: Goal, last: str = "") -> None:
        """Note that a content is at `goal`, too, once all was read, and goes on from there to the path `last`."""
        if holding.ours and holding.file not in self._sources.settled:
            self._goals.setdefault(holding.file, {}).setdefault(holding.member, goal)
            self._places[holding.file] = holding
            self._last[goal[0]] = last or goal[0]

    def is_used_up(self, file: int) -> bool:
        """Say whether all that a file holds is elsewhere once the plan is done."""
        goals = self._goals.get(file, {})
        if "" in goals:
            return True
        members = self._sources.members(file)
        return bool(goals) and all(member in goals for member, size in members.items() if size)

    def holds(self, group: Callable[[int], str]) -> Iterator[Hold]:
        """Yield the steps that hold what is used up, each with its proof."""
        for file, goals in self._goals.items():
            if file in self.moved or not self.is_used_up(file):
                continue
            place = self._places[file].place
            yield Hold(
                source=place.path,
                why=f"all of it is in {self._named(goals)}",
                group=group(file),
                stamp=place.stamp,
                proofs=(proof_of(goals),),
            )

    def _named(self, goals: Mapping[str, Goal]) -> str:
        """Return where everything is, in words."""
        places = list(dict.fromkeys(self._last[path] for path, _ in goals.values()))
        return written(name_of(places[0])) if len(places) == 1 else f"{len(places):,} other files"

    def left_over(self) -> Iterable[Holding]:
        """Yield the archives of which only a part was taken."""
        return (one for file, one in self._places.items() if file not in self.moved and not self.is_used_up(file))


def proof_of(goals: Mapping[str, Goal]) -> Proof:
    """Return the proof that all that something holds is elsewhere: a file, or the members of an archive."""
    if "" in goals:
        path, member = goals[""]
        return InArchive(path, member) if member else SameBytes(path)
    return Spread(dict(goals))
