"""What folders are for: what they are taken for, and what a person said."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable

from lazy_magpie.paths import read_back, written


class FolderRoleTable:
    """The roles of folders."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self.db = db

    def all(self, root: int) -> dict[str, tuple[int, str]]:
        """Return id and role, as it is kept, of every folder of a root, by its path in the inner form."""
        rows = self.db.execute("SELECT path, id, taken_for FROM folder WHERE root = ?", (root,))
        return {read_back(path): (int(id), str(role)) for path, id, role in rows}

    def at(self, root: int, path: str) -> str:
        """Return the role of a folder, as it is kept; "" where none is."""
        row = self.db.execute(
            "SELECT taken_for FROM folder WHERE root = ? AND path = ?", (root, written(path))
        ).fetchone()
        return str(row[0]) if row else ""

    def told(self, root: int) -> dict[str, str]:
        """Return the roles that a person said folders of a root have, by their paths in the inner form."""
        rows = self.db.execute("SELECT path, told_role FROM folder WHERE root = ? AND told_role <> ''", (root,))
        return {read_back(path): str(role) for path, role in rows}

    def tell(self, root: int, path: str, role: str) -> int:
        """Keep the role that a person says a folder has, "" for none; return its id, 0 where it is not known."""
        row = self.db.execute(
            "UPDATE folder SET told_role = ? WHERE root = ? AND path = ? RETURNING id", (role, root, written(path))
        ).fetchone()
        return int(row[0]) if row else 0

    def keep(self, roles: Iterable[tuple[str, int]]) -> None:
        """Keep what folders are taken for: (role, folder)."""
        self.db.executemany("UPDATE folder SET taken_for = ? WHERE id = ?", roles)
