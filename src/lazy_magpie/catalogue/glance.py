"""A glance at a catalogue: what `status` shows of it, at the cost of a few questions and nothing else."""

from __future__ import annotations

import sqlite3
from contextlib import closing
from pathlib import Path
from typing import NamedTuple

from lazy_magpie.catalogue.tables import VERSION


class RootSeen(NamedTuple):
    """A root as the last scan of all of it saw it: its name, the id that it carries, the folder it was at, when that
    was ("" for never), the files and bytes."""

    name: str
    mark: str
    place: str
    scanned: str
    files: int
    bytes: int


class Glance(NamedTuple):
    """What a catalogue says at a glance; `acting` that a change was at work when magpie was last ended."""

    roots: tuple[RootSeen, ...]
    new: int
    doubtful: int
    plans: tuple[int, ...]
    acting: bool


def glance(path: Path) -> Glance | None:
    """Return what stands in the catalogue at `path`, None where it is not there, can't be read, or is an older one."""
    try:
        with closing(sqlite3.connect(path.absolute().as_uri() + "?mode=ro", uri=True)) as db:
            if db.execute("PRAGMA user_version").fetchone()[0] != VERSION:
                return None
            roots = db.execute("SELECT name, mark, place, scanned, files_seen, bytes_seen FROM root ORDER BY id")
            noted = dict(db.execute("SELECT key, value FROM meta WHERE key IN ('new', 'acting')").fetchall())
            doubtful = db.execute(
                "SELECT count(*) FROM item JOIN file ON file.id = item.main "
                "WHERE state = 'doubtful' AND file.missing = 0"
            ).fetchone()[0]
            plans = db.execute("SELECT number FROM plan WHERE state = 'kept' ORDER BY number").fetchall()
            seen = tuple(RootSeen(*row) for row in roots)
    except sqlite3.Error:
        return None
    return Glance(
        seen, int(noted.get("new", 0)), int(doubtful), tuple(number for (number,) in plans), "acting" in noted
    )
