"""The lists for others that `find --write` makes: tables, workbooks, play lists, by the ending of the file's name."""

from __future__ import annotations

import json
import os
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path

from lazy_magpie.cli.items_argument import quoted_line
from lazy_magpie.cli.output_file import check_folder, written_whole
from lazy_magpie.columns import cells, written_value
from lazy_magpie.errors import UsageError
from lazy_magpie.fields import is_right
from lazy_magpie.model import Item, Value
from lazy_magpie.urls import relative_url


class ListFile:
    """A list to be written to a file that a person named: `columns` of `items`, or what of them plays.

    `tops` are the folders of the roots that are there, by their names.
    """

    def __init__(self, path: Path, columns: Sequence[str], items: Sequence[Item], tops: Mapping[str, str]) -> None:
        self.path, self.columns, self.items, self.tops = path, columns, items, tops
        self.left = 0
        self.right = [column for column in columns if is_right(column)]

    def write(self, *, force: bool) -> None:
        """Write it; `left` are then the items that have no place in it. Raises UsageError where the file is there."""
        with written_whole(self.path, force=force) as part:
            _FORMS[self.path.suffix.lower()](self, part)

    def _spreadsheet(self, part: Path) -> None:
        from lazy_magpie import spreadsheet

        columns = [spreadsheet.Column(name, "", _WIDTHS.get(name, 14)) for name in self.columns]
        spreadsheet.write(str(part), columns, map(self._values, self.items))

    def _open_document(self, part: Path) -> None:
        from lazy_magpie import open_document

        open_document.write(str(part), self.path.stem, self.columns, map(self._values, self.items))

    def _json(self, part: Path) -> None:
        with part.open("w", encoding="utf-8") as file:
            for at, item in enumerate(self.items):
                row = {column: written_value(item, column) for column in self.columns}
                file.write(f"{',' if at else '['}\n{json.dumps(row, ensure_ascii=False)}")
            file.write("\n]\n" if self.items else "[]\n")

    def _paths(self, part: Path) -> None:
        there = [item for item in self.items if item.root in self.tops]
        self.left = len(self.items) - len(there)
        places = (os.path.join(self.tops[item.root], item.path) if item.root else item.path for item in there)
        part.write_text("".join(f"{quoted_line(place)}\n" for place in places), encoding="utf-8")

    def _markdown(self, part: Path) -> None:
        from lazy_magpie.report.table_text import markdown

        with part.open("w", encoding="utf-8") as file:
            file.writelines(markdown(self.columns, (cells(item, self.columns) for item in self.items), self.right))

    def _page(self, part: Path) -> None:
        from lazy_magpie.report.table_text import table_page

        rows = [cells(item, self.columns) for item in self.items]
        places = [self._link_to(item) for item in self.items]
        part.write_text(table_page(self.path.stem, self.columns, rows, places, self.right), encoding="utf-8")

    def _play_list(self, part: Path) -> None:
        from lazy_magpie.companion_files import LIST_FORMS, PLAYED

        entries = []
        for item in self.items:
            if item.kind not in PLAYED or item.missing or item.root not in self.tops:
                self.left += 1
                continue
            top = self.tops[item.root].strip("/")
            entries += [(item, f"{top}/{file.path}") for file in item.files if file.role == "main"]
        text = LIST_FORMS[self.path.suffix.lower()[1:]](self.path.stem, entries, str(self._home).strip("/"))
        part.write_text(text, encoding="utf-8", errors="surrogateescape", newline="")

    @property
    def _home(self) -> Path:
        return self.path.absolute().parent.resolve()

    def _link_to(self, item: Item) -> str:
        """Return the link from the list to an item, "" where its root is away."""
        top = self.tops.get(item.root)
        return relative_url(os.path.join(top, item.path), str(self._home)) if top else ""

    def _values(self, item: Item) -> list[str | int | float | None]:
        return [_cell(written_value(item, column)) for column in self.columns]


def _cell(value: Value | None) -> str | int | float | None:
    """Return a value as a table's cell has it: numbers as numbers, yes and no, several texts in one."""
    if isinstance(value, bool):
        return "yes" if value else "no"
    return ", ".join(map(str, value)) if isinstance(value, list) else value


_WIDTHS = {"path": 60, "title": 30, "what": 40, "name": 40, "folder": 40}
_FORMS: Mapping[str, Callable[[ListFile, Path], None]] = {
    ".csv": ListFile._spreadsheet,
    ".xlsx": ListFile._spreadsheet,
    ".ods": ListFile._open_document,
    ".json": ListFile._json,
    ".md": ListFile._markdown,
    ".html": ListFile._page,
    ".m3u8": ListFile._play_list,
    ".xspf": ListFile._play_list,
    ".txt": ListFile._paths,
}
ENDINGS = ", ".join(_FORMS)
"""The endings that there are, in words."""


def check_list(path: Path) -> None:
    """Raise UsageError where there is no list of that ending, or no folder for it."""
    if path.suffix.lower() not in _FORMS:
        raise UsageError(f"A list is written by its ending; there are {ENDINGS}. “{path.name}” has none of these.")
    check_folder(path)
