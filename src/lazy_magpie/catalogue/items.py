"""Items of the catalogue: identities, the files that belong to them, and what is asked of them."""

from __future__ import annotations

import datetime
import json
import re
import secrets
import sqlite3
from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import Any, NamedTuple

from lazy_magpie.catalogue.conditions import Condition, indexed, search_words, to_sql
from lazy_magpie.model import File, Identity, Item, Kind, State, Value
from lazy_magpie.paths import join, read_back, split_ending
from lazy_magpie.units import day_text

_BLOCK = 22
_INDEXED_AT_ONCE = 5_000
_LINES = re.compile(r"(\d+)p$")
_LONE = re.compile("[\ud800-\udfff]")
_SELECT = (
    "SELECT item.id, kind, state, confidence, fields, facts, doubts, folder.path, file.name, "
    "size, mtime, inode, file.id FROM item JOIN file ON file.id = item.main JOIN folder ON folder.id = file.folder"
)


class Filed(NamedTuple):
    """An identity to store: the file that it is of, and the item that the file had (0: none)."""

    file: int
    item: int
    identity: Identity


class Items:
    """The tables `item` and `fact`, and which file belongs to which item."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self.db = db
        self._next = 0
        self._left = 0

    def new_id(self) -> int:
        """Return a lasting random id: blocks of 2**22 ids at random places, so that new rows lie side by side."""
        if not self._left:
            self._next = (secrets.randbits(31) | 1 << 30) << _BLOCK
            self._left = 1 << _BLOCK
        self._next += 1
        self._left -= 1
        return self._next

    def store(self, filed: Iterable[Filed]) -> None:
        """Store identities: new items get an id, known ones keep theirs; a settled identity stays as it is."""
        for file, item, identity in filed:
            values = (
                identity.kind.value,
                identity.state.value,
                identity.confidence,
                _json(identity.fields),
                _json(identity.facts),
                _json(identity.doubts),
            )
            if item:
                self.db.execute("UPDATE item SET facts = ?, main = ?, stale = 1 WHERE id = ?", (values[4], file, item))
                self.db.execute(
                    "UPDATE item SET kind = ?, state = ?, confidence = ?, fields = ?, facts = ?, doubts = ? "
                    "WHERE id = ? AND state <> 'settled'",
                    (*values, item),
                )
            else:
                item = self.new_id()
                self.db.execute(
                    "INSERT INTO item (kind, state, confidence, fields, facts, doubts, search, main, id, stale) "
                    "VALUES (?, ?, ?, ?, ?, ?, '', ?, ?, 1)",
                    (*values, file, item),
                )
                self.db.execute("UPDATE file SET item = ?, role = 'main' WHERE id = ?", (item, file))

    def index_stale(self) -> int:
        """Bring the index of words and values up to date for every item that has changed or moved; return how many."""
        count = 0
        while rows := self.db.execute(
            "SELECT item.id, fields, facts, search, folder.path, file.name, file.size, file.mtime FROM item "
            "JOIN file ON file.id = item.main JOIN folder ON folder.id = file.folder WHERE item.stale = 1 LIMIT ?",
            (_INDEXED_AT_ONCE,),
        ).fetchall():
            self._index(rows)
            count += len(rows)
        return count

    def _index(self, rows: Sequence[Sequence[Any]]) -> None:
        before, after, searches = [], [], []
        known = {str(name): int(id) for id, name in self.db.execute("SELECT id, name FROM field")}
        for id, fields_text, facts_text, old, folder, name, size, mtime in rows:
            fields, facts = json.loads(fields_text), json.loads(facts_text)
            path = join(read_back(folder), read_back(name))
            new = search_words(path, fields, facts)
            values = {**facts, **fields, **self._of_file(id, name, size, mtime)}
            if match := _LINES.match(str(values.get("resolution", ""))):
                values.setdefault("height", int(match[1]))
            after += [(self._field(field, known), number, text, id) for field, number, text in indexed(values)]
            before.append((id,))
            searches.append((old, new, id))
        self.db.executemany(
            "INSERT INTO words (words, rowid, search) VALUES ('delete', ?, ?)",
            ((id, old) for old, _, id in searches if old),
        )
        self.db.executemany(
            "UPDATE item SET search = ?, stale = 0 WHERE id = ?", ((new, id) for _, new, id in searches)
        )
        self.db.executemany("INSERT INTO words (rowid, search) VALUES (?, ?)", ((id, new) for _, new, id in searches))
        if any(old for old, _, _ in searches):
            self.db.executemany("DELETE FROM value WHERE item = ?", before)
        self.db.executemany("INSERT OR IGNORE INTO value VALUES (?, ?, ?, ?)", after)

    def _of_file(self, id: int, name: str, size: int, mtime: int) -> dict[str, Value]:
        """Return the values that an item has from its files: all bytes, when it came, its ending."""
        others = self.db.execute(
            "SELECT COALESCE(SUM(MAX(size, 0)), 0) FROM file WHERE item = ? AND role <> 'main' AND missing = 0", (id,)
        ).fetchone()[0]
        ending = split_ending(name)[1].lower()[1:]
        return {"size": max(size, 0) + int(others), "arrived": day_text(mtime), "ending": ending}

    def _field(self, name: str, known: dict[str, int]) -> int:
        if name not in known:
            cursor = self.db.execute("INSERT INTO field (name) VALUES (?)", (name,))
            known[name] = int(cursor.lastrowid or 0)
        return known[name]

    def settle(self, item: int, answer: Mapping[str, Any] | None) -> None:
        """Settle an item as a person or a list has answered (kind, fields, by), or take the answer back (None).

        An item whose answer was taken back is unknown until its folder is gathered again.
        """
        if answer is None:
            self.db.execute("DELETE FROM settled WHERE item = ?", (item,))
            self.db.execute("UPDATE item SET state = 'unknown' WHERE id = ? AND state = 'settled'", (item,))
            return
        kind, fields = str(answer["kind"]), answer["fields"]
        now = datetime.datetime.now(datetime.UTC).isoformat(timespec="seconds")
        self.db.execute(
            "INSERT OR REPLACE INTO settled VALUES (?, ?, ?, ?, ?)", (item, kind, _json(fields), answer["by"], now)
        )
        self.db.execute(
            "UPDATE item SET kind = ?, state = 'settled', confidence = 1.0, fields = ?, doubts = '[]', stale = 1 "
            "WHERE id = ?",
            (kind, _json(fields), item),
        )

    def answer_of(self, item: int) -> dict[str, Any] | None:
        """Return how an item was settled (kind, fields, by, at), None where it was not."""
        row = self.db.execute("SELECT kind, fields, by, at FROM settled WHERE item = ?", (item,)).fetchone()
        return {"kind": row[0], "fields": json.loads(row[1]), "by": row[2], "at": row[3]} if row else None

    def folder_of(self, item: int) -> int | None:
        """Return the folder of an item's main file."""
        row = self.db.execute(
            "SELECT file.folder FROM item JOIN file ON file.id = item.main WHERE item.id = ?", (item,)
        ).fetchone()
        return int(row[0]) if row else None

    def attach(self, companions: Iterable[tuple[int, str, int]]) -> None:
        """Let files belong to items: (item, role, file). An item that was a file's own is taken away."""
        for item, role, file in companions:
            own = self.db.execute(
                "SELECT item.id FROM item JOIN file ON file.item = item.id WHERE file.id = ? AND item.main = ? "
                "AND item.id <> ?",
                (file, file, item),
            ).fetchall()
            self._forget(id for (id,) in own)
            self.db.execute("UPDATE file SET item = ?, role = ? WHERE id = ?", (item, role, file))
            self.db.execute("UPDATE item SET stale = 1 WHERE id = ?", (item,))

    def _forget(self, ids: Iterable[int]) -> None:
        """Take items away, with what the index has of them."""
        gone = [(int(id),) for id in ids]
        if not gone:
            return
        self.db.executemany(
            "INSERT INTO words (words, rowid, search) "
            "SELECT 'delete', id, search FROM item WHERE id = ? AND search <> ''",
            gone,
        )
        self.db.executemany("DELETE FROM value WHERE item = ?", gone)
        self.db.executemany("DELETE FROM item WHERE id = ?", gone)

    def forget_ownerless(self) -> None:
        """Take away items whose main file has gone over to another item or left the catalogue."""
        rows = self.db.execute(
            "SELECT id FROM item WHERE NOT EXISTS "
            "(SELECT 1 FROM file WHERE file.id = item.main AND file.item = item.id)"
        ).fetchall()
        self._forget(id for (id,) in rows)

    def owner(self, file: int) -> tuple[int, str]:
        """Return the item that a file belongs to (0: none) and its role there."""
        row = self.db.execute("SELECT COALESCE(item, 0), role FROM file WHERE id = ?", (file,)).fetchone()
        return (int(row[0]), str(row[1])) if row else (0, "main")

    def ask(self, condition: Condition, order: str = "", *, down: bool = False) -> Iterator[Item]:
        """Yield the items that meet `condition` and are there, with all their files, in the order of their paths.

        `order` names a field to go by first, `down` says that its largest value comes first; items without it come
        last.
        """
        sql, values = to_sql(condition)
        first = ""
        if order:
            way = "DESC" if down else "ASC"
            least = "MAX" if down else "MIN"
            field = "(SELECT id FROM field WHERE name = ?)"
            found = f"(SELECT {least}({{}}) FROM value WHERE item = item.id AND field = {field})"
            first = f"{found.format('number')} {way} NULLS LAST, {found.format('text')} {way}, "
            values = (*values, order, order)
        rows = self.db.execute(
            f"{_SELECT} WHERE file.missing = 0 AND ({sql}) ORDER BY {first}folder.path, file.name", values
        )
        for row in rows:
            yield self._item(row)

    def weigh(self, condition: Condition) -> Iterator[tuple[str, str, dict[str, Any], int, float]]:
        """Yield kind, path, fields, bytes and length in seconds of the items that meet `condition`, for totals."""
        sql, values = to_sql(condition)
        rows = self.db.execute(
            "SELECT item.kind, folder.path, file.name, item.fields, item.facts, (SELECT SUM(MAX(size, 0)) FROM file "
            "AS each WHERE each.item = item.id AND each.missing = 0) FROM item JOIN file ON file.id = item.main "
            f"JOIN folder ON folder.id = file.folder WHERE file.missing = 0 AND ({sql})",
            values,
        )
        for kind, folder, name, fields, facts, size in rows:
            path = join(read_back(folder), read_back(name))
            yield kind, path, json.loads(fields), int(size or 0), float(json.loads(facts).get("length", 0))

    def kept_columns(self, kind: str) -> list[str]:
        """Return the columns that a person chose for a kind, none if they chose none."""
        row = self.db.execute("SELECT columns FROM kept_columns WHERE kind = ?", (kind,)).fetchone()
        return str(row[0]).split(",") if row else []

    def keep_columns(self, kind: str, columns: Sequence[str]) -> None:
        """Remember the columns for a kind; none forgets them."""
        self.db.execute("DELETE FROM kept_columns WHERE kind = ?", (kind,))
        if columns:
            self.db.execute("INSERT INTO kept_columns VALUES (?, ?)", (kind, ",".join(columns)))

    def _item(self, row: Sequence[object]) -> Item:
        id, kind, state, confidence, fields, facts, doubts, folder, name, size, mtime, inode, main = row
        path = join(read_back(str(folder)), read_back(str(name)))
        files = [File(path, int(str(size)), int(str(mtime)), int(str(inode)))]
        others = self.db.execute(
            "SELECT folder.path, file.name, size, mtime, inode, role FROM file JOIN folder ON folder.id = file.folder "
            "WHERE file.item = ? AND file.id <> ? AND file.missing = 0 ORDER BY folder.path, file.name",
            (id, main),
        )
        files += [
            File(join(read_back(at), read_back(other)), size, mtime, inode, role)
            for at, other, size, mtime, inode, role in others
        ]
        return Item(
            int(str(id)),
            path,
            Kind(str(kind)),
            State(str(state)),
            float(str(confidence)),
            json.loads(str(fields)),
            json.loads(str(facts)),
            tuple(json.loads(str(doubts))),
            tuple(files),
        )

    def makers(self) -> set[str]:
        """Return the makers and artists of clear and settled items."""
        rows = self.db.execute(
            "SELECT fields FROM item WHERE kind IN ('track', 'kit', 'design', 'font') AND state IN ('clear', 'settled')"
        )
        found = set()
        for (text,) in rows:
            fields = json.loads(text)
            found |= {str(fields[key]) for key in ("artist", "maker") if key in fields}
        return found

    def folders_in_doubt(self, reason: str) -> list[int]:
        """Return the folders with items that are doubtful for a reason."""
        rows = self.db.execute(
            "SELECT DISTINCT file.folder FROM item JOIN file ON file.id = item.main "
            "WHERE item.state = 'doubtful' AND item.doubts LIKE ? AND file.missing = 0",
            (f'%"{reason}%',),
        )
        return [int(folder) for (folder,) in rows]

    def facts(self, item: int) -> list[tuple[str, str, str]]:
        """Return (field, value, source) of the facts kept of an item."""
        rows = self.db.execute("SELECT field, value, source FROM fact WHERE item = ? ORDER BY field", (item,))
        return [(str(field), str(value), str(source)) for field, value, source in rows]


def bare(answer: Mapping[str, Any] | None) -> dict[str, Any] | None:
    """Return an answer without its time, as a step's data has it."""
    return {key: answer[key] for key in ("kind", "fields", "by")} if answer else None


def _json(value: object) -> str:
    """Return compact JSON; bytes that are not UTF-8, which a title may hold, are escaped."""
    text = json.dumps(value, ensure_ascii=False, separators=(",", ":"))
    return text if text.isascii() or not _LONE.search(text) else json.dumps(value, separators=(",", ":"))
