"""Plans what a target needs: what is new goes there, what is not wanted comes off, what has moved is renamed."""

from __future__ import annotations

import math
from collections import Counter, defaultdict
from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

from lazy_magpie.config import Target
from lazy_magpie.model import FileStamp, Item, Plan, Step, Unmoved
from lazy_magpie.model.sends import Extract, Retract, Send
from lazy_magpie.model.steps import Convert, Hold, Move, Pack, Write, renumbered
from lazy_magpie.paths import above, name_of, parent, target_path, written
from lazy_magpie.planners.directory_steps import drop_emptied, make_missing
from lazy_magpie.planners.disk_view import DiskView
from lazy_magpie.planners.sending.parcels import Package, Parcel
from lazy_magpie.sending import Candidate, Names, Room, Space, fit, units_of_folders
from lazy_magpie.targets import LINE, SentFile

_WHY = {Extract: "unpacked", Pack: "packed", Convert: "converted", Write: "a play list"}
_TRIES = 8
"""How often what fits is worked out anew, as fewer things need fewer folders."""


@dataclass(frozen=True)
class TargetView:
    """What is on a target: its space, what magpie put there, how a file there looks (None: not there).

    `others` finds a file there that magpie did not put under that name, by its size and time. `same` says whether
    what a parcel would put there is at a path there already. `now_at` returns where in the collection the file lies
    that a step copied, which may have moved since; None where it is no more.
    """

    space: Space
    sent: Mapping[str, SentFile]
    stamp: Callable[[str], FileStamp | None]
    others: Callable[[int, int], str | None] = lambda size, mtime: None
    same: Callable[[str, Parcel], bool] = lambda path, parcel: False
    now_at: Callable[[Step], str | None] = lambda step: step.source


@dataclass(frozen=True)
class LeftOut:
    """A thing that does not go, its bytes, and why."""

    name: str
    path: str
    size: int
    why: str


@dataclass(frozen=True)
class Sending:
    """A plan for a target, and how it fits: units that will be taken of those there are for sending.

    `adopted` are files that were there already, and are what would be sent.
    """

    plan: Plan
    space: Space
    taken: int
    room: int
    things: int
    gap: float
    left_out: tuple[LeftOut, ...] = ()
    adopted: tuple[SentFile, ...] = ()


