"""Views: what each shows and how, and the links that magpie has put into it."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Mapping
from typing import NamedTuple

from lazy_magpie.paths import read_back, written
from lazy_magpie.plain_json import json_text


class View(NamedTuple):
    """A view: its name, the find words of what it shows, the template that it is grouped by, its kind of links."""

    name: str
    words: tuple[str, ...]
    by: str
    links: str

    @property
    def made(self) -> dict[str, object]:
        """The same as plain values, as the catalogue and the view's own folder keep it."""
        return {"words": list(self.words), "by": self.by, "links": self.links}


class Views:
    """The tables `view` and `view_link`."""

    def __init__(self, db: sqlite3.Connection) -> None:
        self.db = db

    def all(self) -> dict[str, View]:
        """Return the views by name."""
        rows = self.db.execute("SELECT name, made FROM view ORDER BY name")
        return {name: _view(name, json.loads(made)) for name, made in rows}

    def keep(self, view: View) -> None:
        """Keep a view, in place of one of the same name."""
        text = json_text(view.made)
        self.db.execute("INSERT OR REPLACE INTO view VALUES (?, ?)", (view.name, text))

    def drop(self, name: str) -> None:
        """Forget a view; its links stay on record, for what of them is still there."""
        self.db.execute("DELETE FROM view WHERE name = ?", (name,))

    def links(self, name: str) -> dict[str, str]:
        """Return the links that were put into a view: path and target, both from the root."""
        rows = self.db.execute("SELECT path, target FROM view_link WHERE view = ? ORDER BY path", (name,))
        return {read_back(path): read_back(target) for path, target in rows}

    def keep_links(self, name: str, links: Mapping[str, str], gone: Iterable[str] = ()) -> None:
        """Note links that are put into a view, and those that are taken out of it."""
        self.db.executemany("DELETE FROM view_link WHERE view = ? AND path = ?", ((name, written(p)) for p in gone))
        self.db.executemany(
            "INSERT OR REPLACE INTO view_link VALUES (?, ?, ?)",
            ((name, written(path), written(target)) for path, target in links.items()),
        )


def read_view(name: str, text: str) -> View | None:
    """Return the view that the note in its folder tells of, None where it can't be read."""
    try:
        return _view(name, json.loads(text))
    except (ValueError, KeyError, TypeError):
        return None


def _view(name: str, made: Mapping[str, object]) -> View:
    words = made["words"]
    if not isinstance(words, list):
        raise TypeError(words)
    return View(name, tuple(map(str, words)), str(made["by"]), str(made["links"]))
