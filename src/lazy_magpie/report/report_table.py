"""What the report is made of: tables with their charts, parts that make them, and what parts ask besides items."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

from lazy_magpie.config import Standard
from lazy_magpie.formatting import duration_text, size_text
from lazy_magpie.lists.matched import Counts
from lazy_magpie.model import Item
from lazy_magpie.paths import written

Cell = str | int | float
NOT_KNOWN = "not known"


class Chart(NamedTuple):
    """How a table is drawn: bars (one each row), columns, stacked (by the second column), treemap, growth; by a column
    of numbers."""

    form: str
    value: str


@dataclass(frozen=True)
class ReportTable:
    """A table of the report. `name` is that of its CSV file, `section` the heading that it stands below."""

    name: str
    section: str
    title: str
    columns: Sequence[str]
    rows: Sequence[Sequence[Cell]]
    chart: Chart | None = None
    note: str = ""

    @property
    def numbers(self) -> frozenset[str]:
        """The columns that hold numbers."""
        return frozenset(
            name for name, cell in zip(self.columns, self.rows[0], strict=True) if not isinstance(cell, str)
        )

    def texts(self, row: Sequence[Cell]) -> list[str]:
        """Return a row as a person reads it."""
        return [cell_text(name, cell) for name, cell in zip(self.columns, row, strict=True)]


def cell_text(column: str, cell: Cell) -> str:
    """Return a cell as a person reads it: sizes as 4.2G, lengths as 1:42:07, numbers with commas."""
    if column in ("size", "so far"):
        return size_text(int(cell))
    if column == "length":
        return duration_text(float(cell)) if cell else ""
    return f"{cell:,}" if isinstance(cell, int | float) else written(cell)


@dataclass(frozen=True)
class ReportSources:
    """What the report asks of the collection besides its items.

    `shelf_of` names the shelf of a path on a root, `arrived` the day on which a change brought in what lies at a path
    ("" where none did), `read_at` when a file was read whole last (seconds, 0 for never). `found` counts findings of
    `check` by what they say, with the words that list them. `twice` are files that others hold, too, and their bytes.
    `changes` are (number, command, when, state, steps) since `since`, a day ("" for no matter).
    """

    shelf_of: Callable[[str, str], str]
    arrived: Callable[[str], str] = lambda path: ""
    read_at: Callable[[str], int] = lambda path: 0
    standards: Mapping[str, Standard] = field(default_factory=dict)
    lists: Sequence[tuple[str, Counts]] = ()
    found: Sequence[tuple[str, int, str]] = ()
    twice: tuple[int, int] = (0, 0)
    changes: Sequence[tuple[int, str, str, str, int]] = ()
    since: str = ""
    now: float = 0.0


class Part:
    """A part of the report: it sees every item once, and yields its tables at the end."""

    def __init__(self, sources: ReportSources) -> None:
        self.sources = sources

    def see(self, item: Item) -> None:
        """Look at an item."""

    def tables(self) -> Iterator[ReportTable]:
        """Yield the tables."""
        raise NotImplementedError
