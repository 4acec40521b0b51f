"""The template language of namings: a path with fields in braces and optional parts in angle brackets.

    {show}/Season {season:02}/{show} S{season:02}E{episode:02}<-E{last_episode:02}>< - {episode_title}>

`parse` turns the text into parts and points at the column of a mistake; `Template.render` fills in values.
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass

from lazy_magpie import fields as definitions
from lazy_magpie.errors import TemplateError
from lazy_magpie.naming import letters
from lazy_magpie.patterns import pattern
from lazy_magpie.suggest import nearest

FIELDS = frozenset(
    (
        "title year edition part languages show show_year season episode last_episode episode_title air_date air_year "
        "running extra of arrived number kind artist album album_artist track disc genre system regions revision maker "
        "family style section code name ending folder date today"
    ).split()
)
"""The fields that name a thing, or say where and how it lies."""
MEASURED = frozenset(definitions.FIELDS) - FIELDS - frozenset(definitions.MARKS)
"""The fields that are measured of a thing, or claimed by its name."""


@dataclass(frozen=True, slots=True)
class Text:
    """Literal text; a `/` in it separates folders."""

    text: str


@dataclass(frozen=True, slots=True)
class Field:
    """A field in braces with the words that change it and its width (0: none); `column` counts from 1."""

    name: str
    words: tuple[str, ...]
    width: int
    column: int


@dataclass(frozen=True, slots=True)
class Optional:
    """A part in angle brackets: left out where a field in it is empty."""

    parts: tuple[Text | Field | Optional, ...]


Part = Text | Field | Optional


class MissingField(Exception):
    """A field outside the optional parts has no value; `field` names it."""

    def __init__(self, field: str) -> None:
        self.field = field
        super().__init__(field)


@dataclass(frozen=True, slots=True)
class Template:
    """A parsed path template; `text` is what the person wrote."""

    text: str
    parts: tuple[Part, ...]

    def render(self, values: Mapping[str, object]) -> str:
        """Return the path for `values`, with `/` between folders.

        Raises MissingField where a needed field is empty. A `/` inside a value becomes `-`; a field with no
        value, an empty text or an empty list is empty, 0 is not.
        """
        return "".join(_render(self.parts, values))

    def folders(self) -> tuple[Template, ...]:
        """Return the template of each folder and, last, of the file's name."""
        levels: list[list[Part]] = [[]]
        for part in self.parts:
            if isinstance(part, Text) and "/" in part.text:
                first, *rest = part.text.split("/")
                levels[-1].append(Text(first))
                levels += [[Text(text)] for text in rest]
            else:
                levels[-1].append(part)
        return tuple(Template(self.text, tuple(level)) for level in levels)

    def fields(self) -> frozenset[str]:
        """Return the names of all fields in the template."""
        return frozenset(field.name for field in _fields(self.parts))


def _fields(parts: tuple[Part, ...]) -> Iterator[Field]:
    for part in parts:
        if isinstance(part, Field):
            yield part
        elif isinstance(part, Optional):
            yield from _fields(part.parts)


def _render(parts: tuple[Part, ...], values: Mapping[str, object]) -> Iterator[str]:
    for part in parts:
        match part:
            case Text(text):
                yield text
            case Field():
                yield _value(part, values)
            case Optional(inner):
                if all(not is_empty(values.get(field.name)) for field in part_fields(part)):
                    yield from _render(inner, values)


def part_fields(part: Optional) -> Iterator[Field]:
    """Yield the fields directly in an optional part; those of a part inside it decide about that part alone."""
    return (inner for inner in part.parts if isinstance(inner, Field))


def is_empty(value: object) -> bool:
    """Say whether a field with this value counts as missing."""
    return value is None or value in ("", [])


def _value(field: Field, values: Mapping[str, object]) -> str:
    value = values.get(field.name)
    if is_empty(value):
        raise MissingField(field.name)
    text = ", ".join(map(str, value)) if isinstance(value, list) else str(value)
    for word in field.words:
        text = _changed(text, word)
    text = text.replace("/", "-")
    return text.zfill(field.width) if field.width and text.isdigit() else text


def _changed(text: str, word: str) -> str:
    name, _, argument = word.partition(" ")
    return WORDS[name](text, argument)


