"""Holds a collection against its mirror: walks and reads both sides, and plans what puts either right."""

from __future__ import annotations

import datetime
import math
import os
import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from collections.abc import Collection as Collection_
from dataclasses import dataclass, field, replace
from functools import cached_property, partial

from lazy_magpie import find, targets
from lazy_magpie.catalogue import Catalogue
from lazy_magpie.catalogue.readings import Reading
from lazy_magpie.change import Filesystem
from lazy_magpie.collection import Collection
from lazy_magpie.config.sections.mirror import Mirror
from lazy_magpie.errors import UsageError
from lazy_magpie.mirrors import Contents, Difference, Entry, Side, WasRead, compare, entries_below, read_sides
from lazy_magpie.model import Plan
from lazy_magpie.mounts import kind_of
from lazy_magpie.paths import is_below, join, target_path, written
from lazy_magpie.planners.mirroring import LARGEST_FAT, MirrorSides, plan_refresh, plan_restore
from lazy_magpie.readers import decoding
from lazy_magpie.readers.worker_pool import ask_all
from lazy_magpie.streams import hold_the_same
from lazy_magpie.suggest import nearest

_BATCH = 200
_DECODING = 3600.0
"""Seconds that decoding one file may take."""
_PLAIN = frozenset(["vfat", "msdos", "exfat"])
"""File systems that have no links and refuse some names."""
_OWN = ""
"""The place of the collection's own readings."""


def mirror_named(collection: Collection, word: str) -> Mirror:
    """Return the mirror of a name, or the one that a folder is. Raises UsageError for neither."""
    known = collection.config.mirrors
    if word in known:
        return known[word]
    folder = os.path.abspath(word)
    for one in known.values():
        if one.folder == folder:
            return one
    if os.path.isdir(folder):
        return Mirror(os.path.basename(folder.rstrip("/")).lstrip(".") or "mirror", folder)
    there_are = f"; there are {', '.join(known)}." if known else "; name a folder, or a [mirror.NAME] of magpie.toml."
    raise UsageError(f"There is no mirror “{word}”{nearest(word, known, there_are)}")


