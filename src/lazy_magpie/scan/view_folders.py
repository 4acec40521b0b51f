"""Which folders are views that magpie made: by the catalogue, and where that is new, by the journals.

A file of that name which came from elsewhere says nothing: a folder that carries it is data like any other.
"""

from __future__ import annotations

import os
from collections.abc import Iterable
from pathlib import Path

from lazy_magpie.catalogue import Catalogue, View, read_view
from lazy_magpie.change import Filesystem, JournalStore, texts_written
from lazy_magpie.collection import Collection
from lazy_magpie.paths import join, name_of, parent

HOME = "Views"
VIEW_NOTE = ".magpie-view"
"""The file in which a view says to people, and to a new catalogue, what it shows."""


def folder_of(view: View) -> str:
    """Return the folder of a view."""
    return join(HOME, view.name)


def known_views(catalogue: Catalogue, collection: Collection) -> frozenset[str]:
    """Return the folders of all views; those that the catalogue does not know, and the journals do, become known."""
    known = catalogue.views.all()
    notes = {name: f"{name}/{VIEW_NOTE}" for name in _names_in(collection.root / HOME) if name not in known}
    strange = {name for name, note in notes.items() if (collection.root / HOME / note).is_file()}
    if strange:
        for name, view in _written(texts_written(JournalStore(Filesystem(str(collection.root))))).items():
            if name in strange:
                catalogue.views.keep(view)
                known[name] = view
    return frozenset(map(folder_of, known.values()))


def _names_in(folder: Path) -> list[str]:
    return os.listdir(folder) if folder.is_dir() else []


def _written(texts: Iterable[tuple[str, str]]) -> dict[str, View]:
    """Return the views, by name, whose notes are among the small files that changes wrote."""
    found = {}
    for path, text in texts:
        folder = parent(path)
        if name_of(path) == VIEW_NOTE and parent(folder) == HOME and (view := read_view(name_of(folder), text)):
            found[view.name] = view
    return found
