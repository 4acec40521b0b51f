"""The steps that bring files of a heap to where they belong: archives unpacked into place, loose files moved or copied.

All archives that go into one new folder are unpacked in one step, each of their files at its own place there; into a
folder that is there already they are unpacked beside it and moved in. What lies outside the root is only read.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field

from lazy_magpie.config import IntakeConfig
from lazy_magpie.formatting import count_text
from lazy_magpie.intake import Piece, Source
from lazy_magpie.model import PathStamp, Step
from lazy_magpie.model.proofs import Unpacked
from lazy_magpie.model.steps import ArchivePart, Copy, DropFolder, FilingRule, Hold, Move, Unpack
from lazy_magpie.paths import above, join, name_of, parent, same_name, written
from lazy_magpie.planners.directory_steps import make_missing
from lazy_magpie.planners.disk_view import DiskView
from lazy_magpie.planners.filing.placement_rules import archive_rule

_STAGE = ".magpie-intake-"
HOLD, HOLD_ALL = "hold", "hold all"
"""What becomes of an archive that was unpacked: held where all of it was, or where but a system's files were not."""


@dataclass
class PlannedTransfers:
    """Where pieces go: by folder, each with its name below it; and archives by what becomes of their members.

    `layouts` maps an archive to folders, and each folder to its members with their places below it: what the archive is
    held against when it goes. `listings` tells an archive's contents from those of others, `rules` maps each place to
    the rule by which something goes there.
    """

    homes: dict[str, dict[str, Piece]] = field(default_factory=lambda: defaultdict(dict))
    groups: dict[str, str] = field(default_factory=dict)
    numbers: dict[str, int] = field(default_factory=dict)
    layouts: dict[Source, dict[str, dict[str, str]]] = field(default_factory=lambda: defaultdict(dict))
    listings: dict[Source, str] = field(default_factory=dict)
    rules: dict[str, FilingRule | None] = field(default_factory=dict)

    def bring(self, home: str, placed: Mapping[str, Piece], group: str, rule: FilingRule | None = None) -> None:
        """Plan pieces for where `placed` has them below the folder `home`, by a `rule`."""
        self.homes[home].update(placed)
        self.rules |= dict.fromkeys((join(home, rest) for rest in placed), rule)
        self.numbers.setdefault(home, len(self.homes))
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
        """Cancel what was to go to a place; return it, None where nothing was to go there."""
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


def steps_for(transfers: PlannedTransfers, disk: DiskView, take: str, known: set[str]) -> Iterator[Step]:
    """Yield the steps for all that is to be brought in; `take` says whether loose files are moved or copied.

    `known` are the folders that are made by then; those that these steps make are added. Steps that hang on one
    another are of one bundle, so that what goes with a step that can't be done stays too.
    """
    for home, placed in transfers.homes.items():
        group = transfers.groups[home]
        packed = {rest: piece for rest, piece in placed.items() if piece.member}
        loose = {rest: piece for rest, piece in placed.items() if not piece.member}
        steps: list[Step] = []
        if packed:
            steps += _unpacked(disk, transfers, home, packed, known)
        folders = make_missing(disk, (join(home, rest) for rest in loose), group, known)
        known.update(step.target for step in folders)
        steps += folders
        steps += (
            _taken(target, piece, group, take, transfers.rules[target])
            for target, piece in ((join(home, rest), piece) for rest, piece in loose.items())
        )
        yield from steps


