"""Title lists of the catalogue: titles, the keys that find them, episodes, and what services were asked."""

from __future__ import annotations

import datetime
import json
import sqlite3
from collections.abc import Iterable, Iterator, Mapping, Sequence
from types import MappingProxyType
from typing import Any, NamedTuple

from lazy_magpie.formatting import now_text
from lazy_magpie.plain_json import json_text


class TitleList(NamedTuple):
    """A list of titles or a title service; `sort` is file or service, `source` a path or a URL."""

    id: int
    name: str
    source: str
    sort: str
    added: str
    titles: int


class Title(NamedTuple):
    """A title of a list, in the language that is asked for. `year` is 0 where it is not known; `others` are its other
    titles."""

    id: int
    list: str
    kind: str
    title: str
    year: int
    maker: str
    others: tuple[str, ...]


class NewTitle(NamedTuple):
    """A title to put in, with the keys of all its names and, for a show, (season, episode, name, air date).

    `languages` are its titles by language code.
    """

    kind: str
    title: str
    year: int
    maker: str
    others: Sequence[str]
    keys: Iterable[str]
    episodes: Iterable[tuple[int, int, str, str]]
    languages: Mapping[str, str] = MappingProxyType({})


_SELECT = (
    "SELECT title.id, title_list.name, title.kind, title.title, title.year, title.maker, title.others, "
    "title.languages "
    "FROM title JOIN title_list ON title_list.id = title.list"
)


