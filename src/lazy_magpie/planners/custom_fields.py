"""The steps that fill in custom fields, and all values that a template may name of an item."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from lazy_magpie.errors import UsageError
from lazy_magpie.fields import CustomField, shown
from lazy_magpie.formatting import day_text, size_text
from lazy_magpie.model import Item, Value
from lazy_magpie.model.steps import SetField
from lazy_magpie.naming.template import MEASURED
from lazy_magpie.paths import name_of, parent, split_ending


def set_field_step(item: Item, field: str, value: Value | None, why: str = "filled in") -> SetField:
    """Return the step that gives an item a value in a custom field, None for none."""
    return SetField(source=item.path, why=why, item=item.id, field=field, old=item.custom.get(field), new=value)


def set_field_steps(items: Sequence[Item], words: Sequence[str], fields: Mapping[str, CustomField]) -> list[SetField]:
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
        steps += [set_field_step(item, field, value) for item in items if item.custom.get(field) != value]
    return steps


def split_assignments(words: Sequence[str], fields: Mapping[str, CustomField]) -> tuple[list[str], list[str]]:
    """Part FIELD=VALUE words: those of custom fields, and all others."""
    own = [word for word in words if "=" in word and word.partition("=")[0].strip() in fields]
    return [word.replace(" =", "=") for word in own], [word for word in words if word not in own]


def values_of(item: Item, fields: Mapping[str, CustomField]) -> dict[str, Value]:
    """Return all that a template may name of an item: what it is, what was filled in, what its tags and file say."""
    values: dict[str, Value] = {name: shown(name, value) for name, value in item.facts.items() if name in MEASURED}
    values |= {**item.fields, **item.custom}
    values |= {name: value for name, field in fields.items() if (value := field.derived(item.tags))}
    stem, ending = split_ending(name_of(item.path))
    file = {"name": stem, "ending": ending[1:], "folder": name_of(parent(item.path)), "size": size_text(item.size)}
    return {**values, **file, "kind": item.kind.value, "arrived": day_text(item.files[0].mtime)}
