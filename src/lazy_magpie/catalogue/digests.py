"""What is known of the contents of files: digests of their ends and of the whole, as long as size and time stay."""

from __future__ import annotations

import sqlite3
from collections.abc import Collection, Iterable, Iterator
from typing import NamedTuple

from lazy_magpie.catalogue.roots import MAIN_ROOT
from lazy_magpie.model import File
from lazy_magpie.paths import join, name_of, parent, read_back, written


class Sized(NamedTuple):
    """A file that another one of its size may be a copy of; `path` is relative to the collection's own root.

    `ends` and `whole` are digests, b"" where they are not known for the file as it is.
    """

    id: int
    path: str
    size: int
    mtime: int
    inode: int
    item: int
    ends: bytes
    whole: bytes


class Digests:
    """The table `digest`."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self.db = db

    def of_one_size(self) -> Iterator[Sized]:
        """Yield the files on the collection's own root that are not alone with their size, by size; no empty ones."""
        rows = self.db.execute(
            "WITH here AS (SELECT file.id, folder.path, name, size, mtime, inode, COALESCE(item, 0) AS item FROM file "
            "JOIN folder ON folder.id = file.folder WHERE root = ? AND missing = 0 AND size > 0) "
            "SELECT here.id, here.path, here.name, here.size, here.mtime, here.inode, here.item, "
            "COALESCE(ends, x''), COALESCE(whole, x'') FROM here "
            "LEFT JOIN digest ON digest.file = here.id AND digest.size = here.size AND digest.mtime = here.mtime "
            "WHERE here.size IN (SELECT size FROM here GROUP BY size HAVING COUNT(*) > 1) ORDER BY here.size, here.id",
            (MAIN_ROOT,),
        )
        for id, folder, name, *rest in rows:
            yield Sized(id, join(read_back(folder), read_back(name)), *rest)

    def across_roots(self) -> Iterator[tuple[int, Sized]]:
        """Yield (root, file) of the files that have a size which is both on the own root and on another; none empty."""
        rows = self.db.execute(
            "WITH here AS (SELECT file.id, root, folder.path, name, size, mtime, inode, COALESCE(item, 0) AS item "
            "FROM file JOIN folder ON folder.id = file.folder WHERE missing = 0 AND size > 0) "
            "SELECT root, here.id, here.path, here.name, here.size, here.mtime, here.inode, here.item, "
            "COALESCE(ends, x''), COALESCE(whole, x'') FROM here "
            "LEFT JOIN digest ON digest.file = here.id AND digest.size = here.size AND digest.mtime = here.mtime "
            "WHERE here.size IN (SELECT size FROM here GROUP BY size "
            "HAVING COUNT(DISTINCT root) > 1 AND MIN(root) = ?) ORDER BY here.size, here.id",
            (MAIN_ROOT,),
        )
        for root, id, folder, name, *rest in rows:
            yield int(root), Sized(id, join(read_back(folder), read_back(name)), *rest)

    def same_as(self, item: int) -> list[str]:
        """Return the files of other items that hold the same as a main file of this one, as far as that is known."""
        rows = self.db.execute(
            "SELECT DISTINCT folder.path, other.name FROM file JOIN digest ON digest.file = file.id "
            "AND digest.size = file.size AND digest.mtime = file.mtime "
            "JOIN digest AS same ON same.whole = digest.whole "
            "JOIN file AS other ON other.id = same.file AND other.size = same.size AND other.mtime = same.mtime "
            "JOIN folder ON folder.id = other.folder WHERE file.item = ? AND file.role = 'main' "
            "AND digest.whole <> x'' AND same.whole <> x'' AND other.item <> file.item AND other.missing = 0 "
            "ORDER BY 1, 2",
            (item,),
        )
        return [join(read_back(folder), read_back(name)) for folder, name in rows]

    def twice(self) -> tuple[int, int]:
        """Return how many files hold what another one holds, one of each apart, and their bytes, as far as is known."""
        row = self.db.execute(
            "SELECT COALESCE(SUM(copies - 1), 0), COALESCE(SUM((copies - 1) * bytes), 0) FROM ("
            "SELECT COUNT(DISTINCT file.inode) AS copies, MAX(file.size) AS bytes FROM digest JOIN file "
            "ON file.id = digest.file AND file.size = digest.size AND file.mtime = digest.mtime "
            "WHERE whole <> x'' AND missing = 0 GROUP BY whole HAVING copies > 1)"
        ).fetchone()
        return int(row[0]), int(row[1])

    def put(self, files: Iterable[Sized]) -> None:
        """Keep the digests of files."""
        self.db.executemany(
            "INSERT OR REPLACE INTO digest VALUES (?, ?, ?, ?, ?)",
            ((file.id, file.size, file.mtime, file.ends, file.whole) for file in files),
        )

    def archives(self) -> list[tuple[int, File]]:
        """Return, with their ids, the archives on the own root whose members are known."""
        rows = self.db.execute(
            "SELECT file.id, folder.path, name, size, mtime, inode FROM file "
            "JOIN folder ON folder.id = file.folder WHERE root = ? AND missing = 0 "
            "AND file.id IN (SELECT DISTINCT file FROM member) ORDER BY folder.path, name",
            (MAIN_ROOT,),
        )
        return [(id, File(join(read_back(folder), read_back(name)), *rest)) for id, folder, name, *rest in rows]

    def places_of(self, wanted: Collection[tuple[str, int]]) -> dict[tuple[str, int], list[str]]:
        """Return the folders on the own root in which files of these names (inner form) and sizes lie."""
        found: dict[tuple[str, int], list[str]] = {}
        for folder, name, size in self._files():
            key = (read_back(name), size)
            if key in wanted:
                found.setdefault(key, []).append(read_back(folder))
        return found

    def paths_of(self, sizes: Collection[int]) -> dict[int, list[str]]:
        """Return the files on the own root that have one of these sizes, in bytes, by size, in order."""
        found: dict[int, list[str]] = {}
        for folder, name, size in self._files():
            if size in sizes:
                found.setdefault(size, []).append(join(read_back(folder), read_back(name)))
        return {size: sorted(paths) for size, paths in found.items()}

    def _files(self) -> Iterator[tuple[str, str, int]]:
        """Yield (folder, name, size in bytes) of the files on the own root, in their written form."""
        return self.db.execute(
            "SELECT folder.path, name, size FROM file JOIN folder ON folder.id = file.folder "
            "WHERE root = ? AND missing = 0",
            (MAIN_ROOT,),
        )

    def file_at(self, path: str) -> tuple[int, int, int, int | None] | None:
        """Return (id, size, mtime, CRC-32 or None where it is not known) of a file of the own root, None if none."""
        row = self.db.execute(
            "SELECT file.id, file.size, file.mtime, crc FROM file JOIN folder ON folder.id = file.folder "
            "LEFT JOIN crc ON crc.file = file.id AND crc.size = file.size AND crc.mtime = file.mtime "
            "WHERE root = ? AND path = ? AND name = ? AND missing = 0",
            (MAIN_ROOT, written(parent(path)), written(name_of(path))),
        ).fetchone()
        return tuple(row) if row else None

    def put_crc(self, file: int, size: int, mtime: int, crc: int) -> None:
        """Keep the CRC-32 of a file."""
        self.db.execute("INSERT OR REPLACE INTO crc VALUES (?, ?, ?, ?)", (file, size, mtime, crc))
