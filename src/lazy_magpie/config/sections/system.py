"""[system.NAME]: systems of games, each with the names of its folders and with its endings."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

KEYS = {"folders": list, "endings": list}
NAMED = True


def read(tables: Mapping[str, Any]) -> dict[str, tuple[tuple[str, ...], tuple[str, ...]]]:
    """Return the systems by name: the names of their folders, and their endings (".trn")."""
    return {name: _system(table) for name, table in tables.items()}


def _system(table: Mapping[str, list[str]]) -> tuple[tuple[str, ...], tuple[str, ...]]:
    endings = tuple(f".{ending.lower().lstrip('.')}" for ending in table.get("endings", []))
    return tuple(table.get("folders", [])), endings
