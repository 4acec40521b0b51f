"""Checksums of contents, and which listed files they are: the tables `sums` and, for one run, `found`."""

from __future__ import annotations

import sqlite3
from collections.abc import Collection, Iterable, Iterator
from typing import NamedTuple

from lazy_magpie.catalogue.query import at_or_below
from lazy_magpie.catalogue.roots import MAIN_ROOT
from lazy_magpie.checksums import DIGESTS, Sums
from lazy_magpie.model import FileStamp
from lazy_magpie.paths import join, read_back, written

INSIDE = -1
"""What stands for a header where the digest is one that a file has of what is packed in it."""
_BATCH = 500
_GAMES = "('game', 'firmware', 'unknown')"


class Content(NamedTuple):
    """A file, or a member of an archive, whose checksums are wanted: `root` is the number of the root it lies on.

    `size` and `mtime` are the file's, `bytes` those of the member. `known` are the digests that are known already.
    """

    file: int
    root: int
    path: str
    size: int
    mtime: int
    member: str = ""
    bytes: int = 0
    known: frozenset[str] = frozenset()


class Place(NamedTuple):
    """Where a file lies: its root's number, its path there, how it looks, its item (0: none) and that one's kind."""

    root: int
    path: str
    stamp: FileStamp
    item: int
    kind: str


