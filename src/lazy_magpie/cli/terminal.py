"""What a person sees: lines, tables, progress and colour; what a program reads: JSON."""

from __future__ import annotations

import argparse
import json
import os
import re
import sys
import time
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any, Protocol

from lazy_magpie.paths import visible

_CODES = {"bold": "1", "dim": "2", "new": "32", "old": "36", "warn": "35", "bad": "31", "head": "1;34"}
COLOURS = {
    "red": "31", "green": "32", "yellow": "33", "blue": "34", "purple": "35", "teal": "36", "grey": "90",
}  # fmt: skip
"""The colours that a person may give a tag."""
_INDEX = {"red": 1, "green": 2, "yellow": 3, "blue": 4, "purple": 5, "teal": 6, "grey": 8}
"""The same as numbers of a terminal's palette."""
_PROGRESS_AFTER = 1.0
_WHOLE_UP_TO = 28


class Ticker(Protocol):
    """Is told how many are done."""

    def __call__(self, done: int, what: str = "") -> None:
        """Show that `done` are done, of `what`."""


_MARK = f"\ufdd0{os.urandom(6).hex()}"
"""What stands for the beginning of a style until a text goes out: nobody else can know it."""
_MARKED = re.compile(rf"{_MARK}([0-9;]+)\ufdd1")
_ACTING = re.compile("[\x7f-\x9f\u061c\u200e\u200f\u2028-\u202e\u2066-\u2069\ud800-\udfff]")
_encode = json.JSONEncoder(ensure_ascii=False).encode


def as_line(value: Any) -> str:
    """Return a value as JSON on one line; what would act on a terminal is escaped, as JSON may have it."""
    return _ACTING.sub(lambda match: f"\\u{ord(match[0]):04x}", _encode(value))


def outgoing(text: str) -> str:
    """Return a text as it goes out: all that would act on a terminal made visible, but our own styles."""
    return _MARKED.sub("\x1b[\\1m", visible(text))


def _print_list(elements: Iterator[Any]) -> None:
    before = "["
    for element in elements:
        sys.stdout.write(before + as_line(element))
        before = ", "
    sys.stdout.write("]" if before == ", " else "[]")


def _styled(text: str, code: str) -> str:
    return f"{_MARK}{code}\ufdd1{text}{_MARK}0\ufdd1"