class Titles:
    """The tables `title_list`, `title`, `title_name`, `title_episode` and `asked`.

    Titles are given in `language` where a list has them in it, else as the list puts them first.
    """

    def __init__(self, db: sqlite3.Connection, language: str = "") -> None:
        self.db = db
        self.language = language

    def lists(self) -> list[TitleList]:
        """Return all lists and services, in the order in which they were added."""
        rows = self.db.execute("SELECT id, name, source, sort, added, titles FROM title_list ORDER BY id")
        return [TitleList(*row) for row in rows]

    def add_list(self, name: str, source: str, sort: str) -> int:
        """Make a new, empty list and return its id; one of that name is taken away first."""
        self.remove_list(name)
        cursor = self.db.execute(
            "INSERT INTO title_list (name, source, sort, added, titles) VALUES (?, ?, ?, ?, 0)",
            (name, source, sort, now_text()),
        )
        return int(cursor.lastrowid or 0)

    def add(self, list_id: int, titles: Iterable[NewTitle]) -> int:
        """Put titles into a list and return how many there were."""
        count = 0
        for new in titles:
            cursor = self.db.execute(
                "INSERT INTO title (list, kind, title, year, maker, others, languages) VALUES (?, ?, ?, ?, ?, ?, ?)",
                (
                    list_id,
                    new.kind,
                    new.title,
                    new.year,
                    new.maker,
                    json_text([*new.others]),
                    json_text({**new.languages}),
                ),
            )
            id = int(cursor.lastrowid or 0)
            for key in dict.fromkeys(new.keys):
                named = self.db.execute("INSERT INTO title_name (title, key) VALUES (?, ?)", (id, key))
                self.db.execute("INSERT INTO title_gram (rowid, key) VALUES (?, ?)", (named.lastrowid, key))
            self.db.executemany(
                "INSERT OR IGNORE INTO title_episode VALUES (?, ?, ?, ?, ?)",
                ((id, season, episode, name, date) for season, episode, name, date in new.episodes),
            )
            count += 1
        self.db.execute("UPDATE title_list SET titles = titles + ? WHERE id = ?", (count, list_id))
        return count

    def remove_list(self, name: str) -> bool:
        """Take a list away with all that it holds; say whether there was one."""
        row = self.db.execute("SELECT id, source FROM title_list WHERE name = ?", (name,)).fetchone()
        if row is None:
            return False
        of_list = "(SELECT id FROM title WHERE list = ?)"
        self.db.execute(
            "INSERT INTO title_gram (title_gram, rowid, key) SELECT 'delete', id, key FROM title_name "
            f"WHERE title IN {of_list}",
            (row[0],),
        )
        self.db.execute(f"DELETE FROM title_name WHERE title IN {of_list}", (row[0],))
        self.db.execute(f"DELETE FROM title_episode WHERE title IN {of_list}", (row[0],))
        self.db.execute("DELETE FROM title WHERE list = ?", (row[0],))
        self.db.execute("DELETE FROM asked WHERE service = ?", (row[1],))
        self.db.execute("DELETE FROM title_list WHERE id = ?", (row[0],))
        return True

    def by_key(self, key: str, kinds: Sequence[str]) -> list[Title]:
        """Return the titles of these kinds one of whose names has exactly this key."""
        rows = self.db.execute(
            f"{_SELECT} WHERE title.id IN (SELECT title FROM title_name WHERE key = ?) "
            f"AND title.kind IN ({', '.join('?' * len(kinds))})",
            (key, *kinds),
        )
        return [_title(row, self.language) for row in rows]

    def like_key(self, key: str, most: int = 20000) -> list[tuple[int, str]]:
        """Return (title, key) of the names that share the rarest runs of three letters in a third of this key.

        One letter that is wrong spoils one third; the others still find the name.
        """
        parts = [key[len(key) * n // 3 : len(key) * (n + 1) // 3 + 2] for n in range(3)] if len(key) > 8 else [key]
        questions = [question for part in parts if (question := self._rarest(part, len(parts)))]
        if not questions:
            return []
        rows = self.db.execute(
            "SELECT title_name.title, title_name.key FROM title_gram "
            "JOIN title_name ON title_name.id = title_gram.rowid WHERE title_gram MATCH ? LIMIT ?",
            (" OR ".join(questions), most),
        )
        return [(int(title), str(key)) for title, key in rows]

    def holding(self, parts: Sequence[str], kinds: Sequence[str], most: int) -> list[Title]:
        """Return titles of these kinds that may have these parts in a key, of three letters or more each."""
        grams = dict.fromkeys(part[at : at + 3] for part in parts for at in range(len(part) - 2))
        question = " AND ".join(f'"{gram}"' for gram in grams)
        rows = self.db.execute(
            "SELECT DISTINCT title_name.title FROM title_gram JOIN title_name ON title_name.id = title_gram.rowid "
            "WHERE title_gram MATCH ? LIMIT ?",
            (question, most),
        )
        return self.by_ids([int(id) for (id,) in rows], kinds)

    def _rarest(self, part: str, parts: int) -> str:
        """Return the words of a search for the rarest runs of three letters in a part of a key."""
        grams = dict.fromkeys(part[at : at + 3] for at in range(len(part) - 2))
        counted = []
        for gram in grams:
            row = self.db.execute("SELECT doc FROM title_vocabulary WHERE term = ?", (gram,)).fetchone()
            if row:
                counted.append((int(row[0]), gram))
        if parts == 1:
            return " OR ".join(f'"{gram}"' for _, gram in sorted(counted)[:4])
        if len(counted) * 2 < len(grams):  # most of the part is in no name
            return ""
        return "(" + " AND ".join(f'"{gram}"' for _, gram in sorted(counted)[:3]) + ")" if counted else ""

    def by_ids(self, ids: Sequence[int], kinds: Sequence[str]) -> list[Title]:
        """Return the titles with these ids that are of these kinds."""
        if not ids:
            return []
        rows = self.db.execute(
            f"{_SELECT} WHERE title.id IN ({', '.join('?' * len(ids))}) "
            f"AND title.kind IN ({', '.join('?' * len(kinds))})",
            (*ids, *kinds),
        )
        return [_title(row, self.language) for row in rows]

    def by_id(self, id: int) -> Title | None:
        """Return the title with this id, None where there is none."""
        row = self.db.execute(f"{_SELECT} WHERE title.id = ?", (id,)).fetchone()
        return _title(row, self.language) if row else None

    def episode(self, title: int, season: int, episode: int) -> tuple[str, str] | None:
        """Return name and air date of a show's episode, None where the list does not have it."""
        row = self.db.execute(
            "SELECT name, air_date FROM title_episode WHERE title = ? AND season = ? AND episode = ?",
            (title, season, episode),
        ).fetchone()
        return (str(row[0]), str(row[1])) if row else None

    def seasons(self, title: int) -> set[int]:
        """Return the seasons of a show that the list has episodes of."""
        return {int(n) for (n,) in self.db.execute("SELECT season FROM title_episode WHERE title = ?", (title,))}

    def add_new(self, list_id: int, titles: Iterable[NewTitle]) -> None:
        """Put those titles into a list that it does not have yet."""
        rows = self.db.execute("SELECT kind, title, year FROM title WHERE list = ?", (list_id,))
        known = {(str(kind), str(title), int(year)) for kind, title, year in rows}
        fresh = {(new.kind, new.title, new.year): new for new in titles}
        self.add(list_id, (new for key, new in fresh.items() if key not in known))

    def asked(self, service: str, since: datetime.datetime) -> set[str]:
        """Return the questions that a service was asked since then."""
        rows = self.db.execute(
            "SELECT question FROM asked WHERE service = ? AND at >= ?", (service, since.isoformat(timespec="seconds"))
        )
        return {str(question) for (question,) in rows}

    def note_asked(self, service: str, questions: Iterable[str]) -> None:
        """Note that a service has answered these questions now."""
        self.db.executemany(
            "INSERT OR REPLACE INTO asked VALUES (?, ?, ?)", ((service, question, now_text()) for question in questions)
        )

    def episodes(self, title: int) -> Iterator[tuple[int, int, str]]:
        """Yield season, episode and name of a show's episodes."""
        yield from self.db.execute(
            "SELECT season, episode, name FROM title_episode WHERE title = ? ORDER BY season, episode", (title,)
        )


def _title(row: Sequence[Any], language: str) -> Title:
    id, name, kind, title, year, maker, others, languages = row
    called = json.loads(languages).get(language, title) if language else title
    also = dict.fromkeys((title, *json.loads(others)))
    return Title(id, name, kind, called, year, maker, tuple(other for other in also if other != called))
