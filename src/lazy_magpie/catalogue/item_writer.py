"""Writes items: what a scan has made of the files, what a person settled, and the index of both."""

from __future__ import annotations

import json
import os
import sqlite3
from collections.abc import Collection, Iterable, Mapping, Sequence
from typing import Any, NamedTuple

from lazy_magpie.catalogue.custom_fields import CustomFields
from lazy_magpie.catalogue.query import OF_MAIN
from lazy_magpie.catalogue.search_index import Row, filed_from, filed_of, rows_of, search_words
from lazy_magpie.catalogue.tags import Tags
from lazy_magpie.formatting import now_text
from lazy_magpie.model import Answer, Value
from lazy_magpie.paths import join, read_back
from lazy_magpie.plain_json import json_text

_BLOCK = 22
_INDEXED_AT_ONCE = 5_000
_ADDED_AT_ONCE = 5_000
_ROWS_AT_ONCE = 150_000
_INDEXED = "id, search, filed, was, fields, facts"
_JOIN = "UPDATE file SET item = ?, role = ?, part = ?, basis = ?, alone = ? WHERE id = ?"


class _MemberFile(NamedTuple):
    """A file of an item as the index has it: its path in the inner form, its name in the written one."""

    path: str
    name: str
    size: int
    mtime: int
    role: str


class MemberRecord(NamedTuple):
    """A file of an item: its id, its role and part there, and what stands for all that it was identified by.

    `alone` says what it was taken for by itself (`alone_text`), where the item does not.
    """

    file: int
    role: str
    part: int
    basis: int
    alone: str


class ItemRecord(NamedTuple):
    """An item as a scan makes it: its files, the main one first, its identity, its rows of the index.

    `fields`, `facts` and `doubts` are JSON.
    """

    files: tuple[MemberRecord, ...]
    kind: str
    state: str
    confidence: float
    fields: str
    facts: str
    doubts: str
    search: str
    filed: str
    rows: tuple[Row, ...]


