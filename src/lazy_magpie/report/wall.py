"""A wall of pictures: what each item shows there, what it is filtered and sorted by, and what it is drawn from."""

from __future__ import annotations

import os
import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from lazy_magpie.columns import value_of, written_value
from lazy_magpie.fields import FIELDS, FieldDefinition, FieldType, shown
from lazy_magpie.formatting import count_text, size_text
from lazy_magpie.identify.file_types import PICTURES
from lazy_magpie.labels import label, role_text
from lazy_magpie.model import File, Item, Kind, State, Value, id_text
from lazy_magpie.paths import name_of, split_ending, written
from lazy_magpie.report.picture_store import PictureSource
from lazy_magpie.urls import relative_url

Row = dict[str, object]
_FACETS = (
    "system", "resolution", "picture_codec", "sound_codec", "source", "edition", "language", "audio_languages",
    "subtitle_languages", "regions", "status", "lossless", "genre", "album", "hoop", "section", "style", "scripts",
    "licence", "vendor", "listed", "complete", "preferred", "ending", "disc_system", "version",
)  # fmt: skip
"""Fields that things are filtered by, apart from those that they are grouped by; custom fields come after them."""
_SORTED_BY = ("length", "bitrate", "width", "height", "stitches", "glyphs", "pictures", "pages")
"""Numbers that things are sorted by, besides size, year and day."""
_UNDER: Mapping[Kind, str] = {
    Kind.MOVIE: "resolution length edition size",
    Kind.EPISODE: "resolution length size",
    Kind.TRACK: "album length bitrate",
    Kind.GAME: "system regions status size",
    Kind.FONT: "style glyphs size",
    Kind.DESIGN: "maker hoop stitches colours",
    Kind.KIT: "maker section pictures size",
    Kind.PICTURE: "taken width height size",
    Kind.DOCUMENT: "pages size",
    Kind.ARCHIVE: "members size",
}
"""What is said under a picture."""
_COUNTED = ("stitches", "colours", "glyphs", "pictures", "pages", "members")
_NAMED = {"width": "wide", "height": "high"}
_ROLES = ("cover", "thumbnail", "backdrop")
"""Which pictures beside a thing show it, the best first."""
_PREVIEW = re.compile(r"(?i)preview|cover|^folder\.")
_ON_SHEET = 12


@dataclass(frozen=True)
class WallPlaces:
    """What a wall says of places: the shelf of a path on a root, the folders of the roots that are there by their
    names, and where the page lies ("" where files can't be opened from it)."""

    shelf_of: Callable[[str, str], str]
    tops: Mapping[str, str]
    home: str = ""

    def whole(self, root: str, path: str) -> str:
        """Return the whole path of a file, "" where its root is away."""
        return os.path.join(self.tops[root], path) if root in self.tops else ""

    def link(self, root: str, path: str) -> str:
        """Return how a page at `home` links to a file, "" where it can't."""
        whole = self.whole(root, path) if self.home else ""
        return relative_url(whole, self.home) if whole else ""


def row(item: Item, places: WallPlaces, fields: Mapping[str, FieldDefinition] = FIELDS) -> Row:
    """Return what stands under an item's picture, and what it is filtered, grouped and sorted by."""
    found: Row = {
        "id": id_text(item.id),
        "kind": item.kind.value,
        "name": written(label(item.kind, item.fields)) or written(name_of(item.path)),
        "path": written(item.path),
        "shelf": places.shelf_of(item.path, item.root),
        "maker": _text(item.fields.get("maker") or item.fields.get("artist")),
        "show": _text(item.fields.get("show")),
        "year": item.fields.get("year") or item.fields.get("show_year"),
        "tags": [written(tag) for tag in item.tags],
        "size": item.size,
        "arrived": value_of(item, "arrived"),
        "about": _about(item),
        "facts": _facets(item, fields),
        "state": "" if item.state in (State.CLEAR, State.SETTLED) else item.state.value,
    }
    found |= {name: item.facts[name] for name in _SORTED_BY if isinstance(item.facts.get(name), int | float)}
    if item.root:
        found["at"] = written(places.whole(item.root, item.path))
    if item.missing or item.root not in places.tops:
        found["gone"] = "missing" if item.missing else "away"
    return {name: value for name, value in found.items() if value or name in ("size", "kind")}


