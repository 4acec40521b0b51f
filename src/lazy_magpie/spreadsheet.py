"""Tables as a spreadsheet opens them: Office Open XML workbooks (ISO/IEC 29500) and CSV, written and read back.

A workbook has up to three sheets: the rows, what each column is for, and the words that its cells may hold, from which
the drop-downs take them. Nothing in it is calculated but links: a text that looks like a formula is written as a text.
In CSV, which knows no types, such a text has an apostrophe in front, which is taken off again.
"""

from __future__ import annotations

import csv
import datetime
import io
import os
import zipfile
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, NamedTuple

from lazy_magpie.errors import UsageError
from lazy_magpie.sheet_text import alive, inert
from lazy_magpie.xml_text import allowed

if TYPE_CHECKING:
    from openpyxl.worksheet.datavalidation import DataValidation

ITEMS, COLUMNS, WORDS = "Items", "Columns", "Words"
_LONGEST_LINK = 255
"""Characters that a text in a formula may have; a longer link is left out."""
_LONGEST_CELL = 32_767
_MOST_BYTES = 1 << 31
"""What a workbook may unpack to."""
_TO_FILL = "E2F0D9"
_HEAD = "D9E2EC"


@dataclass(frozen=True)
class Column:
    """A column: its name, what it is for, how wide it is (in digits), and what may be filled in.

    `choices` are the words that a cell may hold; `open` says that others may be typed too. A `hidden` column is for the
    program, one `to_fill` for the person.
    """

    name: str
    note: str
    width: int = 14
    to_fill: bool = False
    hidden: bool = False
    takes: str = ""
    choices: tuple[str, ...] = ()
    open: bool = False


class Link(NamedTuple):
    """A cell that opens what is at `url`, and shows a word."""

    url: str
    word: str


Cell = str | int | float | Link | None


class Read(NamedTuple):
    """A row as it was read: its number (from 1), and by the column's name the cell's place ("F12") and its text."""

    number: int
    cells: dict[str, tuple[str, str]]

    def text(self, column: str) -> str:
        """Return the text in a column, "" where there is none."""
        return self.cells.get(column, ("", ""))[1]


Sheet = tuple[str, Sequence[Column], Iterable[Sequence[Cell]]]
"""One more sheet of a workbook: its name, columns and rows."""


def write(path: str, columns: Sequence[Column], rows: Iterable[Sequence[Cell]], *more: Sheet) -> None:
    """Write a table to a new file, as CSV or as a workbook by its ending. Raises FileExistsError.

    `more` are sheets that a workbook has besides.
    """
    if path.lower().endswith(".csv"):
        _write_csv(path, columns, rows)
    else:
        _write_workbook(path, columns, rows, more)


def read(path: str) -> tuple[list[str], Iterator[Read]]:
    """Return the names of a table's columns, and its rows that are not empty.

    Raises UsageError where it is no such table, or a column's name stands twice.
    """
    rows = _csv_rows(path) if path.lower().endswith(".csv") else _workbook_rows(path)
    names = [str(name).strip() for name in next(rows, (0, []))[1]]
    twice = sorted({name for name in names if name and names.count(name) > 1})
    if twice:
        raise UsageError(f"{path} has two columns “{twice[0]}”; take one of them out, or give it another name.")
    return names, _read_rows(names, rows)


def _read_rows(names: Sequence[str], rows: Iterable[tuple[int, Sequence[object]]]) -> Iterator[Read]:
    for number, values in rows:
        texts = [_text_of(value) for value in values]
        if any(texts):
            cells = {
                name: (f"{_letters(at)}{number}", text)
                for at, (name, text) in enumerate(zip(names, texts, strict=False))
                if name
            }
            yield Read(number, cells)


def _letters(at: int) -> str:
    """Return the letters of a column that is counted from 0."""
    letters = ""
    at += 1
    while at:
        at, rest = divmod(at - 1, 26)
        letters = chr(65 + rest) + letters
    return letters


