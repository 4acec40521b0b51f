"""Tables for people: as Markdown (pipes), and as a page that needs nothing else."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable, Iterator, Sequence

from lazy_magpie.formatting import count_text
from lazy_magpie.report.pages import rendered

_ACTS = re.compile(r"([\\`*_\[\]<>|~#&])")
_BREAKS = re.compile(r"[\r\n]+")


def markdown(columns: Sequence[str], rows: Iterable[Sequence[str]], right: Collection[str]) -> Iterator[str]:
    """Yield the lines of a table; whatever a cell holds is text. Columns in `right` hold numbers."""
    yield _line(columns)
    yield f"|{'|'.join('---:' if column in right else '---' for column in columns)}|\n"
    for row in rows:
        yield _line(row)


def _line(row: Sequence[str]) -> str:
    cells = (_ACTS.sub(r"\\\1", _BREAKS.sub(" ", text)) for text in row)
    return f"| {' | '.join(cells)} |\n"


def table_page(
    title: str, columns: Sequence[str], rows: Sequence[Sequence[str]], places: Sequence[str], right: Collection[str]
) -> str:
    """Return a page with one table; `places` are the links that the rows' paths have, "" for none."""
    return rendered(
        "table.html",
        title=title,
        count=count_text(len(rows), "item"),
        columns=columns,
        numbers=frozenset(right),
        rows=[(place, list(zip(columns, row, strict=True))) for place, row in zip(places, rows, strict=True)],
    )
