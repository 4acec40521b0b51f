"""[tags]: where files carry their tags besides their attributes."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

KEYS = {"inside": bool, "sidecars": bool}
NAMED = False


def read(table: Mapping[str, Any]) -> tuple[bool, bool]:
    """Return whether tags are kept inside files, too, and in sidecars where a drive has no attributes."""
    return table.get("inside", False), table.get("sidecars", False)