class _Planner:
    """A plan in the making."""

    def __init__(self, target: Target, view: TargetView) -> None:
        self._target, self._view = target, view
        self._bundles = 0
        self._stays: set[str] = set()
        self._by_stamp: dict[tuple[int, int], list[SentFile]] = defaultdict(list)
        for sent in view.sent.values():
            if stamp := sent.step.by.stamp:
                self._by_stamp[stamp.size, stamp.mtime].append(sent)
        self.sends: list[Send] = []
        self.moves: list[Step] = []
        self.gone: list[Step] = []
        self.unmoved: list[Unmoved] = []
        self.adopted: list[SentFile] = []

    def put(self, package: Package, placed: Iterable[tuple[Parcel, str]]) -> None:
        """Plan the files of a thing that goes: what is there as it was sent stays, what was renamed is renamed."""
        self._bundles += 1
        for parcel, path in placed:
            there, sent = self._view.stamp(path), self._view.sent.get(path)
            as_sent = sent is not None and sent.is_as_sent(there)
            if sent and as_sent and _is_same(sent.step.by, parcel.by):
                self._stays.add(path)
            elif there is None and (moved := self._moved(parcel)):
                self._stays.add(moved)
                self._rename(moved, path)
            elif there is None or as_sent:
                self.sends.append(self._send(package, parcel, path))
            else:
                self._stays.add(path)
                if self._view.same(path, parcel):
                    step = self._send(package, parcel, path)
                    self.adopted.append(SentFile(path, there.size, there.mtime, step))
                else:
                    why = f"another file is at {written(path)} on {self._target.name}: it stays there"
                    self.unmoved.append(Unmoved(package.item.path, why))

    def _send(self, package: Package, parcel: Parcel, path: str) -> Send:
        by = parcel.by
        source = by.source or package.item.path
        return Send(
            source=source,
            target=target_path(self._target.name, path),
            why=_WHY.get(type(by), ""),
            group=parent(path) or ".",
            bundle=self._bundles,
            stamp=by.stamp,
            by=by,
            key=parcel.key,
        )

    def _rename(self, old: str, new: str) -> None:
        source, target = target_path(self._target.name, old), target_path(self._target.name, new)
        why, stamp = "it has another name now", self._view.stamp(old)
        self.moves.append(Move(source=source, target=target, why=why, group=parent(new) or ".", stamp=stamp))

    def _moved(self, parcel: Parcel) -> str | None:
        """Return where lies now, under another name, what a parcel would put there: by us, or by another hand."""
        stamp = parcel.by.stamp
        for sent in self._by_stamp.get((stamp.size, stamp.mtime), ()) if stamp else ():
            if sent.path in self._stays or not _is_same(sent.step.by, parcel.by) or not _is_one(sent, parcel):
                continue
            there = self._view.stamp(sent.path)
            if sent.is_as_sent(there):
                return sent.path
            other = self._view.others(sent.size, sent.mtime) if there is None else None
            if other and other not in self._stays:
                return other
        return None

    def take_off(self) -> None:
        """Plan taking off what magpie put there and is wanted no more; what was changed there stays, and is said."""
        coming = {step.target for step in self.sends}
        for path, sent in self._view.sent.items():
            there, whole = self._view.stamp(path), target_path(self._target.name, path)
            if path in self._stays or there is None:
                continue
            if not sent.is_as_sent(there):
                self.unmoved.append(Unmoved(whole, "it was changed there: it stays"))
            elif whole in coming:
                self.gone.append(Hold(source=whole, why="a newer one comes", group=parent(path) or ".", stamp=there))
            elif source := self._view.now_at(sent.step.by):
                by = replace(sent.step.by, source=source)
                again = replace(sent.step, target=whole, by=by, source=source)
                group = parent(path) or "."
                self.gone.append(Retract(source=whole, why="not wanted there", group=group, stamp=there, again=again))
            else:
                self.unmoved.append(Unmoved(whole, "the collection has it no more: it stays"))

    def ordered(self, disk: DiskView) -> tuple[Step, ...]:
        """Return the steps: what comes off first, then what is renamed, then what comes, with the folders around."""
        home = target_path(self._target.name)
        coming = [step.target for step in (*self.moves, *self.sends)]
        gone = [step.source for step in (*self.gone, *self.moves)]
        emptied = drop_emptied(disk, gone, coming, home, self._target.name)
        made = make_missing(disk, coming, self._target.name, known=[home, *above(home)])
        return renumbered([*self.gone, *made, *self.moves, *self.sends, *emptied])


def plan_sending(
    target: Target,
    tiers: Sequence[Sequence[Package]],
    view: TargetView,
    disk: DiskView,
    *,
    in_order: Sequence[bool] = (),
    value: Callable[[Item], float] = lambda item: 1.0,
    only_adds: bool = False,
) -> Sending:
    """Plan what brings a target to what it should hold: the things of `tiers`, the first of them first.

    `in_order` says which tiers are taken one after the other as they stand. `value` is what a thing counts for; with
    `only_adds` nothing comes off.
    """
    going = [[one for one in tier if not one.why] for tier in tiers]
    names = Names(_known_names(going, view.sent), short=target.short, split=target.split)
    placed = {
        id(one): [(parcel, names.path(parcel.key, parcel.path)) for parcel in one.parcels]
        for tier in going
        for one in tier
    }
    ours = [one for path, one in view.sent.items() if one.is_as_sent(view.stamp(path))]
    room = _room(view.space, ours)
    chosen, taken, gap = _chosen(going, placed, room, in_order, value)
    planner = _Planner(target, view)
    left = [LeftOut(one.name, one.item.path, one.item.size, one.why) for tier in tiers for one in tier if one.why]
    for package in (one for tier in going for one in tier):
        if id(package) in chosen:
            planner.put(package, placed[id(package)])
        else:
            left.append(LeftOut(package.name, package.item.path, package.size, "there is no room for it"))
    if not only_adds:
        planner.take_off()
    plan = Plan("send", planner.ordered(disk), unmoved=tuple(planner.unmoved))
    return Sending(plan, view.space, taken, room.free, len(chosen), gap, tuple(left), tuple(planner.adopted))


