"""[convert.NAME]: outside programs that turn files into others."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from lazy_magpie.config.config_text import ConfigText
from lazy_magpie.model.converter import Converter

KEYS = {"takes": list, "makes": str, "command": list, "back": list, "check": list, "minutes": str}
NAMED = True
_SOURCES = ("{source}", "{sources}")


@dataclass(frozen=True, slots=True)
class ConvertConfig:
    """A declared program: the endings that it takes (small letters, no dot), the one that it makes, and how it runs."""

    takes: tuple[str, ...]
    makes: str
    by: Converter


def read(tables: Mapping[str, Any], source: ConfigText) -> dict[str, ConvertConfig]:
    """Return the declared programs by name. Raises ConfigError."""
    found = {}
    for name, table in tables.items():
        prefix = ("convert", name)
        for key in ("takes", "makes", "command"):
            if not table.get(key):
                raise source.wrong(prefix, f"[convert.{name}] has no “{key}”.")
        for key in ("command", "back"):
            _check(table.get(key, ()), source, (*prefix, key))
        minutes = table.get("minutes", "240")
        if not minutes.isdecimal() or not 0 < int(minutes) <= 100_000:
            raise source.wrong((*prefix, "minutes"), f"“minutes” is how long one may take, like “30”, not “{minutes}”.")
        ways = {key: tuple(table.get(key, ())) for key in ("command", "back", "check")}
        takes = tuple(ending.lower().removeprefix(".") for ending in table["takes"])
        makes = table["makes"].removeprefix(".")
        found[name] = ConvertConfig(takes, makes, Converter(name, **ways, seconds=60 * int(minutes)))
    return found


def _check(words: tuple[str, ...], source: ConfigText, keys: tuple[str, ...]) -> None:
    """Raise ConfigError for a command that names no source or no result."""
    if not words:
        return
    text = " ".join(words)
    if not any(word in text for word in _SOURCES) or "{result}" not in text:
        raise source.wrong(keys, f"“{keys[-1]}” needs {{source}} (or {{sources}}) and {{result}} among its words.")
    if any("{sources}" in word and word != "{sources}" for word in words):
        raise source.wrong(keys, "{sources} is a word of its own: it becomes one word for each file.")