@dataclass
class Mirroring:
    """A collection and its mirror, walked; `unread` says which folders could not be looked at, each with its reason."""

    collection: Collection
    catalogue: Catalogue
    mirror: Mirror
    tick: Callable[[int], None] = lambda count: None
    contents: Contents = field(default_factory=Contents)
    unread: list[tuple[str, str]] = field(default_factory=list)

    @cached_property
    def folder(self) -> str:
        """Where the mirror is now; one that is met for the first time becomes known. Raises UsageError for away."""
        if os.path.realpath(self.mirror.folder) == os.path.realpath(self.collection.root):
            raise UsageError("The collection can't be its own mirror.")
        return targets.place_of(self.collection, self.mirror.name, self.mirror.folder)

    @cached_property
    def all_here(self) -> dict[str, Entry]:
        """The files of the collection."""
        apart = [*_apart(self.collection), self.collection.relative(self.folder) or ""]
        found, unread = entries_below(str(self.collection.root), [place for place in apart if place], self.tick)
        self.unread += unread
        return found

    @cached_property
    def here(self) -> dict[str, Entry]:
        """The files of the collection that the mirror is to hold."""
        if not self.mirror.items:
            return self.all_here
        condition = find.parse(self.mirror.items)
        chosen = {file.path for item in self.catalogue.items.ask(condition) if not item.root for file in item.files}
        return {path: entry for path, entry in self.all_here.items() if path in chosen or _is_in(path, chosen)}

    @cached_property
    def there(self) -> dict[str, Entry]:
        """The files of the mirror."""
        found, unread = entries_below(self.folder, (), self.tick)
        self.unread += [(join(self.folder, path), why) for path, why in unread]
        return found

    @cached_property
    def remembered(self) -> tuple[dict[str, bytes], dict[str, bytes]]:
        """What files of either side held when they were read last, as long as their size and time are the same."""
        sides = ((_OWN, self.here), (self.mirror.name, self.there))
        found = [_valid(self.catalogue.readings.of(place), entries) for place, entries in sides]
        return found[0], found[1]

    def differences(self) -> list[Difference]:
        """Return what is not the same on both sides."""
        good_here, good_there = self.remembered
        contents = Contents(self.contents.here, self.contents.there, good_here, good_there)
        return list(compare(self.here, self.there, contents, partial(self._same, contents)))

    def _same(self, contents: Contents, path: str, old: str) -> bool:
        """Say whether a file here and one there hold the same: by what is known of them, else by reading both."""
        one = contents.here.get(path) or contents.remembered_here.get(path)
        other = contents.there.get(old) or contents.remembered_there.get(old)
        if one and other:
            return one == other
        try:
            with self.disk.open_old(path) as file, self.disk.open_old(target_path(self.mirror.name, old)) as twin:
                return hold_the_same(file, twin)
        except OSError:
            return False

    def read(self, since: float, tick: Callable[[int, str], None], stop: Callable[[], bool]) -> list[tuple[str, str]]:
        """Read both sides whole, what was not read after `since` (seconds; 0: all); return what can't be read, and why.

        What was read is kept as it goes, so that a run that is stopped goes on where it was.
        """
        own, other = self._unread(_OWN, self.here, since), self._unread(self.mirror.name, self.there, since)
        sides = [Side(_OWN, str(self.collection.root), own), Side(self.mirror.name, self.folder, other)]
        here, there, wrong = dict(self.remembered[0]), dict(self.remembered[1]), []
        done = 0
        for one in _kept_as_read(self.catalogue, sides, self.remembered, stop):
            done += (own if one.side == _OWN else other)[one.path].size
            tick(done, written(one.path))
            if one.why:
                wrong.append((one.path if one.side == _OWN else join(self.folder, one.path), one.why))
            else:
                (here if one.side == _OWN else there)[one.path] = one.digest
        self.contents = Contents(here, there)
        return wrong

    def _unread(self, place: str, entries: Mapping[str, Entry], since: float) -> dict[str, Entry]:
        known = self.catalogue.readings.of(place)
        return {
            path: entry
            for path, entry in entries.items()
            if entry.link is None and not (since and _was_read(known.get(path), entry, since))
        }

    @cached_property
    def sides(self) -> MirrorSides:
        """Both sides, with what the mirror's drive can't hold."""
        kind = kind_of(self.folder)
        largest = LARGEST_FAT if kind in ("vfat", "msdos") else 0
        return MirrorSides(self.mirror.name, self.here, self.there, kind in _PLAIN, largest)

    @cached_property
    def disk(self) -> Filesystem:
        """The disk of both sides, as steps name them."""
        return Filesystem(str(self.collection.root), {self.mirror.name: self.folder})

    def refresh(self, *, keep_extra: bool) -> Plan:
        """Plan what brings the mirror up to date."""
        return plan_refresh(self.differences(), self.sides, self.disk, keep_extra=keep_extra)

    def restore(self, paths: Collection_[str], tick: Callable[[int, str], None]) -> Plan:
        """Plan taking files back that are rotten or lost here; both sides are read. Raises UsageError for no path."""
        known, own = self.catalogue.readings.of(_OWN), self.all_here
        chosen = sorted(path for path in known.keys() | own.keys() if any(is_below(path, top) for top in paths))
        if not chosen:
            raise UsageError(
                "Nothing of this is known here, or was ever read; name files or folders of the collection."
            )
        now: tuple[dict[str, bytes], dict[str, bytes]] = ({}, {})
        both = ((_OWN, str(self.collection.root), own), (self.mirror.name, self.folder, self.there))
        sides = [
            Side(name, top, {path: all_of[path] for path in chosen if path in all_of}) for name, top, all_of in both
        ]
        for count, one in enumerate(read_sides(sides), start=1):
            tick(count, written(one.path))
            if not one.why:
                now[0 if one.side == _OWN else 1][one.path] = one.digest
        valid = [path for path in chosen if path in known and _holds(known[path], own.get(path))]
        good = {path: known[path].digest for path in valid}
        return plan_restore(chosen, replace(self.sides, here=own), good, now, self.disk)


def _holds(known: Reading, entry: Entry | None) -> bool:
    """Say whether a reading is about a file as it is now, or about one that is gone."""
    return entry is None or _is_of(known, entry)


def _was_read(known: Reading | None, entry: Entry, since: float) -> bool:
    return known is not None and known.at >= since and _is_of(known, entry)


def _is_of(known: Reading, entry: Entry) -> bool:
    return (known.size, known.mtime) == (entry.size, entry.mtime)


