"""The tags that files themselves carry, as they were when both sides agreed last, and as they were seen since."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable
from typing import NamedTuple

from lazy_magpie.plain_json import json_text

ATTRIBUTE, INSIDE, SIDECAR = "attribute", "inside", "sidecar"


class CarriedTags(NamedTuple):
    """The tags of a file in one place outside: its item, what both sides agreed on last, what is there now."""

    file: int
    place: str
    item: int
    agreed: frozenset[str]
    now: frozenset[str]


class ExternalTags:
    """The table `outside`."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self.db = db

    def known_in(self, folder: int) -> dict[str, set[int]]:
        """Return by place the files of a folder that carried tags there when they were looked at last."""
        rows = self.db.execute(
            "SELECT place, outside.file FROM outside JOIN file ON file.id = outside.file WHERE file.folder = ?",
            (folder,),
        )
        found: dict[str, set[int]] = {}
        for place, file in rows:
            found.setdefault(place, set()).add(file)
        return found

    def see(self, place: str, seen: Iterable[tuple[int, Iterable[str]]]) -> None:
        """Keep which tags files (ids) were seen to carry in a place now."""
        self.db.executemany(
            "INSERT INTO outside VALUES (?, ?, '[]', ?) ON CONFLICT (file, place) DO UPDATE SET now = excluded.now",
            ((file, place, json_text(list(tags))) for file, tags in seen),
        )

    def waiting(self) -> list[CarriedTags]:
        """Return what was seen and not yet brought together with the tags of its item; main files alone."""
        rows = self.db.execute(
            "SELECT outside.file, place, file.item, agreed, now FROM outside JOIN file ON file.id = outside.file "
            "WHERE now IS NOT NULL AND file.item IS NOT NULL AND file.role = 'main' AND file.missing = 0"
        )
        return [
            CarriedTags(file, place, item, frozenset(json.loads(agreed)), frozenset(json.loads(now)))
            for file, place, item, agreed, now in rows
        ]

    def agree(self, file: int, place: str, tags: Iterable[str]) -> None:
        """Note that both sides agree on what a file carries in a place."""
        text = json_text(sorted(tags))
        self.db.execute("INSERT OR REPLACE INTO outside VALUES (?, ?, ?, NULL)", (file, place, text))

    def agreed(self, file: int, place: str) -> frozenset[str]:
        """Return what both sides agreed on last."""
        row = self.db.execute("SELECT agreed FROM outside WHERE file = ? AND place = ?", (file, place)).fetchone()
        return frozenset(json.loads(row[0])) if row else frozenset()
