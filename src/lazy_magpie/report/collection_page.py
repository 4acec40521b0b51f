"""The report as a page, and as CSV files."""

from __future__ import annotations

import csv
from collections.abc import Sequence
from itertools import groupby
from pathlib import Path

from lazy_magpie.report.charts import chart
from lazy_magpie.report.pages import rendered
from lazy_magpie.report.report_table import ReportTable, cell_text
from lazy_magpie.sheet_text import inert

_ROWS = 400
"""Rows of a table that the page shows; its CSV has all."""


def report_page(title: str, about: str, tables: Sequence[ReportTable]) -> str:
    """Return the page, with a chart beside each table that has one."""
    sections = [
        (name, name.lower().replace(" ", "-"), [_shape(table) for table in some])
        for name, some in groupby((one for one in tables if one.name != "by-all"), key=lambda table: table.section)
    ]
    return rendered("report.html", title=title, about=about, sections=sections)


def _shape(table: ReportTable) -> dict[str, object]:
    return {
        "name": table.name,
        "title": table.title,
        "note": table.note,
        "chart": chart(table),
        "columns": table.columns,
        "numbers": [at for at, name in enumerate(table.columns) if name in table.numbers],
        "rows": [table.texts(row) for row in table.rows[:_ROWS]],
        "more": max(0, len(table.rows) - _ROWS),
    }


def write_csv(folder: Path, tables: Sequence[ReportTable]) -> None:
    """Write each table into a file of its own, with the numbers as they are: bytes, seconds, counts."""
    for table in tables:
        with (folder / f"{table.name}.csv").open("w", encoding="utf-8", newline="") as file:
            file.write("\ufeff")  # so that spreadsheets take it for UTF-8
            writer = csv.writer(file)
            writer.writerow(table.columns)
            for row in table.rows:
                writer.writerow([inert(cell) if isinstance(cell, str) else cell for cell in row])


def about_line(tables: Sequence[ReportTable]) -> str:
    """Return what there is in all, in a sentence."""
    whole = next((table.rows[0] for table in tables if table.name == "by-all"), None)
    if whole is None:
        return "Nothing is catalogued yet."
    return f"{whole[1]:,} items, {cell_text('size', whole[2])}"
