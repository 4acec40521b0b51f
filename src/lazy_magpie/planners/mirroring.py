"""Plans what brings a mirror up to date, and what takes back from it what is rotten or lost here."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import cache

from lazy_magpie.mirrors import Difference, Entry, MirrorState
from lazy_magpie.model import FileStamp, Plan, Step, Unmoved
from lazy_magpie.model.sends import Send
from lazy_magpie.model.steps import Copy, Hold, MakeFolder, Move, renumbered
from lazy_magpie.naming.safe import is_safe
from lazy_magpie.paths import above, name_of, parent, target_path
from lazy_magpie.planners.directory_index import Listing
from lazy_magpie.planners.directory_steps import make_missing
from lazy_magpie.planners.disk_view import DiskView
from lazy_magpie.planners.step_order import ordered_steps

_COPIED = (MirrorState.MISSING, MirrorState.DIFFERS, MirrorState.ROTTEN_THERE)
LARGEST_FAT = (1 << 32) - 1
"""Bytes that a file on FAT may have."""


@dataclass(frozen=True)
class MirrorSides:
    """The two sides as they were walked, and what the mirror's drive can't hold: `plain` names and no links.

    `largest` is the most bytes of a file there, 0 for any.
    """

    name: str
    here: Mapping[str, Entry]
    there: Mapping[str, Entry]
    plain: bool = False
    largest: int = 0

    def cannot_hold(self, path: str) -> str:
        """Say why the mirror's drive can't hold a file, "" where it can."""
        entry = self.here[path]
        if self.plain and entry.link is not None:
            return "the mirror's drive has no links"
        if self.plain and not all(is_safe(part, everywhere=True) for part in path.split("/")):
            return "the mirror's drive can't have such a name"
        if self.largest and entry.size > self.largest:
            return "it is too large for the mirror's drive"
        return ""


def plan_refresh(differences: Iterable[Difference], sides: MirrorSides, disk: DiskView, *, keep_extra: bool) -> Plan:
    """Plan what brings a mirror up to date: renames, copies; what is replaced or gone is held there.

    What is rotten here never goes there.
    """
    holds: list[Step] = []
    moves: list[Step] = []
    sends: list[Step] = []
    left: list[Unmoved] = []
    taken: set[str] = set()
    wanted = list(differences)
    moved = {one.other for one in wanted if one.state is MirrorState.MOVED}
    for one in wanted:
        whole = target_path(sides.name, one.path)
        if one.state is MirrorState.ROTTEN_HERE:
            left.append(Unmoved(one.path, "it is rotten here; --restore takes it back from the mirror", asks=True))
            continue
        if one.state is MirrorState.EXTRA:
            if keep_extra:
                left.append(Unmoved(whole, "only there, and kept"))
            else:
                holds.append(_hold(sides, one.path, "gone from the collection"))
            continue
        if why := sides.cannot_hold(one.path):
            left.append(Unmoved(one.path, why))
            continue
        if one.path in sides.there and one.path not in moved and one.path not in taken:
            taken.add(one.path)
            holds.append(_hold(sides, one.path, one.why or "another takes its place"))
        if one.state is MirrorState.MOVED:
            stamp = _stamp(sides.there[one.other])
            source = target_path(sides.name, one.other)
            moves.append(Move(source=source, target=whole, why="renamed here", group=_group(one.path), stamp=stamp))
        elif one.state in _COPIED:
            stamp = _stamp(sides.here[one.path])
            by = Copy(source=one.path, stamp=stamp)
            group, key = _group(one.path), one.path
            sends.append(Send(source=key, target=whole, why=one.why, group=group, stamp=stamp, by=by, key=key))
    home = target_path(sides.name)
    keep = {folder for step in sends for folder in above(step.target)}
    freed = ordered_steps([*holds, *moves], _names_on(disk, home), keep)
    made = {step.target for step in freed if isinstance(step, MakeFolder)}
    missing = make_missing(disk, (step.target for step in sends), known={*made, home, *above(home)})
    return Plan("mirror", renumbered([*freed, *missing, *sends]), unmoved=tuple(left))


def _names_on(disk: DiskView, home: str) -> Listing:
    """Return the listing of what is on a mirror; `home` stands for it, and what is above that in steps is no folder."""
    around = {parent(folder): frozenset([name_of(folder)]) for folder in (home, *above(home))}

    @cache
    def names(folder: str) -> frozenset[str]:
        if folder in around:
            return around[folder]
        status = disk.status(folder)
        return frozenset(disk.names(folder)) if status and status.is_folder else frozenset()

    return names


def _hold(sides: MirrorSides, path: str, why: str) -> Step:
    stamp = _stamp(sides.there[path])
    return Hold(source=target_path(sides.name, path), why=why, group=_group(path), stamp=stamp)


def _stamp(entry: Entry) -> FileStamp:
    return FileStamp(entry.size, entry.mtime, entry.inode)


def _group(path: str) -> str:
    return path.partition("/")[0] if "/" in path else "."


def plan_restore(
    paths: Iterable[str],
    sides: MirrorSides,
    good: Mapping[str, bytes],
    now: tuple[Mapping[str, bytes], Mapping[str, bytes]],
    disk: DiskView,
) -> Plan:
    """Plan taking files back from a mirror, where it has what is remembered of them (`good`) and the collection not.

    `now` are the contents as they were read this moment, here and there. Where both differ, nothing is done.
    """
    steps: list[Step] = []
    left: list[Unmoved] = []
    for number, path in enumerate(paths, start=1):
        remembered, here, there = good.get(path), now[0].get(path), now[1].get(path)
        entry = sides.there.get(path)
        if any(one is not None and one.link is not None for one in (entry, sides.here.get(path))):
            continue  # a link holds nothing
        if remembered is None:
            left.append(Unmoved(path, "nothing is remembered of what it held: “mirror --contents” reads it", asks=True))
        elif here == remembered:
            continue
        elif entry is None or there != remembered:
            left.append(Unmoved(path, "neither here nor there is it what it was: nothing is done", asks=True))
        else:
            group = _group(path)
            if own := sides.here.get(path):
                why = "its contents are rotten"
                steps.append(Hold(source=path, why=why, group=group, stamp=_stamp(own), bundle=number))
            source, why = target_path(sides.name, path), f"as {sides.name} has it"
            stamp = _stamp(entry)
            steps.append(Copy(source=source, target=path, why=why, group=group, stamp=stamp, bundle=number))
    made = make_missing(disk, (step.target for step in steps if step.target))
    return Plan("mirror", renumbered([*made, *steps]), unmoved=tuple(left))