def _unpacked(
    disk: DiskView,
    transfers: PlannedTransfers,
    home: str,
    packed: Mapping[str, Piece],
    known: set[str],
) -> Iterator[Step]:
    """Yield the steps that unpack the members of archives into `home`."""
    group, number = transfers.groups[home], transfers.numbers[home]
    there = disk.status(home) is not None or home in known
    target = join(parent(home), f"{_STAGE}{number}") if there else home
    folders = make_missing(disk, [target], group, known)
    known.update(step.target for step in folders)
    known.add(home)
    yield from folders
    parts = _by_source(packed)
    first = next(iter(parts))
    names = [written(name_of(source.path)) for source in parts]
    said = " and ".join(names) if len(names) < 3 else f"{len(names)} archives"
    why = f"{count_text(len(packed), 'file')} of {said}"
    rule = transfers.rules[join(home, next(iter(packed)))]
    yield Unpack(
        source=first.path,
        target=target,
        why=why,
        group=group,
        bundle=number,
        stamp=first.stamp,
        parts=tuple(
            ArchivePart(source.path, source.stamp, layout, transfers.listings.get(source, ""), _volumes(source))
            for source, layout in parts.items()
        ),
        bytes=sum(piece.size for piece in packed.values()),
        outside=any(source.is_outside for source in parts),
        filing=rule,
    )
    known.update(join(home, folder) for folder in {parent(rest) for rest in packed if "/" in rest})
    if not there:
        return
    folders = make_missing(disk, (join(home, rest) for rest in packed), group)
    yield from folders
    for rest in packed:
        why = "joined to what is there"
        yield Move(source=join(target, rest), target=join(home, rest), why=why, group=group, bundle=number)
    inner = {folder for rest in packed for folder in above(rest)}
    for folder in sorted(inner, key=lambda folder: -folder.count("/")):
        yield DropFolder(source=join(target, folder), why="left empty", group=group, bundle=number)
    yield DropFolder(source=target, why="left empty", group=group, bundle=number)


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


def _volumes(source: Source) -> tuple[PathStamp, ...]:
    """Return what a step keeps of the other volumes of an archive, so that it knows them again."""
    return tuple(PathStamp(one.path, one.stamp) for one in source.more)


def _taken(target: str, piece: Piece, group: str, take: str, filing: FilingRule | None) -> Step:
    """Return the step that brings a loose file in."""
    source = piece.source
    if take == "move" and not source.is_outside:
        return Move(source=source.path, target=target, why="brought in", group=group, stamp=source.stamp, filing=filing)
    return Copy(
        source=source.path,
        target=target,
        why="brought in",
        group=group,
        stamp=source.stamp,
        outside=source.is_outside,
        filing=filing,
    )


def archive_steps(
    archive: Source,
    layouts: Mapping[str, Mapping[str, str]],
    settings: IntakeConfig,
    maker: str | None,
    group: str,
    bundle: int,
) -> Iterator[Step]:
    """Yield the steps for an archive all of whose members stand where `layouts` says: beside, aside, or held.

    `maker` is None where nothing of a maker's was in it: then beside is where its files are, and not their own folder.
    `bundle` ties it to its unpacking: where that fails, the archive stays where it is. Of several volumes the first
    step compares what all of them hold, and the others hang on it.
    """
    home, filing = next(iter(layouts)), archive_rule(settings)
    if settings.archives in (HOLD, HOLD_ALL):
        if not archive.is_outside and settings.take == "move" and len(layouts) == 1:
            proofs: tuple[Unpacked, ...] = (Unpacked(home, layouts[home]),)
            for one in (archive, *archive.more):
                why = "unpacked and compared"
                yield Hold(source=one.path, why=why, group=group, bundle=bundle, stamp=one.stamp, proofs=proofs)
                proofs = ()
        return
    beside = home if maker is None else parent(home)
    folder = beside if settings.archives == "beside" else "/".join(filter(None, (settings.aside, maker)))
    if settings.take == "copy" and not archive.is_outside:
        return
    why = "archive kept beside it" if settings.archives == "beside" else "archive put aside"
    for one in (archive, *archive.more):
        target = join(folder, name_of(one.path))
        if archive.is_outside:
            yield Copy(
                source=one.path,
                target=target,
                why=why,
                group=group,
                bundle=bundle,
                stamp=one.stamp,
                outside=True,
                filing=filing,
            )
        else:
            yield Move(
                source=one.path, target=target, why=why, group=group, bundle=bundle, stamp=one.stamp, filing=filing
            )