def details(item: Item, places: WallPlaces, copies: Sequence[str]) -> Row:
    """Return what a click on an item shows: all that is known of it, its files and its copies."""
    known: dict[str, Value] = {**item.facts, **item.fields, **item.custom}
    files = [
        [written(file.path), _size(file.size), role_text(file), places.link(item.root, file.path)]
        for file in item.files
    ]
    return {
        "known": [[name.replace("_", " "), _text(shown(name, value))] for name, value in sorted(known.items())],
        "doubts": [written(doubt) for doubt in item.doubts],
        "files": files,
        "copies": [written(path) for path in copies],
    }


def source_of(item: Item) -> PictureSource | None:
    """Return what an item's picture is drawn from: a picture beside it, else itself; None where there is nothing."""
    pictures = [file for file in item.files if split_ending(file.path)[1].lower() in PICTURES and file.size > 0]
    if item.kind is Kind.KIT:
        return _of_kit(item, pictures)
    beside = [file for file in pictures if file.role in _ROLES]
    if item.kind is not Kind.PICTURE and beside:
        best = min(beside, key=lambda file: (_ROLES.index(file.role), file.path))
        return PictureSource(Kind.PICTURE, (best,), item.root)
    return PictureSource(item.kind, item.files[:1], item.root) if item.files and item.files[0].size > 0 else None


def name_ranks(rows: Sequence[Row]) -> None:
    """Give each row its place in the order of the names, so that a page sorts numbers."""
    for rank, at in enumerate(sorted(range(len(rows)), key=lambda at: natural(str(rows[at]["name"])))):
        rows[at]["rank"] = rank


def natural(text: str) -> list[tuple[int, int, str]]:
    """Return a key that sorts texts as people do: without case, and numbers by their value."""
    parts = re.split(r"(\d+)", text.casefold())
    return [(0, int(part), "") if part.isdecimal() else (1, 0, part) for part in parts if part]


def _of_kit(item: Item, pictures: Sequence[File]) -> PictureSource | None:
    previews = [file for file in pictures if file.role in _ROLES or _PREVIEW.search(name_of(file.path))]
    chosen = sorted(previews, key=lambda file: len(file.path))[:1] or sorted(pictures, key=lambda file: file.path)
    if chosen:
        return PictureSource(Kind.PICTURE, tuple(chosen[:_ON_SHEET]), item.root)
    archives = [file for file in item.files if file.role == "main" and file.size > 0]
    return PictureSource(Kind.KIT, tuple(archives[:1]), item.root) if archives else None


def _text(value: object) -> str:
    return written(str(value)) if value is not None else ""


def _about(item: Item) -> str:
    """Return the facts under a picture, in a few words."""
    return " · ".join(filter(None, (_said(item, name) for name in _UNDER.get(item.kind, "size").split())))


def _size(size: int) -> str:
    return count_text(size, "byte") if 0 <= size < 1024 else size_text(size)


def _said(item: Item, name: str) -> str:
    value = value_of(item, name)
    text = written(shown(name, value))
    if not text:
        return ""
    if name == "size":
        return _size(item.size)
    if name in _COUNTED and isinstance(value, int):
        return count_text(value, name[:-1] if name != "stitches" else "stitch", name)
    return f"{text} points {_NAMED[name]}" if name in _NAMED else text


def _facets(item: Item, fields: Mapping[str, FieldDefinition]) -> Row:
    found: Row = {}
    for name in dict.fromkeys((*_FACETS, *item.custom)):
        value = written_value(item, name)
        if value is None or value == "" or _is_number(name, value, fields):
            continue
        found[name.replace("_", " ")] = value if isinstance(value, list) else shown(name, value)
    return found


def _is_number(name: str, value: Value, fields: Mapping[str, FieldDefinition]) -> bool:
    is_flag = name in fields and fields[name].type is FieldType.FLAG
    return isinstance(value, int | float) and not isinstance(value, bool) and not is_flag
