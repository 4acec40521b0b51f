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
_PATHS_SHARE, _NAMES_SHARE, _TEXTS_SHARE = 0.45, 0.7, 0.3
"""So much of the width is left to a path, to one with a long name, and to a text, before columns go for its sake."""
_TEXTS = frozenset(
    ["title", "what", "why", "album", "group", "other titles", "edition", "artist", "maker", "family", "show", "which"]
)
"""Columns that hold texts: at the very last they are cut, but for a number or a year at their end."""
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
    """Return the columns, the rows and the widths of a table that is to fit a width, in cells of a terminal.

    A `width` of 0 is no limit.
    """
    if not width:
        return table.columns, [list(row) for row in table.rows], _widths(table)
    table = _with_room(table, width)
    widths = _narrowed(table, width)
    rows = [
        [_shorter(name, cell, room) for name, cell, room in zip(table.columns, row, widths, strict=True)]
        for row in table.rows
    ]
    for at, name in enumerate(table.columns):  # a name that is wider still runs over, by itself
        used = [cell_width(row[at]) for row in rows if cell_width(row[at]) <= widths[at]]
        widths[at] = max([cell_width(name), *used])
    return table.columns, rows, widths


def _narrowed(table: Table, width: int) -> list[int]:
    """Return widths for columns: paths give way first, then texts, neither far before the other has as well."""
    widths = _widths(table)
    columns = sorted(range(len(widths)), key=lambda at: -widths[at])
    for some, is_last in ((_PATHS, False), (_TEXTS, False), (_PATHS, True), (_TEXTS, True)):
        for at in columns:
            over = _total(widths) - width
            if table.columns[at] in some and over > 0:
                least = 0 if is_last else _least_of(table, at, width)
                widths[at] = min(widths[at], max(widths[at] - over, least, cell_width(table.columns[at]), _LEAST_TEXT))
    return widths


def _shorter(column: str, cell: str, room: int) -> str:
    return shortened(cell, room) if column in _PATHS else _cut(cell, room) if column in _TEXTS else cell


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
    """Return how wide a table is when its paths and texts are as short as may be asked of them."""
    least = [
        min(width, max(_least_of(table, at, room), cell_width(table.columns[at])))
        for at, width in enumerate(_widths(table))
    ]
    return _total(least)


def _least_of(table: Table, at: int, room: int) -> int:
    """Return how narrow a column may be asked to be: so that the own names of paths fit, as far as there is room."""
    name = table.columns[at]
    if name in _TEXTS:
        return int(room * _TEXTS_SHARE)
    if name not in _PATHS:
        return room
    own = max((cell_width(row[at].rpartition("/")[2]) for row in table.rows), default=0) + len(f"{CUT}/")
    return max(int(room * _PATHS_SHARE), min(own, int(room * _NAMES_SHARE)))


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


def aligned(columns: Sequence[str], cells: Sequence[str], widths: Sequence[int], right: Collection[str]) -> str:
    """Return a row of a table with its cells side by side."""
    parts = zip(columns, cells, widths, strict=True)
    return (" " * GAP).join(padded(cell, width, right=column in right) for column, cell, width in parts)


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
    """Return a text that takes at most `room` cells: its front, and a number or a year at its end."""
    if cell_width(text) <= room:
        return text
    front, blank, last = text.rpartition(" ")
    kept = f" {last}" if blank and any(sign.isdecimal() for sign in last) and cell_width(last) + 4 < room else ""
    front = front if kept else text
    while front and cell_width(front) > room - cell_width(kept) - 1:
        front = front[:-1]
    return f"{front.rstrip()}{CUT}{kept}"
