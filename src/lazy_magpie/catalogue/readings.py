"""What files held when they were read whole last: by place ("": the collection, else a mirror)."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Mapping
from typing import NamedTuple

from lazy_magpie.paths import is_below, read_back, written


class Reading(NamedTuple):
    """A reading of a file: its size and time then, the BLAKE3 digest of all of it, and when that was (seconds)."""

    path: str
    size: int
    mtime: int
    digest: bytes
    at: int


class Readings:
    """The readings of files, on the collection's own root and on mirrors."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self.db = db

    def of(self, place: str) -> dict[str, Reading]:
        """Return the last good reading of each file at a place, by path."""
        rows = self.db.execute("SELECT path, size, mtime, digest, at FROM reading WHERE place = ?", (place,))
        return {one.path: one for one in (Reading(read_back(path), *rest) for path, *rest in rows)}

    def put(self, place: str, readings: Iterable[Reading]) -> None:
        """Keep readings, each in place of the one before."""
        rows = ((place, written(one.path), one.size, one.mtime, one.digest, one.at) for one in readings)
        self.db.executemany("INSERT OR REPLACE INTO reading VALUES (?, ?, ?, ?, ?, ?)", rows)

    def follow(self, place: str, moves: Iterable[tuple[str, str, bool]]) -> None:
        """Follow moves (from, to, whether it is a folder)."""
        if self.db.execute("SELECT 1 FROM reading WHERE place = ? LIMIT 1", (place,)).fetchone() is None:
            return
        for source, target, is_folder in moves:
            if is_folder:
                known = [path for path in self.of(place) if is_below(path, source)]
                self._rename(place, {path: target + path[len(source) :] for path in known})
            else:
                self._rename(place, {source: target})

    def _rename(self, place: str, names: Mapping[str, str]) -> None:
        self.db.executemany(
            "UPDATE OR REPLACE reading SET path = ? WHERE place = ? AND path = ?",
            ((written(new), place, written(old)) for old, new in names.items()),
        )
