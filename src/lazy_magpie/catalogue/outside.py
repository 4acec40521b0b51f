"""The tags that files themselves carry, as they were when both sides agreed last, and as they were seen since."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable
from typing import NamedTuple


class Carried(NamedTuple):
    """The tags of a file on the outside: its item, what was there when both sides agreed last, what is there now."""

    file: int
    item: int
    agreed: frozenset[str]
    now: frozenset[str]


class Outside:
    """The table `outside`."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self.db = db

    def known_in(self, folder: int) -> set[int]:
        """Return the files of a folder that carried tags when they were looked at last."""
        rows = self.db.execute(
            "SELECT outside.file FROM outside JOIN file ON file.id = outside.file WHERE file.folder = ?", (folder,)
        )
        return {int(file) for (file,) in rows}

    def see(self, seen: Iterable[tuple[int, Iterable[str]]]) -> None:
        """Keep which tags files (ids) were seen to carry now."""
        self.db.executemany(
            "INSERT INTO outside (file, agreed, now) VALUES (?, '[]', ?) "
            "ON CONFLICT (file) DO UPDATE SET now = excluded.now",
            ((file, json.dumps(list(tags), ensure_ascii=False)) for file, tags in seen),
        )

    def waiting(self) -> list[Carried]:
        """Return what was seen and not yet brought together with the tags of its item; main files alone."""
        rows = self.db.execute(
            "SELECT outside.file, file.item, agreed, now FROM outside JOIN file ON file.id = outside.file "
            "WHERE now IS NOT NULL AND file.item IS NOT NULL AND file.role = 'main' AND file.missing = 0"
        )
        return [
            Carried(file, item, frozenset(json.loads(agreed)), frozenset(json.loads(now)))
            for file, item, agreed, now in rows
        ]

    def agree(self, file: int, tags: Iterable[str]) -> None:
        """Note that both sides agree on what a file carries."""
        text = json.dumps(sorted(tags), ensure_ascii=False)
        self.db.execute("INSERT OR REPLACE INTO outside (file, agreed, now) VALUES (?, ?, NULL)", (file, text))

    def agreed(self, file: int) -> frozenset[str]:
        """Return what both sides agreed on last."""
        row = self.db.execute("SELECT agreed FROM outside WHERE file = ?", (file,)).fetchone()
        return frozenset(json.loads(row[0])) if row else frozenset()
