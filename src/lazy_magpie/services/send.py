"""Makes the plans of what goes to a target, and of what comes back from it."""

from __future__ import annotations

import datetime
import os
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

from lazy_magpie import find, targets
from lazy_magpie.catalogue import All, Catalogue, Condition
from lazy_magpie.change import Filesystem, Skip, contents
from lazy_magpie.collection import Collection
from lazy_magpie.config import Target
from lazy_magpie.config.sections.target import NEWEST
from lazy_magpie.errors import MagpieError, UsageError
from lazy_magpie.mirrors import entries_below
from lazy_magpie.model import FileStamp, Item, Kind, Plan, Step
from lazy_magpie.model.sends import Extract
from lazy_magpie.model.steps import Copy, Write, renumbered
from lazy_magpie.mounts import why_away
from lazy_magpie.paths import join, name_of, target_path
from lazy_magpie.planners.directory_steps import make_missing
from lazy_magpie.planners.sending.parcels import Package, Packer, Parcel
from lazy_magpie.planners.sending.plan import Sending, TargetView, plan_sending
from lazy_magpie.sending import Space, space_on
from lazy_magpie.streams import hold_the_same
from lazy_magpie.suggest import nearest
from lazy_magpie.targets import SentFile

_NEVER = (Kind.JUNK, Kind.UNFINISHED, Kind.UNKNOWN, Kind.COMPANION)
"""Kinds of things that go to no target."""
_LEAST = 0.001
"""What a thing counts for of which nobody said anything: it goes where there is room."""
_USUAL_UNIT = 32 << 10
"""The unit of a card that is only imagined."""


def target_named(collection: Collection, name: str) -> Target:
    """Return the target of a name. Raises UsageError for none."""
    found = collection.config.targets
    if name not in found:
        there_are = f"; there are {', '.join(found)}." if found else "; “magpie send --new NAME DIR” makes one."
        raise UsageError(f"There is no target “{name}”{nearest(name, found, there_are)}")
    return found[name]


def new_target(collection: Collection, name: str, folder: str, items: str, player: str) -> str:
    """Write the section of a new target into magpie.toml, and return its text; the folder gets an id to carry.

    Raises UsageError where the name is taken or the folder is not there, MagpieError where it can't be written to.
    """
    if name in collection.config.targets:
        raise UsageError(f"There is a target “{name}” already; edit [target.{name}] in magpie.toml.")
    top = os.path.abspath(folder)
    if not os.path.isdir(top):
        raise UsageError(f"There is no folder {folder}; plug the target in, or make the folder first.")
    if why := why_away(top):
        raise UsageError(f"{name} is away: {why}")
    if os.path.realpath(top) == os.path.realpath(collection.root):
        raise UsageError("The collection itself can't be a target.")
    lines = ["", f"# What “magpie send {name}” sends there.", f"[target.{name}]", f"folder = {_quoted(top)}"]
    lines += [f"player = {_quoted(player)}"] if player else []
    lines += [f"items = {_quoted(items)}" if items else "# items = 'kind is game not tag is finished'"]
    lines += ['# order = ["tag is favourite", "newest"]      what goes first if not all fits', ""]
    text = "\n".join(lines)
    try:
        targets.keep_target(collection, name, top)
        with (collection.root / "magpie.toml").open("a", encoding="utf-8") as file:
            file.write(text)
    except OSError as error:
        raise MagpieError(f"{folder} can't be made a target: {(error.strerror or '').lower()}.") from error
    return text


def _quoted(text: str) -> str:
    return "'" + text + "'" if "'" not in text and "\n" not in text else '"' + text.replace('"', '\\"') + '"'


