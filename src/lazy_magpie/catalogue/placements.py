"""What changes have placed by a naming, and what came out of which archive: known from the journals, kept here."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Iterator, Mapping
from typing import TYPE_CHECKING, Any, NamedTuple

from lazy_magpie.catalogue.query import at_or_below
from lazy_magpie.paths import read_back, written

if TYPE_CHECKING:
    from lazy_magpie.model.steps import FolderValues


class Placement(NamedTuple):
    """A file, or the folder of one thing, as a change has placed it.

    `rule` stands for the naming and shelf that it was placed by, `kind` for what it was placed as. A thing (a kit, a
    pack of designs) has its values for the naming; where a person has settled a file, `answer` says how. Without a rule
    it says that what was placed there before is there, or is kept there, no more.
    """

    path: str
    change: int
    rule: str
    kind: str
    values: FolderValues | None = None
    answer: str = ""


class InPlace(NamedTuple):
    """An item that was found in its place: what stands for all that decided it, and the folder that is its own."""

    basis: int
    home: str


class Placements:
    """The tables `placement`, `came_from`, `taken`, `refused` and `in_place`."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self.db = db

    def put(self, ones: Iterable[Placement]) -> None:
        """Keep placements, each beside those that older changes have made at its path."""
        rows = ((written(one.path), one.change, one.rule, one.kind, _values_text(one), one.answer) for one in ones)
        self.db.executemany("INSERT OR REPLACE INTO placement VALUES (?, ?, ?, ?, ?, ?)", rows)

    def all(self) -> Iterator[Placement]:
        """Yield all placements, also of changes that were taken back, those of a path in the order of the changes."""
        rows = self.db.execute("SELECT path, change, rule, kind, thing, answer FROM placement ORDER BY path, change")
        yield from map(_placement, rows)

    def first_changes(self) -> Iterator[tuple[str, int]]:
        """Yield each path where something was placed, with the first change that placed something there."""
        for path, change in self.db.execute("SELECT path, MIN(change) FROM placement WHERE rule <> '' GROUP BY path"):
            yield read_back(path), int(change)

    def follow(self, change: int, moves: Iterable[tuple[str, str]]) -> None:
        """Let placements at and below what a change has moved (from, to) go along with it, as of that change."""
        if self.db.execute("SELECT 1 FROM placement LIMIT 1").fetchone() is None:
            return
        gone: list[Placement] = []
        come: list[Placement] = []
        run: dict[str, str] = {}  # where something is now: where it was; names that change places take two steps
        for source, target in moves:
            run[target] = run.pop(source, source)
        for target, source in run.items():
            condition, values = at_or_below(written(source), "path")
            query = f"SELECT path, change, rule, kind, thing, answer FROM placement WHERE {condition} ORDER BY change"
            newest = {one.path: one for one in map(_placement, self.db.execute(query, values)) if one.change < change}
            gone += (one._replace(change=change, rule="") for one in newest.values() if one.rule)
            come += (
                one._replace(change=change, path=target + one.path[len(source) :])
                for one in newest.values()
                if one.rule
            )
        self.put([*gone, *come])

    def in_place(self, item: int) -> InPlace | None:
        """Return how a plan found an item in its place, None where none has."""
        row = self.db.execute("SELECT basis, home FROM in_place WHERE item = ?", (item,)).fetchone()
        return InPlace(row[0], read_back(row[1])) if row else None

    def put_in_place(self, found: Mapping[int, InPlace]) -> None:
        """Keep that items are in their places."""
        rows = ((item, one.basis, written(one.home)) for item, one in found.items())
        self.db.executemany("INSERT OR REPLACE INTO in_place VALUES (?, ?, ?)", rows)

    def put_taken(self, listing: str, home: str, change: int) -> None:
        """Note that an archive with this listing was unpacked to below a folder."""
        self.db.execute("INSERT OR REPLACE INTO taken VALUES (?, ?, ?)", (listing, written(home), change))

    def taken(self) -> dict[str, tuple[str, int]]:
        """Return by their listings where archives were unpacked to, and by which change."""
        rows = self.db.execute("SELECT listing, home, change FROM taken")
        return {listing: (read_back(home), change) for listing, home, change in rows}

    def put_came_from(self, archive: int, files: Iterable[int], change: int) -> None:
        """Note that files (ids) came out of an archive (the id of its file)."""
        self.db.executemany(
            "INSERT OR REPLACE INTO came_from VALUES (?, ?, ?)", ((file, archive, change) for file in files)
        )

    def item_from(self, archive: int) -> int:
        """Return the item of what came out of an archive and is there, the first of several by path; 0 for none."""
        row = self.db.execute(
            "SELECT file.item FROM came_from JOIN file ON file.id = came_from.file "
            "JOIN folder ON folder.id = file.folder "
            "WHERE archive = ? AND item IS NOT NULL AND missing = 0 AND role = 'main' ORDER BY path, name LIMIT 1",
            (archive,),
        ).fetchone()
        return int(row[0]) if row else 0

    def archives_of(self, root: int, folder: str) -> list[tuple[str, int]]:
        """Return the archives from which files in a folder came: the folder that each lies in, and its file's id."""
        rows = self.db.execute(
            "SELECT DISTINCT home.path, archive FROM folder "
            "JOIN file ON file.folder = folder.id JOIN came_from ON came_from.file = file.id "
            "JOIN file AS packed ON packed.id = archive JOIN folder AS home ON home.id = packed.folder "
            "WHERE folder.root = ? AND folder.path = ? AND packed.missing = 0",
            (root, written(folder)),
        )
        return [(read_back(path), int(archive)) for path, archive in rows]

    def archives(self) -> set[int]:
        """Return the archives (ids of files) that anything came out of which is still there."""
        rows = self.db.execute(
            "SELECT DISTINCT archive FROM came_from JOIN file ON file.id = came_from.file WHERE missing = 0"
        )
        return {int(row[0]) for row in rows}

    def refuse(self, size: int, mtime: int, listing: str, why: str) -> None:
        """Note that an archive could not be unpacked, and why."""
        self.db.execute("INSERT OR REPLACE INTO refused VALUES (?, ?, ?, ?)", (size, mtime, listing, why))

    def refused(self) -> dict[tuple[int, int], str]:
        """Return why archives could not be unpacked, by their size and time."""
        return {(size, mtime): why for size, mtime, why in self.db.execute("SELECT size, mtime, why FROM refused")}


def _placement(row: tuple[str, int, str, str, str, str]) -> Placement:
    path, change, rule, kind, thing, answer = row
    return Placement(read_back(path), change, rule, kind, _values(json.loads(thing)), answer)


def _values(data: Mapping[str, Any] | None) -> FolderValues | None:
    if not data:  # as most have it: their values need not be known
        return None
    from lazy_magpie.step_codec.parts import decode_values

    return decode_values(data)


def _values_text(one: Placement) -> str:
    if not one.values:
        return "null"
    from lazy_magpie.step_codec.parts import encode_values

    return json.dumps(encode_values(one.values))
