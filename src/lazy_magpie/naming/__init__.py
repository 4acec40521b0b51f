"""Names and places: the template language, the conventions that come with magpie, names safe on every disk."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cache
from pathlib import Path

from lazy_magpie.model import Kind, Value
from lazy_magpie.naming.safe import LONGEST, safe_part, safe_value, shortened
from lazy_magpie.naming.template import FIELDS as TEMPLATE_FIELDS
from lazy_magpie.naming.template import MissingField, Template, Text
from lazy_magpie.naming.template import parse as template_of
from lazy_magpie.patterns import pattern

__all__ = [
    "KINDS",
    "LONGEST",
    "TEMPLATE_FIELDS",
    "TEMPLATE_KEYS",
    "MissingField",
    "Naming",
    "UnusableName",
    "conventions",
    "from_table",
    "path_for",
    "shortened",
    "template_for",
    "template_of",
]

KINDS = ("movie", "episode", "track", "kit", "design", "font", "game", "firmware", "picture", "document")
"""The kinds that a naming can have a path template for, and a shelf be of."""
TEMPLATE_KEYS = (*KINDS, "dated", "running", "compilation")
"""The keys of a naming that hold a path template."""


_YEAR_FIRST = pattern(r"(?:19|20)\d\d[ _](?=\D)")
"""A title that would be read as a year with a title behind it, as a folder's name."""
_SECTIONS = {"alphabets": "Alphabets", "templates": "Templates"}
"""The sections of a kit that have a folder of their own where a naming does not say."""


class UnusableName(Exception):
    """The values give no usable name; the message says why."""


@dataclass(frozen=True, slots=True)
class Naming:
    """A convention: a path template for each kind of name, and what becomes of specials and companions.

    `sections` are the sections of a kit that have a folder of their own in it; all others are flattened up.
    """

    name: str
    templates: Mapping[str, Template]
    specials: str = "Specials"
    companions: bool = True
    sections: Mapping[str, str] = field(default_factory=dict)


@cache
def conventions() -> Mapping[str, Naming]:
    """Return the namings that come with magpie, by name."""
    tables = tomllib.loads(Path(__file__).with_name("conventions.toml").read_text("utf-8"))
    return {name: from_table(name, table) for name, table in tables.items()}


def from_table(name: str, table: Mapping[str, object], own: frozenset[str] = frozenset()) -> Naming:
    """Make a naming from a table of texts; `own` are the names of custom fields.

    Raises TemplateError for a template with a mistake.
    """
    templates = {key: template_of(str(table[key]), own) for key in TEMPLATE_KEYS if key in table}
    sections = table.get("sections", _SECTIONS)
    assert isinstance(sections, Mapping)
    specials, companions = str(table.get("specials", "Specials")), bool(table.get("companions", True))
    return Naming(name, templates, specials, companions, dict(sections))


def template_for(naming: Naming, kind: Kind, fields: Mapping[str, Value]) -> Template | None:
    """Return the template of `naming` for an item of `kind` with these fields; None where it has none.

    A naming in magpie.toml that says nothing of dated or numbered episodes takes `screen`'s templates for them.
    """
    key = kind.value
    if kind is Kind.EPISODE and "season" not in fields:
        key = "dated" if "air_date" in fields else "running" if "running" in fields else key
    if kind is Kind.TRACK and "album_artist" in fields and "compilation" in naming.templates:
        key = "compilation"
    template = naming.templates.get(key)
    if template is None and key in ("dated", "running") and "episode" in naming.templates:
        template = conventions()["screen"].templates[key]
    return template


def path_for(naming: Naming, kind: Kind, fields: Mapping[str, Value], *, everywhere: bool = True, room: int = 0) -> str:
    """Return the path below its shelf, without an ending, that `naming` gives an item.

    `room` is what endings behind the name need, in bytes. Raises MissingField where a needed field is empty and
    UnusableName where a folder or the name would be empty, or would be read as something else.
    """
    template = template_for(naming, kind, fields)
    if template is None:
        raise UnusableName(f"the naming “{naming.name}” has no template for {kind.value}")
    if "album" in template.fields() and not fields.get("year") and _YEAR_FIRST.match(str(fields.get("album", ""))):
        raise UnusableName("the album's title begins with a year, which would be read as the album's: settle its year")
    values = _safe_values(fields, everywhere=everywhere)
    if naming.specials and fields.get("season") == 0:
        *folders, name = template.folders()
        folders = [
            Template(naming.specials, (Text(naming.specials),)) if "season" in folder.fields() else folder
            for folder in folders
        ]
        parts = [level.render(values) for level in (*folders, name)]
    else:
        parts = template.render(values).split("/")
    last = len(parts) - 1
    safe = [
        safe_part(part, everywhere=everywhere, room=room if index == last else 0) for index, part in enumerate(parts)
    ]
    if not all(safe):
        raise UnusableName("a folder or the name would be empty")
    path = "/".join(safe)
    if not path.isascii() and any("\ud800" <= character <= "\udfff" for character in path):
        raise UnusableName("it has bytes that are not UTF-8")
    return path


def _safe_values(fields: Mapping[str, Value], *, everywhere: bool) -> dict[str, object]:
    values: dict[str, object] = {
        key: safe_value(value, everywhere=everywhere) if isinstance(value, str) else value
        for key, value in fields.items()
    }
    if air_date := fields.get("air_date"):
        values["air_year"] = str(air_date)[:4]
    return values
