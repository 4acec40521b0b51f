"""Items of the catalogue: identities, the files that belong to them, and what is asked of them."""

from __future__ import annotations

import datetime
import json
import re
import secrets
import sqlite3
from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import Any, NamedTuple

from lazy_magpie.catalogue.conditions import Condition, search_words, to_sql
from lazy_magpie.model import File, Identity, Item, Kind, State
from lazy_magpie.paths import join, read_back

_BLOCK = 22
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
                search_words(identity.fields),
            )
            if item:
                self.db.execute(
                    "UPDATE item SET kind = ?, state = ?, confidence = ?, fields = ?, facts = ?, doubts = ?, "
                    "search = ?, main = ? WHERE id = ? AND state <> 'settled'",
                    (*values, file, item),
                )
            else:
                item = self.new_id()
                self.db.execute(
                    "INSERT INTO item (kind, state, confidence, fields, facts, doubts, search, main, id) "
                    "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)",
                    (*values, file, item),
                )
                self.db.execute("UPDATE file SET item = ?, role = 'main' WHERE id = ?", (item, file))

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
            "UPDATE item SET kind = ?, state = 'settled', confidence = 1.0, fields = ?, doubts = '[]', search = ? "
            "WHERE id = ?",
            (kind, _json(fields), search_words(fields), item),
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
            self.db.execute(
                "DELETE FROM item WHERE id = (SELECT item FROM file WHERE id = ?) AND main = ? AND id <> ?",
                (file, file, item),
            )
            self.db.execute("UPDATE file SET item = ?, role = ? WHERE id = ?", (item, role, file))

    def forget_ownerless(self) -> None:
        """Take away items whose main file has gone over to another item or left the catalogue."""
        self.db.execute(
            "DELETE FROM item WHERE NOT EXISTS (SELECT 1 FROM file WHERE file.id = item.main AND file.item = item.id)"
        )

    def owner(self, file: int) -> tuple[int, str]:
        """Return the item that a file belongs to (0: none) and its role there."""
        row = self.db.execute("SELECT COALESCE(item, 0), role FROM file WHERE id = ?", (file,)).fetchone()
        return (int(row[0]), str(row[1])) if row else (0, "main")

    def ask(self, condition: Condition) -> Iterator[Item]:
        """Yield the items that meet `condition` and are there, with all their files, in the order of their paths."""
        sql, values = to_sql(condition)
        rows = self.db.execute(f"{_SELECT} WHERE file.missing = 0 AND ({sql}) ORDER BY folder.path, file.name", values)
        for row in rows:
            yield self._item(row)

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


def _json(value: object) -> str:
    """Return compact JSON; bytes that are not UTF-8, which a title may hold, are escaped."""
    text = json.dumps(value, ensure_ascii=False, separators=(",", ":"))
    return text if text.isascii() or not _LONE.search(text) else json.dumps(value, separators=(",", ":"))
