"""[copies]: which copy stays."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

KEYS = {"keep": list}
NAMED = False


def read(table: Mapping[str, Any]) -> tuple[str, ...]:
    """Return the rules that choose which copy stays, as they are written."""
    return tuple(table.get("keep", []))