class SumsTable:
    """The table `sums`, and what it says of the lists."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self.db = db

    def loose(self, folders: Iterable[str], *, any_size: bool) -> Iterator[Content]:
        """Yield the files that may be listed by their size, or (`any_size`) lie in a folder of a list or are games."""
        asked = "file.size IN (SELECT listed_file.size FROM listed_file WHERE key IS NOT NULL)"
        values: list[str] = []
        if any_size:
            below = [at_or_below(written(folder)) for folder in folders]
            here = " OR ".join(f"(root = {MAIN_ROOT} AND {sql})" for sql, _ in below) or "0"
            asked = f"({asked} OR kind IN {_GAMES} OR {here})"
            values = [value for _, some in below for value in some]
        yield from self._loose(asked, values)

    def of_sizes(self, sizes: Collection[int]) -> Iterator[Content]:
        """Yield the files of these sizes (in bytes)."""
        yield from self._loose(f"file.size IN ({', '.join('?' * len(sizes))})", sizes)

    def _loose(self, asked: str, values: Iterable[object]) -> Iterator[Content]:
        rows = self.db.execute(
            "SELECT file.id, folder.root, folder.path, name, file.size, file.mtime, sums.crc, sums.md5, sums.sha1, "
            "sums.sha256 FROM file JOIN folder ON folder.id = file.folder LEFT JOIN item ON item.id = file.item "
            "LEFT JOIN sums ON sums.file = file.id AND sums.member = '' AND sums.skipped = 0 "
            "AND sums.size = file.size AND sums.mtime = file.mtime "
            f"WHERE missing = 0 AND file.size > 0 AND {asked} ORDER BY folder.root, folder.path, name",
            tuple(values),
        )
        for id, root, folder, name, size, mtime, crc, *digests in rows:
            known = frozenset() if crc is None else _known(digests)
            yield Content(id, root, join(read_back(folder), read_back(name)), size, mtime, known=known)

    def with_ending(self, endings: Collection[str]) -> Iterator[Content]:
        """Yield the files whose names end in one of these, where nothing is known of what they say of themselves."""
        for ending in endings:
            yield from self._loose(
                "name LIKE ? AND NOT EXISTS (SELECT 1 FROM sums AS own WHERE own.file = file.id AND own.skipped = ? "
                "AND own.size = file.size AND own.mtime = file.mtime)",
                (f"%{ending}", INSIDE),
            )

    def members(self) -> Iterator[Content]:
        """Yield members of archives that only reading can tell of: they, or the lists, have no CRC-32."""
        yield from self._members(
            "(member.crc IS NULL AND member.size IN (SELECT listed_file.size FROM listed_file WHERE key IS NOT NULL) "
            "OR member.size IN (SELECT listed_file.size FROM listed_file WHERE typeof(key) = 'blob') "
            f"OR kind IN {_GAMES} "
            "AND EXISTS (SELECT 1 FROM listed_file WHERE typeof(key) = 'blob' AND listed_file.size < 0))"
        )

    def members_of_sizes(self, sizes: Collection[int]) -> Iterator[Content]:
        """Yield the members of archives of these sizes (in bytes)."""
        yield from self._members(f"member.size IN ({', '.join('?' * len(sizes))})", sizes)

    def members_below(self, folder: str) -> Iterator[Content]:
        """Yield all members of the archives in a folder of the own root."""
        sql, values = at_or_below(written(folder))
        yield from self._members(f"root = {MAIN_ROOT} AND {sql}", values)

    def _members(self, asked: str, values: Iterable[object] = ()) -> Iterator[Content]:
        rows = self.db.execute(
            "SELECT file.id, folder.root, folder.path, name, file.size, file.mtime, member.path, member.size, "
            "sums.crc, sums.md5, sums.sha1, sums.sha256 FROM member JOIN file ON file.id = member.file "
            "JOIN folder ON folder.id = file.folder LEFT JOIN item ON item.id = file.item "
            "LEFT JOIN sums ON sums.file = file.id AND sums.member = member.path AND sums.skipped = 0 "
            "AND sums.size = file.size AND sums.mtime = file.mtime "
            f"WHERE missing = 0 AND member.size > 0 AND {asked} ORDER BY folder.root, folder.path, name",
            tuple(values),
        )
        for id, root, folder, name, size, mtime, member, bytes_, crc, *digests in rows:
            known = frozenset() if crc is None else _known(digests)
            path = join(read_back(folder), read_back(name))
            yield Content(id, root, path, size, mtime, read_back(member), bytes_, known)

    def games(self) -> set[int]:
        """Return the ids of the files that are games or firmware."""
        rows = self.db.execute(
            "SELECT file.id FROM file JOIN item ON item.id = file.item WHERE missing = 0 AND role = 'main' "
            "AND kind IN ('game', 'firmware')"
        )
        return {id for (id,) in rows}

    def of_files(self, ids: Collection[int]) -> Iterator[Content]:
        """Yield the contents of files: of an archive its members, else the file itself."""
        for some in _batches(ids):
            marks = ", ".join("?" * len(some))
            archives = {
                file for (file,) in self.db.execute(f"SELECT DISTINCT file FROM member WHERE file IN ({marks})", some)
            }
            for content in self._loose(f"file.id IN ({marks})", some):
                if content.file not in archives:
                    yield content
            yield from self._members(f"file.id IN ({marks})", some)

    def known(self, ids: Collection[int]) -> Iterator[tuple[int, str, str, Sums]]:
        """Yield what is known of the contents of files: file, its path, the member ("": the file), its checksums."""
        for some in _batches(ids):
            marks = ", ".join("?" * len(some))
            rows = self.db.execute(
                "SELECT file.id, folder.path, name, member, bytes, crc, md5, sha1, sha256 FROM sums "
                "JOIN file ON file.id = sums.file AND sums.size = file.size AND sums.mtime = file.mtime "
                "JOIN folder ON folder.id = file.folder "
                f"WHERE file.id IN ({marks}) AND skipped = 0 AND bytes >= 0 ORDER BY folder.path, name, member",
                some,
            )
            for id, folder, name, member, *sums in rows:
                yield id, join(read_back(folder), read_back(name)), read_back(member), Sums(*sums)

    def put(self, content: Content, sums: Sums, skipped: int = 0) -> None:
        """Keep the checksums of a content, with those of a loose file that copies are found by."""
        row = (content.file, written(content.member), skipped, content.size, content.mtime, *sums[:-1])
        self.db.execute("INSERT OR REPLACE INTO sums VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)", row)
        if not content.member and not skipped and sums.size == content.size:
            stamp = (content.file, content.size, content.mtime)
            self.db.execute("INSERT OR REPLACE INTO crc VALUES (?, ?, ?, ?)", (*stamp, sums.crc))
            self.db.execute(
                "INSERT INTO digest VALUES (?, ?, ?, x'', ?) ON CONFLICT (file) DO UPDATE SET whole = excluded.whole, "
                "ends = CASE WHEN size = excluded.size AND mtime = excluded.mtime THEN ends ELSE x'' END, "
                "size = excluded.size, mtime = excluded.mtime",
                (*stamp, sums.own),
            )

    def find(self) -> None:
        """Work out which contents are listed files: the table `found`, for this connection.

        What sets need that were put aside before (`find_right`) is left out.
        """
        self.db.execute(_BY_MEMBER)
        for key in ("crc", *DIGESTS):
            self.db.execute(_BY_SUMS.format(key=key))

    def begin(self) -> None:
        """Forget what was found in this connection before."""
        self.db.executescript(_FOUND)

    def find_right(self, list_id: int, folder: str) -> tuple[int, int, int]:
        """Put aside the sets that are each whole in an archive of their name in a folder, and nothing besides.

        Returns how many these are, how many files they have, and their bytes; `right` holds them, for this connection.
        """
        self.db.execute(_RIGHT, (written(folder), list_id))
        row = self.db.execute(
            "SELECT COUNT(*), COALESCE(SUM(files), 0), COALESCE(SUM(bytes), 0) FROM temp.right "
            "JOIN listed_set ON listed_set.id = owner WHERE list = ?",
            (list_id,),
        ).fetchone()
        return tuple(row)

    def right_files(self) -> set[int]:
        """Return the archives of the sets that were put aside."""
        return {file for (file,) in self.db.execute("SELECT file FROM temp.right")}

    def places(self) -> dict[int, Place]:
        """Return where the files lie that were found, or hold what was, by their ids."""
        rows = self.db.execute(f"{_PLACES} WHERE file.id IN (SELECT file FROM found)")
        return dict(map(_place, rows))

    def below(self, folder: str) -> dict[int, Place]:
        """Return what lies in a folder of the own root, by the files' ids."""
        sql, values = at_or_below(written(folder))
        rows = self.db.execute(f"{_PLACES} WHERE missing = 0 AND root = {MAIN_ROOT} AND {sql}", values)
        return dict(map(_place, rows))

    def members_in(self, folder: str) -> dict[int, int]:
        """Return how many members the archives have that lie in a folder of the own root, by the files' ids."""
        sql, values = at_or_below(written(folder))
        return dict(
            self.db.execute(
                "SELECT member.file, COUNT(*) FROM folder JOIN file ON file.folder = folder.id "
                f"JOIN member ON member.file = file.id WHERE root = {MAIN_ROOT} AND {sql} GROUP BY member.file",
                values,
            )
        )


