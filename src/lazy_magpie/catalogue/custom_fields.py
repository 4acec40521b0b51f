"""What a person filled in of items: custom fields, as [field.NAME] in magpie.toml names them."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable

from lazy_magpie.catalogue.query import pair_of
from lazy_magpie.model import Value
from lazy_magpie.plain_json import json_text


class CustomFields:
    """The table `own_value`, and what the index has of it."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self.db = db

    def any(self) -> bool:
        """Say whether any item has one."""
        return self.db.execute("SELECT 1 FROM own_value LIMIT 1").fetchone() is not None

    def of(self, item: int) -> dict[str, Value]:
        """Return an item's values by field."""
        rows = self.db.execute("SELECT field, value FROM own_value WHERE item = ? ORDER BY field", (item,))
        return {str(field): json.loads(value) for field, value in rows}

    def put(self, item: int, field: str, value: Value | None) -> None:
        """Set the value of an item's field, None for none; the index follows."""
        old = self.of(item).get(field)
        if value == old:
            return
        index(self.db, item, field, _values(old), _values(value))
        self.db.execute("DELETE FROM own_value WHERE item = ? AND field = ?", (item, field))
        if value is not None:
            text = json_text(value)
            self.db.execute("INSERT INTO own_value VALUES (?, ?, ?)", (item, field, text))
        self.db.execute("UPDATE item SET stale = 1 WHERE id = ?", (item,))


def _values(value: Value | None) -> list[Value]:
    return value if isinstance(value, list) else [] if value is None else [value]  # type: ignore[return-value]


_ROW = "WHERE field = (SELECT id FROM field WHERE name = ?) AND number = ? AND text = ? AND item = ?"


def index(db: sqlite3.Connection, item: int, field: str, old: Iterable[Value], new: Iterable[Value]) -> None:
    """Replace the values `old` of an item's field in the index by `new`: a person set them, and no scan reads them."""
    db.executemany(f"DELETE FROM value {_ROW}", ((field, *pair_of(value), item) for value in old))
    db.execute("INSERT OR IGNORE INTO field (name) VALUES (?)", (field,))
    db.executemany(
        "INSERT OR IGNORE INTO value SELECT id, ?, ?, ? FROM field WHERE name = ?",
        ((*pair_of(value), item, field) for value in new),
    )
