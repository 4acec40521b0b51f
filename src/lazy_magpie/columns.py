"""The columns of `find`: good ones for each kind, those that a person chose, and their values."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence

from lazy_magpie.errors import UsageError
from lazy_magpie.fields import FIELDS, PLACES, FieldDefinition, shown
from lazy_magpie.formatting import day_text
from lazy_magpie.labels import label
from lazy_magpie.model import Item, Value
from lazy_magpie.paths import endings_of, name_of, parent, written
from lazy_magpie.suggest import nearest

MIXED = ("kind", "what", "size", "state", "path")
"""The columns where items of several kinds stand in one list."""
OF_KIND: Mapping[str, tuple[str, ...]] = {
    "movie": ("title", "year", "size", "state", "resolution", "length", "edition", "picture_codec", "path"),
    "episode": ("what", "size", "state", "resolution", "length", "picture_codec", "path"),
    "track": ("artist", "title", "album", "track", "state", "length", "bitrate", "lossless", "path"),
    "game": ("title", "system", "regions", "size", "state", "discs", "path"),
    "font": ("family", "style", "size", "glyphs", "version", "faces", "path"),
    "design": ("title", "maker", "hoop", "stitches", "width_mm", "height_mm", "colours", "path"),
    "kit": ("title", "maker", "section", "size", "pictures", "path"),
    "picture": ("title", "date", "width", "height", "size", "path"),
    "archive": ("size", "members", "unpacked", "path"),
    "document": ("title", "date", "size", "pages", "path"),
}
"""What matters for each kind, the most first; where it is stands last."""
_STAY = frozenset(["path", "title", "what", "family"])
"""Columns that say which item it is: they are shown at any width."""


def least_of(columns: Sequence[str]) -> list[str]:
    """Return which columns may go where there is too little room, the one that matters least first."""
    return [column for column in reversed(columns) if column not in _STAY]


_PLACES: Mapping[str, Callable[[Item], Value]] = {
    "path": lambda item: written(item.path),
    "folder": lambda item: written(parent(item.path)),
    "name": lambda item: written(name_of(item.path)),
    "root": lambda item: item.root,
    "gone": lambda item: item.missing,
    "what": lambda item: written(label(item.kind, item.fields)),
    "kind": lambda item: item.kind.value,
    "state": lambda item: item.state.value,
}


def chosen(text: str, fields: Mapping[str, FieldDefinition] = FIELDS) -> list[str]:
    """Return the columns that a person named, parted by commas. Raises UsageError for one that there is not."""
    columns = [part.strip() for part in text.split(",") if part.strip()]
    known = [*fields, *PLACES, "what"]
    for column in columns:
        if column not in known:
            raise UsageError(f"There is no column “{column}”{nearest(column, known)}")
    return columns


def value_of(item: Item, column: str, away: Collection[str] = ()) -> Value | None:
    """Return what an item has in a column; None for nothing. `away` are the roots that are not there."""
    if column == "away":
        return item.root in away
    if column in _PLACES:
        return _PLACES[column](item)
    if column == "size":
        return None if item.files[0].size < 0 else item.size
    if column == "arrived":
        return day_text(item.files[0].mtime)
    if column == "ending":
        return list(endings_of(name_of(file.path) for file in item.files if file.role == "main")) or None
    if column == "tag":
        return list(item.tags) or None
    return item.custom.get(column, item.fields.get(column, item.facts.get(column)))


def written_value(item: Item, column: str) -> Value | None:
    """Return what an item has in a column, its texts in the written form."""
    value = value_of(item, column)
    if column in _PLACES or not isinstance(value, str | list):
        return value
    return written(value) if isinstance(value, str) else [written(str(text)) for text in value]


def cells(item: Item, columns: Sequence[str], away: Collection[str] = ()) -> list[str]:
    """Return an item's values as a person reads them; of one that is not there its root or path says so."""
    texts = [shown(column, value_of(item, column, away)) for column in columns]
    texts = [text if column in _PLACES else written(text) for column, text in zip(columns, texts, strict=True)]
    for column, mark in (("root", "away" * (item.root in away)), ("path", "missing" * item.missing)):
        if column in columns and mark:
            at = columns.index(column)
            texts[at] = f"{texts[at]} ({mark})" if column == "root" else f"({mark}) {texts[at]}"
    return texts