def _batches(ids: Collection[int]) -> Iterator[list[int]]:
    ordered = sorted(ids)
    for at in range(0, len(ordered), _BATCH):
        yield ordered[at : at + _BATCH]


def _known(digests: Iterable[bytes]) -> frozenset[str]:
    return frozenset(["crc", *(name for name, value in zip(DIGESTS, digests, strict=True) if value)])


def _place(row: tuple[int, int, str, str, int, int, int, int, str]) -> tuple[int, Place]:
    id, root, folder, name, size, mtime, inode, item, kind = row
    return id, Place(root, join(read_back(folder), read_back(name)), FileStamp(size, mtime, inode), item, kind)


_PLACES = (
    "SELECT file.id, folder.root, folder.path, name, size, mtime, inode, COALESCE(file.item, 0), COALESCE(kind, '') "
    "FROM file JOIN folder ON folder.id = file.folder LEFT JOIN item ON item.id = file.item"
)
_FOUND = """
DROP TABLE IF EXISTS temp.right;
DROP TABLE IF EXISTS temp.found;
CREATE TEMP TABLE right (owner INTEGER PRIMARY KEY, file, files, bytes);
CREATE TEMP TABLE found (
    listed INTEGER NOT NULL, file INTEGER NOT NULL, member TEXT NOT NULL, skipped INTEGER NOT NULL,
    PRIMARY KEY (listed, file, member, skipped)
) WITHOUT ROWID;
"""
_OTHERWISE = (
    "EXISTS (SELECT 1 FROM sums WHERE sums.file = member.file AND sums.member = member.path "
    "AND sums.size = file.size AND sums.mtime = file.mtime AND skipped = 0)"
)
"""A member was read, and what it holds is known better than by its archive's directory."""
_RIGHT = f"""
INSERT INTO temp.right SELECT listed_set.id, file.id, COUNT(*), SUM(MAX(listed_file.size, 0)) FROM listed_set
CROSS JOIN folder ON root = {MAIN_ROOT} AND folder.path = ?
CROSS JOIN file ON file.folder = folder.id AND file.name = listed_set.name || '.zip' AND missing = 0
CROSS JOIN listed_file ON owner = listed_set.id
LEFT JOIN member ON member.file = file.id AND member.path = listed_file.name AND listed_file.key = +member.crc
AND listed_file.size IN (member.size, -1) AND NOT {_OTHERWISE}
WHERE list = ? GROUP BY listed_set.id
HAVING COUNT(member.file) = COUNT(*) AND COUNT(*) = (SELECT COUNT(*) FROM member WHERE member.file = file.id)
"""
# SQLite knows nothing of how large these are: CROSS JOIN makes it begin with what is there, not with what is listed.
# The plus takes the column's type away: with it, keys, which are numbers or digests, could not be looked up.
_BY_MEMBER = f"""
INSERT OR IGNORE INTO found SELECT listed_file.id, member.file, member.path, 0 FROM member
CROSS JOIN listed_file ON listed_file.key = +member.crc AND listed_file.size IN (member.size, -1)
JOIN file ON file.id = member.file AND missing = 0
WHERE member.crc IS NOT NULL AND member.size > 0 AND owner NOT IN (SELECT owner FROM temp.right) AND NOT {_OTHERWISE}
"""
_BY_SUMS = """
INSERT OR IGNORE INTO found SELECT listed_file.id, sums.file, sums.member, sums.skipped FROM sums
JOIN file ON file.id = sums.file AND missing = 0 AND file.size = sums.size AND file.mtime = sums.mtime
CROSS JOIN listed_file ON listed_file.key = +sums.{key} AND listed_file.size IN (sums.bytes, -1)
WHERE sums.bytes > 0 AND owner NOT IN (SELECT owner FROM temp.right)
AND (listed_file.md5 = x'' OR sums.md5 = x'' OR listed_file.md5 = sums.md5)
AND (listed_file.sha1 = x'' OR sums.sha1 = x'' OR listed_file.sha1 = sums.sha1)
AND (listed_file.sha256 = x'' OR sums.sha256 = x'' OR listed_file.sha256 = sums.sha256)
"""
