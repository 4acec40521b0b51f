"""What is known of the likeness of files: prints, as long as size and time stay, and what second looks have said."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Mapping
from typing import NamedTuple

from lazy_magpie.catalogue.roots import MAIN_ROOT
from lazy_magpie.paths import join, read_back

WAY = 6
"""The way in which prints are taken and looked at now; what was done in another way is done anew."""


class FingerprintedFile(NamedTuple):
    """A file of the collection's own root with its print, None where it is not known for the file as it is."""

    id: int
    path: str
    size: int
    mtime: int
    inode: int
    print: bytes | None


class Fingerprints:
    """The tables `print` and `looked`."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self.db = db

    def of_kinds(self, kinds: Iterable[str]) -> dict[str, FingerprintedFile]:
        """Return the main files of items of some kinds on the own root, by path, with what is known of them."""
        names = list(kinds)
        rows = self.db.execute(
            "SELECT file.id, folder.path, name, file.size, file.mtime, inode, print FROM file "
            "JOIN folder ON folder.id = file.folder JOIN item ON item.id = file.item "
            "LEFT JOIN print ON print.file = file.id AND print.size = file.size AND print.mtime = file.mtime "
            f"AND way = ? WHERE root = ? AND missing = 0 AND role = 'main' AND file.size > 0 "
            f"AND item.kind IN ({', '.join('?' * len(names))})",
            (WAY, MAIN_ROOT, *names),
        )
        paths = ((id, join(read_back(folder), read_back(name)), *rest) for id, folder, name, *rest in rows)
        return {path: FingerprintedFile(id, path, *rest) for id, path, *rest in paths}

    def put(self, files: Iterable[FingerprintedFile]) -> None:
        """Keep the prints of files; what was said of them before they changed is forgotten."""
        known = list(files)
        for column in ("one", "other"):
            self.db.executemany(f"DELETE FROM looked WHERE {column} = ?", ((file.id,) for file in known))
        self.db.executemany(
            "INSERT OR REPLACE INTO print VALUES (?, ?, ?, ?, ?)",
            ((file.id, WAY, file.size, file.mtime, file.print) for file in known),
        )

    def looks(self) -> dict[tuple[int, int], int]:
        """Return what second looks have said: how alike two files (ids, the smaller first) are."""
        return {(one, other): int(alike) for one, other, alike in self.db.execute("SELECT * FROM looked")}

    def put_looks(self, looks: Mapping[tuple[int, int], int]) -> None:
        """Keep what second looks have said."""
        self.db.executemany(
            "INSERT OR REPLACE INTO looked VALUES (?, ?, ?)", ((*pair, alike) for pair, alike in looks.items())
        )
