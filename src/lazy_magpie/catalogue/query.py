"""Conditions of a question as plain values, and the SQL that they become."""

from __future__ import annotations

import json
import re
import unicodedata
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

from lazy_magpie.model import Value
from lazy_magpie.paths import name_of, parent, written


@dataclass(frozen=True, slots=True)
class Has:
    """A word of the item's fields, tags or path begins with this text; case, accents, punctuation do not count."""

    text: str


@dataclass(frozen=True, slots=True)
class Is:
    """A field has this value, or is one of several values of it; of a text case and accents do not count."""

    field: str
    value: str | float


@dataclass(frozen=True, slots=True)
class OneByOne:
    """The same as its part, but looked up for each item that meets the other parts: good where these are few."""

    part: Is


@dataclass(frozen=True, slots=True)
class Contains:
    """A field that holds text has this text in it; case and accents do not count."""

    field: str
    text: str


@dataclass(frozen=True, slots=True)
class Between:
    """A field lies between two values, both included; None is no limit. Without `ends` the limits are left out."""

    field: str
    low: str | float | None
    high: str | float | None
    ends: bool = True


@dataclass(frozen=True, slots=True)
class Known:
    """A field has any value."""

    field: str


@dataclass(frozen=True, slots=True)
class Below:
    """The item's main file is at this path or below it ("" is the root), on the root of this number."""

    path: str
    root: int = 0


@dataclass(frozen=True, slots=True)
class OnRoot:
    """The item lies on the root of this name, "" for the collection's own."""

    name: str


@dataclass(frozen=True, slots=True)
class OneOf:
    """The item is one of these."""

    ids: tuple[int, ...]


@dataclass(frozen=True, slots=True)
class All:
    """All of the parts are met; without parts, always."""

    parts: tuple[Condition, ...] = ()


@dataclass(frozen=True, slots=True)
class AnyOf:
    """One of the parts is met at least."""

    parts: tuple[Condition, ...]


@dataclass(frozen=True, slots=True)
class Not:
    """The part is not met."""

    part: Condition


Condition = Has | Is | OneByOne | Contains | Between | Known | Below | OnRoot | OneOf | All | AnyOf | Not
Sql = tuple[str, tuple[str | int | float, ...]]

OF_MAIN = "JOIN item ON item.id = file.item AND item.main = file.id"
"""Joins a file with the item whose main file it is, by the item's number: there is no index of main files."""
_PATH = "folder.path || '/' || file.name"
_COLUMNS: Mapping[str, str] = {
    "kind": "item.kind",
    "state": "item.state",
    "root": "(SELECT name FROM root WHERE root.id = folder.root)",
    "gone": "(file.missing <> 0)",
}
_VALUES = "item.id IN (SELECT item FROM value WHERE field = (SELECT id FROM field WHERE name = ?)"
_KEY = "field = (SELECT id FROM field WHERE name = ?) AND number = ? AND text = ?"


def to_sql(condition: Condition) -> Sql:
    """Return a condition over the tables item, file and folder, with the values for its question marks."""
    match condition:
        case All(()):
            return "1", ()
        case All(parts):
            return _all(parts)
        case AnyOf(parts):
            return _joined(" OR ", parts)
        case Not(part):
            sql, values = to_sql(part)
            return f"NOT ({sql})", values
        case OneOf(ids):
            return "item.id IN (SELECT value FROM json_each(?))", (json.dumps(ids),)
        case Below(path, root):
            return _below(path, root)
        case OnRoot(name):
            return "folder.root = (SELECT id FROM root WHERE name = ?)", (name,)
        case Has():
            return _has([condition])
        case OneByOne(Is(field, value)):
            return (
                f"EXISTS (SELECT 1 FROM value WHERE {_KEY} AND value.item = item.id)",
                (field, *pair_of(value)),
            )
        case _:
            return _of_field(condition)


def _of_field(condition: Is | Contains | Between | Known) -> Sql:
    """Return the SQL for a condition on one field."""
    field = condition.field
    match condition:
        case Is(_, value) if field in _COLUMNS:
            return f"{_COLUMNS[field]} = ?", (value,)
        case Is(_, value):
            number, text = pair_of(value)
            return f"{_VALUES} AND number = ? AND text = ?)", (field, number, text)
        case Contains(_, text):
            return f"{_VALUES} AND text LIKE ? ESCAPE '!')", (field, f"%{_literal(folded_text(text))}%")
        case Between():
            return _between(condition)
        case Known("root"):
            return "folder.root <> 0", ()
        case Known():
            return ("1", ()) if field in _COLUMNS else (f"{_VALUES})", (field,))


def at_or_below(top: str, column: str = "folder.path") -> tuple[str, tuple[str, ...]]:
    """Return the SQL for a path at or below the folder `top` ("" is the root; written form), with its values.

    One range of the index on (root, path), from which folders like "Films 2" beside "Films" are left out: an OR of the
    folder itself and those below it would read all folders of the root.
    """
    if not top:
        return "1", ()
    return f"({column} >= ? AND {column} < ? AND ({column} = ? OR {column} > ?))", (
        top,
        top + "0",
        top,
        top + "/",
    )


