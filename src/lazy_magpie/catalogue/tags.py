"""The words that a person has put on items, and the colours of the words."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable

from lazy_magpie.catalogue.custom_fields import index

FIELD = "tag"


class Tags:
    """The tables `tagged` and `tag_colour`, and what the index has of tags."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self.db = db

    def any(self) -> bool:
        """Say whether any item has one."""
        return self.db.execute("SELECT 1 FROM tagged LIMIT 1").fetchone() is not None

    def of(self, item: int) -> tuple[str, ...]:
        """Return the tags of an item, sorted."""
        rows = self.db.execute("SELECT tag FROM tagged WHERE item = ? ORDER BY tag", (item,))
        return tuple(str(tag) for (tag,) in rows)

    def counts(self) -> dict[str, int]:
        """Return on how many items each tag is, most used first; 0 for one that has only a colour."""
        rows = self.db.execute(
            "SELECT tag, SUM(used) FROM (SELECT tag, 1 AS used FROM tagged UNION ALL SELECT tag, 0 FROM tag_colour) "
            "GROUP BY tag ORDER BY 2 DESC, tag"
        )
        return {str(tag): int(count) for tag, count in rows}

    def put(self, item: int, tags: Iterable[str]) -> None:
        """Set the tags of an item; the index follows."""
        old, new = set(self.of(item)), set(tags)
        if old == new:
            return
        self.db.executemany("DELETE FROM tagged WHERE item = ? AND tag = ?", ((item, gone) for gone in old - new))
        self.db.executemany("INSERT INTO tagged VALUES (?, ?)", ((item, tag) for tag in new - old))
        index(self.db, item, FIELD, old - new, new - old)
        self.db.execute("UPDATE item SET stale = 1 WHERE id = ?", (item,))

    def colours(self) -> dict[str, str]:
        """Return the colour of each tag that has one."""
        return {str(tag): str(colour) for tag, colour in self.db.execute("SELECT tag, colour FROM tag_colour")}

    def colour(self, tag: str, colour: str) -> None:
        """Give a tag a colour; "" takes it away."""
        self.db.execute("DELETE FROM tag_colour WHERE tag = ?", (tag,))
        if colour:
            self.db.execute("INSERT INTO tag_colour VALUES (?, ?)", (tag, colour))
