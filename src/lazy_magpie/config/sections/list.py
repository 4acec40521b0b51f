"""[list.NAME]: reference lists, the folder that holds what each lists, and the form that it has there."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from lazy_magpie.config.config_text import ConfigText
from lazy_magpie.errors import TemplateError
from lazy_magpie.model import Kind
from lazy_magpie.naming import template_of
from lazy_magpie.naming.template import Template

KEYS = {"file": str, "folder": str, "pack": str, "clones": str, "kind": str}
NAMED = True
FIELDS = frozenset(["list", "about", "list_file", "list_folder"])
"""The fields of a list's folder: its name, its description, its file's name, and the folder in which that lies."""
ZIP, LOOSE, AS_IS = "zip", "loose", "as is"
_PACK = (ZIP, LOOSE, AS_IS)
WHOLE, SPLIT, MERGED = "whole", "split", "merged"
_CLONES = (WHOLE, SPLIT, MERGED)
_KINDS = (Kind.GAME, Kind.FIRMWARE)


@dataclass(frozen=True, slots=True)
class ListConfig:
    """A reference list, or a folder of them (`file`), and the folder in which what they list lies.

    `pack` is the form that it has there: a zip a set, loose, or as it is. `clones` says how clones that share files
    with their parent are packed: each whole, split (each without what its parent has), or merged into their parent's
    archive.
    """

    name: str
    file: str
    folder: Template
    pack: str = AS_IS
    clones: str = WHOLE
    kind: Kind = Kind.GAME


def read(tables: Mapping[str, Any], source: ConfigText) -> dict[str, ListConfig]:
    """Return the reference lists by name. Raises ConfigError."""
    return {name: _list(name, table, source) for name, table in tables.items()}


def _list(name: str, table: Mapping[str, Any], source: ConfigText) -> ListConfig:
    prefix = ("list", name)
    for key in ("file", "folder"):
        if not table.get(key):
            raise source.wrong(prefix, f"[list.{name}] has no “{key}”.")
    folder = source.folder(prefix, table["folder"])
    try:
        template = template_of(folder, FIELDS)
    except TemplateError as error:
        raise source.wrong((*prefix, "folder"), f"{error}") from None
    if wrong := sorted(template.fields() - FIELDS):
        there_are = ", ".join(f"{{{field}}}" for field in sorted(FIELDS))
        raise source.wrong((*prefix, "folder"), f"a list has no {{{wrong[0]}}}; it has {there_are}.")
    pack = _one_of(table.get("pack", AS_IS), _PACK, source, (*prefix, "pack"))
    clones = _one_of(table.get("clones", WHOLE), _CLONES, source, (*prefix, "clones"))
    kind = _one_of(table.get("kind", Kind.GAME.value), [kind.value for kind in _KINDS], source, (*prefix, "kind"))
    return ListConfig(name, table["file"], template, pack, clones, Kind(kind))


def _one_of(text: str, known: list[str] | tuple[str, ...], source: ConfigText, keys: tuple[str, ...]) -> str:
    if text not in known:
        raise source.wrong(keys, f"“{keys[-1]}” is {', '.join(known[:-1])} or {known[-1]}, not “{text}”.")
    return text
