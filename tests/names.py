"""The names in `data/names` with their right readings: what tests and benchmarks read them by."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

FOLDER = Path(__file__).parent / "data" / "names"
HELD_OUT = "held_out"
"""The part that is measured, and never tuned on."""


def known_names() -> list[dict[str, Any]]:
    """Return all rows that are tested, in the order of their topics."""
    return _rows(file for file in sorted(FOLDER.glob("*/*.jsonl")) if file.parent.name != HELD_OUT)


def held_out_names() -> list[dict[str, Any]]:
    """Return the rows that are only measured."""
    return _rows(sorted((FOLDER / HELD_OUT).glob("*.jsonl")))


def _rows(files: Any) -> list[dict[str, Any]]:
    rows = [json.loads(line) for file in files for line in file.read_text(encoding="utf-8").splitlines()]
    assert rows, f"no names in {FOLDER}"
    return rows
