"""Roots of the catalogue: the collection's own (number 0, no name) and the drives besides."""

from __future__ import annotations

import sqlite3
from typing import NamedTuple

from lazy_magpie.formatting import now_text

MAIN_ROOT = 0
"""The number of the collection's own root."""


class KnownRoot(NamedTuple):
    """A root as the catalogue knows it: the id that it carries, its volume's id, the folder that it was at last."""

    number: int
    name: str
    mark: str
    volume: str = ""
    place: str = ""


class Roots:
    """The table `root`."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self.db = db

    def all(self) -> list[KnownRoot]:
        """Return all roots, the collection's own first."""
        rows = self.db.execute("SELECT id, name, mark, volume, place FROM root ORDER BY id")
        return [KnownRoot(*row) for row in rows]

    def named(self, name: str) -> KnownRoot | None:
        """Return the root of this name, None where none has been scanned."""
        return next((root for root in self.all() if root.name == name), None)

    def keep(self, name: str, mark: str, volume: str, place: str) -> int:
        """Note where the root that carries `mark` is, and under which name; return its number."""
        row = self.db.execute("SELECT id FROM root WHERE mark = ? AND id <> ?", (mark, MAIN_ROOT)).fetchone()
        if row is None:
            self.db.execute("UPDATE root SET name = name || ' (before)' WHERE name = ?", (name,))
            cursor = self.db.execute(
                "INSERT INTO root (name, mark, volume, place) VALUES (?, ?, ?, ?)", (name, mark, volume, place)
            )
            return int(cursor.lastrowid or 0)
        self.db.execute("UPDATE root SET name = ?, volume = ?, place = ? WHERE id = ?", (name, volume, place, row[0]))
        return int(row[0])

    def note_scan(self, number: int, files: int, bytes: int) -> None:
        """Note that a root was walked as a whole now, and what there was."""
        now = now_text()
        self.db.execute(
            "UPDATE root SET scanned = ?, files_seen = ?, bytes_seen = ? WHERE id = ?", (now, files, bytes, number)
        )
