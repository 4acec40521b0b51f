"""The steps that bring files of a heap to where they belong: archives unpacked into place, loose files moved or copied.

All archives that go into one new folder are unpacked in one step, each of their files at its own place there; into a
folder that is there already they are unpacked beside it and moved in. What lies outside the root is only read.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from lazy_magpie.change import Disk
from lazy_magpie.config import Intake
from lazy_magpie.intake import Piece, Source
from lazy_magpie.model import Do, Step
from lazy_magpie.paths import join, name_of, parent, same_name, written
from lazy_magpie.plans.emptied import made
from lazy_magpie.units import count_text

_STAGE = ".magpie-intake-"
HOLD, HOLD_ALL = "hold", "hold all"
"""What becomes of an archive that was unpacked: held where all of it was, or where but a system's files were not."""


@dataclass
class Bringing:
    """Where pieces go: by folder, each with its name below it; and archives by what becomes of their members.

    `layouts` has of each archive where every member stands, below which folder: what it is held against when it goes;
    `listings` what tells it from others, `rules` of each place by which rule something goes there.
    """

    homes: dict[str, dict[str, Piece]] = field(default_factory=lambda: defaultdict(dict))
    groups: dict[str, str] = field(default_factory=dict)
    numbers: dict[str, int] = field(default_factory=dict)
    layouts: dict[Source, dict[str, dict[str, str]]] = field(default_factory=lambda: defaultdict(dict))
    listings: dict[Source, str] = field(default_factory=dict)
    rules: dict[str, dict[str, Any]] = field(default_factory=dict)

    def bring(self, home: str, placed: Mapping[str, Piece], group: str, rule: dict[str, Any] | None = None) -> None:
        """Let pieces go to where `placed` has them below the folder `home`, by a `rule` (`plans.placed`)."""
        self.homes[home].update(placed)
        self.rules |= dict.fromkeys((join(home, rest) for rest in placed), rule or {})
        self.numbers.setdefault(home, -len(self.homes))
        self.groups[home] = group
        for source, layout in _by_source(placed).items():
            self.layouts[source].setdefault(home, {}).update(layout)

    def place_of(self, key: str) -> tuple[str, str] | None:
        """Return the folder and the path below it of what goes to a place of this name, in whatever case."""
        for home, placed in self.homes.items():
            if key.startswith(f"{same_name(home)}/"):
                for rest in placed:
                    if same_name(join(home, rest)) == key:
                        return home, rest
        return None

    def withdraw(self, home: str, rest: str) -> Piece | None:
        """Let what was to go to a place stay where it is; return it, None where nothing was to go there."""
        piece = self.homes[home].pop(rest, None)
        if piece and piece.member:
            self.layouts[piece.source][home].pop(piece.member, None)
        return piece

    def number_of(self, home: str) -> int:
        """Return the number that ties the steps for a folder together."""
        return self.numbers.get(home, 0)

    def stands(self, home: str, rest: str, piece: Piece) -> None:
        """Note that a piece, or one with the same contents, stands at `rest` below `home`."""
        if piece.member:
            self.layouts[piece.source].setdefault(home, {})[piece.member] = rest


def steps_for(bringing: Bringing, disk: Disk, take: str, known: set[str]) -> Iterator[Step]:
    """Yield the steps for all that is to be brought in; `take` says whether loose files are moved or copied.

    `known` are the folders that are made by then; those that these steps make are put in. Steps that hang on one
    another have one number below 0 for their item, so that what goes with a step that can't be done stays too.
    """
    for home, placed in bringing.homes.items():
        number = -bringing.numbers[home]
        group = bringing.groups[home]
        packed = {rest: piece for rest, piece in placed.items() if piece.member}
        loose = {rest: piece for rest, piece in placed.items() if not piece.member}
        steps: list[Step] = []
        if packed:
            steps += _unpacked(disk, bringing, home, packed, group, number, known)
        folders = made(disk, (join(home, rest) for rest in loose), group, known)
        known.update(step.target for step in folders)
        steps += folders
        steps += (
            by(_taken(target, piece, group, take), bringing.rules[target])
            for target, piece in ((join(home, rest), piece) for rest, piece in loose.items())
        )
        yield from steps


