"""Fills in fields of one's own: each answer is one change, which stands in the history and can be undone."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from lazy_magpie.errors import UsageError
from lazy_magpie.fields import OwnField
from lazy_magpie.model import Do, Item, Step, Value
from lazy_magpie.paths import name_of, split_ending
from lazy_magpie.units import day_text


def filling(item: Item, field: str, value: Value | None, why: str = "filled in") -> Step:
    """Return the step that lets an item have a value in a field of one's own, None for none."""
    data = {"field": field, "old": item.own.get(field), "new": value}
    return Step(0, Do.TAG, item.path, "", why, item=item.id, data=data)


def fillings(items: Sequence[Item], words: Sequence[str], fields: Mapping[str, OwnField]) -> list[Step]:
    """Return the steps for FIELD=VALUE words on items; an empty value takes what was filled in away.

    Raises UsageError for a value that the field does not take, and for a field that its tags decide.
    """
    steps = []
    for field, text in (word.split("=", 1) for word in words):
        own = fields[field]
        if own.from_tags:
            tags = ", ".join(own.from_tags)
            raise UsageError(f"“{field}” is not filled in: it comes from a tag ({tags}); “magpie tag put” puts one.")
        value = own.value(text) if text.strip() else None
        steps += [filling(item, field, value) for item in items if item.own.get(field) != value]
    return steps


def parted(words: Sequence[str], fields: Mapping[str, OwnField]) -> tuple[list[str], list[str]]:
    """Part FIELD=VALUE words: those of one's own fields, and all others."""
    own = [word for word in words if "=" in word and word.partition("=")[0].strip() in fields]
    return [word.replace(" =", "=") for word in own], [word for word in words if word not in own]


def values_of(item: Item, fields: Mapping[str, OwnField]) -> dict[str, Value]:
    """Return all that a template may name of an item: what it is, what was filled in, what its tags and file say."""
    values: dict[str, Value] = {**item.fields, **item.own}
    values |= {name: value for name, field in fields.items() if (value := field.derived(item.tags))}
    stem, _ = split_ending(name_of(item.path))
    return {**values, "kind": item.kind.value, "name": stem, "arrived": day_text(item.files[0].mtime)}