def _text_of(value: object) -> str:
    """Return what stands in a cell as a person would type it."""
    match value:
        case None:
            return ""
        case bool():
            return "yes" if value else "no"
        case float() if value.is_integer():
            return str(int(value))
        case datetime.datetime() | datetime.date():
            return value.isoformat()[:10]
        case _:
            return str(value).strip()


# --- CSV -------------------------------------------------------------------------------------------------------------


def _write_csv(path: str, columns: Sequence[Column], rows: Iterable[Sequence[Cell]]) -> None:
    with open(path, "x", encoding="utf-8", errors="backslashreplace", newline="") as file:
        file.write("\ufeff")  # so that spreadsheets take it for UTF-8
        writer = csv.writer(file)
        writer.writerow([column.name for column in columns])
        for row in rows:
            writer.writerow(["" if cell is None else _inert(cell) for cell in row])


def _inert(cell: Cell) -> str:
    text = cell.url if isinstance(cell, Link) else str(cell)
    return inert(text) if isinstance(cell, str | Link) else text


def _csv_rows(path: str) -> Iterator[tuple[int, list[str]]]:
    try:
        with open(path, encoding="utf-8-sig", newline="") as file:
            head = file.readline()
            if "\0" in head:
                raise UsageError(f"{path} is no table of text; save it as CSV in UTF-8.")
            separator = max(",;\t", key=head.count)
            whole = io.StringIO(head + file.read(), newline="")
        for number, row in enumerate(csv.reader(whole, delimiter=separator), start=1):
            yield number, list(map(alive, row))
    except UnicodeDecodeError:
        raise UsageError(f"{path} is not UTF-8; save it as CSV in UTF-8.") from None
    except csv.Error as error:
        raise UsageError(f"{path} can't be read as CSV: {error}.") from None


# --- workbooks -------------------------------------------------------------------------------------------------------


def _write_workbook(
    path: str, columns: Sequence[Column], rows: Iterable[Sequence[Cell]], more: Sequence[Sheet]
) -> None:
    from openpyxl import Workbook

    if os.path.lexists(path):
        raise FileExistsError(path)
    book = Workbook(write_only=True)
    _add_items(book, ITEMS, columns, rows)
    for sheet in more:
        _add_items(book, *sheet)
    if any(column.note for column in columns):
        _add_columns(book, columns)
    if any(column.choices for column in columns):
        _add_words(book, columns)
    try:
        with open(path, "xb") as file:
            book.save(file)
    except FileExistsError:
        raise
    except BaseException:
        if os.path.exists(path):
            os.unlink(path)
        raise


def _add_items(book: Any, name: str, columns: Sequence[Column], rows: Iterable[Sequence[Cell]]) -> None:
    from openpyxl.utils import get_column_letter

    sheet = book.create_sheet(name)
    sheet.freeze_panes = "B2"
    for at, column in enumerate(columns, start=1):
        dimension = sheet.column_dimensions[get_column_letter(at)]
        dimension.width, dimension.hidden = column.width, column.hidden
    sheet.append(_head(sheet, [(column.name, column.to_fill) for column in columns]))
    last = 1
    for row in rows:
        sheet.append([_cell(sheet, value) for value in row])
        last += 1
    sheet.auto_filter.ref = f"A1:{get_column_letter(len(columns))}{max(last, 2)}"
    for at, column in enumerate(columns, start=1):
        if column.choices and (rule := _rule(column, columns)):
            rule.add(f"{get_column_letter(at)}2:{get_column_letter(at)}{max(last, 2)}")
            sheet.data_validations.append(rule)


def _head(sheet: Any, names: Iterable[tuple[str, bool]]) -> list[Any]:
    from openpyxl.cell import WriteOnlyCell
    from openpyxl.styles import Font, PatternFill

    bold = Font(bold=True)
    fills = {to_fill: PatternFill("solid", start_color=_TO_FILL if to_fill else _HEAD) for to_fill in (True, False)}
    cells = []
    for name, to_fill in names:
        cell = WriteOnlyCell(sheet, name)
        cell.font, cell.fill = bold, fills[to_fill]
        cells.append(cell)
    return cells


