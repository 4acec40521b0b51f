"""[maker.NAME]: makers that are known, and other spellings of their names."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

KEYS = {"also": list}
NAMED = True


def read(tables: Mapping[str, Any]) -> dict[str, tuple[str, ...]]:
    """Return the makers by name, each with its other spellings."""
    return {name: tuple(table.get("also", ())) for name, table in tables.items()}
