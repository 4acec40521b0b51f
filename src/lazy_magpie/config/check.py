"""Checks that magpie.toml has only sections and keys that there are, each with a value of its type."""

from __future__ import annotations

from collections.abc import Mapping
from types import ModuleType

from lazy_magpie.config.config_text import ConfigText
from lazy_magpie.config.sections import (
    collection,
    convert,
    copies,
    field,
    intake,
    maker,
    mirror,
    naming,
    new,
    player,
    prefer,
    root,
    shelf,
    standard,
    system,
    tags,
    target,
    titles,
    words,
)
from lazy_magpie.config.sections import (
    list as reference_list,
)
from lazy_magpie.suggest import nearest

SECTIONS: Mapping[str, ModuleType] = {
    "collection": collection,
    "shelf": shelf,
    "root": root,
    "naming": naming,
    "system": system,
    "copies": copies,
    "tags": tags,
    "intake": intake,
    "maker": maker,
    "field": field,
    "titles": titles,
    "words": words,
    "new": new,
    "convert": convert,
    "list": reference_list,
    "prefer": prefer,
    "player": player,
    "standard": standard,
    "target": target,
    "mirror": mirror,
}
_TYPE_WORDS = {
    str: "a text in quotes",
    list: "a list of texts",
    bool: "true or false",
    int: "a number",
    dict: 'texts by words, like { new = "!" }',
    (str, dict): 'a text, or texts by words, like { thing = "json-ld" }',
}


def check_sections(tables: Mapping[str, object], source: ConfigText) -> None:
    """Raise ConfigError for the first section or key that there is not, and for a value of another type."""
    for section, table in tables.items():
        _check_section(section, table, source)


def _check_section(section: str, table: object, source: ConfigText) -> None:
    if section not in SECTIONS:
        raise source.wrong((section,), f"there is no section “{section}”{nearest(section, SECTIONS)}")
    if not isinstance(table, dict):
        raise source.wrong((section,), f"“{section}” is a section: write [{section}] on a line of its own.")
    named = table.items() if SECTIONS[section].NAMED else [("", table)]
    for name, inner in named:
        prefix = (section, name) if name else (section,)
        if not isinstance(inner, dict):
            raise source.wrong(prefix, f"write [{section}.{name}] on a line of its own, with its keys below.")
        for key, value in inner.items():
            _check_key(prefix, key, value, source)


def _check_key(prefix: tuple[str, ...], key: str, value: object, source: ConfigText) -> None:
    known = SECTIONS[prefix[0]].KEYS
    if key not in known:
        raise source.wrong((*prefix, key), f"[{'.'.join(prefix)}] has no key “{key}”{nearest(key, known)}")
    wanted = known[key]
    fits = isinstance(value, wanted) and not (wanted is int and isinstance(value, bool))
    if fits and isinstance(value, list | dict):
        parts = value.values() if isinstance(value, dict) else value
        fits = all(isinstance(part, str) for part in parts)
    if not fits:
        raise source.wrong((*prefix, key), f"“{key}” is {_TYPE_WORDS[wanted]}.")
