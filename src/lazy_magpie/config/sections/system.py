"""[system.NAME]: systems of games, each with the names of its folders and with its endings."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

KEYS = {"folders": list, "endings": list}
NAMED = True


def read(tables: Mapping[str, Any]) -> dict[str, tuple[tuple[str, ...], tuple[str, ...]]]:
    """Return the systems by name: the names of their folders, and their endings (".trn")."""
    return {name: _system(table) for name, table in tables.items()}


def with_folders(
    systems: Mapping[str, tuple[tuple[str, ...], tuple[str, ...]]], tables: Iterable[Mapping[str, str]]
) -> dict[str, tuple[tuple[str, ...], tuple[str, ...]]]:
    """Return systems with the names that shelves give to their folders: what lies there is read as theirs."""
    found = dict(systems)
    for table in tables:
        for name, folder in table.items():
            folders, endings = found.get(name, ((), ()))
            found[name] = ((*folders, folder), endings)
    return found


def _system(table: Mapping[str, list[str]]) -> tuple[tuple[str, ...], tuple[str, ...]]:
    endings = tuple(f".{ending.lower().lstrip('.')}" for ending in table.get("endings", []))
    return tuple(table.get("folders", [])), endings
