"""Reference lists as they were read: their sets and files, in tables, so that a list of any size is asked, not held."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import Any, NamedTuple

from lazy_magpie.model.reference import ListedSet
from lazy_magpie.paths import read_back, same_name, written

_BATCH = 2000
_DIGESTS = ("md5", "sha1", "sha256")
_Rows = list[tuple[object, ...]]
_LARGE = 1 << 20
"""Bytes of a list from which on it is faster to make the indexes anew than to keep them up."""
_INDEXES = {
    "listed_set_of": "listed_set (list, family)",
    "listed_set_spelling": "listed_set (spelling)",
    "listed_file_of": "listed_file (owner)",
    "listed_file_key": "listed_file (key, size)",
}
_DEEPEST = 8
"""How often a clone may be a clone of a clone."""


class KnownList(NamedTuple):
    """A reference list as it was read: by which section of magpie.toml, from which file, and what it says of itself.

    `size` and `mtime` are the file's, `bytes` those that all it lists have together; `digests` are those that it has
    besides the CRC-32.
    """

    id: int
    section: str
    path: str
    size: int
    mtime: int
    name: str
    about: str
    version: str
    date: str
    sets: int
    files: int
    bytes: int
    digests: tuple[str, ...]


class FoundRow(NamedTuple):
    """A file of a set with a place in which its content lies; names are in their written form, None for none."""

    family: int
    set: int
    set_name: str
    about: str
    parent: str
    line: int
    in_folder: int
    spelling: str
    listed: int | None
    name: str
    size: int
    key: object
    status: str
    file: int | None
    member: str
    skipped: int


class ReferenceLists:
    """The tables `reference`, `listed_set` and `listed_file`."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self.db = db

    def all(self) -> list[KnownList]:
        """Return the lists that were read, in the order of their names."""
        rows = self.db.execute(
            "SELECT id, section, path, size, mtime, name, about, version, date, sets, files, bytes, digests "
            "FROM reference ORDER BY section, name, path"
        )
        return [
            KnownList._make((id, section, read_back(path), *rest, tuple(digests.split())))
            for id, section, path, *rest, digests in rows
        ]

    def drop(self, id: int) -> None:
        """Forget a list."""
        self.db.execute("DELETE FROM listed_file WHERE owner IN (SELECT id FROM listed_set WHERE list = ?)", (id,))
        self.db.execute("DELETE FROM listed_set WHERE list = ?", (id,))
        self.db.execute("DELETE FROM reference WHERE id = ?", (id,))
        self.db.execute("DELETE FROM matched WHERE list = ?", (id,))

    def add(
        self, section: str, path: str, stamp: tuple[int, int], header: Sequence[str], sets: Iterable[ListedSet]
    ) -> int:
        """Keep a list with its sets, which are read and written piece by piece; return its id.

        `stamp` is its file's size and time, `header` its name, description, version and date.
        """
        cursor = self.db.execute(
            "INSERT INTO reference (section, path, size, mtime, name, about, version, date, sets, files, bytes, "
            "digests) VALUES (?, ?, ?, ?, ?, ?, ?, ?, 0, 0, 0, '')",
            (section, written(path), *stamp, *header),
        )
        id = cursor.lastrowid or 0
        is_large = stamp[0] > _LARGE
        for name in _INDEXES if is_large else ():
            self.db.execute(f"DROP INDEX {name}")
        sums = self._put_sets(id, sets)
        for name, columns in _INDEXES.items() if is_large else ():
            self.db.execute(f"CREATE INDEX {name} ON {columns}")
        self._lead_to_families(id)
        self.db.execute("UPDATE reference SET sets = ?, files = ?, bytes = ?, digests = ? WHERE id = ?", (*sums, id))
        return id

    def _put_sets(self, list_id: int, sets: Iterable[ListedSet]) -> tuple[int, int, int, str]:
        """Write sets, and return how many there are, how many files, their bytes, and which digests they have."""
        (before,) = self.db.execute("SELECT COALESCE(MAX(id), 0) FROM listed_set").fetchone()
        number, count, size = before, 0, 0
        has: set[str] = set()
        rows: _Rows = []
        files: _Rows = []
        for one in sets:
            number += 1
            name = written(one.name)
            spelling = same_name(name)
            parent = written(one.parent) if one.parent else ""
            rows.append((number, list_id, name, written(one.about), parent, number, one.line, one.in_folder, spelling))
            for file in one.files:
                own, bytes_, _, md5, sha1, sha256, status = file
                count += 1
                size += max(bytes_, 0)
                files.append((number, written(own), bytes_, file.key, md5, sha1, sha256, status))
            if one.files:  # the first stands for all: which digests are worked out at all
                has.update(name for name, digest in zip(_DIGESTS, one.files[0][3:6], strict=True) if digest)
            if len(files) >= _BATCH:
                self._flush(rows, files)
        self._flush(rows, files)
        return number - before, count, size, " ".join(sorted(has))

    def _flush(self, rows: _Rows, files: _Rows) -> None:
        self.db.executemany("INSERT INTO listed_set VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)", rows)
        self.db.executemany(
            "INSERT INTO listed_file (owner, name, size, key, md5, sha1, sha256, status) "
            "VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
            files,
        )
        rows.clear()
        files.clear()

    def _lead_to_families(self, list_id: int) -> None:
        """Lead every clone to the set that it is a clone of, also over several; a circle leads nowhere."""
        if not self.db.execute(
            "SELECT 1 FROM listed_set WHERE list = ? AND parent <> '' LIMIT 1", (list_id,)
        ).fetchone():
            return
        parents = {
            name: (id, parent)
            for id, name, parent in self.db.execute(
                "SELECT id, name, parent FROM listed_set WHERE list = ?", (list_id,)
            )
        }
        led = []
        for name, (id, parent) in parents.items():
            top, seen = name, 0
            while parent and parent in parents and seen < _DEEPEST:
                top, parent, seen = parent, parents[parent][1], seen + 1
            if top != name and seen < _DEEPEST:
                led.append((parents[top][0], id))
        self.db.executemany("UPDATE listed_set SET family = ? WHERE id = ?", led)

    def sizes(self) -> set[int]:
        """Return the sizes that listed files have, in bytes; -1 where a list says none."""
        return {size for (size,) in self.db.execute("SELECT DISTINCT size FROM listed_file WHERE key IS NOT NULL")}

    def same_names(self, lists: Sequence[int]) -> set[str]:
        """Return the spellings (without case) that several sets of these lists have."""
        marks = ", ".join("?" * len(lists))
        rows = self.db.execute(
            f"SELECT spelling FROM listed_set WHERE list IN ({marks}) GROUP BY spelling HAVING COUNT(*) > 1",
            tuple(lists),
        )
        return {spelling for (spelling,) in rows}

    def contents_of(
        self, lists: Sequence[int], spellings: Iterable[str]
    ) -> dict[str, dict[tuple[int, int, int], frozenset[object]]]:
        """Return, by spelling, the sets of these lists that are spelled so: (list, set, line), with what each holds."""
        found: dict[str, dict[tuple[int, int, int], frozenset[object]]] = {}
        marks = ", ".join("?" * len(lists))
        for spelling in spellings:
            sets: dict[tuple[int, int, int], set[object]] = {}
            for list_id, id, line, key, size in self.db.execute(
                "SELECT list, listed_set.id, line, key, size FROM listed_set "
                f"LEFT JOIN listed_file ON owner = listed_set.id WHERE spelling = ? AND list IN ({marks})",
                (spelling, *lists),
            ):
                sets.setdefault((list_id, id, line), set()).add((key, size))
            found[spelling] = {one: frozenset(contents) for one, contents in sets.items()}
        return found

    def found(self, list_id: int) -> Iterator[FoundRow]:
        """Yield every file of a list, family by family, with where its content lies: a row a place."""
        cursor = self.db.execute(
            "SELECT listed_set.family, listed_set.id, listed_set.name, about, parent, line, in_folder, spelling, "
            "listed_file.id, listed_file.name, size, key, COALESCE(status, ''), file, member, skipped FROM listed_set "
            "LEFT JOIN listed_file ON owner = listed_set.id LEFT JOIN temp.found ON listed = listed_file.id "
            "WHERE list = ? AND listed_set.id NOT IN (SELECT owner FROM temp.right) "
            "ORDER BY listed_set.family, listed_set.id, listed_file.id",
            (list_id,),
        )
        return map(FoundRow._make, cursor)

    def name_of_content(self, file: int) -> str:
        """Return what a file is by a list, "" where no list has what it holds."""
        row = self.db.execute(
            "SELECT listed_set.name FROM temp.found JOIN listed_file ON listed_file.id = listed "
            "JOIN listed_set ON listed_set.id = owner WHERE file = ? AND member = '' LIMIT 1",
            (file,),
        ).fetchone()
        return read_back(row[0]) if row else ""

    def found_in(self, file: int) -> Iterator[tuple[str, object, int, int]]:
        """Yield what of a file is listed: member ("": the file), what it is looked up by, its bytes, its header's."""
        rows = self.db.execute(
            "SELECT DISTINCT member, key, listed_file.size, skipped FROM temp.found "
            "JOIN listed_file ON listed_file.id = listed WHERE file = ?",
            (file,),
        )
        for member, key, size, skipped in rows:
            yield read_back(member), key, size, skipped

    def counts(self, basis: str) -> dict[int, Mapping[str, Any]]:
        """Return how lists were found to stand, by their ids, while what that rests on is the same."""
        rows = self.db.execute("SELECT list, counts FROM matched WHERE basis = ?", (basis,))
        return {list_id: json.loads(counts) for list_id, counts in rows}

    def put_counts(self, basis: str, counts: Mapping[int, str]) -> None:
        """Keep how lists stand, as JSON."""
        self.db.executemany(
            "INSERT OR REPLACE INTO matched VALUES (?, ?, ?)",
            ((list_id, basis, text) for list_id, text in counts.items()),
        )
