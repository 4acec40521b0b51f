"""Rows as comma-separated values on stdout; a text that a spreadsheet would calculate is made inert."""

from __future__ import annotations

import csv
import sys
from collections.abc import Iterable, Sequence

from lazy_magpie.sheet_text import acts


def print_csv(columns: Sequence[str], rows: Iterable[Iterable[object]]) -> None:
    """Print a head and rows. None is empty; of several texts each is named; numbers stay as they are."""
    writer = csv.writer(sys.stdout)
    writer.writerow(columns)
    for row in rows:
        writer.writerow([_cell(value) for value in row])


def _cell(value: object) -> str:
    if isinstance(value, list):
        return ", ".join(value)
    if isinstance(value, str):
        return "'" + value if acts(value) else value
    return "" if value is None else str(value)
