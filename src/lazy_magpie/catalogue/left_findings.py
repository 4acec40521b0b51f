"""Findings that a person leaves as they are, for ever: by path and by rule; they follow what moves."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Mapping

from lazy_magpie.paths import is_below, read_back, written


class LeftFindings:
    """What is left as it is, on the collection's own root."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self.db = db

    def all(self) -> dict[str, tuple[str, ...]]:
        """Return the rules by which each path, and all below it, is left as it is."""
        rows = self.db.execute("SELECT path, rules FROM let_be ORDER BY path")
        return {read_back(path): tuple(json.loads(rules)) for path, rules in rows}

    def put(self, path: str, rules: Iterable[str]) -> None:
        """Keep the rules by which a path is left as it is, none for no longer."""
        self.db.execute("DELETE FROM let_be WHERE path = ?", (written(path),))
        if kept := sorted(rules):
            self.db.execute("INSERT INTO let_be VALUES (?, ?)", (written(path), json.dumps(kept)))

    def follow(self, moves: Iterable[tuple[str, str, bool]]) -> Mapping[str, tuple[str, ...]]:
        """Follow moves (from, to, whether it is a folder); return the paths that changed: the old without rules."""
        before = now = self.all()
        for source, target, is_folder in moves if before else ():
            now = {_moved(path, source, target, is_folder=is_folder): rules for path, rules in now.items()}
        gone: dict[str, tuple[str, ...]] = {path: () for path in before if path not in now}
        changed = gone | {path: rules for path, rules in now.items() if path not in before}
        for path, rules in changed.items():
            self.put(path, rules)
        return changed


def _moved(path: str, source: str, target: str, *, is_folder: bool) -> str:
    is_moved = path == source or (is_folder and is_below(path, source))
    return target + path[len(source) :] if is_moved else path
