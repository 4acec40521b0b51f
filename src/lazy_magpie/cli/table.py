"""Tables that fit the width at hand: nothing is cut that a person needs whole.

Where there is too little room, columns that are empty go first, then those that matter least, then paths are shortened
in the middle at a folder. A number, a size, a date and a file's own name are never cut; if a name alone is wider than
the terminal, its row runs over.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass

GAP = 2
"""Blanks between two columns."""
CUT = "…"
_PATHS = frozenset(["path", "folder", "was", "source", "for example"])
"""Columns that hold paths: they are shortened in the middle."""
_PATHS_SHARE = 0.45
"""So much of the width is left to a path before columns go for its sake."""
_TEXTS = frozenset(["title", "what", "why", "album", "group", "other titles", "edition", "artist", "maker", "family"])
"""Columns that hold texts: at the very last they are cut at their end."""
_LEAST_TEXT = 14


@dataclass(frozen=True)
class Table:
    """Columns with rows of texts, in the order in which they are shown.

    `least` names the columns that may go, the one that matters least first; `right` those that stand to the right.
    """

    columns: Sequence[str]
    rows: Sequence[Sequence[str]]
    least: Sequence[str] = ()
    right: Collection[str] = ()

    def without(self, column: str) -> Table:
        """Return the table without a column."""
        at = self.columns.index(column)
        columns = [name for name in self.columns if name != column]
        return Table(columns, [[*row[:at], *row[at + 1 :]] for row in self.rows], self.least, self.right)


def fitted(table: Table, width: int) -> tuple[Sequence[str], list[list[str]], list[int]]:
    """Return the columns, the rows and the widths of a table that is to fit a width, in cells of a terminal."""
    table = _with_room(table, width)
    widths = _widths(table)
    rows = [list(row) for row in table.rows]
    for at in sorted(range(len(widths)), key=lambda at: (table.columns[at] not in _PATHS, -widths[at])):
        over = _total(widths) - width
        if over <= 0:
            break
        name = table.columns[at]
        if name in _PATHS:
            room = max(widths[at] - over, len(name))
            for row in rows:
                row[at] = shortened(row[at], room)
        elif name in _TEXTS:
            room = max(widths[at] - over, _LEAST_TEXT)
            for row in rows:
                row[at] = _cut(row[at], room)
        widths[at] = min(widths[at], max(_widest(rows, at), cell_width(name)))
        if at == len(widths) - 1:  # names that are wider still run over, each by itself
            widths[at] = min(widths[at], max(room, cell_width(name))) if name in _PATHS | _TEXTS else widths[at]
    return table.columns, rows, widths


def _with_room(table: Table, width: int) -> Table:
    """Return a table without the columns that have to go for its width."""
    if _needed(table, width) > width:
        for column in [name for at, name in enumerate(table.columns) if not any(row[at] for row in table.rows)]:
            table = table.without(column)
    for column in table.least:
        if _needed(table, width) <= width:
            break
        if column in table.columns:
            table = table.without(column)
    return table


def _needed(table: Table, room: int) -> int:
    """Return how wide a table is when its paths are as short as may be asked of them."""
    most = int(room * _PATHS_SHARE)
    widths = [
        min(wide, most) if name in _PATHS else wide for name, wide in zip(table.columns, _widths(table), strict=True)
    ]
    return _total(widths)


def _widths(table: Table) -> list[int]:
    return [max(cell_width(name), _widest(table.rows, at)) for at, name in enumerate(table.columns)]


def _widest(rows: Sequence[Sequence[str]], at: int) -> int:
    return max((cell_width(row[at]) for row in rows), default=0)


def _total(widths: Sequence[int]) -> int:
    return sum(widths) + GAP * (len(widths) - 1)


def cell_width(text: str) -> int:
    """Return how many cells of a terminal a text takes."""
    if text.isascii():
        return len(text)
    from rich.cells import cell_len

    return cell_len(text)


def padded(text: str, width: int, *, right: bool = False) -> str:
    """Return a text with blanks to a width in cells."""
    blanks = " " * (width - cell_width(text))
    return blanks + text if right else text + blanks


def shortened(path: str, room: int) -> str:
    """Return a path that takes at most `room` cells, folders in its middle left out; its own name is always whole."""
    if cell_width(path) <= room:
        return path
    *folders, name = path.split("/")
    if not folders:
        return path
    for kept in range(len(folders) - 1, 0, -1):  # as many of the folders as fit, the first ones and the last
        first, last = folders[: kept - kept // 2], folders[len(folders) - kept // 2 :]
        text = "/".join([*first, CUT, *last, name])
        if cell_width(text) <= room:
            return text
    return f"{CUT}/{name}"


def _cut(text: str, room: int) -> str:
    """Return the front of a text that takes at most `room` cells."""
    if cell_width(text) <= room:
        return text
    while text and cell_width(text) > room - 1:
        text = text[:-1]
    return text.rstrip() + CUT
