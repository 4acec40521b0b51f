"""The report of one change: as a page, as a worksheet, as CSV, or in the terminal."""

from __future__ import annotations

import argparse
import os
from collections.abc import Iterator, Sequence
from pathlib import Path

from lazy_magpie import spreadsheet
from lazy_magpie.catalogue import Catalogue, opened
from lazy_magpie.cli.output_file import check_new, write_new, written_whole
from lazy_magpie.cli.table import Table
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.collection import Collection
from lazy_magpie.drives import present
from lazy_magpie.errors import UsageError
from lazy_magpie.formatting import count_text, time_text
from lazy_magpie.paths import written
from lazy_magpie.planners import worksheet
from lazy_magpie.services.change_report import ChangeReport, report_on
from lazy_magpie.spreadsheet import Cell, Column, Link
from lazy_magpie.urls import file_url, relative_url

_COLUMNS = ("did", "state", "came from", "path", "says")
_WIDTHS = {"came from": 60, "path": 60, "says": 30}
_FILES = "Files"
_GONE = "(gone)"
_ENDINGS = (".html", ".htm", ".xlsx", ".csv")


def run_change(args: argparse.Namespace, collection: Collection, terminal: Terminal) -> int:
    """Report a change in the form that the file's ending says, or print it."""
    if args.text or args.csv or args.since:
        raise UsageError("“--change” reports one change: into a FILE (.html, .xlsx, .csv), or here if none is named.")
    path = Path(args.file) if args.file else None
    if path:
        _check(path, force=args.force)
    with opened(collection) as catalogue:
        report = report_on(collection, catalogue, args.change)
        if path is None:
            _print(terminal, report)
            return 0
        if path.suffix.lower() in (".html", ".htm"):
            write_new(path, _page(report, path, collection), force=args.force)
        else:
            with written_whole(path, force=args.force) as part:
                _write_sheet(part, report, collection, catalogue)
    if terminal.as_json:
        terminal.json({"file": str(path), "change": args.change, "files": len(report.files)})
    else:
        terminal.note(f"The report of change {args.change} is {path}: {count_text(len(report.files), 'file')}.")
    return 0


def _check(path: Path, *, force: bool) -> None:
    if path.suffix.lower() not in _ENDINGS:
        raise UsageError(f"The report of a change is a page or a sheet; call it {path.name}.html, .xlsx or .csv.")
    check_new(path, force=force)


def _rows(report: ChangeReport) -> Iterator[tuple[str, str, str, str, str]]:
    for file, now in zip(report.files, report.now, strict=True):
        yield file.did, file.state, written(file.came), written(now) or _GONE, written(file.says)


def _print(terminal: Terminal, report: ChangeReport) -> None:
    if terminal.as_json:
        for file, now in zip(report.files, report.now, strict=True):
            shape = {"did": file.did, "state": file.state, "from": written(file.came), "to": written(file.went)}
            terminal.json({**shape, "now": written(now), "says": written(file.says)})
        return
    change = report.change
    terminal.say(f"Change {change.number}: {change.command}, {change.state}, {time_text(change.ended)}")
    rows = list(_rows(report))
    if rows:
        with terminal.paged():
            terminal.table(Table(_COLUMNS, rows, least=("state", "says")))
    else:
        terminal.note("It touched no file.")


def _page(report: ChangeReport, path: Path, collection: Collection) -> str:
    from lazy_magpie.report.table_text import table_page

    home, root = str(path.absolute().parent.resolve()), str(collection.root)
    links = [relative_url(os.path.join(root, now), home) if now else "" for now in report.now]
    change = report.change
    title = f"{collection.name}: change {change.number}, {change.command}, {change.state}, {time_text(change.ended)}"
    return table_page(title, _COLUMNS, list(_rows(report)), links, ())


def _write_sheet(part: Path, report: ChangeReport, collection: Collection, catalogue: Catalogue) -> None:
    """Write the items as `sheet make` does, each with where it came from, and every file on a sheet of its own."""
    tops = present(catalogue, collection)
    files = [Column(name, "", _WIDTHS.get(name, 10)) for name in _COLUMNS]
    files.insert(3, Column("open", "", 7))

    def file_rows() -> Iterator[Sequence[Cell]]:
        for row, now in zip(_rows(report), report.now, strict=True):
            link = Link(file_url(os.path.join(tops[""], now)), "open") if now else None
            yield [*row[:3], link, *row[3:]]

    if part.suffix.lower() == ".csv":
        spreadsheet.write(str(part), files, file_rows())
        return
    kinds = dict.fromkeys(item.kind for item in report.items)
    about = worksheet.columns(kinds, collection.config.fields.values(), list(catalogue.tags.counts()))
    came = {now: file.came for file, now in zip(report.files, report.now, strict=True) if now}
    told = Column("came from", "where the change took it from", 50)

    def item_rows() -> Iterator[Sequence[Cell]]:
        for item in report.items:
            cells = worksheet.row(item, about, tops)
            yield [*cells[:2], written(came.get(item.path, "")) or None, *cells[2:]]

    spreadsheet.write(str(part), [*about[:2], told, *about[2:]], item_rows(), (_FILES, files, file_rows()))