@dataclass
class _OnTarget:
    """A target that is there: what is on it, looked at as far as it is asked for."""

    collection: Collection
    catalogue: Catalogue
    target: Target
    folder: str

    @cached_property
    def disk(self) -> Filesystem:
        return Filesystem(str(self.collection.root), {self.target.name: self.folder})

    @cached_property
    def sent(self) -> dict[str, SentFile]:
        return targets.manifest(self.folder)

    @cached_property
    def _stamps(self) -> dict[str, FileStamp | None]:
        return {}

    def stamp(self, path: str) -> FileStamp | None:
        if path not in self._stamps:
            status = self.disk.status(target_path(self.target.name, path))
            self._stamps[path] = status.stamp if status else None
        return self._stamps[path]

    @cached_property
    def strangers(self) -> dict[tuple[int, int], list[str]]:
        """The files there that magpie did not put under their names, by size and time."""
        found: dict[tuple[int, int], list[str]] = {}
        for path, size, mtime in files_on(self.folder):
            if path not in self.sent:
                found.setdefault((size, mtime), []).append(path)
        return found

    def other(self, size: int, mtime: int) -> str | None:
        found = self.strangers.get((size, mtime), [])
        return found[0] if len(found) == 1 else None

    def same(self, path: str, parcel: Parcel) -> bool:
        """Say whether a file there is what a parcel would put there, compared byte for byte."""
        there, by = target_path(self.target.name, path), parcel.by
        try:
            with self.disk.open_old(there) as file:
                if isinstance(by, Write):
                    return file.read() == by.text.encode("utf-8", "surrogateescape")
                if isinstance(by, Extract):
                    from lazy_magpie.change.archives import extract

                    return extract.has_member(self.disk, by.source, by.member, file)
                if not isinstance(by, Copy):
                    return False
                with self.disk.open_old(by.source) as own:
                    return hold_the_same(own, file)
        except (OSError, Skip):
            return False

    @cached_property
    def _by_stamp(self) -> dict[FileStamp, str]:
        """Where the collection's files lie, by how they look."""
        items = self.catalogue.items.ask(All())
        return {file.stamp: file.path for item in items if not item.root for file in item.files}

    def now_at(self, step: Step) -> str | None:
        """Return where the file is now that a step took; None where it is no more, or another."""
        if step.stamp is None:
            return step.source or "."
        status = self.disk.status(step.source)
        if status is not None and status.stamp == step.stamp:
            return step.source
        return self._by_stamp.get(step.stamp) if isinstance(step, Copy) else None


def files_on(folder: str) -> Iterator[tuple[str, int, int]]:
    """Yield path, size and time of all files on a target but magpie's own, folder by folder."""
    found, _ = entries_below(folder)
    for path in sorted(found, key=lambda path: (path.split("/")[:-1], path)):
        yield path, found[path].size, found[path].mtime


@dataclass(frozen=True)
class Wishes:
    """What is asked for: `chosen` are items that a person named instead of the target's own, which are only added.

    `places` are what paths and shelves are called; `refresh` brings up to date what a condition asks of lists and
    preferences. With `what_if`, the target is taken for one of so many bytes with nothing on it.
    """

    places: find.Places
    refresh: Callable[[Condition], Condition]
    chosen: Condition | None = None
    what_if: int = 0


