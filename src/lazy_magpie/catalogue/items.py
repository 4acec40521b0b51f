"""Items of the catalogue: identities, the files that belong to them, and what is asked of them."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Collection, Iterator, Sequence
from dataclasses import replace
from typing import Any

from lazy_magpie.catalogue.custom_fields import CustomFields
from lazy_magpie.catalogue.query import (
    OF_MAIN,
    All,
    AnyOf,
    Below,
    Condition,
    Has,
    Is,
    Not,
    OneByOne,
    OneOf,
    at_or_below,
    counting,
    flat_parts,
    to_sql,
)
from lazy_magpie.catalogue.tags import Tags
from lazy_magpie.model import Answer, File, Item, Kind, State
from lazy_magpie.paths import join, name_of, parent, read_back, written

_JOINED = (
    "item JOIN file ON file.id = item.main AND file.item = item.id JOIN folder ON folder.id = file.folder "
    "JOIN root ON root.id = folder.root"
)
"""An item with its main file and where that lies; from either side by a number: there is no index of main files."""
_SELECT = (
    "SELECT item.id, kind, state, confidence, fields, facts, doubts, root.name, folder.path, file.name, size, mtime, "
    f"inode, part, missing, file.id, files FROM {_JOINED}"
)


_SORTED_BY = (
    " LEFT JOIN (SELECT item, {least}(number) AS number, {least}(text) AS text FROM value "
    "WHERE field = (SELECT id FROM field WHERE name = ?) GROUP BY item) AS sorted ON sorted.item = item.id"
)
"""The smallest or largest value that each item has of a field, worked out once: no index leads from items to values."""
_MANY = 2_000
"""So many items are too many to be looked up at once for a question that few of them meet."""
_PATHS = 100
"""So many paths are too many for one question."""
_THERE = {False: "file.missing = 0", True: "1"}
_OF_MAKERS = "kind IN ('track', 'kit', 'design', 'font') AND state IN ('clear', 'settled')"

# From each text of a field to the next one: SELECT DISTINCT would read the row of every item.
_FOLDED_MAKERS = f"""
WITH RECURSIVE named (field, text) AS (
    SELECT id, (SELECT MIN(text) FROM value WHERE field = id AND number = 0)
    FROM field WHERE name IN ('artist', 'maker')
    UNION ALL
    SELECT field, (SELECT MIN(text) FROM value WHERE field = named.field AND number = 0 AND text > named.text)
    FROM named WHERE text IS NOT NULL
)
SELECT DISTINCT text FROM named WHERE EXISTS (
    SELECT 1 FROM value CROSS JOIN item ON item.id = value.item
    WHERE field = named.field AND number = 0 AND text = named.text AND {_OF_MAKERS}
)
"""


class Items:
    """Asks the table `item` and what hangs on it."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self.db = db
        self.tags = Tags(db)
        self.own = CustomFields(db)

    def answer_of(self, item: int) -> Answer | None:
        """Return how an item was settled, None where it was not."""
        row = self.db.execute("SELECT kind, fields, by FROM settled WHERE item = ?", (item,)).fetchone()
        return Answer(Kind(row[0]), json.loads(row[1]), row[2]) if row else None

    def settled_at(self, item: int) -> str:
        """Return when an item was settled (ISO 8601, UTC), "" where it was not."""
        row = self.db.execute("SELECT at FROM settled WHERE item = ?", (item,)).fetchone()
        return str(row[0]) if row else ""

    def at(self, path: str) -> int | None:
        """Return the item whose main file lies at a path of the own root, None where there is none."""
        row = self.db.execute(
            f"SELECT item.id FROM folder JOIN file ON file.folder = folder.id {OF_MAIN} "
            "WHERE root = 0 AND path = ? AND name = ?",
            (written(parent(path)), written(name_of(path))),
        ).fetchone()
        return int(row[0]) if row else None

    def having(self, path: str) -> int | None:
        """Return the item that the file at a path of the own root belongs to, None where it belongs to none."""
        row = self.db.execute(
            "SELECT item FROM file JOIN folder ON folder.id = file.folder "
            "WHERE root = 0 AND path = ? AND name = ? AND missing = 0",
            (written(parent(path)), written(name_of(path))),
        ).fetchone()
        return int(row[0]) if row and row[0] else None

    def folder_of(self, item: int) -> int | None:
        """Return the folder of an item's main file."""
        row = self.db.execute(
            "SELECT file.folder FROM item JOIN file ON file.id = item.main WHERE item.id = ?", (item,)
        ).fetchone()
        return int(row[0]) if row else None

    def alone_below(self, root: int, folder: str) -> int:
        """Return the one item, junk apart, whose main file is at or below a folder (written form), else 0."""
        below, values = at_or_below(folder)
        rows = self.db.execute(
            f"SELECT DISTINCT item.id FROM folder JOIN file ON file.folder = folder.id {OF_MAIN} "
            f"WHERE root = ? AND {below} AND file.missing = 0 AND kind <> 'junk' LIMIT 2",
            (root, *values),
        ).fetchall()
        return int(rows[0][0]) if len(rows) == 1 else 0

    def kit_fields(self, file: int) -> str:
        """Return the fields (JSON) of the kit that a file belongs to, "" where it belongs to none."""
        row = self.db.execute(
            "SELECT fields FROM file JOIN item ON item.id = file.item WHERE file.id = ? AND kind = 'kit'", (file,)
        ).fetchone()
        return str(row[0]) if row else ""

    def whole_groups(self, files: Collection[int]) -> set[int]:
        """Return those of `files` whose item has no main file that is not among them, and those that have none."""
        found = set()
        for file in files:
            mains = self.db.execute(
                "SELECT id FROM file WHERE role = 'main' AND missing = 0 "
                "AND item = (SELECT item FROM file WHERE id = ? AND role = 'main')",
                (file,),
            )
            if all(id in files for (id,) in mains):
                found.add(file)
        return found

    def kit_beside(self, root: int, folder: str, archive: int) -> int:
        """Return the one kit at or below a folder that an archive there is of, by maker and title; else 0."""
        row = self.db.execute(
            "SELECT item.id, kind, fields FROM file JOIN item ON item.id = file.item WHERE file.id = ?", (archive,)
        ).fetchone()
        if row is None or row[1] != Kind.KIT.value:
            return 0
        fields = json.loads(row[2])
        if "maker" not in fields or "title" not in fields:
            return 0
        same = All((Is("kind", Kind.KIT.value), *(Is(key, fields[key]) for key in ("maker", "title"))))
        sql, values = to_sql(All((same, Below(folder, root), Not(OneOf((row[0],))))))
        found = self.db.execute(
            "SELECT item.id FROM item JOIN file ON file.id = item.main JOIN folder ON folder.id = file.folder "
            f"WHERE file.missing = 0 AND ({sql}) LIMIT 2",
            values,
        ).fetchall()
        return int(found[0][0]) if len(found) == 1 else 0

    def count(self, condition: Condition, *, gone: bool = False) -> int:
        """Return how many items meet `condition`; those whose main file is missing are passed over unless `gone`."""
        sql, values = to_sql(self._planned(condition))
        row = self.db.execute(f"SELECT COUNT(*) FROM {_JOINED} WHERE {_THERE[gone]} AND ({sql})", values).fetchone()
        return int(row[0])

    def ask(
        self,
        condition: Condition,
        order: str = "",
        *,
        down: bool = False,
        gone: bool = False,
        window: tuple[int, int] | None = None,
    ) -> Iterator[Item]:
        """Yield the items that meet `condition`, with all their files, in the order of their paths.

        `order` names a field to go by first, `down` says that its largest value comes first; items without it come
        last. Items whose main file is missing are passed over unless `gone`. A `window` is (how many are passed by, how
        many are wanted).
        """
        sql, values = to_sql(self._planned(condition))
        joined, first = "", ""
        if order:
            way, least = ("DESC", "MAX") if down else ("ASC", "MIN")
            joined = _SORTED_BY.format(least=least)
            first = f"sorted.number {way} NULLS LAST, sorted.text {way}, "
            values = (order, *values)
        asked = f"{joined} WHERE {_THERE[gone]} AND ({sql}) ORDER BY {first}folder.root, folder.path, file.name"
        rows = self.db.execute(f"{_SELECT}{asked}", values) if window is None else self._window(asked, values, window)
        marked = self.tags.any() or self.own.any()
        for row in rows:
            item = self._item(row)
            if marked:
                item = replace(item, tags=self.tags.of(item.id), custom=self.own.of(item.id))
            yield item

    def _window(self, asked: str, values: Sequence[object], window: tuple[int, int]) -> list[Sequence[Any]]:
        """Return some of the rows: their ids are put in order alone, and only theirs are read whole."""
        found = self.db.execute(f"SELECT item.id FROM {_JOINED}{asked} LIMIT {window[1]} OFFSET {window[0]}", values)
        places = {id: place for place, (id,) in enumerate(found)}
        sql, ids = to_sql(OneOf(tuple(places)))
        return sorted(self.db.execute(f"{_SELECT} WHERE {sql}", ids), key=lambda row: places[row[0]])

    def _planned(self, condition: Condition) -> Condition:
        """Return a condition that finds the same faster: what very many meet is looked up for the few others find."""
        if not isinstance(condition, All):
            return condition
        parts = list(flat_parts(condition.parts))
        counts = {}
        for at, part in enumerate(parts):
            if isinstance(part, Is | Has) and (asked := counting(part, _MANY)):
                counts[at] = int(self.db.execute(*asked).fetchone()[0])
        if not counts or min(counts.values()) >= _MANY:
            return condition
        many = {at for at, count in counts.items() if count >= _MANY}
        return All(tuple(OneByOne(p) if at in many and isinstance(p, Is) else p for at, p in enumerate(parts)))

    def looked_up(self, condition: Condition) -> Condition:
        """Return a condition that finds the same: very many paths, as a list has them, become the items at them."""
        match condition:
            case AnyOf(parts) if len(parts) > _PATHS:
                below = [part for part in parts if isinstance(part, Below)]
                others = [part for part in parts if not isinstance(part, Below)]
                ids = dict.fromkeys(id for part in below for id in self._at(part))
                return AnyOf((OneOf(tuple(ids)), *others))
            case All(parts):
                return All(tuple(map(self.looked_up, parts)))
            case Not(part):
                return Not(self.looked_up(part))
            case _:
                return condition

    def _at(self, place: Below) -> Iterator[int]:
        sql, values = to_sql(place)
        for (id,) in self.db.execute(
            f"SELECT item.id FROM folder CROSS JOIN file ON file.folder = folder.id {OF_MAIN} WHERE {sql}", values
        ):
            yield int(id)

    def weigh(self, condition: Condition) -> Iterator[tuple[str, str, str, dict[str, Any], int, float]]:
        """Yield kind, root, path, fields, bytes, and length in seconds of the items that meet a condition."""
        sql, values = to_sql(condition)
        rows = self.db.execute(
            "SELECT item.kind, root.name, folder.path, file.name, item.fields, item.facts, (SELECT SUM(MAX(size, 0)) "
            f"FROM file AS each WHERE each.item = item.id AND each.missing = 0) FROM {_JOINED} "
            f"WHERE file.missing = 0 AND ({sql})",
            values,
        )
        for kind, root, folder, name, fields, facts, size in rows:
            path = join(read_back(folder), read_back(name))
            yield kind, root, path, json.loads(fields), int(size or 0), float(json.loads(facts).get("length", 0))

    def kept_columns(self, kind: str) -> list[str]:
        """Return the columns that a person chose for a kind, none if they chose none."""
        row = self.db.execute("SELECT columns FROM kept_columns WHERE kind = ?", (kind,)).fetchone()
        return str(row[0]).split(",") if row else []

    def keep_columns(self, kind: str, columns: Sequence[str]) -> None:
        """Remember the columns for a kind; none forgets them."""
        self.db.execute("DELETE FROM kept_columns WHERE kind = ?", (kind,))
        if columns:
            self.db.execute("INSERT INTO kept_columns VALUES (?, ?)", (kind, ",".join(columns)))

    def _item(self, row: Sequence[Any]) -> Item:
        id, kind, state, confidence, fields, facts, doubts, root, folder, name = row[:10]
        size, mtime, inode, part, missing, main, count = row[10:]
        path = join(read_back(folder), read_back(name))
        files = [File(path, size, mtime, inode, part=part)]
        if count > 1:
            others = self.db.execute(
                "SELECT folder.path, file.name, size, mtime, inode, role, part FROM file "
                "JOIN folder ON folder.id = file.folder "
                "WHERE file.item = ? AND file.id <> ? AND file.missing = 0 ORDER BY folder.path, file.name",
                (id, main),
            )
            files += [File(join(read_back(at), read_back(other)), *rest) for at, other, *rest in others]
        return Item(
            id,
            path,
            Kind(kind),
            State(state),
            confidence,
            json.loads(fields),
            json.loads(facts),
            tuple(json.loads(doubts)),
            tuple(files),
            root,
            bool(missing),
        )

    def makers(self) -> set[str]:
        """Return the makers and artists of clear and settled items."""
        rows = self.db.execute(f"SELECT fields FROM item WHERE {_OF_MAKERS}")
        found = set()
        for (text,) in rows:
            fields = json.loads(text)
            found |= {str(fields[key]) for key in ("artist", "maker") if key in fields}
        return found

    def folded_makers(self) -> set[str]:
        """Return them folded, as the index has them: what was stored since its last update is not among them."""
        return {str(text) for (text,) in self.db.execute(_FOLDED_MAKERS)}

    def shows(self) -> list[tuple[str, int]]:
        """Return the shows of all episodes with their years, 0 where none is said."""
        rows = self.db.execute(
            "SELECT json_extract(fields, '$.show') AS show, json_extract(fields, '$.show_year') AS year FROM item "
            "WHERE kind = 'episode' GROUP BY show, year"
        )
        return [(str(show or ""), int(year or 0)) for show, year in rows]

    def folders_of_undated(self, show: str) -> list[int]:
        """Return the folders with episodes of a show whose year is not said."""
        rows = self.db.execute(
            "SELECT DISTINCT file.folder FROM item JOIN file ON file.id = item.main WHERE kind = 'episode' "
            "AND json_extract(fields, '$.show') = ? AND json_extract(fields, '$.show_year') IS NULL "
            "AND file.missing = 0",
            (show,),
        )
        return [int(folder) for (folder,) in rows]

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