def _is_in(path: str, chosen: Collection_[str]) -> bool:
    """Say whether a path lies in a folder that is one file to the catalogue, as a disc is."""
    at = path.rfind("/")
    while at > 0:
        if path[:at] in chosen:
            return True
        at = path.rfind("/", 0, at)
    return False


def _valid(known: Mapping[str, Reading], entries: Mapping[str, Entry]) -> dict[str, bytes]:
    return {path: one.digest for path, one in known.items() if path in entries and _is_of(one, entries[path])}


def _kept_as_read(
    catalogue: Catalogue,
    sides: Sequence[Side],
    remembered: tuple[Mapping[str, bytes], Mapping[str, bytes]],
    stop: Callable[[], bool],
) -> Iterator[WasRead]:
    """Yield what is read, and keep each reading: but for one that differs from what is remembered, which may be rot."""
    good = {sides[0].name: remembered[0]} | {side.name: remembered[1] for side in sides[1:]}
    files = {side.name: side.files for side in sides}
    waiting: dict[str, list[Reading]] = {side.name: [] for side in sides}

    def keep() -> None:
        for name, some in waiting.items():
            catalogue.readings.put(name, some)
            some.clear()
        catalogue.commit()

    try:
        for one in read_sides(sides, stop):
            entry = files[one.side][one.path]
            if not one.why and good[one.side].get(one.path, one.digest) == one.digest:
                waiting[one.side].append(Reading(one.path, entry.size, entry.mtime, one.digest, one.at))
            if sum(map(len, waiting.values())) >= _BATCH:
                keep()
            yield one
    finally:
        keep()


@dataclass(frozen=True)
class Budget:
    """How much is read at the most: seconds, and bytes; 0 for any. With `decode`, what is read is decoded as well."""

    seconds: float = 0.0
    bytes: int = 0
    decode: bool = False


def check_contents(
    collection: Collection,
    catalogue: Catalogue,
    chosen: Collection_[str] | None,
    budget: Budget,
    tick: Callable[[int, str], None],
    stop: Callable[[], bool],
) -> tuple[list[tuple[str, str]], int]:
    """Read files of the collection, the longest unread first, within a budget; return (path, what is wrong), and how
    many were read.

    `chosen` are the files that are looked at, None for all that are known.
    """
    entries, wrong = entries_below(str(collection.root), _apart(collection))
    known = catalogue.readings.of(_OWN)
    wanted = [path for path, one in entries.items() if one.link is None and (chosen is None or path in chosen)]
    wanted.sort(key=lambda path: (known[path].at if path in known else 0, entries[path].inode))
    left, some = budget.bytes or math.inf, {}
    for path in wanted:
        if entries[path].size <= left:
            some[path] = entries[path]
            left -= entries[path].size
    began, done, count = time.monotonic(), 0, 0

    def ends() -> bool:
        return stop() or (budget.seconds > 0 and time.monotonic() - began > budget.seconds)

    good, read = _valid(known, entries), []
    for one in _kept_as_read(catalogue, [Side(_OWN, str(collection.root), some)], (good, {}), ends):
        count, done = count + 1, done + some[one.path].size
        read.append(one.path)
        tick(done, written(one.path))
        if one.why:
            wrong.append((one.path, f"can't be read: {one.why}"))
        elif good.get(one.path, one.digest) != one.digest:
            day = datetime.date.fromtimestamp(known[one.path].at)
            wrong.append((one.path, f"is rotten: its contents are not those of {day}, though its size and time are"))
    return [*wrong, *(_undecodable(collection, read, tick) if budget.decode else ())], count


def _undecodable(
    collection: Collection, paths: Sequence[str], tick: Callable[[int, str], None]
) -> Iterator[tuple[str, str]]:
    """Yield the files that can't be decoded whole, with the reason."""
    wanted = [path for path in paths if os.path.splitext(path)[1].lower() in decoding.ENDINGS]
    whole = [os.path.join(collection.root, path) for path in wanted]
    for count, (at, answer) in enumerate(ask_all(whole, decoding.__name__, seconds=_DECODING), start=1):
        tick(count, "decoding")
        if why := answer.get("wrong") or answer.get("unreadable"):
            yield wanted[at], f"can't be decoded whole: {why}"


def _apart(collection: Collection) -> list[str]:
    """Return the folders in the collection that are no part of it: targets and mirrors."""
    config = collection.config
    folders = [*(one.folder for one in config.targets.values()), *(one.folder for one in config.mirrors.values())]
    return [place for folder in folders if (place := collection.relative(folder))]