@dataclass(frozen=True)
class Terminal:
    """Where output goes and how it looks."""

    as_json: bool
    quiet: bool
    verbose: bool
    colour: bool

    @classmethod
    def of(cls, args: argparse.Namespace) -> Terminal:
        """Return the terminal that the options and the environment ask for."""
        colour = not args.no_colour and "NO_COLOR" not in os.environ and sys.stdout.isatty()
        return cls(args.json, args.quiet, args.verbose, colour)

    def styled(self, text: str, style: str) -> str:
        """Return `text` in a style (bold, dim, new, old, warn, bad, head) where there is colour."""
        return _styled(text, _CODES[style]) if self.colour else text

    def coloured(self, text: str, colour: str) -> str:
        """Return `text` in one of `COLOURS` where there is colour; "" is none."""
        return _styled(text, COLOURS[colour]) if self.colour and colour in COLOURS else text

    def say(self, text: str = "") -> None:
        """Print a line of the answer."""
        print(outgoing(text))

    def note(self, text: str) -> None:
        """Print a line beside the answer, on stderr."""
        if not self.quiet:
            print(outgoing(text), file=sys.stderr)

    def json(self, value: Mapping[str, Any]) -> None:
        """Print an object as JSON on one line; an iterator in it is printed as a list, element by element."""
        if not any(isinstance(part, Iterator) for part in value.values()):
            print(as_line(value))
            return
        before = "{"
        for key, part in value.items():
            sys.stdout.write(f"{before}{as_line(key)}: ")
            if isinstance(part, Iterator):
                _print_list(part)
            else:
                sys.stdout.write(as_line(part))
            before = ", "
        print("}" if value else "{}")

    def table(
        self,
        columns: Sequence[str],
        rows: Sequence[Sequence[str]],
        right: Sequence[str] = (),
        tints: Mapping[str, str] | None = None,
    ) -> None:
        """Print a table: on a terminal as wide as it is, long values cut; else whole and aligned.

        `tints` are the colours of words in the column “tag”.
        """
        rows = [[visible(cell).replace("\n", "\\x0a") for cell in row] for row in rows]
        if sys.stdout.isatty():
            self._rich_table(columns, rows, right, tints or {})
            return
        widths = [max(len(row[i]) for row in [columns, *rows]) for i in range(len(columns))]
        for row in [columns, *rows]:
            cells = (
                cell.rjust(width) if column in right else cell.ljust(width)
                for cell, width, column in zip(row, widths, columns, strict=True)
            )
            self.say("  ".join(cells).rstrip())

    def _rich_table(
        self, columns: Sequence[str], rows: Sequence[Sequence[str]], right: Sequence[str], tints: Mapping[str, str]
    ) -> None:
        from rich.box import SIMPLE_HEAD
        from rich.console import Console
        from rich.table import Table
        from rich.text import Text

        table = Table(box=SIMPLE_HEAD, header_style="bold", pad_edge=False)
        console = Console(no_color=not self.colour, highlight=False)
        widths = [max(len(row[at]) for row in [columns, *rows]) for at in range(len(columns))]
        least = [min(width, _WHOLE_UP_TO) for width in widths[:-1]]
        rest = max(console.width - sum(width + 3 for width in least) - 4, _WHOLE_UP_TO)  # the last, a path, gives way
        if sum(width + 3 for width in widths) + 1 <= console.width:  # all of it fits
            least, rest = widths[:-1], widths[-1]
        for column, width in zip(columns, [*least, rest], strict=True):
            justify = "right" if column in right else "left"
            table.add_column(
                column,
                justify=justify,  # type: ignore[arg-type]
                no_wrap=True,
                overflow="ellipsis",
                max_width=width,
            )
        for row in rows:
            texts = [Text(cell, style=self._cell_style(cell)) for cell in row]
            if tints and "tag" in columns:
                tagged = texts[columns.index("tag")]
                for tag, colour in tints.items():
                    tagged.highlight_regex(rf"(?<![^,] )(?<![^ ]){re.escape(tag)}(?=,|$)", f"color({_INDEX[colour]})")
            table.add_row(*texts)
        console.print(table)

    def _cell_style(self, cell: str) -> str:
        return {"doubtful": "magenta", "unknown": "red", "unfinished": "red", "stopped": "magenta"}.get(cell, "")

    @contextmanager
    def progress(self, label: str, total: int | None = None) -> Iterator[Ticker]:
        """Show progress on stderr, with rate and time left, once the work has taken a second."""
        if self.quiet or not sys.stderr.isatty():
            yield lambda done, what="": None
            return
        from rich.console import Console
        from rich.progress import BarColumn, MofNCompleteColumn, Progress, TextColumn, TimeRemainingColumn

        start = time.monotonic()
        bar = Progress(
            TextColumn("{task.description:<12}"),
            BarColumn(complete_style="green"),
            MofNCompleteColumn(),
            TextColumn("{task.fields[rate]:>9,.0f}/s"),
            TimeRemainingColumn(),
            console=Console(stderr=True, no_color=not self.colour),
            transient=False,
        )
        task = bar.add_task(label, total=total, rate=0)
        begun: dict[str, float] = {}

        def tick(done: int, what: str = "") -> None:
            now = time.monotonic()
            began = begun.setdefault(what or label, now)
            if now - start > _PROGRESS_AFTER and not bar.live.is_started:
                bar.start()
            bar.update(task, completed=done, description=what or label, rate=done / max(now - began, 0.01))

        try:
            yield tick
        finally:
            if bar.live.is_started:
                bar.stop()
