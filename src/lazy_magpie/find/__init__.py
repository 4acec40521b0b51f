"""The find language: what a person types after `find`, and wherever items are chosen, into conditions.

lamp room                          plain words: all of them begin a word of title, maker, tag or path
kind is movie year from 1960 to 1969     FIELD is · isnt · has · under · over · from … to … · missing · known
bitrate under 256k lossless is no  sizes as 700M, bit rates as 192k, lengths as 1:42:07, dates as 2019-03-21, yes and no
resolution under 720p              by lines
a or b and not ( c or d )          not binds before and, and before or; and is the default
Films/Old "New folder"             an argument that is a path is a path, and several are all of these
shelf is films                     what lies on that shelf

A word is a field's name only where an operator follows it, so that titles with "is" in them are found as they are.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import pairwise

from lazy_magpie.catalogue import All, AnyOf, Below, Between, Condition, Contains, Has, Is, Known, Not, OnRoot
from lazy_magpie.errors import UsageError
from lazy_magpie.fields import FIELDS, FieldDefinition, FieldType, lines_of, value_of
from lazy_magpie.suggest import most_like, nearest

__all__ = ["parse"]

OPERATORS = ("is", "isnt", "has", "under", "over", "from", "missing", "known")
_JOINING = ("and", "or", ")")
_LINES = {"resolution": "height"}
"""Fields of text that are compared by a number of another field."""


@dataclass(frozen=True)
class Places:
    """What the places that a person may name stand for.

    `path_of` returns what lies at the path that a word names, None where it names none; `thing_at` the thing that has
    the file there, where that is not its main file; `shelves` what lies on each
    shelf; `roots` are the names of the roots besides the collection's own, `away` those that are away. `fields` are
    all that conditions may name.
    """

    path_of: Callable[[str], Below | None] = lambda word: None
    thing_at: Callable[[Below], Condition] = lambda place: place
    shelves: Mapping[str, Condition] = field(default_factory=dict)
    roots: Collection[str] = ()
    away: Collection[str] = ()
    fields: Mapping[str, FieldDefinition] = field(default_factory=lambda: FIELDS)


def parse(words: Sequence[str], places: Places | None = None) -> Condition:
    """Return the condition that `words` stand for; no words stand for everything.

    Raises UsageError for a value that a field can't have, and for brackets or joining words that lead nowhere.
    """
    if not words:
        return All()
    reader = _QueryParser(list(words), places or Places())
    condition = reader.any_of()
    if reader.at < len(reader.words):
        raise UsageError("There is a “)” without a “(” before it.")
    return condition


_KINDS = {"film": "movie", "song": "track", "series": "episode"}
"""What people call the kinds, too."""


def mistyped(words: Sequence[str], fields: Iterable[str]) -> str:
    """Return the field that may be meant by a word in front of an operator that is none, "" where there is none."""
    known = list(fields)
    for word, operator in pairwise(words):
        if operator in OPERATORS and word not in known and (near := most_like(word, known)):
            return near
    return ""


def plain(words: Sequence[str]) -> Condition:
    """Return the condition that takes all words as plain words."""
    return All(tuple(Has(part) for word in words for part in word.split()))


@dataclass
class _QueryParser:
    """Reads the words from left to right; `not` binds before `and`, `and` before `or`."""

    words: list[str]
    places: Places
    at: int = 0

    def peek(self, ahead: int = 0) -> str:
        """Return the next word, "" behind the last."""
        index = self.at + ahead
        return self.words[index] if index < len(self.words) else ""

    def any_of(self) -> Condition:
        """Read parts joined by `or`."""
        parts = [self.all_of()]
        while self.peek() == "or":
            self.at += 1
            parts.append(self.all_of())
        return parts[0] if len(parts) == 1 else AnyOf(tuple(parts))

    def all_of(self) -> Condition:
        """Read parts joined by `and` or by nothing."""
        parts = [self.one()]
        while self.at < len(self.words) and self.peek() not in ("or", ")"):
            if self.peek() == "and":
                self.at += 1
            parts.append(self.one())
        return parts[0] if len(parts) == 1 else All(tuple(parts))

    def one(self) -> Condition:
        """Read one part: a bracket, a `not`, a condition, a path or a plain word."""
        word = self.peek()
        if self.at >= len(self.words) or word in _JOINING:
            before = self.peek(-1) if self.at else "the beginning"
            raise UsageError(f"A word or condition is missing after “{before}”.")
        self.at += 1
        if word == "not":
            return Not(self.one())
        if word == "(":
            inner = self.any_of()
            if self.peek() != ")":
                raise UsageError("A “(” is never closed; in a shell, brackets need quotes: '(' … ')'.")
            self.at += 1
            return inner
        if word == "shelf" and self.peek() in ("is", "isnt"):
            return self.shelf()
        if word in self.places.fields and self.peek() in OPERATORS:
            return self.condition(self.places.fields[word])
        path = self.places.path_of(word)
        return plain([word]) if path is None else self.paths(path)

    def paths(self, first: Below) -> Condition:
        """Read the rest of paths side by side: what lies at any of them."""
        found = [first]
        while (word := self.peek()) and word not in _JOINING and self.peek(1) not in OPERATORS:
            if (path := self.places.path_of(word)) is None:
                break
            found.append(path)
            self.at += 1
        things = tuple(map(self.places.thing_at, found))
        return AnyOf(things) if len(things) > 1 else things[0]

    def value(self, field: FieldDefinition, operator: str) -> str:
        """Take the next word as a value."""
        word = self.peek()
        if self.at >= len(self.words):
            raise UsageError(f"A value is missing after “{field.name} {operator}”.")
        self.at += 1
        return word

    def condition(self, field: FieldDefinition) -> Condition:
        """Read the rest of FIELD OPERATOR VALUE."""
        operator = self.peek()
        self.at += 1
        match operator:
            case "known":
                return Known(field.name)
            case "missing":
                return Not(Known(field.name))
            case "is":
                return self.equal(field)
            case "isnt":
                return Not(self.equal(field))
            case "has":
                return self.contains(field)
            case "from":
                return self.between(field)
            case _:
                word = self.value(field, operator)
                named, value = _comparable(field, word)
                low, high = (value, None) if operator == "over" else (None, value)
                return Between(named, low, high, ends=False)

    def equal(self, field: FieldDefinition) -> Condition:
        """Read the value behind `is`."""
        word = self.value(field, "is")
        if field.name == "kind":
            word = _KINDS.get(word, word)
        if field.name == "root" and word not in self.places.roots:
            raise UsageError(f"There is no root “{word}”{_nearest_of(word, self.places.roots)}")
        if field.name == "away":
            away = AnyOf(tuple(map(OnRoot, self.places.away))) if self.places.away else Not(All())
            return away if value_of(field, word) else Not(away)
        if field.values and word not in field.values:
            hint = nearest(word, field.values, f"; there are {', '.join(field.values)}.")
            raise UsageError(f"There is no {field.name} “{word}”{hint}")
        value = value_of(field, word)
        if field.type is FieldType.DATE and len(word) < 10:  # a month or a year
            return Between(field.name, word, word + "\uffff")
        return Is(field.name, value)

    def contains(self, field: FieldDefinition) -> Condition:
        """Read the text behind `has`."""
        word = self.value(field, "has")
        if field.type not in (FieldType.TEXT, FieldType.DATE) or field.values:
            raise UsageError(f"“has” looks into texts; {field.name} is compared with is, under, over or from … to.")
        return Contains(field.name, word)

    def between(self, field: FieldDefinition) -> Condition:
        """Read `from LOW to HIGH`, both included."""
        low_word = self.value(field, "from")
        if self.peek() != "to":
            raise UsageError(f"“{field.name} from {low_word}” needs a “to”: {field.name} from {low_word} to …")
        self.at += 1
        high_word = self.value(field, "to")
        (named, low), (_, high) = _comparable(field, low_word), _comparable(field, high_word)
        if field.type is FieldType.DATE and isinstance(high, str):
            high += "\uffff" * (len(high) < 10)
        return Between(named, low, high)

    def shelf(self) -> Condition:
        """Read the rest of `shelf is NAME`."""
        operator, name = self.peek(), self.peek(1)
        self.at += 2
        shelves = self.places.shelves
        if name not in shelves:
            raise UsageError(f"There is no shelf “{name}”{_nearest_of(name, shelves)}")
        return shelves[name] if operator == "is" else Not(shelves[name])


def _nearest_of(word: str, known: Collection[str]) -> str:
    return nearest(word, list(known), f"; there are {', '.join(known) or 'none'}.")


def _comparable(field: FieldDefinition, word: str) -> tuple[str, str | float]:
    """Return the field and value to compare: of a resolution its lines. Raises UsageError for what has no order."""
    if field.name in _LINES and (lines := lines_of(word)) is not None:
        return _LINES[field.name], lines
    if field.type in (FieldType.TEXT, FieldType.FLAG):
        raise UsageError(f"{field.name} has no order; compare it with is, isnt or has.")
    return field.name, value_of(field, word)
