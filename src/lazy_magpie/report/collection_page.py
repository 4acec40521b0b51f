"""The report as a page, as CSV files, and as lines for a terminal with drawn bars."""

from __future__ import annotations

import csv
from collections.abc import Iterator, Sequence
from itertools import groupby
from pathlib import Path

from lazy_magpie.report.charts import chart
from lazy_magpie.report.pages import rendered
from lazy_magpie.report.report_table import Cell, ReportTable, cell_text
from lazy_magpie.sheet_text import inert

_ROWS = 400
"""Rows of a table that the page shows; its CSV has all."""
_LINES = 12
_BAR = 30
_FULL, _PARTS = "█", " ▏▎▍▌▋▊▉"
_NAME = 36


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
        "numbers": [at for at in range(len(table.columns)) if _is_number(table, at)],
        "rows": [table.texts(row) for row in table.rows[:_ROWS]],
        "more": max(0, len(table.rows) - _ROWS),
    }


def _is_number(table: ReportTable, at: int) -> bool:
    return isinstance(table.rows[0][at], int | float)


def write_csv(folder: Path, tables: Sequence[ReportTable]) -> None:
    """Write each table into a file of its own, with the numbers as they are: bytes, seconds, counts."""
    for table in tables:
        with (folder / f"{table.name}.csv").open("w", encoding="utf-8", newline="") as file:
            file.write("\ufeff")  # so that spreadsheets take it for UTF-8
            writer = csv.writer(file)
            writer.writerow(table.columns)
            for row in table.rows:
                writer.writerow([inert(cell) if isinstance(cell, str) else cell for cell in row])


def report_lines(tables: Sequence[ReportTable]) -> Iterator[tuple[str, str]]:
    """Yield (style, line) for a terminal: titles are bold, bars a colour of their own, notes dim."""
    for section, some in groupby(tables, key=lambda table: table.section):
        yield "", ""
        yield "head", section
        for table in some:
            yield "", ""
            yield "bold", table.title
            yield from _table_lines(table)


def _table_lines(table: ReportTable) -> Iterator[tuple[str, str]]:
    at = list(table.columns).index(table.chart.value) if table.chart else -1
    rows = table.rows if _in_time(table) else table.rows[:_LINES]
    rows = rows[-_LINES:]
    texts = [table.texts(row) for row in rows]
    wide = [max(len(_short(text[column])) for text in [table.columns, *texts]) for column in range(len(table.columns))]
    if len(table.columns) > 2:
        heads = [
            name.rjust(wide[at]) if _is_number(table, at) else name.ljust(wide[at])
            for at, name in enumerate(table.columns)
        ]
        yield "dim", f"  {'  '.join(heads).rstrip()}"
    most = max((float(row[at]) for row in rows), default=0.0) if at >= 0 else 0.0
    for row, text in zip(rows, texts, strict=True):
        cells = [
            _short(cell).rjust(wide[column]) if _is_number(table, column) else _short(cell).ljust(wide[column])
            for column, cell in enumerate(text)
        ]
        bar = f"  {drawn_bar(row[at], most)}" if at >= 0 and most else ""
        yield "bar" if bar else "", f"  {'  '.join(cells).rstrip() if not bar else '  '.join(cells)}{bar}".rstrip()
    if len(table.rows) > len(rows):
        yield "dim", f"  … {len(table.rows) - len(rows):,} {'earlier' if _in_time(table) else 'more'}"
    if table.note:
        yield "dim", f"  {table.note}"


def _in_time(table: ReportTable) -> bool:
    """Say whether the last rows matter most."""
    return table.chart is not None and table.chart.form in ("columns", "growth")


def _short(text: str) -> str:
    return text if len(text) <= _NAME else f"{text[: _NAME - 1]}…"


def drawn_bar(value: Cell, most: float) -> str:
    """Return a bar as long as a number is, of blocks and an eighth of one at its end; what is not 0 is seen."""
    eighths = round(float(value) / most * _BAR * 8) if most else 0
    eighths = max(eighths, 1) if float(value) > 0 else 0
    return _FULL * (eighths // 8) + _PARTS[eighths % 8].strip()


def about_line(tables: Sequence[ReportTable]) -> str:
    """Return what there is in all, in a sentence."""
    whole = next((table.rows[0] for table in tables if table.name == "by-all"), None)
    if whole is None:
        return "Nothing is catalogued yet."
    return f"{whole[1]:,} items, {cell_text('size', whole[2])}"
