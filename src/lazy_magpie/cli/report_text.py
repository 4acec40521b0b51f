"""The report in the terminal: its tables, with a bar behind each row where there is room for one."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import groupby

from lazy_magpie.cli.table import GAP, Table, aligned, fitted
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.report.report_table import ReportTable

_ROWS = 12
"""Rows of a table that are shown; the page and the CSV have more."""
_BAR, _LEAST_BAR = 30, 8
"""How long the longest bar of a table is, in cells, and below which there is none."""
_FULL, _PARTS = "█", " ▏▎▍▌▋▊▉"
_INDENT = "  "


def report_text(tables: Sequence[ReportTable], terminal: Terminal) -> Iterator[str]:
    """Yield the lines of a report as a terminal shows them, in its width and its colours."""
    for section, some in groupby(tables, key=lambda table: table.section):
        yield from ("", terminal.styled(section, "new"))
        for number, table in enumerate(some):
            if number or table.title != section:
                yield from ("", terminal.styled(table.title, "bold"))
            yield from _table_text(table, terminal)


def _table_text(table: ReportTable, terminal: Terminal) -> Iterator[str]:
    in_time = table.chart is not None and table.chart.form in ("columns", "growth")  # its last rows matter most
    rows = (table.rows if in_time else table.rows[:_ROWS])[-_ROWS:]
    room = max(0, terminal.width - len(_INDENT))
    shape = Table(table.columns, [table.texts(row) for row in rows], right=table.numbers)
    columns, cells, widths = fitted(shape, room)
    if len(columns) > 2:
        yield terminal.styled(f"{_INDENT}{aligned(columns, columns, widths, table.numbers).rstrip()}", "dim")
    longest = min(_BAR, room - sum(widths) - GAP * len(widths)) if room else _BAR
    at = list(table.columns).index(table.chart.value) if table.chart and longest >= _LEAST_BAR else -1
    most = max((float(row[at]) for row in rows), default=0.0) if at >= 0 else 0.0
    for row, texts in zip(rows, cells, strict=True):
        line = _INDENT + aligned(columns, texts, widths, table.numbers)
        bar = drawn_bar(float(row[at]), most, longest) if most else ""
        yield f"{line}{' ' * GAP}{terminal.styled(bar, 'new')}" if bar else line.rstrip()
    if len(table.rows) > len(rows):
        yield terminal.styled(f"{_INDENT}… {len(table.rows) - len(rows):,} {'earlier' if in_time else 'more'}", "dim")
    if table.note:
        yield terminal.styled(f"{_INDENT}{table.note}", "dim")


def drawn_bar(value: float, most: float, longest: int) -> str:
    """Return a bar as long as a number is, of blocks and an eighth of one at its end; what is not 0 is seen."""
    eighths = max(round(value / most * longest * 8), 1 if value > 0 else 0)
    return _FULL * (eighths // 8) + _PARTS[eighths % 8].strip()
