"""What a person has chosen to work on by hand, files with what goes along or folders, and how its moves are planned."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field

from lazy_magpie.config import Config
from lazy_magpie.model import Conflict, File, FileStamp, Item, Plan, Step, Unmoved
from lazy_magpie.model.steps import FilingRule, Move
from lazy_magpie.paths import above, name_of, parent, same_name, split_ending, written
from lazy_magpie.planners.custom_fields import values_of
from lazy_magpie.planners.directory_index import Listing, Names
from lazy_magpie.planners.filing.companions import behind_stem
from lazy_magpie.planners.step_order import ordered_steps


@dataclass(frozen=True, slots=True)
class Chosen:
    """A file or folder to work on. `item` is what it is the main file of, or lies in the folder, None if nothing."""

    path: str
    stamp: FileStamp | None
    is_folder: bool = False
    item: Item | None = None
    beside: tuple[File, ...] = ()

    def values(self, config: Config) -> Mapping[str, object]:
        """Return what a template may name of it."""
        stem, ending = split_ending(name_of(self.path))
        known = values_of(self.item, config.fields) if self.item else {}
        return {**known, "name": stem, "ending": ending[1:], "folder": name_of(parent(self.path))}

    def along(self) -> Iterable[tuple[File, str]]:
        """Yield the companions that are called as it is, each with what stands behind its name."""
        stem, _ = split_ending(name_of(self.path))
        for file in self.beside:
            if parent(file.path) == parent(self.path) and (rest := behind_stem(stem, name_of(file.path))):
                yield file, rest


def chosen_of(item: Item) -> list[Chosen]:
    """Return the main files of an item, each with the companions that go along with it."""
    beside = tuple(file for file in item.files if file.role != "main")
    mains = [file for file in item.files if file.role == "main"]
    if len(mains) == 1:
        return [Chosen(mains[0].path, mains[0].stamp, item=item, beside=beside)]
    stems = [split_ending(name_of(file.path))[0] for file in mains]
    own: dict[int, list[File]] = {}
    for one in beside:
        fitting = (at for at, stem in enumerate(stems) if behind_stem(stem, name_of(one.path)))
        own.setdefault(next(fitting, 0), []).append(one)
    return [Chosen(file.path, file.stamp, item=item, beside=tuple(own.get(at, ()))) for at, file in enumerate(mains)]


Wanted = tuple[str, FileStamp | None, str, FilingRule | None, int]
"""A move that is wished for: source, how that looks, target, its filing rule, the item that it stands or falls with."""


@dataclass
class HandDraft:
    """Moves in the making: each wish is looked at against all others and the disk when the plan is made."""

    command: str
    why: str
    listing: Listing
    keep: Sequence[str] = ()
    conflict_why: Callable[[Sequence[str]], str] = lambda paths: "each would have this name"
    wanted: dict[str, Wanted] = field(default_factory=dict)
    unmoved: list[Unmoved] = field(default_factory=list)
    group_of: Callable[[str, str], str] = lambda source, target: parent(target) or "."
    spelled: Callable[[str], str] = lambda path: path

    def want(
        self,
        source: str,
        target: str,
        stamp: FileStamp | None,
        *,
        filing: FilingRule | None = None,
        item: int = 0,
    ) -> None:
        """Wish that something goes to a path; the first wish for a source counts."""
        self.wanted.setdefault(source, (source, stamp, target, filing, item))

    def plan(self) -> Plan:
        """Return the plan of all wishes that can be met; the others are conflicts."""
        names = Names(self.listing)
        self._drop_inner()
        conflicts = self._conflicts(names)
        steps: list[Step] = [
            Move(
                source=source,
                target=target,
                why=self.why,
                group=self.group_of(source, target),
                item=item,
                stamp=stamp,
                filing=filing,
            )
            for source, stamp, target, filing, item in self.wanted.values()
            if source != target
        ]
        return Plan(self.command, ordered_steps(steps, self.listing, self.keep), tuple(conflicts), tuple(self.unmoved))

    def _drop_inner(self) -> None:
        """Take out what lies in a folder that goes as a whole."""
        folders = {source for source, (_, stamp, *_) in self.wanted.items() if stamp is not None and stamp.is_folder}
        for source in [one for one in self.wanted if folders and not folders.isdisjoint(above(one))]:
            del self.wanted[source]

    def _drop(self, sources: Iterable[str]) -> None:
        """Take out wishes, with those of the same items: what belongs together stays together."""
        gone = set(sources)
        items = {self.wanted[source][-1] for source in gone} - {0}
        gone |= {source for source, (*_, item) in self.wanted.items() if item in items}
        for source in gone:
            del self.wanted[source]

    def _conflicts(self, names: Names) -> list[Conflict]:
        """Take out the wishes that want one name, or the name of what stays; return them as conflicts."""
        claims: dict[str, list[str]] = {}
        for source, _, target, *_ in self.wanted.values():
            claims.setdefault(same_name(target), []).append(source)
        fights = [sources for sources in claims.values() if len(sources) > 1]
        found = [Conflict(self.wanted[one[0]][2], tuple(one), self.conflict_why(one)) for one in fights]
        self._drop(source for sources in fights for source in sources)
        while True:  # what can't leave blocks those that want its name
            leaving = {same_name(source) for source, (_, _, target, *_) in self.wanted.items() if source != target}
            blocked = [
                (source, target, occupant)
                for source, _, target, *_ in self.wanted.values()
                if source != target
                and (occupant := names.existing(target))
                and same_name(occupant) != same_name(source)
                and same_name(occupant) not in leaving
            ]
            if not blocked:
                return found
            for source, target, occupant in blocked:
                found.append(Conflict(target, (source, occupant), f"“{written(occupant)}” is there already"))
            self._drop(source for source, _, _ in blocked)
