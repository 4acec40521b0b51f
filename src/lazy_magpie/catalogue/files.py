"""Folders and files of the catalogue."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from typing import overload

from lazy_magpie.catalogue.query import OF_MAIN, at_or_below
from lazy_magpie.catalogue.roots import MAIN_ROOT
from lazy_magpie.model import Value
from lazy_magpie.paths import above, join, name_of, parent, read_back, written

_WITH_ROOT = "SELECT file.id, root, folder, name, size, mtime, inode FROM file JOIN folder ON folder.id = file.folder"

Row = tuple[int, str, int, int, int, int, int]
"""A file as the catalogue has it: id, name (written form), size, mtime, inode, the scan that missed it, its item."""
NewFile = tuple[int, str, int, int, int, int]
"""A file to put in: folder, name in the written form, size, mtime, inode, and the scan that found it."""


class FolderNames(Sequence[str]):
    """The names of the files in a folder, kept as one text: of very many, each by itself takes twice the room."""

    __slots__ = ("_text",)

    def __init__(self, text: str) -> None:
        self._text = text

    def __iter__(self) -> Iterator[str]:
        return iter(self._text.split("/"))

    def __len__(self) -> int:
        return self._text.count("/") + 1

    @overload
    def __getitem__(self, at: int) -> str: ...
    @overload
    def __getitem__(self, at: slice) -> list[str]: ...
    def __getitem__(self, at: int | slice) -> str | list[str]:
        return self._text.split("/")[at]


class Files:
    """The tables `folder` and `file`."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self.db = db

    def folder(self, path: str, scan: int, root: int = MAIN_ROOT) -> tuple[int, bool, bytes | None]:
        """Return the id of a folder, whether it is new, and the digest of its files; note that `scan` saw it."""
        text = written(path)
        row = self.db.execute("SELECT id, digest FROM folder WHERE root = ? AND path = ?", (root, text)).fetchone()
        if row:
            self.db.execute("UPDATE folder SET seen = ? WHERE id = ?", (scan, row[0]))
            return int(row[0]), False, row[1]
        cursor = self.db.execute("INSERT INTO folder (root, path, seen) VALUES (?, ?, ?)", (root, text, scan))
        return int(cursor.lastrowid or 0), True, None

    def digest(self, digests: Iterable[tuple[bytes, int]]) -> None:
        """Store digests of the files in folders: (digest, folder)."""
        self.db.executemany("UPDATE folder SET digest = ? WHERE id = ?", digests)

    def drop_digest(self, where: str, values: Sequence[object] = ()) -> None:
        """Note of folders that their files in the catalogue are not those that were seen on the disk last."""
        self.db.execute(f"UPDATE folder SET digest = NULL WHERE digest IS NOT NULL AND {where}", values)

    def in_folder(self, folder: int) -> list[Row]:
        """Return the files of a folder, the missing ones too."""
        return self.db.execute(
            "SELECT id, name, size, mtime, inode, missing, COALESCE(item, 0) FROM file WHERE folder = ?", (folder,)
        ).fetchall()

    def add(self, files: Iterable[NewFile]) -> None:
        """Put new files in."""
        self.db.executemany(
            "INSERT INTO file (folder, name, size, mtime, inode, added) VALUES (?, ?, ?, ?, ?, ?)", files
        )

    def change(self, files: Iterable[tuple[int, int, int, int]]) -> None:
        """Store (size, mtime, inode, id) of files that changed, and that they are there."""
        self.db.executemany("UPDATE file SET size = ?, mtime = ?, inode = ?, missing = 0 WHERE id = ?", files)

    def miss(self, ids: Iterable[int], scan: int) -> None:
        """Mark files as missing since `scan`."""
        self.db.executemany("UPDATE file SET missing = ? WHERE id = ?", ((scan, id) for id in ids))

    def miss_unseen_folders(self, below: Iterable[str], scan: int, root: int = MAIN_ROOT) -> tuple[int, list[int]]:
        """Mark all files missing whose folder (at or below one of `below`) `scan` has not seen.

        Returns how many files that were, and the folders.
        """
        count, folders = 0, []
        for top in below:
            condition, values = at_or_below(written(top))
            rows = self.db.execute(
                f"SELECT id FROM folder WHERE seen <> ? AND root = ? AND {condition}", (scan, root, *values)
            ).fetchall()
            for (id,) in rows:
                cursor = self.db.execute("UPDATE file SET missing = ? WHERE folder = ? AND missing = 0", (scan, id))
                self.drop_digest("id = ?", (id,))
                if cursor.rowcount > 0:
                    count += cursor.rowcount
                    folders.append(id)
        return count, folders

    def see_folders(self, top: str, scan: int, root: int = MAIN_ROOT) -> None:
        """Note that `scan` need not look for the folders at and below `top`: they can't be read now."""
        condition, values = at_or_below(written(top))
        self.db.execute(f"UPDATE folder SET seen = ? WHERE root = ? AND {condition}", (scan, root, *values))

    def mark_dirty(self, folders: Iterable[int]) -> None:
        """Note that something in these folders has still to be read and identified."""
        self.db.executemany("UPDATE folder SET dirty = 1 WHERE id = ? AND dirty <> 1", ((id,) for id in folders))

    def mark_changed(self, folders: Iterable[int]) -> None:
        """Note of folders that names came or went: where files are left, something is to be read and identified."""
        self.db.executemany(
            "UPDATE folder SET dirty = EXISTS (SELECT 1 FROM file WHERE file.folder = folder.id) WHERE id = ?",
            ((id,) for id in folders),
        )

    def mark_tags_dirty(self, folders: Iterable[int]) -> None:
        """Note that what the files of these folders carry outside has to be looked at."""
        self.db.executemany("UPDATE folder SET dirty = 2 WHERE id = ? AND dirty = 0", ((id,) for id in folders))

    def suspected(self) -> list[int]:
        """Return the folders whose files have to be looked at from outside: the dirty ones too."""
        return [int(id) for (id,) in self.db.execute("SELECT id FROM folder WHERE dirty <> 0 ORDER BY id")]

    def unsuspect(self) -> None:
        """Note that all files were looked at from outside."""
        self.db.execute("UPDATE folder SET dirty = 0 WHERE dirty <> 0 AND dirty = 2")

    def mark_clean(self, folders: Iterable[int]) -> None:
        """Note that all in these folders was read and identified."""
        self.db.executemany("UPDATE folder SET dirty = 0 WHERE id = ?", ((id,) for id in folders))

    def dirty_folders(self) -> list[int]:
        """Return the folders in which something has still to be read and identified, also since a scan was stopped."""
        return [
            int(id) for (id,) in self.db.execute("SELECT id FROM folder WHERE dirty <> 0 AND dirty = 1 ORDER BY id")
        ]

    def all_folders(self) -> set[int]:
        """Return the ids of all folders."""
        return {int(id) for (id,) in self.db.execute("SELECT id FROM folder")}

    def listing(self, root: int) -> dict[str, FolderNames]:
        """Return the names of the files that are there in each folder of a root, in the inner form."""
        rows = self.db.execute(
            "SELECT path, group_concat(name, '/') FROM folder JOIN file ON file.folder = folder.id "
            "WHERE root = ? AND missing = 0 GROUP BY folder.id",
            (root,),
        )
        return {read_back(path): FolderNames(read_back(names)) for path, names in rows}

    def folder_tree(self) -> list[str]:
        """Return the paths of all folders of the collection's own root."""
        rows = self.db.execute("SELECT path FROM folder WHERE root = ? ORDER BY path", (MAIN_ROOT,))
        return [read_back(path) for (path,) in rows]

    def counts(self) -> dict[str, int]:
        """Return how many files lie in each folder of the own root itself."""
        rows = self.db.execute(
            "SELECT path, COUNT(*) FROM file JOIN folder ON folder.id = file.folder WHERE root = ? AND missing = 0 "
            "GROUP BY folder.id",
            (MAIN_ROOT,),
        )
        return {read_back(path): count for path, count in rows}

    def folders_below(self, root: int, top: str) -> list[tuple[int, str]]:
        """Return (id, path) of the folders at and below `top` on a root, the top first."""
        condition, values = at_or_below(written(top))
        rows = self.db.execute(
            f"SELECT id, path FROM folder WHERE root = ? AND {condition} ORDER BY path", (root, *values)
        )
        return [(int(id), read_back(path)) for id, path in rows]

    def places(self, ids: Iterable[int]) -> dict[int, tuple[int, str]]:
        """Return root and path of folders by id, the path in the program's inner form."""
        found = {}
        for id in ids:
            if row := self.db.execute("SELECT root, path FROM folder WHERE id = ?", (id,)).fetchone():
                found[id] = (int(row[0]), read_back(row[1]))
        return found

    def ending_in(self, root: int, folder: str, endings: tuple[str, ...]) -> list[tuple[int, str]]:
        """Return (id, name in the inner form) of the files of a folder that have one of `endings`."""
        rows = self.db.execute(
            "SELECT file.id, name FROM file JOIN folder ON folder.id = file.folder "
            "WHERE root = ? AND path = ? AND missing = 0",
            (root, written(folder)),
        )
        return [(int(id), read_back(name)) for id, name in rows if name.lower().endswith(endings)]

    def untold(
        self, folders: Iterable[int], endings: Iterable[str], tops: Mapping[int, str]
    ) -> Iterator[tuple[int, str, int, int]]:
        """Yield (id, whole path, size, mtime) of the files in `folders` with one of `endings` not read as they are now.

        `tops` are the folders where the roots are; files on other roots are passed by.
        """
        fitting = tuple(endings)
        for folder in folders:
            rows = self.db.execute(
                "SELECT file.id, folder.root, folder.path, file.name, file.size, file.mtime FROM file "
                "JOIN folder ON folder.id = file.folder LEFT JOIN told ON told.file = file.id "
                "WHERE file.folder = ? AND file.missing = 0 AND file.size > 0 "
                "AND (told.file IS NULL OR told.size <> file.size OR told.mtime <> file.mtime)",
                (folder,),
            ).fetchall()
            for id, root, path, name, size, mtime in rows:
                if root in tops and name.lower().endswith(fitting):
                    yield id, join(tops[root], join(read_back(path), read_back(name))), size, mtime

    def tell(self, told: Iterable[tuple[int, int, int, Mapping[str, Value]]]) -> None:
        """Store what files said of themselves: (id, size, mtime, facts)."""
        self.db.executemany(
            "INSERT OR REPLACE INTO told VALUES (?, ?, ?, ?)",
            ((id, size, mtime, json.dumps(dict(facts))) for id, size, mtime, facts in told),
        )

    def forget_told(self, root: int) -> bool:
        """Forget what the files of a root said of themselves; say whether there was anything."""
        done = self.db.execute(
            "DELETE FROM told WHERE file IN (SELECT file.id FROM folder JOIN file ON file.folder = folder.id "
            "WHERE folder.root = ?)",
            (root,),
        )
        return done.rowcount > 0

    def empty_folders(self) -> list[str]:
        """Return the folders of the own root in which, and below which, the last scan saw no file."""
        rows = self.db.execute(
            "SELECT path, EXISTS (SELECT 1 FROM file WHERE file.folder = folder.id AND missing = 0) FROM folder "
            "WHERE root = ? ORDER BY path",
            (MAIN_ROOT,),
        ).fetchall()
        full = {""}
        for path, has_file in rows:
            if has_file:
                full.update((path, *above(path)))
        return [read_back(path) for path, _ in rows if path not in full]

    def put_members(self, file: int, members: Iterable[tuple[str, int, int | None]]) -> None:
        """Store what an archive holds: (path in the inner form, size, CRC-32 or None)."""
        self.db.execute("DELETE FROM member WHERE file = ?", (file,))
        self.db.executemany(
            "INSERT INTO member VALUES (?, ?, ?, ?)", ((file, written(path), size, crc) for path, size, crc in members)
        )

    def members_of(self, file: int) -> list[tuple[str, int, int | None]]:
        """Return what an archive holds, as `put_members` took it."""
        rows = self.db.execute("SELECT path, size, crc FROM member WHERE file = ? ORDER BY rowid", (file,))
        return [(read_back(path), size, crc) for path, size, crc in rows]

    def ids_of(self, item: int) -> list[int]:
        """Return the ids of an item's files."""
        return [int(id) for (id,) in self.db.execute("SELECT id FROM file WHERE item = ? AND missing = 0", (item,))]

    def mains_of(self, item: int) -> list[tuple[str, int]]:
        """Return (path, size) of the main files of an item."""
        rows = self.db.execute(
            "SELECT path, name, size FROM file JOIN folder ON folder.id = file.folder "
            "WHERE item = ? AND role = 'main' AND missing = 0",
            (item,),
        )
        return [(join(read_back(folder), read_back(name)), size) for folder, name, size in rows]

    def told_in(self, folder: int) -> dict[int, Mapping[str, Value]]:
        """Return what the files of a folder said of themselves, by id."""
        rows = self.db.execute(
            "SELECT told.file, told.facts FROM told JOIN file ON file.id = told.file WHERE file.folder = ?", (folder,)
        )
        return {int(id): json.loads(facts) for id, facts in rows}

    def first_in(self, folder: int) -> dict[int, str]:
        """Return the paths that the main files of a folder first came with, where these are other ones, by id."""
        rows = self.db.execute(
            f"SELECT file.id, fact.value FROM file {OF_MAIN} JOIN fact ON fact.item = item.id "
            "AND fact.field = 'first_path' WHERE file.folder = ?",
            (folder,),
        )
        return {int(id): read_back(path) for id, path in rows}

    def keep_first(self, paths: Iterable[tuple[str, str]]) -> None:
        """Keep, of main files on the collection's own root, the path and the one that each first came with."""
        rows = ((written(first), written(parent(path)), written(name_of(path))) for path, first in paths)
        self.db.executemany(
            f"INSERT OR IGNORE INTO fact SELECT item.id, 'first_path', ?, 'disk' FROM file {OF_MAIN} "
            f"JOIN folder ON folder.id = file.folder WHERE folder.root = {MAIN_ROOT} AND folder.path = ? "
            "AND file.name = ?",
            rows,
        )

    def main_paths(self) -> list[str]:
        """Return the paths of all main files on the collection's own root."""
        rows = self.db.execute(
            f"SELECT folder.path, file.name FROM file {OF_MAIN} JOIN folder ON folder.id = file.folder "
            f"WHERE folder.root = {MAIN_ROOT} AND file.missing = 0"
        )
        return [join(read_back(folder), read_back(name)) for folder, name in rows]

    def folders_with_first(self) -> list[int]:
        """Return the folders (ids) of the main files that first came with another path."""
        rows = self.db.execute(
            "SELECT DISTINCT file.folder FROM fact JOIN item ON item.id = fact.item JOIN file ON file.id = item.main "
            "WHERE fact.field = 'first_path'"
        )
        return [int(folder) for (folder,) in rows]

    def missing(self) -> Iterator[tuple[int, int, int, str, int, int, int]]:
        """Yield (id, root, folder, name, size, mtime, inode) of every missing file."""
        yield from self.db.execute(f"{_WITH_ROOT} WHERE missing <> 0")

    def added_in(self, scan: int) -> Iterator[tuple[int, int, int, str, int, int, int]]:
        """Yield (id, root, folder, name, size, mtime, inode) of every file that `scan` found."""
        yield from self.db.execute(f"{_WITH_ROOT} WHERE added = ? AND missing = 0", (scan,))

    def take_over(self, old: int, new: int) -> None:
        """Continue the missing file `old` as the file found as `new`."""
        place = self.db.execute("SELECT folder, name, size, mtime, inode FROM file WHERE id = ?", (new,)).fetchone()
        self.drop_digest("id = ? OR id = (SELECT folder FROM file WHERE id = ?)", (place[0], old))
        self.db.execute("DELETE FROM file WHERE id = ?", (new,))
        self.db.execute(
            "UPDATE file SET folder = ?, name = ?, size = ?, mtime = ?, inode = ?, missing = 0 WHERE id = ?",
            (*place, old),
        )

    def there(self, paths: Iterable[str], *, there: bool) -> None:
        """Note that files of the own root have been taken away, or have come back to where they were."""
        scan = 0 if there else self.db.execute("SELECT COALESCE(MAX(seen), 1) FROM folder").fetchone()[0]
        for path in paths:
            if (folder := self.folder_id(parent(path))) is not None:
                self.drop_digest("id = ?", (folder,))
                self.db.execute(
                    "UPDATE file SET missing = ? WHERE folder = ? AND name = ?", (scan, folder, written(name_of(path)))
                )

    def id_at(self, path: str, root: int = MAIN_ROOT, *, missing: bool = False) -> int | None:
        """Return the id of the file at a path that is there, or with `missing` was; None where there is none."""
        row = self.db.execute(
            "SELECT file.id, missing FROM file JOIN folder ON folder.id = file.folder "
            "WHERE root = ? AND path = ? AND name = ?",
            (root, written(parent(path)), written(name_of(path))),
        ).fetchone()
        return int(row[0]) if row and (missing or not row[1]) else None

    def with_endings(self, endings: Iterable[str]) -> list[str]:
        """Return the files of the own root, those that are there, whose names have one of some endings (small, dot)."""
        wanted = tuple(endings)
        likes = " OR ".join("name LIKE ?" for _ in wanted)
        rows = self.db.execute(
            "SELECT path, name FROM file JOIN folder ON folder.id = file.folder "
            f"WHERE root = ? AND missing = 0 AND ({likes})",
            (MAIN_ROOT, *(f"%{ending}" for ending in wanted)),
        )
        return [read_back(join(path, name)) for path, name in rows]

    def paths_with(self, inodes: Collection[int]) -> dict[int, str]:
        """Return the paths of the files of the own root that have these inodes: one pass over all files."""
        wanted = set(inodes)
        rows = self.db.execute(
            "SELECT inode, path, name FROM file JOIN folder ON folder.id = file.folder WHERE root = ? AND missing = 0",
            (MAIN_ROOT,),
        )
        return {inode: read_back(join(path, name)) for inode, path, name in rows if inode in wanted}

    def newest_folder(self) -> int:
        """Return the largest id of a folder: those that are put in later have larger ones."""
        return int(self.db.execute("SELECT COALESCE(MAX(id), 0) FROM folder").fetchone()[0])

    def folder_id(self, path: str, root: int = MAIN_ROOT) -> int | None:
        """Return the id of a folder, None where the catalogue has none."""
        row = self.db.execute("SELECT id FROM folder WHERE root = ? AND path = ?", (root, written(path))).fetchone()
        return int(row[0]) if row else None
