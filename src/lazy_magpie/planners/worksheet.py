"""Items as rows of a sheet to fill in, and a sheet that was filled in as a plan.

What is known stands in columns of its own, which are only read; tags and custom fields are to be filled in. A
hidden column keeps how the row was made, so that only what a person has changed since is taken, whatever became of the
catalogue meanwhile. Rows may be sorted or taken out, columns moved, hidden or added.
"""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from functools import lru_cache
from itertools import islice
from typing import NamedTuple, NotRequired, TypedDict

from lazy_magpie.catalogue import Catalogue, OneOf
from lazy_magpie.errors import UsageError
from lazy_magpie.fields import FIELDS as FIELDS_OF_ITEMS
from lazy_magpie.fields import OWN_TAKES, CustomField, CustomFieldType, FieldType, shown
from lazy_magpie.formatting import day_text
from lazy_magpie.model import Item, Kind, Step, Value, id_number, id_text
from lazy_magpie.model.kinds import in_prose
from lazy_magpie.paths import join, name_of, parent, split_ending, written
from lazy_magpie.plain_json import json_text
from lazy_magpie.planners.custom_fields import set_field_step
from lazy_magpie.planners.manual_answers import FIELDS, by_hand, value_of
from lazy_magpie.planners.questions import settling
from lazy_magpie.planners.tagging import checked, set_tags_step
from lazy_magpie.spreadsheet import Cell, Column, Link, Read
from lazy_magpie.suggest import is_near
from lazy_magpie.urls import file_url

TAGS = "tags"
ID, PATH, WAS = "id", "path", "was"
_AT_ONCE = 500
_PLACES: Mapping[str, tuple[str, int]] = {
    ID: ("the item's own id: it says which row is which", 12),
    PATH: ("where its main file is", 50),
    "root": ("the drive that it is on, where that is not the collection's own", 10),
    "open": ("opens the file", 7),
    "folder": ("opens its folder", 8),
    "kind": ("what it is", 10),
    "type": ("the ending of its main file", 8),
    "changed": ("when its main file was changed last", 12),
    "size": ("bytes of all its files", 14),
    "state": ("how sure it is what this is", 10),
}
_LINKS = ("open", "folder")


class RowOrigin(TypedDict):
    """How a row was made, as a hidden column of the sheet keeps it: texts by the names of their columns.

    `settles` says that what an item is may be filled in, too.
    """

    settles: NotRequired[bool]
    path: str
    filled: dict[str, str]
    known: dict[str, str]


class Problem(NamedTuple):
    """What can't be taken: the row's number, the column, the cell's place where there is one, and why."""

    row: int
    column: str
    cell: str
    text: str


# --- made ------------------------------------------------------------------------------------------------------------


def columns(
    kinds: Iterable[Kind],
    own: Iterable[CustomField],
    tags: Sequence[str],
    *,
    roots: bool = False,
    identity: bool = False,
) -> list[Column]:
    """Return the columns of a sheet of items of some kinds, those to fill in beside the path.

    `tags` are those that there are; `roots` says that things lie on several drives, `identity` that title, year, show
    and their like are to be filled in, too.
    """
    places = [Column(name, note, width) for name, (note, width) in _PLACES.items() if roots or name != "root"]
    known = dict.fromkeys(field for kind in kinds for field in FIELDS.get(kind, "").split())
    note = "what it is: settled as you write it" if identity else "as it is known; “magpie settle” corrects it"
    read = [Column(name, note, 18, to_fill=identity, takes=_takes(name) if identity else "") for name in known]
    was = Column(WAS, "how the row was made; please leave it as it is", 10, hidden=True)
    return [*places[:2], *_to_fill(own, tags), *read, *places[2:], was]


def _takes(name: str) -> str:
    sort = FIELDS_OF_ITEMS[name].type if name in FIELDS_OF_ITEMS else FieldType.TEXT
    return {FieldType.NUMBER: "a whole number", FieldType.DATE: OWN_TAKES[CustomFieldType.DATE]}.get(sort, "a text")


def _to_fill(own: Iterable[CustomField], tags: Sequence[str]) -> Iterator[Column]:
    takes, note = "words of your own, parted by commas", "words of your own on it"
    yield Column(TAGS, note, 24, to_fill=True, takes=takes, choices=tuple(tags), open=True)
    for field in own:
        if not field.from_tags:
            choices = ("yes", "no") if field.type is CustomFieldType.FLAG else field.allowed
            note = field.note + " (needed)" * field.needed
            takes, several = OWN_TAKES[field.type], field.type is CustomFieldType.WORDS
            yield Column(field.name, note.strip(), 18, True, takes=takes, choices=choices, open=several)