def _unpacked(
    disk: Disk, bringing: Bringing, home: str, packed: Mapping[str, Piece], group: str, number: int, known: set[str]
) -> Iterator[Step]:
    """Yield the steps that unpack the members of archives into `home`."""
    there = disk.status(home) is not None or home in known
    target = join(parent(home), f"{_STAGE}{number}") if there else home
    folders = made(disk, [target], group, known)
    known.update(step.target for step in folders)
    known.add(home)
    yield from folders
    parts = _by_source(packed)
    first = next(iter(parts))
    data: dict[str, Any] = {
        "parts": [
            {
                "archive": written(source.path),
                "seen": list(source.seen),
                "layout": _written(layout),
                "listing": bringing.listings.get(source, ""),
                **_more(source),
            }
            for source, layout in parts.items()
        ],
        "bytes": sum(piece.size for piece in packed.values()),
        "outside": any(source.is_outside for source in parts),
    }
    names = [written(name_of(source.path)) for source in parts]
    said = " and ".join(names) if len(names) < 3 else f"{len(names)} archives"
    why = f"{count_text(len(packed), 'file')} of {said}"
    rule = bringing.rules[join(home, next(iter(packed)))]
    yield by(Step(0, Do.UNPACK, first.path, target, why, group, -number, first.seen, data), rule)
    known.update(join(home, folder) for folder in {parent(rest) for rest in packed if "/" in rest})
    if not there:
        return
    folders = made(disk, (join(home, rest) for rest in packed), group)
    yield from folders
    for rest in packed:
        yield Step(0, Do.MOVE, join(target, rest), join(home, rest), "joined to what is there", group, -number)
    inner = {at for rest in packed for at in _above(rest)}
    for folder in sorted(inner, key=lambda folder: -folder.count("/")):
        yield Step(0, Do.DROP, join(target, folder), "", "left empty", group, -number)
    yield Step(0, Do.DROP, target, "", "left empty", group, -number)


def by(step: Step, rule: Mapping[str, Any]) -> Step:
    """Return a step that says by which rule it places what it does."""
    return replace(step, data={**step.data, "placed": dict(rule)}) if rule else step


def _by_source(placed: Mapping[str, Piece]) -> dict[Source, dict[str, str]]:
    """Return the members of each archive with their places."""
    parts: dict[Source, dict[str, str]] = {}
    last, layout = None, {}
    for rest, piece in placed.items():
        if piece.member:
            if piece.source is not last:  # most often all come from one archive
                last = piece.source
                layout = parts.setdefault(last, {})
            layout[piece.member] = rest
    return parts


def _more(source: Source) -> dict[str, Any]:
    """Return what a step keeps of the other volumes of an archive, so that it knows them again."""
    return {"volumes": [[written(one.path), *one.seen] for one in source.more]} if source.more else {}


def _written(layout: Mapping[str, str]) -> dict[str, str]:
    together = "".join((*layout, *layout.values()))
    if written(together) == together:
        return dict(layout)
    return {written(member): written(rest) for member, rest in layout.items()}


def _above(path: str) -> Iterator[str]:
    while path := parent(path):
        yield path


def _taken(target: str, piece: Piece, group: str, take: str) -> Step:
    """Return the step that brings a loose file in."""
    source = piece.source
    if source.is_outside:
        return Step(0, Do.COPY, source.path, target, "brought in", group, seen=source.seen, data={"outside": True})
    do = Do.MOVE if take == "move" else Do.COPY
    return Step(0, do, source.path, target, "brought in", group, seen=source.seen)


def archive_steps(
    archive: Source,
    layouts: Mapping[str, Mapping[str, str]],
    settings: Intake,
    maker: str | None,
    group: str,
    thing: int,
) -> Iterator[Step]:
    """Yield the steps for an archive all of whose members stand where `layouts` says: beside, aside, or held.

    `maker` is None where nothing of a maker's was in it: then beside is where its files are, and not their own folder.
    `thing` is the number that ties it to its unpacking: where that fails, the archive stays where it is. Of several
    volumes the first step compares what all of them hold, and the others hang on it.
    """
    home = next(iter(layouts))
    if settings.archives in (HOLD, HOLD_ALL):
        if not archive.is_outside and settings.take == "move" and len(layouts) == 1:
            data: dict[str, Any] = {"unpacked": home, "layout": _written(layouts[home])}
            for volume in (archive, *archive.more):
                yield Step(0, Do.HOLD, volume.path, "", "unpacked and compared", group, thing, volume.seen, data)
                data = {}
        return
    beside = home if maker is None else parent(home)
    folder = beside if settings.archives == "beside" else "/".join(filter(None, (settings.aside, maker)))
    if settings.take == "copy" and not archive.is_outside:
        return
    do = Do.COPY if archive.is_outside else Do.MOVE
    marks = {"outside": True} if archive.is_outside else {}
    for volume in (archive, *archive.more):
        target = join(folder, name_of(volume.path))
        yield Step(0, do, volume.path, target, f"the archive, {settings.archives}", group, thing, volume.seen, marks)


def numbered(steps: Iterable[Step]) -> tuple[Step, ...]:
    """Return steps numbered from 1."""
    return tuple(step.numbered(number) for number, step in enumerate(steps, start=1))