def _below(path: str, root: int) -> Sql:
    if not path:
        return "folder.root = ?", (root,)
    top = written(path)
    below, values = at_or_below(top)
    return (  # each side of the OR has the root, so that each is a search in the index on (root, path)
        f"((folder.root = ? AND {below}) OR (folder.root = ? AND folder.path = ? AND file.name = ?))",
        (root, *values, root, parent(top), name_of(top)),
    )


def _all(parts: tuple[Condition, ...]) -> Sql:
    """Return the SQL for all of `parts`; their words are looked up at once."""
    flat = list(flat_parts(parts))
    words = [part for part in flat if isinstance(part, Has)]
    pairs = [to_sql(part) for part in flat if not isinstance(part, Has)]
    pairs += [_has(words)] if words else []
    return "(" + " AND ".join(sql for sql, _ in pairs) + ")", tuple(value for _, values in pairs for value in values)


def flat_parts(parts: Iterable[Condition]) -> Iterator[Condition]:
    """Yield conditions that all have to be met, those inside an All instead of it."""
    for part in parts:
        if isinstance(part, All):
            yield from flat_parts(part.parts)
        else:
            yield part


def asks_for(condition: Condition, field: str) -> bool:
    """Say whether a condition, or any part of it, asks for this field."""
    match condition:
        case All(parts) | AnyOf(parts):
            return any(asks_for(part, field) for part in parts)
        case Not(part) | OneByOne(part):
            return asks_for(part, field)
        case Is() | Contains() | Between() | Known():
            return condition.field == field
        case _:
            return False


def counting(condition: Is | Has, most: int) -> Sql | None:
    """Return the SQL that counts the items that meet a condition, up to `most`; None where that can't be done fast."""
    match condition:
        case Is(field, value) if field not in _COLUMNS:
            return f"SELECT COUNT(*) FROM (SELECT 1 FROM value WHERE {_KEY} LIMIT {most})", (field, *pair_of(value))
        case Has(text) if words := folded_words(written(text)):
            return f"SELECT COUNT(*) FROM (SELECT 1 FROM words WHERE words MATCH ? LIMIT {most})", (f'"{words}"*',)
        case _:
            return None


def _has(parts: Sequence[Has]) -> Sql:
    """Words are looked up in the index; of items that have moved since it was made, the path itself."""
    texts = [written(part.text) for part in parts]
    like = " AND ".join([f"{_PATH} LIKE ? ESCAPE '!'"] * len(texts))
    likes = tuple(f"%{_literal(text)}%" for text in texts)
    if not all(map(folded_words, texts)):  # nothing but punctuation is in no index
        return f"({like})", likes
    asked = " AND ".join(f'"{folded_words(text)}"*' for text in texts)
    return (
        "item.id IN (SELECT rowid FROM words WHERE words MATCH ? UNION ALL SELECT item.id FROM item "
        f"JOIN file ON file.id = item.main JOIN folder ON folder.id = file.folder WHERE item.stale = 1 AND {like})",
        (asked, *likes),
    )


def _between(condition: Between) -> Sql:
    """Numbers and texts (dates) lie apart in the index: a number has no text, a text the number 0."""
    field, low, high, ends = condition.field, condition.low, condition.high, condition.ends
    is_text = isinstance(low, str) or isinstance(high, str)
    column, other = ("text", "number = 0 AND text <> ''") if is_text else ("number", "text = ''")
    parts, values = [other], []
    for limit, sign in ((low, ">"), (high, "<")):
        if limit is not None:
            parts.append(f"{column} {sign}{'=' if ends else ''} ?")
            values.append(limit)
    return f"{_VALUES} AND {' AND '.join(parts)})", (field, *values)


def _joined(word: str, parts: tuple[Condition, ...]) -> Sql:
    pairs = [to_sql(part) for part in parts]
    return "(" + word.join(sql for sql, _ in pairs) + ")", tuple(value for _, values in pairs for value in values)


def _literal(text: str) -> str:
    return re.sub(r"[!%_]", r"!\g<0>", text)


def pair_of(value: Value) -> tuple[float, str]:
    """Return a value as the index has it: a number without text, or the number 0 and a folded text."""
    if isinstance(value, str):
        return 0.0, folded_text(value)
    if isinstance(value, bool | int | float):
        return float(value), ""
    return 0.0, folded_text(str(value))


def folded_words(text: str) -> str:
    """Return the words of `text` without case, accents and punctuation, one space between them."""
    return " ".join(words_of(text))


def words_of(text: str) -> list[str]:
    """Return the words of `text` without case, accents and punctuation."""
    return _WORD.findall(folded_text(text.replace("'", "").replace("’", "")))


def folded_text(text: str) -> str:
    """Return `text` without case and accents."""
    text = written(text)
    if text.isascii():
        return text.lower()
    return "".join(c for c in unicodedata.normalize("NFKD", text.casefold()) if not unicodedata.combining(c))


_WORD = re.compile(r"[^\W_]+")
