"""Makes the catalogue's tables, and brings an older catalogue up to today's."""

from __future__ import annotations

import shutil
import sqlite3
from contextlib import closing
from pathlib import Path

from lazy_magpie.catalogue.tables import TABLES, UPGRADES, VERSION
from lazy_magpie.errors import MagpieError


def is_older(path: Path) -> bool:
    """Say whether the catalogue at `path` was written by an older magpie; False for a file that is no catalogue."""
    with closing(sqlite3.connect(path.absolute().as_uri() + "?mode=ro", uri=True)) as db:
        try:
            return 0 < int(db.execute("PRAGMA user_version").fetchone()[0]) < VERSION
        except sqlite3.Error:
            return False


def prepare(db: sqlite3.Connection, path: Path) -> None:
    """Make the tables in a new catalogue, or bring an older one up, with a copy of its file kept beside it.

    Raises MagpieError for a catalogue that a newer magpie wrote.
    """
    version = int(db.execute("PRAGMA user_version").fetchone()[0])
    if version == VERSION:
        return
    if version > VERSION:
        raise MagpieError(
            f"The catalogue {path} was written by a newer magpie (version {version}, this one knows {VERSION}); "
            "install that magpie, or move the file away and scan anew."
        )
    if version:
        shutil.copy2(path, path.with_name(f"{path.name}.version-{version}"))
    with db:
        if version == 0:
            db.executescript(f"BEGIN; {TABLES} PRAGMA user_version = 1;")
        for older in range(version or 1, VERSION):
            db.executescript(f"BEGIN; {UPGRADES[older]} PRAGMA user_version = {older + 1};")