def plan_send(collection: Collection, catalogue: Catalogue, target: Target, wishes: Wishes) -> Sending:
    """Plan what brings a target up to date. Raises UsageError where it is away."""
    packages, what_if = _tiers(collection, catalogue, target, wishes), wishes.what_if
    if what_if:
        unit = target.unit or _USUAL_UNIT
        view = TargetView(Space(unit, max(0, (what_if - target.leave) // unit), what_if // unit), {}, lambda path: None)
        disk = Filesystem(str(collection.root), {target.name: os.devnull})
        return _planned(target, packages, view, disk, only_adds=True)
    here = _OnTarget(collection, catalogue, target, targets.place_of(collection, target.name, target.folder))
    try:
        space = space_on(here.folder, unit=target.unit, space=target.space, leave=target.leave)
    except OSError as error:
        raise MagpieError(f"{here.folder} can't be looked at: {(error.strerror or '').lower()}.") from error
    view = TargetView(space, here.sent, here.stamp, here.other, here.same, here.now_at)
    sending = _planned(target, packages, view, here.disk, only_adds=wishes.chosen is not None)
    targets.note_sent(here.folder, sending.adopted, ())
    everything = {**here.sent, **{one.path: one for one in sending.adopted}}
    catalogue.sent.replace(target.name, ((one.path, one.size, one.mtime, one.step) for one in everything.values()))
    return sending


def _planned(target: Target, tiers: _Tiers, view: TargetView, disk: Filesystem, *, only_adds: bool) -> Sending:
    def value(item: Item) -> float:
        told = item.custom.get(target.by, item.facts.get(target.by))
        return max(_LEAST, float(told)) if isinstance(told, int | float) else _LEAST

    counted = value if target.by else (lambda item: 1.0)
    return plan_sending(target, tiers.packages, view, disk, in_order=tiers.in_order, value=counted, only_adds=only_adds)


@dataclass(frozen=True)
class _Tiers:
    """What may go, the first tier first; `in_order` says which tiers are taken as they stand."""

    packages: tuple[tuple[Package, ...], ...]
    in_order: tuple[bool, ...]


def _tiers(collection: Collection, catalogue: Catalogue, target: Target, wishes: Wishes) -> _Tiers:
    """Return the things that may go to a target in their tiers, each thing in the first that has it."""
    places, refresh = wishes.places, wishes.refresh
    base = wishes.chosen or refresh(find.parse(target.items, places))
    items = {item.id: item for item in catalogue.items.ask(base) if _goes(item, collection)}
    if target.player and target.player.firmware:
        items |= {item.id: item for item in _firmware(catalogue, items.values(), collection)}
    tiers: list[list[Item]] = []
    in_order: list[bool] = []
    for words in target.order:
        if words == (NEWEST,):
            tiers.append(sorted(items.values(), key=lambda item: (-_newest(item), item.path)))
            items = {}
        else:
            condition = refresh(find.parse(words, places))
            ids = {item.id for item in catalogue.items.ask(All((base, condition)))}
            tiers.append([item for id, item in items.items() if id in ids])
            items = {id: item for id, item in items.items() if id not in ids}
        in_order.append(words == (NEWEST,))
    disk = Filesystem(str(collection.root))
    config = collection.config

    def members(archive: str) -> Sequence[tuple[str, int]]:
        try:
            listed = contents(disk, archive)
        except (Skip, OSError):
            return ()
        return list(zip(listed.names, listed.sizes, strict=True))

    packer = Packer(target, config, members)

    return _Tiers(
        tuple(tuple(map(packer.package_of, tier)) for tier in [*tiers, list(items.values())]),
        (*in_order, False),
    )


def _goes(item: Item, collection: Collection) -> bool:
    return not (item.missing or item.kind in _NEVER or (not item.root and collection.config.is_left(item.path)))


def _newest(item: Item) -> int:
    return max((file.mtime for file in item.files), default=0)


def _firmware(catalogue: Catalogue, items: Iterable[Item], collection: Collection) -> Iterator[Item]:
    """Yield the firmware of the systems of items, and that of which nobody knows the system."""
    systems = {item.fields.get("system") for item in items if item.kind is Kind.GAME}
    for item in catalogue.items.ask(find.parse(("kind", "is", Kind.FIRMWARE.value))) if systems else ():
        if _goes(item, collection) and item.fields.get("system") in {*systems, None}:
            yield item


def plan_back(collection: Collection, catalogue: Catalogue, target: Target) -> Plan:
    """Plan bringing what the device, or another hand, put on a target into the inbox; what is here already stays there.

    Raises UsageError where the target is away.
    """
    here = _OnTarget(collection, catalogue, target, targets.place_of(collection, target.name, target.folder))
    known = {(name_of(file.path), file.size, file.mtime) for item in catalogue.items.ask(All()) for file in item.files}
    home = join(collection.config.inbox, f"{target.name} {datetime.date.today().isoformat()}")
    steps: list[Step] = []
    for path, size, mtime in files_on(here.folder):
        sent = here.sent.get(path)
        if (sent and (sent.size, sent.mtime) == (size, mtime)) or (name_of(path), size, mtime) in known:
            continue
        source, why = target_path(target.name, path), f"was put on {target.name} there"
        group = name_of(path.rpartition("/")[0]) or target.name
        steps.append(Copy(source=source, target=join(home, path), why=why, group=group, stamp=here.stamp(path)))
    made = make_missing(here.disk, (step.target for step in steps), target.name)
    return Plan("send", renumbered([*made, *steps]))


def sent_to(catalogue: Catalogue, target: Target) -> list[tuple[str, int, str]]:
    """Return path there, size and source of all that magpie put on a target, as it is known here."""
    return list(catalogue.sent.on(target.name))