class ItemWriter:
    """Writes the tables `item`, `value`, `words`, `fact` and `settled`, and which file belongs to which item."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self.db = db
        self.tags = Tags(db)
        self.own = CustomFields(db)
        self._next = 0
        self._left = 0
        self._fields: dict[str, int] = {}
        self._waiting: list[tuple[int, float, str, int]] = []

    def new_id(self) -> int:
        """Return a lasting random id: blocks of 2**22 ids at random places, so that new rows lie side by side."""
        if not self._left:
            self._next = self._free_block()
            self._left = (1 << _BLOCK) - 1
        self._next += 1
        self._left -= 1
        return self._next

    def _free_block(self) -> int:
        """Return where a block of ids begins in which there is none yet; six bytes hold any of its ids."""
        while True:
            start = (int.from_bytes(os.urandom(3)) | 1 << 23) << _BLOCK
            taken = self.db.execute("SELECT 1 FROM item WHERE id BETWEEN ? AND ?", (start, start + (1 << _BLOCK)))
            if taken.fetchone() is None:
                return start

    def store(self, made: Iterable[ItemRecord], held: Collection[int]) -> None:
        """Store what a scan has made of some folders; `held` are those of their files that belong to an item already.

        An item goes on as long as its main file does; where items become one, the first (or a settled one) goes on
        and takes what is known of the others. A settled identity stays as it is. Rows of the index wait for `flush`.
        """
        fresh: list[tuple[int, ItemRecord]] = []
        for one in made:
            ids = [member.file for member in one.files if member.file in held]
            if ids and (items := self._items_of(ids)):
                self._go_on(one, items)
                continue
            fresh.append((self.new_id(), one))
            if len(fresh) == _ADDED_AT_ONCE:
                self._add(fresh)
                fresh.clear()
        self._add(fresh)

    def _add(self, fresh: Sequence[tuple[int, ItemRecord]]) -> None:
        """Put new items in, with all that the index has of them; sorted, so that its pages are written in a row."""
        self.db.executemany(
            "INSERT INTO item (id, main, kind, state, confidence, fields, facts, doubts, search, filed, files, stale) "
            "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, 0)",
            (
                (id, o.files[0].file, o.kind, o.state, o.confidence, o.fields, o.facts, o.doubts, o.search, o.filed,
                 len(o.files))
                for id, o in fresh
            ),
        )  # fmt: skip
        self.db.executemany(_JOIN, ((id, *place, file) for id, one in fresh for file, *place in one.files))
        self.db.executemany("INSERT INTO words (rowid, search) VALUES (?, ?)", ((id, one.search) for id, one in fresh))
        self._add_rows((row, id) for id, one in fresh for row in one.rows)

    def _add_rows(self, rows: Iterable[tuple[Row, int]]) -> None:
        fields = self._fields
        self._waiting += [
            (fields.get(field) or self._field(field), number, text, id) for (field, number, text), id in rows
        ]
        if len(self._waiting) >= _ROWS_AT_ONCE:
            self.flush()

    def flush(self) -> None:
        """Write the rows of the index that wait, in their order, so that its pages are written one after the other."""
        self._waiting.sort()
        self.db.executemany("INSERT OR IGNORE INTO value VALUES (?, ?, ?, ?)", self._waiting)
        self._waiting.clear()

    def _items_of(self, files: Sequence[int]) -> list[int]:
        """Return the items that go on with one of `files`, in the order in which they should.

        That are those whose main file it is, or whose main file is gone; settled ones first.
        """
        marks = ", ".join("?" * len(files))
        rows = self.db.execute(
            f"SELECT DISTINCT item.id, item.main, item.state FROM file JOIN item ON item.id = file.item "
            f"JOIN file AS main ON main.id = item.main WHERE file.id IN ({marks}) "
            "AND (item.main = file.id OR main.missing <> 0)",
            tuple(files),
        ).fetchall()
        place = {file: at for at, file in enumerate(files)}
        rows.sort(key=lambda row: (row[2] != "settled", place.get(row[1], len(files))))
        return [int(row[0]) for row in rows]

    def _go_on(self, one: ItemRecord, items: Sequence[int]) -> None:
        """Update the surviving row, the first of `items`, to `one`, and merge the others into it."""
        item, *others = items
        for other in others:
            self.db.execute("UPDATE OR IGNORE fact SET item = ? WHERE item = ?", (item, other))
            self.db.execute("UPDATE OR IGNORE settled SET item = ? WHERE item = ?", (item, other))
            self.tags.put(item, {*self.tags.of(item), *self.tags.of(other)})
            for field, value in {**self.own.of(other), **self.own.of(item)}.items():
                self.own.put(item, field, value)
        self._forget(others)
        self._note_was(item)
        self.db.execute(
            "UPDATE item SET main = ?, facts = ?, files = ?, stale = 1 WHERE id = ?",
            (one.files[0].file, one.facts, len(one.files), item),
        )
        self.db.execute(
            "UPDATE item SET kind = ?, state = ?, confidence = ?, fields = ?, doubts = ? "
            "WHERE id = ? AND state <> 'settled'",
            (one.kind, one.state, one.confidence, one.fields, one.doubts, item),
        )
        self.db.executemany(_JOIN, ((item, *place, file) for file, *place in one.files))

    def _note_was(self, item: int) -> None:
        """Keep what the index has of an item, before its fields or facts change."""
        self.db.execute(
            "UPDATE item SET was = '[' || fields || ',' || facts || ']' WHERE id = ? AND filed <> '' AND was = ''",
            (item,),
        )

    def index_stale(self) -> int:
        """Bring the index of words and values up to date for every item that has changed or moved; return how many."""
        count = 0
        while rows := self.db.execute(
            f"SELECT {_INDEXED} FROM item WHERE stale = 1 LIMIT ?", (_INDEXED_AT_ONCE,)
        ).fetchall():
            self._index_anew(rows)
            count += len(rows)
        self.flush()
        return count

    def _index_anew(self, rows: Sequence[Sequence[Any]]) -> None:
        """Bring the index to what items (the columns of `_INDEXED`) are now; only what differs is written."""
        self.flush()
        marked = self.tags.any() or self.own.any()
        files_of = self._files_of([row[0] for row in rows])
        words_out, words_in, values_out, values_in, now = [], [], [], [], []
        for id, search, filed, was, fields_text, facts_text in rows:
            fields, facts = json.loads(fields_text), json.loads(facts_text)
            if not (files := files_of[id]):  # its main file has gone over to another item: it is taken away soon
                now.append((search, filed, id))
                continue
            paths = [file.path for file in files]
            found = self._words(id, paths, fields, facts) if marked else search_words(paths, fields, facts)
            size = sum(max(file.size, 0) for file in files)
            new = filed_of(size, files[0].mtime, (file.name for file in files if file.role == "main"))
            if new.text() != filed or was:
                old_fields, old_facts = json.loads(was) if was else (fields, facts)
                before = set(rows_of(old_fields, old_facts, filed_from(filed))) if filed else set()
                after = set(rows_of(fields, facts, new))
                values_out += [(row, id) for row in before - after]
                values_in += [(row, id) for row in after - before]
            if found != search:
                words_out += [(id, search)] if search else []
                words_in.append((id, found))
            now.append((found, new.text(), id))
        self._delete(words_out, values_out)
        self.db.executemany("UPDATE item SET search = ?, filed = ?, was = '', stale = 0 WHERE id = ?", now)
        self.db.executemany("INSERT INTO words (rowid, search) VALUES (?, ?)", words_in)
        self._add_rows(values_in)

    def _take_out(self, rows: Iterable[Sequence[Any]]) -> None:
        """Take items (the columns of `_INDEXED`) out of the index."""
        self.flush()
        words, values = [], []
        for id, search, filed, was, fields, facts in rows:
            if search:
                words.append((id, search))
            if filed:
                old_fields, old_facts = json.loads(was) if was else (json.loads(fields), json.loads(facts))
                values += [(row, id) for row in rows_of(old_fields, old_facts, filed_from(filed))]
        self._delete(words, values)

    def _delete(self, words: Iterable[tuple[int, str]], values: Iterable[tuple[Row, int]]) -> None:
        """Delete words and values of items from the index."""
        self.db.executemany("INSERT INTO words (words, rowid, search) VALUES ('delete', ?, ?)", words)
        self.db.executemany(
            "DELETE FROM value WHERE field = ? AND number = ? AND text = ? AND item = ?",
            sorted((self._field(field), number, text, id) for (field, number, text), id in values),
        )

    def _files_of(self, items: Sequence[int]) -> dict[int, list[_MemberFile]]:
        """Return the files of items, the main one first, then those that are there, by their paths."""
        found: dict[int, list[_MemberFile]] = {item: [] for item in items}
        rows = self.db.execute(
            "SELECT item.id, folder.path, name, size, mtime, role FROM json_each(?) AS wanted "
            "CROSS JOIN item ON item.id = wanted.value CROSS JOIN file ON file.item = item.id "
            "JOIN folder ON folder.id = file.folder WHERE missing = 0 OR file.id = item.main "
            "ORDER BY item.id, file.id <> item.main, folder.path, name",
            (json.dumps(items),),
        )
        for item, folder, *rest in rows:
            found[item].append(_MemberFile(join(read_back(folder), read_back(rest[0])), *rest))
        return found

    def _words(self, id: int, paths: Sequence[str], fields: Mapping[str, Value], facts: Mapping[str, Value]) -> str:
        """Return the words that an item is found by, with its tags and what a person filled in."""
        own = self.own.of(id)
        words = [str(value) for value in own.values() if isinstance(value, str)]
        words += [word for value in own.values() if isinstance(value, list) for word in map(str, value)]
        put = {str(at): word for at, word in enumerate((*self.tags.of(id), *words))}
        return search_words(paths, fields, facts, put)

    def _field(self, name: str) -> int:
        if name not in self._fields:
            self.db.execute("INSERT OR IGNORE INTO field (name) VALUES (?)", (name,))
            self._fields |= {str(name): int(id) for id, name in self.db.execute("SELECT id, name FROM field")}
        return self._fields[name]

    def settle(self, item: int, answer: Answer | None) -> None:
        """Settle an item as a person or a list has answered, or take the answer back (None).

        An item whose answer was taken back is unknown until its folder is gathered again.
        """
        if answer is None:
            self.db.execute("DELETE FROM settled WHERE item = ?", (item,))
            self.db.execute("UPDATE item SET state = 'unknown' WHERE id = ? AND state = 'settled'", (item,))
            self.db.execute("UPDATE file SET basis = 0 WHERE item = ?", (item,))
            return
        kind, fields = answer.kind.value, answer.fields
        now = now_text()
        self.db.execute(
            "INSERT OR REPLACE INTO settled VALUES (?, ?, ?, ?, ?)", (item, kind, json_text(fields), answer.by, now)
        )
        self._note_was(item)
        self.db.execute(
            "UPDATE item SET kind = ?, state = 'settled', confidence = 1.0, fields = ?, doubts = '[]', stale = 1 "
            "WHERE id = ?",
            (kind, json_text(fields), item),
        )

    def attach(self, companions: Iterable[tuple[int, str, int]]) -> None:
        """Attach files to items: (item, role, file). An item that was a file's own is removed."""
        for item, role, file in companions:
            own = self.db.execute(
                f"SELECT item.id FROM file {OF_MAIN} WHERE file.id = ? AND item.id <> ?", (file, item)
            )
            self._forget(id for (id,) in own.fetchall())
            self.db.execute("UPDATE file SET item = ?, role = ?, part = 0 WHERE id = ?", (item, role, file))
            self.db.execute("UPDATE item SET files = files + 1, stale = 1 WHERE id = ?", (item,))

    def _forget(self, ids: Iterable[int]) -> None:
        """Take items away, with what the index has of them."""
        gone = [(int(id),) for id in ids]
        if not gone:
            return
        self._take_out(
            row for one in gone for row in self.db.execute(f"SELECT {_INDEXED} FROM item WHERE id = ?", one).fetchall()
        )
        for (id,) in gone:
            self.tags.put(id, ())
            for field in self.own.of(id):
                self.own.put(id, field, None)
        for table, key in (("fact", "item"), ("settled", "item"), ("in_place", "item"), ("item", "id")):
            self.db.executemany(f"DELETE FROM {table} WHERE {key} = ?", gone)

    def let_go(self, items: Iterable[int]) -> None:
        """Forget items with all their files, and what a person decided of them."""
        ids = list(items)
        files = [row for id in ids for row in self.db.execute("SELECT id FROM file WHERE item = ?", (id,)).fetchall()]
        self._forget(ids)
        self._forget_files(files)

    def let_go_of_missing(self) -> int:
        """Forget every missing file that belongs to an item that is there; return how many."""
        files = self.db.execute(
            f"SELECT file.id FROM file LEFT {OF_MAIN} WHERE missing <> 0 AND item.id IS NULL"
        ).fetchall()
        self._forget_files(files)
        return len(files)

    def _forget_files(self, files: Sequence[tuple[int]]) -> None:
        self.db.executemany("UPDATE folder SET digest = NULL WHERE id = (SELECT folder FROM file WHERE id = ?)", files)
        for table, key in (("told", "file"), ("member", "file"), ("digest", "file"), ("crc", "file"),
                           ("print", "file"), ("outside", "file"),
                           ("looked", "one"), ("looked", "other"), ("file", "id")):  # fmt: skip
            self.db.executemany(f"DELETE FROM {table} WHERE {key} = ?", files)

    def forget_ownerless(self) -> None:
        """Take away items whose main file has gone over to another item or left the catalogue."""
        rows = self.db.execute(
            "SELECT id FROM item WHERE NOT EXISTS "
            "(SELECT 1 FROM file WHERE file.id = item.main AND file.item = item.id)"
        ).fetchall()
        self._forget(id for (id,) in rows)