def _plain(text: str, _: str) -> str:
    decomposed = unicodedata.normalize("NFKD", text)
    return "".join(c for c in decomposed if c.isascii()) or text


def _date(text: str, _: str) -> str:
    match = re.match(r"\d{4}-\d\d-\d\d", text)
    return match.group() if match else text


WORDS: Mapping[str, Callable[[str, str], str]] = {
    "sorted": lambda text, _: letters.sorted_title(text),
    "letter": lambda text, _: letters.letter(text),
    "range": lambda text, ranges: letters.range_of(text, ranges.split()),
    "plain": _plain,
    "date": _date,
    "year": lambda text, _: _date(text, "")[:4],
}
"""The words that may follow a field's name behind a comma, and what each does to the value."""

_NAME = pattern(r"[a-z_]+")
_RANGE = pattern(r"(?i)^[a-z0-9#]-[a-z0-9#]$|^[a-z0-9#]$")
_WIDTH = pattern(r"0[1-9]$")


def parse(text: str, own: frozenset[str] = frozenset()) -> Template:
    """Parse a template, which may name fields of one's `own` besides.

    Raises TemplateError, which points at the column, for any mistake in it.
    """
    if not text.strip():
        raise TemplateError("the template is empty.", text, 1)
    parts, end = _parse(text, 0, None, FIELDS | MEASURED | own)
    if end < len(text):
        raise TemplateError("“>” without a “<” before it.", text, end + 1)
    if text.startswith("/") or re.search(r"//|(?:^|/)\.{1,2}(?:/|$)|/$", text):
        place = re.search(r"^/|//|(?:^|/)\.{1,2}(?:/|$)|/$", text)
        raise TemplateError(
            "a path in a template goes down from its shelf: no empty, “.” or “..” folder.",
            text,
            (place.start() if place else 0) + 1,
        )
    return Template(text, parts)


def _parse(text: str, at: int, opened: int | None, known: frozenset[str]) -> tuple[tuple[Part, ...], int]:
    parts: list[Part] = []
    literal = ""

    def flush() -> None:
        nonlocal literal
        if literal:
            parts.append(Text(literal))
            literal = ""

    while at < len(text):
        character = text[at]
        if text[at : at + 2] in ("{{", "}}"):
            literal += character
            at += 2
        elif character == "{":
            flush()
            field, at = _field(text, at, known)
            parts.append(field)
        elif character == "}":
            raise TemplateError("“}” without a “{” before it.", text, at + 1)
        elif character == "<":
            flush()
            inner, end = _parse(text, at + 1, at, known)
            if not any(_fields(inner)):
                raise TemplateError("a part in “<…>” needs a field, else it could never be left out.", text, at + 1)
            parts.append(Optional(inner))
            at = end + 1
        elif (character == ">" and opened is not None) or character == ">":
            flush()
            return tuple(parts), at
        else:
            literal += character
            at += 1
    if opened is not None:
        raise TemplateError("“<” is never closed.", text, opened + 1)
    flush()
    return tuple(parts), at


def _field(text: str, start: int, known: frozenset[str]) -> tuple[Field, int]:
    end = text.find("}", start)
    if end < 0:
        raise TemplateError("“{” is never closed.", text, start + 1)
    inner = text[start + 1 : end]
    head, colon, width = inner.partition(":")
    name, *words = [word.strip() for word in head.split(",")]
    if not _NAME.fullmatch(name) or name not in known:
        raise TemplateError(f"there is no field “{name}”{nearest(name, known)}", text, start + 2)
    if colon and not _WIDTH.match(width):
        column = start + 2 + len(head) + 1
        raise TemplateError(f"“:{width}” is no width; write :02 or :03.", text, column)
    for word in words:
        _check_word(word, text, start + 1 + inner.index(word, len(name)) + 1)
    return Field(name, tuple(words), int(width or 0), start + 1), end + 1


def _check_word(word: str, text: str, column: int) -> None:
    name, _, argument = word.partition(" ")
    if name not in WORDS:
        raise TemplateError(f"there is no word “{name}” for a field{nearest(name, WORDS)}", text, column)
    ranges = argument.split()
    if (name == "range") != bool(ranges) or not all(_RANGE.match(part) for part in ranges):
        raise TemplateError(
            "“range” takes ranges of letters, like “range A-L M-Z”; other words take none.", text, column
        )
