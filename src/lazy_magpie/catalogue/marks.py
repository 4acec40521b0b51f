"""What lists and preferences say of items: how they are listed, whether all of them is there, which are preferred."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Mapping
from typing import NamedTuple

from lazy_magpie.fields import MARKS
from lazy_magpie.model import Value

_BATCH = 500


class Mark(NamedTuple):
    """What is said of an item: its state by the lists ("" for none), whether all is there, preferred or not and why."""

    item: int
    listed: str
    complete: bool
    preferred: bool
    why: str

    @property
    def values(self) -> dict[str, Value]:
        """Return it as fields with their values."""
        listed: dict[str, Value] = {"listed": self.listed} if self.listed else {}
        return {**listed, "complete": self.complete, "preferred": self.preferred}


class Marks:
    """The table `mark`, and what the index has of it: worked out as a whole, and right while its basis is the same."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self.db = db

    def put_all(self, marks: Iterable[Mark]) -> None:
        """Put new marks in the place of all that there are."""
        self.db.execute("DELETE FROM mark")
        self.db.executemany("INSERT OR REPLACE INTO mark VALUES (?, ?, ?, ?, ?)", marks)
        for name in MARKS:
            self.db.execute("INSERT OR IGNORE INTO field (name) VALUES (?)", (name,))
            self.db.execute("DELETE FROM value WHERE field = (SELECT id FROM field WHERE name = ?)", (name,))
        self.db.execute(
            "INSERT INTO value SELECT (SELECT id FROM field WHERE name = 'listed'), 0, listed, item FROM mark "
            "WHERE listed <> ''"
        )
        for name in MARKS[1:]:
            self.db.execute(
                f"INSERT INTO value SELECT (SELECT id FROM field WHERE name = ?), {name}, '', item FROM mark", (name,)
            )

    def of(self, items: Iterable[int]) -> Mapping[int, Mark]:
        """Return the marks of items, by their ids."""
        ids = list(items)
        found: dict[int, Mark] = {}
        for at in range(0, len(ids), _BATCH):
            some = ids[at : at + _BATCH]
            rows = self.db.execute(f"SELECT * FROM mark WHERE item IN ({', '.join('?' * len(some))})", some)
            found |= {row[0]: Mark(row[0], row[1], bool(row[2]), bool(row[3]), row[4]) for row in rows}
        return found