def _cell(sheet: Any, value: Cell) -> Any:
    """Return a value as a cell: a text is a text whatever it looks like, a link a formula that opens it."""
    from openpyxl.cell import WriteOnlyCell

    if isinstance(value, Link):
        if len(value.url) > _LONGEST_LINK or '"' in value.url:
            return None
        return f'=HYPERLINK("{value.url}","{value.word}")'
    if not isinstance(value, str):
        return value
    text = allowed(value, "�")[:_LONGEST_CELL]
    if not text.startswith(("=", "#")):
        return text
    cell = WriteOnlyCell(sheet, text)
    cell.data_type = "s"
    return cell


def _rule(column: Column, columns: Sequence[Column]) -> DataValidation:
    """Return the rule of a column's cells: one of its words, which stand on a sheet of their own."""
    from openpyxl.utils import get_column_letter
    from openpyxl.worksheet.datavalidation import DataValidation

    letter = get_column_letter([one.name for one in columns if one.choices].index(column.name) + 1)
    words = f"{WORDS}!${letter}$2:${letter}${len(column.choices) + 1}"
    rule = DataValidation(type="list", formula1=words, allow_blank=True, showErrorMessage=not column.open)
    rule.errorTitle, rule.error = column.name, f"One of the words on the sheet “{WORDS}”, please."
    if column.note:
        rule.showInputMessage, rule.promptTitle, rule.prompt = True, column.name[:32], column.note[:255]
    return rule


def _add_columns(book: Any, columns: Sequence[Column]) -> None:
    sheet = book.create_sheet(COLUMNS)
    for letter, width in zip("ABCD", (18, 70, 12, 60), strict=True):
        sheet.column_dimensions[letter].width = width
    sheet.append(_head(sheet, [(name, False) for name in ("column", "what it is for", "to fill in", "takes")]))
    for column in columns:
        takes = f"{column.takes}: {', '.join(column.choices)}" if column.choices else column.takes
        texts = (column.name, column.note, "yes" if column.to_fill else "no", takes)
        sheet.append([_cell(sheet, text) for text in texts])


def _add_words(book: Any, columns: Sequence[Column]) -> None:
    sheet = book.create_sheet(WORDS)
    chosen = [column for column in columns if column.choices]
    sheet.append(_head(sheet, [(column.name, True) for column in chosen]))
    for at in range(max((len(column.choices) for column in chosen), default=0)):
        words = (column.choices[at] if at < len(column.choices) else None for column in chosen)
        sheet.append([_cell(sheet, word) for word in words])


def _workbook_rows(path: str) -> Iterator[tuple[int, list[object]]]:
    """Yield the rows of a workbook's first sheet, or of the one that is called as ours."""
    from openpyxl import load_workbook
    from openpyxl.utils.exceptions import InvalidFileException

    try:
        with zipfile.ZipFile(path) as packed:
            if sum(info.file_size for info in packed.infolist()) > _MOST_BYTES:
                raise UsageError(f"{path} would unpack to more than {_MOST_BYTES >> 30} GiB; it is no sheet of ours.")
        book = load_workbook(path, read_only=True, keep_links=False)
    except (zipfile.BadZipFile, InvalidFileException, KeyError, ValueError, SyntaxError, EOFError) as error:
        raise UsageError(f"{path} is no workbook that can be read ({error}); save it as .xlsx or .csv.") from None
    try:
        sheet = book[ITEMS] if ITEMS in book.sheetnames else book.worksheets[0]
        sheet.reset_dimensions()
        for number, row in enumerate(sheet.iter_rows(values_only=True), start=1):
            yield number, list(row)
    finally:
        book.close()
