"""What was sent to targets, so that it is known while they are away."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Iterator
from typing import TYPE_CHECKING, TypeAlias

from lazy_magpie.paths import read_back, written

if TYPE_CHECKING:
    from lazy_magpie.model.sends import Send

Sent: TypeAlias = "tuple[str, int, int, Send]"
"""A file on a target: its path there, size, time, and the step that put it there."""


class SentFiles:
    """The files on targets that magpie put there."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self.db = db

    def put(self, target: str, files: Iterable[Sent], gone: Iterable[str] = ()) -> None:
        """Keep what was put on a target, and forget what was taken off."""
        self.db.executemany("DELETE FROM sent WHERE target = ? AND path = ?", ((target, written(p)) for p in gone))
        rows = ((target, written(path), size, mtime, written(step.source)) for path, size, mtime, step in files)
        self.db.executemany("INSERT OR REPLACE INTO sent VALUES (?, ?, ?, ?, ?)", rows)

    def replace(self, target: str, files: Iterable[Sent]) -> None:
        """Keep what is on a target, in place of what was known of it."""
        self.db.execute("DELETE FROM sent WHERE target = ?", (target,))
        self.put(target, files)

    def on(self, target: str) -> Iterator[tuple[str, int, str]]:
        """Yield path there, size, and where it came from, of all that was put on a target."""
        rows = self.db.execute("SELECT path, size, source FROM sent WHERE target = ? ORDER BY path", (target,))
        return ((read_back(path), int(size), read_back(source)) for path, size, source in rows)