def row(item: Item, about: Sequence[Column], tops: Mapping[str, str]) -> list[Cell]:
    """Return an item's cells; `tops` are the folders of the roots that are there, by their names."""
    cells: list[Cell] = []
    for column in about:
        if column.name in _LINKS:
            top = tops.get(item.root)
            path = item.path if column.name == "open" else parent(item.path)
            cells.append(Link(file_url(join(top, path)), "open") if top else None)
        elif column.name == WAS:
            cells.append(json_text(_was(item, about)))
        elif column.name == "size":
            cells.append(item.size)
        else:
            cells.append(_typed(column, item))
    return cells


def _typed(column: Column, item: Item) -> str | int | float | None:
    """Return a value as a cell has it: a number where it is one, else its text."""
    value = _value_in(column, item)
    if isinstance(value, int | float) and not isinstance(value, bool):
        return value
    return text_of(column, item) or None


def _value_in(column: Column, item: Item) -> Value | None:
    own = column.to_fill and column.name not in _IDENTITY
    return item.custom.get(column.name) if own else item.fields.get(column.name)


def text_of(column: Column, item: Item) -> str:
    """Return what an item has in a column, as a person would type it."""
    if column.name in _TEXTS:
        return _TEXTS[column.name](item)
    value = _value_in(column, item)
    return written(shown("", value))


_TEXTS: Mapping[str, Callable[[Item], str]] = {
    ID: lambda item: f"m{id_text(item.id)}",  # with a letter in front, no spreadsheet takes it for a number
    PATH: lambda item: written(item.path),
    "root": lambda item: item.root,
    "kind": lambda item: item.kind.value,
    "type": lambda item: written(split_ending(name_of(item.path))[1].lstrip(".").lower()),
    "changed": lambda item: day_text(item.files[0].mtime),
    "size": lambda item: str(item.size),
    "state": lambda item: item.state.value,
    TAGS: lambda item: ", ".join(item.tags),
}


def _was(item: Item, about: Sequence[Column]) -> RowOrigin:
    filled = {column.name: text for column in about if column.to_fill and (text := text_of(column, item))}
    read = (c for c in about if not c.to_fill and c.name not in (ID, PATH, WAS, *_LINKS))
    known = {column.name: text for column in read if (text := text_of(column, item).strip())}
    found = RowOrigin(path=written(item.path), filled=filled, known=known)
    if any(column.to_fill and column.name in _IDENTITY for column in about):
        found["settles"] = True
    return found


# --- taken -----------------------------------------------------------------------------------------------------------


def plan_rows(
    catalogue: Catalogue, names: Sequence[str], rows: Iterable[Read], own: Mapping[str, CustomField], *, new_tags: bool
) -> tuple[list[Step], list[Problem], list[str]]:
    """Return the steps that take what was filled in, what can't be taken, and sentences on items that have moved.

    `names` are the columns that the sheet has; `new_tags` lets a tag that is nearly a known one be meant as it is.
    """
    taker = _Taker(catalogue, names, own, new_tags)
    waiting = iter(rows)
    while batch := list(islice(waiting, _AT_ONCE)):
        taker.add(batch)
    return taker.steps, taker.problems, taker.moved


