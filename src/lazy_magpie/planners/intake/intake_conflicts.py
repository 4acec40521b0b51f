"""Which file of a heap goes where, and what happens where something is there already or is to go there, too."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field

from lazy_magpie.intake import ExistingFiles, Layout, Piece, Source, holds_the_same
from lazy_magpie.model import Conflict, Unmoved
from lazy_magpie.model.steps import FilingRule
from lazy_magpie.paths import is_below, join, name_of, parent, same_name, written
from lazy_magpie.planners.directory_index import Names
from lazy_magpie.planners.disk_view import DiskView
from lazy_magpie.planners.intake.intake_steps import PlannedTransfers

Place = tuple[str, str]
"""A place: a folder, and the path below it."""


@dataclass
class IntakeReport:
    """What a plan tells besides its steps: conflicts, what is left and why, what is counted.

    `stuck` are the files that stay where they are, or wait in the inbox.
    """

    conflicts: list[Conflict] = field(default_factory=list)
    unmoved: list[Unmoved] = field(default_factory=list)
    passed: Counter[str] = field(default_factory=Counter)
    stuck: set[Source] = field(default_factory=set)


class ConflictResolver:
    """Places pieces, none on top of another.

    `taken` has every name that something goes to, in small letters, with the places of all that hangs together with
    it; none where it stands for itself.
    """

    def __init__(
        self, disk: DiskView, names: Names, already: ExistingFiles, bringing: PlannedTransfers, report: IntakeReport
    ) -> None:
        self.disk = disk
        self.names = names
        self.existing = already
        self.transfers = bringing
        self.report = report
        self.taken: dict[str, tuple[Place, ...]] = {}
        self._known: dict[str, bool] = {}

    def is_taken(self, target: str) -> bool:
        """Say whether something is at a place, or goes there."""
        return bool(self.names.existing(target)) or same_name(target) in self.taken

    def place_all(self, home: str, laid: Layout, rule: FilingRule | None) -> None:
        """Bring what is laid out to its places below a folder, by a rule; into one that is new all at once."""
        top = same_name(home)
        keys = [f"{top}/{key}" for key in laid.keys]
        if self._is_there(home) or not self.taken.keys().isdisjoint(keys):
            for rest, piece in laid.placed.items():
                self.place(home, rest, piece, home, rule)
            return
        self.taken |= dict.fromkeys(keys, ())
        self.transfers.bring(home, laid.placed, home, rule)

    def place(self, home: str, rest: str, piece: Piece, group: str, rule: FilingRule | None = None) -> bool:
        """Bring a piece to its place, unless something is there, or goes there; say whether it goes."""
        target = join(home, rest)
        key = same_name(target)
        there = twin = ""
        if self._is_there(home):
            there = self.names.existing(target)
            twin = there if there and self._is_same(there, piece) else self._inside(home, piece)
        if key in self.taken:
            self._contend(target, piece)
        elif twin:
            self.report.passed["already there"] += 1
            self.transfers.stands(home, twin[len(home) + 1 :], piece)
            if not piece.member:
                self.report.unmoved.append(Unmoved(piece.source.path, f"already there: “{written(twin)}”"))
        elif there:
            self.fight(target, [piece], there)
        else:
            self.taken[key] = ((home, rest),)
            self.transfers.bring(home, {rest: piece}, group, rule)
            return True
        return False

    def _contend(self, target: str, piece: Piece) -> None:
        """Take once what is there twice; where two that differ want a name, let both stay, and what goes with them."""
        key = same_name(target)
        place = self.transfers.place_of(key)
        if place is None:
            self.fight(target, [piece])
            return
        other = self.transfers.homes[place[0]][place[1]]
        if holds_the_same(other, piece, self.existing.crc):
            self.report.passed["there twice, taken once"] += 1
            self.transfers.stands(*place, piece)
            if not piece.member:
                self.report.unmoved.append(
                    Unmoved(piece.source.path, f"there twice: “{written(other.source.path)}” is taken")
                )
            return
        self._withdraw(self.taken[key] or (place,), other)
        self.fight(target, [other, piece])

    def contend_with(self, target: str, piece: Piece, other: str) -> None:
        """Cancel a piece that wants the name of what goes to `other`, in another container; cancel that as well."""
        place = self.transfers.place_of(same_name(other))
        if place is None:
            self.fight(target, [piece])
            return
        first = self.transfers.homes[place[0]][place[1]]
        self._withdraw(self.taken[same_name(other)] or (place,), first)
        self.fight(target, [first, piece])

    def _withdraw(self, places: Iterable[Place], wanted: Piece | None = None) -> None:
        """Cancel the transfers to some places; the one whose name is `wanted` is shown as a conflict."""
        for home, rest in places:
            if piece := self.transfers.withdraw(home, rest):
                self._stay(piece, report=piece is wanted)

    def stay(self, pieces: Iterable[Piece]) -> None:
        """Leave pieces with what they belong to."""
        for piece in pieces:
            self._stay(piece)

    def _stay(self, piece: Piece, *, report: bool = False) -> None:
        """Leave a piece with what it belongs to."""
        self.report.stuck.add(piece.source)
        if not report and not piece.member:
            self.report.unmoved.append(Unmoved(piece.source.path, "it stays with what it belongs to"))

    def _is_there(self, home: str) -> bool:
        """Say whether a folder is on the disk, looked at once."""
        if home not in self._known:
            self._known[home] = self.disk.status(home) is not None
        return self._known[home]

    def _inside(self, home: str, piece: Piece) -> str:
        """Return a file below the folder that a piece would go to which holds the same; "" where there is none."""
        twin = self.existing.twin(piece)
        return twin if twin and is_below(twin, home) else ""

    def _is_same(self, path: str, piece: Piece) -> bool:
        status = self.disk.status(path)
        if status is None:
            return False
        there = Piece(path, status.size, None, Source(path, status.stamp))
        return holds_the_same(there, piece, self.existing.crc)

    def fight(self, target: str, pieces: Sequence[Piece], there: str = "") -> None:
        """Show that pieces want one name, or that of a file that is `there`: all of them stay where they are."""
        names = [join(p.source.path, p.member) if p.member else p.source.path for p in pieces]
        self.report.stuck.update(piece.source for piece in pieces)
        known = there or len({piece.size for piece in pieces}) > 1 or None not in map(self.existing.crc, pieces)
        why = "their contents differ" if known else "whether they differ can't be said without unpacking them"
        self.report.conflicts.append(Conflict(target, (*names, *filter(None, (there,))), why))

    def place_together(self, wanted: Iterable[tuple[Piece, str, str]], rule: FilingRule | None) -> None:
        """Bring pieces that hang together to their places: all of them, or where one can't go, none."""
        conflicts = len(self.report.conflicts)
        placed: list[Place] = []
        for piece, target, group in wanted:
            if len(self.report.conflicts) > conflicts:
                self._stay(piece)
            elif self.place(parent(target), name_of(target), piece, group, rule):
                placed.append((parent(target), name_of(target)))
        if len(self.report.conflicts) > conflicts:
            self._withdraw(placed)
            return
        for home, rest in placed:
            self.taken[same_name(join(home, rest))] = tuple(placed)