def _room(space: Space, ours: Sequence[SentFile]) -> Space:
    """Return the space that is free where what magpie put there counts as free, too: with its folders, a unit each."""
    folders = {folder for one in ours for folder in above(one.path)}
    units = sum(space.units(one.size) for one in ours) + len(folders)
    names = None if space.names is None else space.names + len(ours) + len(folders)
    return Space(space.unit, space.free + units, space.all, names)


def _known_names(tiers: Iterable[Sequence[Package]], sent: Mapping[str, SentFile]) -> dict[str, str]:
    """Return the paths that parcels have on a target, by their keys; also of files that have another name here now."""
    parcels = {parcel.key: parcel for tier in tiers for one in tier for parcel in one.parcels}
    found = {one.step.key: path for path, one in sent.items() if one.step.key in parcels}
    left = {one.step.stamp: path for path, one in sent.items() if one.step.key not in parcels and one.step.stamp}
    for key, parcel in parcels.items():
        if key not in found and parcel.by.stamp and (path := left.pop(parcel.by.stamp, None)):
            found[key] = path
    return {**{path: path for path in left.values()}, **found}


def _chosen(
    tiers: Sequence[Sequence[Package]],
    placed: Mapping[int, list[tuple[Parcel, str]]],
    space: Space,
    in_order: Sequence[bool],
    value: Callable[[Item], float],
) -> tuple[set[int], int, float]:
    """Return which packages go, by their ids, the units that they take with their folders, and the gap to the best.

    Folders, and the lines of the manifest, take room as well: first as if all went; then, where not all does, as little
    as those that go need, found by halving.
    """
    packages = [one for tier in tiers for one in tier]
    places = {id(one): at for at, one in enumerate(packages)}
    paths = [[path for _, path in placed[id(one)]] for one in packages]
    owners = Counter(folder for some in paths for folder in {folder for path in some for folder in above(path)})
    shared = sum(count > 1 for count in owners.values())

    def candidate(package: Package) -> Candidate:
        at = places[id(package)]
        own = {folder for path in paths[at] for folder in above(path) if owners[folder] == 1}
        size = sum(space.units(parcel.size) for parcel in package.parcels)
        return Candidate(size + len(own), value(package.item), len(paths[at]) + len(own))

    numbered = [[(places[id(one)], candidate(one)) for one in tier] for tier in tiers]
    candidates = [one for tier in numbered for _, one in tier]
    names = math.inf if space.names is None else max(0, space.names - shared)

    def around(chosen: Collection[int]) -> int:
        """Return the units of folders, and of the manifest, that are in no candidate."""
        going = [path for at in chosen for path in paths[at]]
        own = sum(candidates[at].names - len(paths[at]) for at in chosen)
        return units_of_folders(going, space.unit) - own + space.units(len(going) * LINE)

    most = around(range(len(packages)))
    best = fit(numbered, Room(max(0, space.free - most), names), in_order=in_order)
    least = around(best.chosen) if len(best.chosen) < len(packages) else most
    for _ in range(_TRIES):
        if least >= most:
            break
        middle = (least + most) // 2
        found = fit(numbered, Room(max(0, space.free - middle), names), in_order=in_order)
        if sum(candidates[at].size for at in found.chosen) + around(found.chosen) <= space.free:
            best, most = found, middle
        else:
            least = middle + 1
    taken = sum(candidates[at].size for at in best.chosen) + around(best.chosen)
    if taken > space.free:
        return set(), 0, 0.0
    return {id(packages[at]) for at in best.chosen}, taken, best.gap


def _is_same(one: Step, other: Step) -> bool:
    """Say whether two steps put the same there: from a file of one size and time, in one way."""
    if type(one) is not type(other):
        return False
    if isinstance(one, Write) and isinstance(other, Write):
        return one.text == other.text
    if isinstance(one, Extract) and isinstance(other, Extract) and one.member != other.member:
        return False
    return one.stamp is not None and other.stamp is not None and one.stamp[:2] == other.stamp[:2]


def _is_one(sent: SentFile, parcel: Parcel) -> bool:
    """Say whether both are of one file, by its inode too where that is known, or are called alike."""
    one, other = sent.step.by.stamp, parcel.by.stamp
    same_file = one is not None and other is not None and one.inode == other.inode
    return same_file or name_of(sent.step.by.source) == name_of(parcel.by.source)
