"""`magpie report [FILE.html]`: the collection on one page, in the terminal, or as CSV; or all about one change."""

from __future__ import annotations

import argparse
from pathlib import Path

from lazy_magpie.cli.output_file import check_page, new_folder, write_new
from lazy_magpie.cli.parser import CHANGE
from lazy_magpie.cli.selection import collection_of, told_of_crash
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.collection import Collection
from lazy_magpie.errors import UsageError
from lazy_magpie.fields import day_of

_EXAMPLES = """examples:
  magpie report club.html                 totals, space, growth, quality, what is missing, with charts
  magpie report --text                    the same in the terminal
  magpie report --since 2026-09-01        what came and what was changed since
  magpie report --csv numbers             the numbers behind the charts, a file each
  magpie report --change 4 moved.xlsx     every file of change 4: where it came from, where it is now
"""


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `report`."""
    parser.epilog = _EXAMPLES
    parser.add_argument("file", nargs="?", metavar="FILE", help="the page to write (.html); with --change also .xlsx")
    parser.add_argument("--text", action="store_true", help="print it with drawn bars (so if no FILE is named)")
    parser.add_argument("--csv", metavar="DIR", help="write the numbers into a new folder, a file a table")
    parser.add_argument("--since", metavar="DATE", default="", help="begin with what came and changed since a day")
    parser.add_argument("--change", type=CHANGE, metavar="N", help="report one change instead: every file of it")
    parser.add_argument("--force", action="store_true", help="replace a file that is there")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Make the report in the forms that are asked for."""
    collection = collection_of(args)
    if args.change is not None:
        from lazy_magpie.cli.change_report import run_change

        return run_change(args, collection, terminal)
    since = day_of(args.since) if args.since else ""
    if args.since and not since:
        raise UsageError(f"“{args.since}” is no day; write it as 2026-03-21.")
    if args.file:
        check_page(Path(args.file), force=args.force)
    told_of_crash(collection, terminal)
    return _report(args, collection, terminal, since)


def _report(args: argparse.Namespace, collection: Collection, terminal: Terminal, since: str) -> int:
    from lazy_magpie.cli.report_text import report_text
    from lazy_magpie.report.collection_page import about_line, report_page, write_csv
    from lazy_magpie.services.report import report_of

    with terminal.progress("adding up") as tick:
        tables = report_of(collection, since, terminal.note, tick)
    about = about_line(tables)
    if args.file:
        write_new(Path(args.file), report_page(collection.name, about, tables), force=args.force)
        terminal.note(f"The report is {args.file}.")
    if args.csv:
        with new_folder(Path(args.csv)) as part:
            write_csv(part, tables)
        terminal.note(f"The numbers are in {args.csv}: {len(tables)} files.")
    if terminal.as_json:
        for table in tables:
            rows = [dict(zip(table.columns, row, strict=True)) for row in table.rows]
            terminal.json({"table": table.name, "title": table.title, "rows": rows})
    elif args.text or not (args.file or args.csv):
        with terminal.paged():
            terminal.say(f"{terminal.styled(collection.name, 'bold')}: {about}")
            for line in report_text(tables, terminal):
                terminal.say(line)
    return 0
