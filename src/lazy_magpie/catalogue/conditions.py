"""Conditions of a question as plain values, and the SQL that they become."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Mapping
from dataclasses import dataclass

from lazy_magpie.model import Value
from lazy_magpie.paths import written


@dataclass(frozen=True, slots=True)
class Has:
    """The item's fields or its path have this text.

    In fields case, accents and punctuation do not count, in the path the case of ASCII letters does not.
    """

    text: str


@dataclass(frozen=True, slots=True)
class Is:
    """A field of the item (kind, state) has this value."""

    field: str
    value: str


@dataclass(frozen=True, slots=True)
class Below:
    """The item's main file is at this path or below it ("" is the root)."""

    path: str


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


Condition = Has | Is | Below | OneOf | All | AnyOf | Not
Sql = tuple[str, tuple[str | int, ...]]

_PATH = "folder.path || '/' || file.name"
_COLUMNS: Mapping[str, str] = {"kind": "item.kind", "state": "item.state"}


def to_sql(condition: Condition) -> Sql:
    """Return a condition over the tables item, file and folder, with the values for its question marks."""
    match condition:
        case Has(text):
            path = f"({_PATH} LIKE ? ESCAPE '!')"
            words = folded_words(text)
            if not words:
                return path, (f"%{_literal(text)}%",)
            return f"(item.search LIKE ? ESCAPE '!' OR {path})", (f"%{_literal(words)}%", f"%{_literal(text)}%")
        case Is(field, value):
            return f"{_COLUMNS[field]} = ?", (value,)
        case Below(""):
            return "1", ()
        case Below(path):
            top = written(path)
            return (
                f"(folder.path = ? OR substr(folder.path, 1, ?) = ? OR {_PATH} = ? "
                "OR (folder.path = '' AND file.name = ?))",
                (top, len(top) + 1, top + "/", top, top),
            )
        case OneOf(ids):
            return f"item.id IN ({', '.join('?' * len(ids))})", ids
        case All(()):
            return "1", ()
        case All(parts):
            return _joined(" AND ", parts)
        case AnyOf(parts):
            return _joined(" OR ", parts)
        case Not(part):
            sql, values = to_sql(part)
            return f"NOT ({sql})", values


def _joined(word: str, parts: tuple[Condition, ...]) -> Sql:
    pairs = [to_sql(part) for part in parts]
    return "(" + word.join(sql for sql, _ in pairs) + ")", tuple(value for _, values in pairs for value in values)


def _literal(text: str) -> str:
    return re.sub(r"[!%_]", r"!\g<0>", text)


def search_words(fields: Mapping[str, Value]) -> str:
    """Return the words of an item's fields that it is found by, folded."""
    return folded_words(" ".join(written(value) for value in fields.values() if isinstance(value, str)))


def folded_words(text: str) -> str:
    """Return the words of `text` without case, accents and punctuation, one space between them."""
    text = text.casefold().replace("'", "").replace("’", "")
    if not text.isascii():
        text = "".join(c for c in unicodedata.normalize("NFKD", text) if not unicodedata.combining(c))
    return " ".join(re.findall(r"[^\W_]+", text))
