"""Plans what puts a collection right by its reference lists: names, places, archives; unknown things to the inbox.

What reads comes first: packing, copying, unpacking, each to its name where that is free, else beside it. Then what
holds nothing that is not elsewhere now is held, with proof; what moves goes, in an order that works; at last what was
packed anew takes the place of the older archive.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace

from lazy_magpie.catalogue.sums import Place
from lazy_magpie.config import Config
from lazy_magpie.formatting import count_text
from lazy_magpie.identify.file_types import BY_ENDING, IMAGES
from lazy_magpie.lists.matched import FileMatch, Holding, MatchState, Package, Stranger
from lazy_magpie.model import Conflict, File, Kind, Plan, Step, Unmoved
from lazy_magpie.model.steps import (
    ArchivePart,
    Copy,
    DropFolder,
    Hold,
    Move,
    Pack,
    PackMember,
    Replace,
    Unpack,
    Write,
    renumbered,
)
from lazy_magpie.paths import above, join, name_of, parent, same_name, split_ending, written
from lazy_magpie.planners.by_list.sources import Goal, ListSources, Taken, proof_of
from lazy_magpie.planners.directory_index import Names
from lazy_magpie.planners.directory_steps import drop_emptied, make_missing
from lazy_magpie.planners.filing.companions import companion_targets
from lazy_magpie.planners.filing.placement_rules import IN_INBOX
from lazy_magpie.planners.step_order import ordered_steps

_ASIDE = ".magpie-list-"
_GAMES = (Kind.GAME, Kind.FIRMWARE, Kind.ARCHIVE)
"""Kinds that are no companions of a game of the same name: they may be listed themselves."""


class ListPlanner:
    """A plan in the making, for packages that are not as their lists have them, and strangers in the lists' folders."""

    def __init__(self, config: Config, sources: ListSources) -> None:
        self._config, self._sources = config, sources
        self._names = Names(sources.listing)
        self._taken = Taken(sources)
        self._claimed = {same_name(path): path for path in sources.settled.values()}
        self._read: list[Step] = []
        self._moves: list[Step] = []
        self._holds: list[Step] = []
        self._after: list[Step] = []
        self._folders: list[DropFolder] = []
        self._conflicts: list[Conflict] = []
        self._unmoved: list[Unmoved] = []
        self._leaving: set[str] = set()
        self._beside: set[int] = set()
        self._bundle = 0

    def plan(self, packages: Sequence[Package], strangers: Sequence[Stranger]) -> Plan:
        """Return the plan."""
        for package in packages:
            if package.rivals:
                self._rivals(package)
        wanted = [package for package in packages if not package.rivals and not package.is_right]
        self._leaving = set(self._will_leave(wanted, strangers))
        for package in wanted:
            self._bundle += 1
            inside = [match for match in package.files if package.is_inside(match)]
            loose = [match for match in package.files if not package.is_inside(match)]
            if inside:
                self._packed(replace(package, files=tuple(inside)))
            if loose:
                self._loose(replace(package, files=tuple(loose)))
        for stranger in strangers:
            self._stranger(stranger)
        for holding in list(self._taken.left_over()):
            if any(holding.path.startswith(f"{package.list.folder}/") for package in wanted):
                self._to_inbox(holding.place, "holds more than the lists have")
        return Plan("match", renumbered(self._ordered()), tuple(self._conflicts), tuple(self._unmoved))

    def _rivals(self, package: Package) -> None:
        name = package.target if package.packed else join(package.target, package.games[0].name)
        own = f"“{package.list.name}”, line {package.games[0].line},"
        others = " and ".join(map(written, package.rivals))
        why = f"{own} has other contents under this name than {others}; nothing is done for it"
        self._conflicts.append(Conflict(name, tuple(one.path for one in package.files if one.path), why))

    def _will_leave(self, packages: Sequence[Package], strangers: Sequence[Stranger]) -> Iterator[str]:
        """Yield the paths that are free once the plan is done: what stands there goes elsewhere."""
        for package in packages:
            for match in package.files:
                for holding in match.wanted.holdings[:1]:
                    if holding.ours and holding.file not in self._sources.settled:
                        yield same_name(holding.path)
        for stranger in strangers:
            if not self._config.is_left(stranger.place.path):
                yield same_name(stranger.place.path)

    # --- archives ----------------------------------------------------------------------------------------------------

    def _packed(self, package: Package) -> None:
        """Plan an archive: the one that there is gets its name, or a new one is packed."""
        found = [(match, best) for match in package.files if (best := self._best(match)) is not None]
        if not found or not self._claim(package.target, found[0][1].path):
            return
        if whole := self._whole(package, found):
            self._move(package, whole, package.target)
            for match, best in found:
                if best.file not in self._taken.moved:
                    self._taken.note(best, (package.target, match.wanted.name))
            return
        target = package.target
        is_own = any(best.path == target and best.member and best.ours for _, best in found)
        made = target if not self._names.existing(target) else self._aside(target)
        members = [self._member(match, best) for match, best in found]
        members += [PackMember(match.wanted.name) for match in package.files if not match.wanted.size]
        if is_own:
            members += self._kept(package)
        outside = any(best.place.root for _, best in found)
        count = count_text(len(members), "file")
        self._read.append(
            Pack(
                source=members[0].path,
                target=made,
                why=f"{count} in a zip, as the list has them",
                group=package.list.name,
                bundle=self._bundle,
                stamp=members[0].stamp,
                members=tuple(members),
                outside=outside,
            )
        )
        if made != target:
            self._finish(package, made, target, is_own=is_own)
        for match, best in found:
            if not (best.member and best.path == target):
                self._taken.note(best, (made, match.wanted.name), target)
        self._companions(found[0][1], target, package.list.name)

    def _finish(self, package: Package, made: str, target: str, *, is_own: bool) -> None:
        """Give what was packed beside its name: in the place of the older archive, or where another thing has left."""
        why = "packed anew; the older one is held" if is_own else "as the list has it"
        group, bundle = package.list.name, self._bundle
        old = self._sources.disk.status(target)
        if is_own and old is not None:
            self._after.append(
                Replace(source=made, target=target, why=why, group=group, bundle=bundle, stamp=old.stamp)
            )
            self._taken.moved |= {
                holding.file
                for match in package.files
                for holding in match.wanted.holdings[:1]
                if holding.path == target
            }
        else:
            self._displace(target, package)
            self._moves.append(Move(source=made, target=target, why=why, group=group, bundle=bundle))

    def _whole(self, package: Package, found: Sequence[tuple[FileMatch, Holding]]) -> Holding | None:
        """Return where the whole archive is that only needs its name and place, None where there is none."""
        best = found[0][1]
        named = all(one.file == best.file and one.member == match.wanted.name for match, one in found)
        if not best.member or not named or package.more:
            return None
        if split_ending(best.path)[1].lower() != split_ending(package.target)[1].lower():
            return None
        names = {match.wanted.name for match, _ in found} | {m.wanted.name for m in package.files if not m.wanted.size}
        return best if self._sources.members(best.file).keys() == names else None

    def _member(self, match: FileMatch, best: Holding) -> PackMember:
        return PackMember(match.wanted.name, self._path(best), best.place.stamp, best.member)

    def _kept(self, package: Package) -> Iterator[PackMember]:
        """Yield what is damaged and has no better copy: it stays in the archive that is packed anew."""
        status = self._sources.disk.status(package.target)
        for match in package.files:
            if match.state is MatchState.DAMAGED and not match.wanted.holdings and status is not None:
                yield PackMember(match.wanted.name, package.target, status.stamp, match.wanted.name)

    # --- loose files -------------------------------------------------------------------------------------------------

    def _loose(self, package: Package) -> None:
        """Plan loose files: each gets its name and place, by a move, a copy, or out of an archive."""
        members: dict[int, list[tuple[FileMatch, Holding]]] = {}
        is_there = any(match.wanted.holdings for match in package.files)
        for match in package.files:
            if match.state is MatchState.THERE:
                continue
            if not match.wanted.size:
                if is_there and self._claim(match.want, match.want) and not self._names.existing(match.want):
                    why = "empty, as the list has it"
                    group = package.list.name
                    self._read.append(Write(target=match.want, why=why, group=group, bundle=self._bundle, text=""))
                continue
            best = self._best(match)
            if best is None or not self._claim(match.want, best.path):
                continue
            if best.member:
                members.setdefault(best.file, []).append((match, best))
            else:
                self._move(package, best, match.want)
                self._taken.note(best, (match.want, ""))
        for some in members.values():
            self._unpack(package, some)

    def _unpack(self, package: Package, some: Sequence[tuple[FileMatch, Holding]]) -> None:
        """Plan files out of one archive: into a folder of their own, from which each gets its name."""
        seen: set[str] = set()
        again: list[tuple[FileMatch, Holding]] = []
        layout: dict[str, str] = {}
        stage = self._aside(some[0][0].want)
        for number, (match, best) in enumerate(some):
            if best.member in seen:
                again.append((match, best))
                continue
            seen.add(best.member)
            own = name_of(match.want)
            layout[best.member] = own if own not in layout.values() else f"{number}/{own}"
            why = f"out of {written(name_of(best.path))}"
            self._displace(match.want, package)
            source = join(stage, layout[best.member])
            group = package.list.name
            self._moves.append(Move(source=source, target=match.want, why=why, group=group, bundle=self._bundle))
            self._taken.note(best, (source, ""))
        first = some[0][1]
        path = self._path(first)
        self._read.append(
            Unpack(
                source=path,
                target=stage,
                why="what the list has of it",
                group=package.list.name,
                bundle=self._bundle,
                stamp=first.place.stamp,
                parts=(ArchivePart(path, first.place.stamp, layout),),
                bytes=sum(max(match.wanted.size, 0) for match, _ in some),
                outside=bool(first.place.root),
            )
        )
        made = sorted({join(stage, parent(path)) if "/" in path else stage for path in layout.values()} | {stage})
        for folder in reversed(made):
            group = package.list.name
            self._folders.append(DropFolder(source=folder, why="left empty", group=group, bundle=self._bundle))
        if again:
            self._unpack(package, again)

    # --- what both share ---------------------------------------------------------------------------------------------

    def _best(self, match: FileMatch) -> Holding | None:
        """Return the best place from which a content can be taken now."""
        return next((one for one in match.wanted.holdings if self._sources.named(one.place) is not None), None)

    def _path(self, holding: Holding) -> str:
        path = self._sources.named(holding.place)
        assert path is not None
        return path

    def _move(self, package: Package, best: Holding, target: str) -> None:
        """Plan that a whole file gets its name: by a move where it may go from where it is, else by a copy."""
        group, stamp = package.list.name, best.place.stamp
        source = self._path(best)
        may_go = best.ours and best.file not in self._sources.settled and best.file not in self._taken.moved
        if may_go:
            self._displace(target, package)
            self._taken.moved.add(best.file)
            in_folder = parent(source) == parent(target)
            why = "named as the list has it" if in_folder else f"its place by the list “{package.list.name}”"
            self._moves.append(
                Move(source=source, target=target, why=why, group=group, bundle=self._bundle, stamp=stamp)
            )
            self._companions(best, target, group)
            return
        made = target if not self._names.existing(target) else self._aside(target)
        why = f"copied from {written(parent(source)) or 'the top'}, as the list has it"
        self._read.append(
            Copy(
                source=source,
                target=made,
                why=why,
                group=group,
                bundle=self._bundle,
                stamp=stamp,
                outside=bool(best.place.root),
            )
        )
        if made != target:
            self._displace(target, package)
            self._moves.append(Move(source=made, target=target, why=why, group=group, bundle=self._bundle))

    def _companions(self, best: Holding, target: str, group: str) -> None:
        """Let go along what belongs to a game or is called as it is: pictures, saved states; where its name is free."""
        if best.file in self._beside or not best.ours or split_ending(best.path)[0] == split_ending(target)[0]:
            return
        self._beside.add(best.file)
        own = {file.path: goal for file, goal in self._of_item(best, target)}
        for name in self._names.with_stem(parent(best.path), split_ending(name_of(best.path))[0]):
            ending = split_ending(name)[1]
            if BY_ENDING.get(ending.lower()) not in _GAMES and ending.lower() not in IMAGES:
                own.setdefault(join(parent(best.path), name), split_ending(target)[0] + ending)
        for path, goal in own.items():
            status = self._sources.disk.status(path)
            is_free = same_name(goal) != same_name(path) and not self._names.existing(goal)
            if path != best.path and status is not None and is_free and self._claim(goal, ""):
                why = "belongs to the game"
                self._moves.append(Move(source=path, target=goal, why=why, group=group, stamp=status.stamp))

    def _of_item(self, best: Holding, target: str) -> Iterator[tuple[File, str]]:
        """Yield the companions of a game that lie beside it, each with its new path."""
        if best.place.item:
            own = [file for file in self._sources.beside(best.place.item) if parent(file.path) == parent(best.path)]
            yield from companion_targets(best.path, split_ending(target)[0], own, own_folder=True)

    def _displace(self, target: str, package: Package) -> None:
        """Hold what stands under a name and is not what the list has, unless it leaves by itself."""
        there = self._names.existing(target)
        if not there or same_name(there) in self._leaving:
            return
        status = self._sources.disk.status(there)
        if status is not None:
            why = "not what the list has under this name"
            self._holds.append(
                Hold(source=there, why=why, group=package.list.name, bundle=self._bundle, stamp=status.stamp)
            )

    def _aside(self, target: str) -> str:
        return join(parent(target), f"{_ASIDE}{self._bundle}-{len(self._read)}{split_ending(target)[1]}")

    def _claim(self, target: str, source: str) -> bool:
        """Claim a name for what comes from `source`; note the conflict where it is taken."""
        key = same_name(target)
        if key in self._claimed:
            if source:
                why = "two listed files want this name"
                self._conflicts.append(Conflict(target, (source, self._claimed[key]), why))
            return False
        self._claimed[key] = source
        return True

    # --- strangers ---------------------------------------------------------------------------------------------------

    def _stranger(self, stranger: Stranger) -> None:
        place = stranger.place
        if self._config.is_left(place.path):
            return
        goals: dict[str, Goal] = dict(stranger.twins)
        if goals:
            why = f"a second copy: {written(name_of(next(iter(goals.values()))[0]))} has all of it"
            self._holds.append(
                Hold(source=place.path, why=why, group="copies", stamp=place.stamp, proofs=(proof_of(goals),))
            )
            return
        self._to_inbox(place, "no list has it")

    def _to_inbox(self, place: Place, why: str) -> None:
        path, target = place.path, join(self._config.inbox, place.path)
        if self._names.existing(target) or not self._claim(target, path):
            self._conflicts.append(Conflict(target, (path,), "the inbox has something of this name already"))
            return
        self._moves.append(
            Move(source=path, target=target, why=why, group="unknown", stamp=place.stamp, filing=IN_INBOX)
        )

    # --- order -------------------------------------------------------------------------------------------------------

    def _ordered(self) -> list[Step]:
        """Return all steps in an order that works, with the folders that they need made before, and emptied after."""
        disk = self._sources.disk
        moves = [one for one in ordered_steps(self._moves, self._sources.listing) if isinstance(one, Move)]
        held = list(self._taken.holds(lambda _: "used up"))
        holds: list[Step] = [*self._holds, *held]
        coming = [step.target for step in (*self._read, *moves) if step.target]
        made = make_missing(disk, [path for path in coming if not path.startswith("..")])
        stages = {step.source for step in self._folders}
        gone = [step.source for step in (*moves, *holds) if parent(step.source) not in stages]
        keep = {same_name(folder) for folder in self._kept_folders()}
        emptied = [
            step
            for step in drop_emptied(disk, gone, [*coming, *keep], "")
            if same_name(step.source) not in keep and not step.source.startswith("..")
        ]
        return [*made, *self._read, *holds, *moves, *self._after, *self._folders, *emptied]

    def _kept_folders(self) -> Iterator[str]:
        for folder in (*(shelf.folder for shelf in self._config.shelves), self._config.inbox):
            yield folder
            yield from above(folder)
