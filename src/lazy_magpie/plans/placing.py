"""Which file of a heap goes where, and what happens where something is there already or is to go there, too."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from typing import Any

from lazy_magpie.change import Disk
from lazy_magpie.intake import Already, Laid, Piece, Source, holds_the_same
from lazy_magpie.model import Conflict, Left
from lazy_magpie.paths import is_below, join, name_of, parent, same_name, written
from lazy_magpie.plans.bringing import Bringing
from lazy_magpie.plans.names import Names

Place = tuple[str, str]
"""A place: a folder, and the path below it."""


@dataclass
class Told:
    """What a plan tells besides its steps: conflicts, what is left and why, what is counted.

    `stuck` are the files that stay where they are, or wait in the inbox.
    """

    conflicts: list[Conflict] = field(default_factory=list)
    left: list[Left] = field(default_factory=list)
    passed: Counter[str] = field(default_factory=Counter)
    stuck: set[Source] = field(default_factory=set)


class Placing:
    """Places pieces, none on top of another.

    `taken` has every name that something goes to, in small letters, with the places of all that hangs together with
    it; none where it stands for itself.
    """

    def __init__(self, disk: Disk, names: Names, already: Already, bringing: Bringing, told: Told) -> None:
        self.disk = disk
        self.names = names
        self.already = already
        self.bringing = bringing
        self.told = told
        self.taken: dict[str, tuple[Place, ...]] = {}
        self._known: dict[str, bool] = {}

    def is_taken(self, target: str) -> bool:
        """Say whether something is at a place, or goes there."""
        return bool(self.names.existing(target)) or same_name(target) in self.taken

    def place_all(self, home: str, laid: Laid, rule: dict[str, Any]) -> None:
        """Bring what is laid out to its places below a folder, by a rule; into one that is new all at once."""
        top = same_name(home)
        keys = [f"{top}/{key}" for key in laid.keys]
        if self._is_there(home) or not self.taken.keys().isdisjoint(keys):
            for rest, piece in laid.placed.items():
                self.place(home, rest, piece, home, rule)
            return
        self.taken |= dict.fromkeys(keys, ())
        self.bringing.bring(home, laid.placed, home, rule)

    def place(self, home: str, rest: str, piece: Piece, group: str, rule: dict[str, Any] | None = None) -> bool:
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
            self.told.passed["already there"] += 1
            self.bringing.stands(home, twin[len(home) + 1 :], piece)
            if not piece.member:
                self.told.left.append(Left(piece.source.path, f"already there: “{written(twin)}”"))
        elif there:
            self.fight(target, [piece], there)
        else:
            self.taken[key] = ((home, rest),)
            self.bringing.bring(home, {rest: piece}, group, rule)
            return True
        return False

    def _contend(self, target: str, piece: Piece) -> None:
        """Take once what is there twice; where two that differ want a name, let both stay, and what goes with them."""
        key = same_name(target)
        place = self.bringing.place_of(key)
        if place is None:
            self.fight(target, [piece])
            return
        other = self.bringing.homes[place[0]][place[1]]
        if holds_the_same(other, piece, self.already.crc):
            self.told.passed["there twice, taken once"] += 1
            self.bringing.stands(*place, piece)
            if not piece.member:
                self.told.left.append(Left(piece.source.path, f"there twice: “{written(other.source.path)}” is taken"))
            return
        self._withdraw(self.taken[key] or (place,), other)
        self.fight(target, [other, piece])

    def contend_with(self, target: str, piece: Piece, other: str) -> None:
        """Let a piece stay that wants the name of what goes to `other`, in another container; and that, too."""
        place = self.bringing.place_of(same_name(other))
        if place is None:
            self.fight(target, [piece])
            return
        first = self.bringing.homes[place[0]][place[1]]
        self._withdraw(self.taken[same_name(other)] or (place,), first)
        self.fight(target, [first, piece])

    def _withdraw(self, places: Iterable[Place], wanted: Piece | None = None) -> None:
        """Let what was to go to some places stay where it is; of the one whose name is `wanted` a conflict tells."""
        for home, rest in places:
            if piece := self.bringing.withdraw(home, rest):
                self._stay(piece, told=piece is wanted)

    def stay(self, pieces: Iterable[Piece]) -> None:
        """Let pieces stay with what they belong to."""
        for piece in pieces:
            self._stay(piece)

    def _stay(self, piece: Piece, *, told: bool = False) -> None:
        """Let a piece stay with what it belongs to."""
        self.told.stuck.add(piece.source)
        if not told and not piece.member:
            self.told.left.append(Left(piece.source.path, "it stays with what it belongs to"))

    def _is_there(self, home: str) -> bool:
        """Say whether a folder is on the disk, looked at once."""
        if home not in self._known:
            self._known[home] = self.disk.status(home) is not None
        return self._known[home]

    def _inside(self, home: str, piece: Piece) -> str:
        """Return a file below the folder that a piece would go to which holds the same; "" where there is none."""
        twin = self.already.twin(piece)
        return twin if twin and is_below(twin, home) else ""

    def _is_same(self, path: str, piece: Piece) -> bool:
        status = self.disk.status(path)
        if status is None:
            return False
        there = Piece(path, status.size, None, Source(path, status.seen))
        return holds_the_same(there, piece, self.already.crc)

    def fight(self, target: str, pieces: Sequence[Piece], there: str = "") -> None:
        """Show that pieces want one name, or that of a file that is `there`: all of them stay where they are."""
        names = [join(p.source.path, p.member) if p.member else p.source.path for p in pieces]
        self.told.stuck.update(piece.source for piece in pieces)
        known = there or len({piece.size for piece in pieces}) > 1 or None not in map(self.already.crc, pieces)
        why = "their contents differ" if known else "whether they differ can't be said without unpacking them"
        self.told.conflicts.append(Conflict(target, (*names, *filter(None, (there,))), why))

    def place_together(self, wanted: Iterable[tuple[Piece, str, str]], rule: dict[str, Any]) -> None:
        """Bring pieces that hang together to their places: all of them, or where one can't go, none."""
        conflicts = len(self.told.conflicts)
        placed: list[Place] = []
        for piece, target, group in wanted:
            if len(self.told.conflicts) > conflicts:
                self._stay(piece)
            elif self.place(parent(target), name_of(target), piece, group, rule):
                placed.append((parent(target), name_of(target)))
        if len(self.told.conflicts) > conflicts:
            self._withdraw(placed)
            return
        for home, rest in placed:
            self.taken[same_name(join(home, rest))] = tuple(placed)
