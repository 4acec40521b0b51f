"""Paths as they are read: without what a naming has put into them from custom fields.

A naming may make folders of custom fields, "{maker}/{theme}/{title}", or put a mark in front, "<{mark} >{title}", a
date or a running number, "{arrived, date} {title}". No name says of itself that "harbour" is a theme and no title, so
these parts are taken out before a path is read.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from functools import lru_cache

from lazy_magpie.fields import CustomField
from lazy_magpie.naming.safe import safe_part, safe_value
from lazy_magpie.naming.template import Field, MissingField, Template, Text


def without_own(below: str, template: Template | None, fields: Mapping[str, CustomField], *, is_folder: bool) -> str:
    """Return a path below its shelf without the folders and marks that come from custom fields.

    `template` is what the shelf's naming files by; with `is_folder` all of it is folders. Such a folder counts only
    where the path is as deep as the template, and it is one of the field's allowed words.
    """
    marks = [f"{value} " for field in fields.values() for value in field.from_tags.values()]
    parts = [_without_mark(part, marks) for part in below.split("/")]
    if template is not None:
        levels = template.folders()
        depth = len(levels) if is_folder else len(levels) - 1
        if len(parts) > depth:
            parts = [_without_front(part, levels[at]) if at < depth else part for at, part in enumerate(parts)]
            dropped = {at for at in range(depth) if parts[at] in _words_of(levels[at], _Fields(fields))}
            parts = [part for at, part in enumerate(parts) if at not in dropped]
    return "/".join(parts)


_FRONTS = {"arrived": r"\d{4}-\d\d-\d\d", "number": r"\d{1,6}"}
"""Fields that may stand in front of a name, and what they look like there."""


@lru_cache(maxsize=64)
def fronts(template: Template | None) -> frozenset[str]:
    """Return the fields of a template that stand in front of a folder's or file's name."""
    levels = template.folders() if template else ()
    return frozenset(front[0] for level in levels if (front := _front(level)))


def front_values(below: str, template: Template) -> dict[str, str]:
    """Return what stands in front in a path below its shelf that was filed by a template: a date, a number."""
    parts, found = below.split("/"), {}
    for part, level in zip(parts, template.folders(), strict=False):
        if (front := _front(level)) and (match := re.match(front[1], part)):
            found[front[0]] = match[1]
    return found


def _front(level: Template) -> tuple[str, str] | None:
    """Return the field that stands in front in a level, and a pattern for it with what parts it from the rest."""
    first, second = (*level.parts, None, None)[:2]
    if isinstance(first, Field) and first.name in _FRONTS and isinstance(second, Text):
        return first.name, f"({_FRONTS[first.name]}){re.escape(second.text)}"
    return None


def _without_front(part: str, level: Template) -> str:
    front = _front(level)
    match = re.match(front[1], part) if front else None
    return part[match.end() :] if match and match.end() < len(part) else part


def _without_mark(part: str, marks: list[str]) -> str:
    mark = next((mark for mark in marks if part.startswith(mark) and part != mark), "")
    return part[len(mark) :]


class _Fields:
    """The custom fields of one configuration: a key by which what is worked out once is kept."""

    def __init__(self, fields: Mapping[str, CustomField]) -> None:
        self.fields = fields

    def __hash__(self) -> int:
        return id(self.fields)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Fields) and self.fields is other.fields


@lru_cache(maxsize=64)
def _words_of(level: Template, own: _Fields) -> frozenset[str]:
    """Return what a folder of a template can be called, where nothing but a custom field is in it."""
    named = level.fields()
    if len(named) != 1 or not named <= own.fields.keys():
        return frozenset()
    return frozenset(_rendered(level, own.fields[next(iter(named))]))


def _rendered(level: Template, field: CustomField) -> Iterator[str]:
    for word in field.allowed or tuple(field.from_tags.values()):
        try:
            yield safe_part(level.render({field.name: safe_value(word, everywhere=True)}), everywhere=True)
        except MissingField:
            continue