class _Taker:
    """Goes through the rows of a sheet."""

    def __init__(
        self, catalogue: Catalogue, names: Sequence[str], own: Mapping[str, CustomField], new_tags: bool
    ) -> None:
        self.catalogue = catalogue
        self.own = {name: field for name, field in own.items() if name in names and not field.from_tags}
        self.names = frozenset(names)
        self.tags = list(catalogue.tags.counts())
        self.new_tags = new_tags
        self.rows_of: dict[int, int] = {}
        self.steps: list[Step] = []
        self.problems: list[Problem] = []
        self.moved: list[str] = []
        self.near = lru_cache(maxsize=4096)(lambda tag: is_near(tag, self.tags))

    def add(self, batch: Sequence[Read]) -> None:
        """Take some rows."""
        ids = [id_number(text[1:]) if (text := row.text(ID)).startswith("m") else None for row in batch]
        wanted = OneOf(tuple(id for id in ids if id is not None))
        items = {item.id: item for item in self.catalogue.items.ask(wanted, gone=True)}
        for row, id in zip(batch, ids, strict=True):
            wrong = len(self.problems)
            steps = self._row(row, items.get(id or 0))
            if len(self.problems) == wrong:
                self.steps += steps

    def _wrong(self, row: Read, column: str, text: str) -> None:
        self.problems.append(Problem(row.number, column, row.cells.get(column, ("", ""))[0], text))

    def _row(self, row: Read, item: Item | None) -> list[Step]:
        """Return the steps of one row; what is wrong in it is named, cell by cell."""
        if item is None:
            self._wrong(row, ID, f"there is no item “{row.text(ID)}”" if row.text(ID) else "the row has no id")
            return []
        if item.id in self.rows_of:
            self._wrong(row, ID, f"this item stands in row {self.rows_of[item.id]} already")
            return []
        self.rows_of[item.id] = row.number
        was = _read_was(row.text(WAS))
        if was is None:
            self._wrong(row, WAS, "this column was changed; make a new sheet for this item")
            return []
        self._check_known(row, item, was)
        steps: list[Step] = []
        for column in (TAGS, *self.own):
            if column in self.names:
                steps += self._cell(row, item, column, str(was["filled"].get(column, "")))
        if was.get("settles"):
            steps += self._settled(row, item, was["filled"])
        self._check_needed(row)
        return steps

    def _settled(self, row: Read, item: Item, was: Mapping[str, str]) -> Iterator[Step]:
        """Yield the step that settles what an item is as its row says; each cell is checked by itself."""
        known = FIELDS.get(item.kind, "").split()
        words = []
        for name in (name for name in row.cells if name in _IDENTITY and row.text(name) != was.get(name, "")):
            text = row.text(name)
            now = written(shown("", item.fields.get(name)))
            try:
                if name not in known:
                    raise UsageError(f"{in_prose(item.kind)} has no {name.replace('_', ' ')}")
                if text:
                    value_of(name, text)
            except UsageError as error:
                self._wrong(row, name, str(error).rstrip("."))
                continue
            if now != was.get(name, ""):
                self._wrong(
                    row, name, f"it was changed elsewhere meanwhile and is “{now or 'empty'}”; make a new sheet"
                )
            words.append(f"{name}={text}")
        if not words:
            return
        try:
            yield settling(item, by_hand(item, words), self.catalogue.items.answer_of(item.id))
        except UsageError as error:
            self._wrong(row, words[0].partition("=")[0], str(error).rstrip("."))

    def _check_known(self, row: Read, item: Item, was: RowOrigin) -> None:
        """Name what a person has changed of what is only read, and what became of the item meanwhile."""
        if PATH in self.names and row.text(PATH) != was["path"]:
            self._wrong(row, PATH, f"a path is not changed here but by “magpie rename”; it was “{was['path']}”")
        elif was["path"] != written(item.path):
            self.moved.append(f"row {row.number}: “{was['path']}” is “{written(item.path)}” now")
        if item.missing:
            self._wrong(row, PATH, "the file is missing; scan again, or let it go with “magpie forget”")
        for name in row.cells:
            if was.get("settles") and name in _IDENTITY:
                continue
            if name in _ONLY_READ and row.text(name) != (known := str(was["known"].get(name, ""))):
                self._wrong(row, name, f"this is only read here; “magpie settle” corrects it (it was “{known}”)")

    def _cell(self, row: Read, item: Item, column: str, was: str) -> Iterator[Step]:
        """Yield the step for a cell that was changed; name what can't be taken, and what was changed elsewhere too."""
        text = row.text(column)
        if text == was:
            return
        try:
            value = self._value(column, text)
            before = self._value(column, was)
        except UsageError as error:
            self._wrong(row, column, str(error).rstrip("."))
            return
        now: Value | None = (list(item.tags) or None) if column == TAGS else item.custom.get(column)
        if value in (now, before):
            return
        if now != before:
            is_now = written(shown("", now)) or "empty"
            self._wrong(row, column, f"it was changed elsewhere meanwhile and is “{is_now}”; make a new sheet")
        elif column == TAGS:
            yield set_tags_step(item, map(str, value) if isinstance(value, list) else ())
        else:
            yield set_field_step(item, column, value)

    def _value(self, column: str, text: str) -> Value | None:
        if not text:
            return None
        if column != TAGS:
            value = self.own[column].value(text)
            return None if value == [] else value
        tags = sorted({checked(tag) for tag in re.split("[,;]", text) if tag.strip()})
        for tag in tags:
            if not self.new_tags and tag not in self.tags and (near := self.near(tag)):
                raise UsageError(f"no tag “{tag}”; did you mean “{near}”? --new creates it")
        return tags or None

    def _check_needed(self, row: Read) -> None:
        """Name the needed fields that are empty in a row in which any custom field is filled in."""
        if any(row.text(name) for name in self.own):
            for name, field in self.own.items():
                if field.needed and not row.text(name):
                    self._wrong(row, name, "this is needed")


_IDENTITY = frozenset(name for names in FIELDS.values() for name in names.split())
"""The names of the columns that say what an item is."""
_ONLY_READ = {*_PLACES, *(name for names in FIELDS.values() for name in names.split())} - {ID, PATH, *_LINKS}
"""The names of the columns that are only read, apart from what says which row it is."""


def _read_was(text: str) -> RowOrigin | None:
    """Return how a row was made, None where that was changed."""
    try:
        was = json.loads(text)
        fits = isinstance(was["path"], str) and isinstance(was["filled"], dict) and isinstance(was["known"], dict)
    except (ValueError, KeyError, TypeError):
        return None
    return was if fits else None
