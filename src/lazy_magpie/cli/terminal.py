"""What a person sees: lines, tables, progress and colour; what a program reads: JSON."""

from __future__ import annotations

import argparse
import io
import json
import os
import re
import shlex
import shutil
import sys
import time
from collections.abc import Collection, Iterator, Mapping
from contextlib import contextmanager, redirect_stdout
from dataclasses import dataclass, replace
from typing import Any, Protocol

from lazy_magpie.cli.table import Table, aligned, fitted, padded
from lazy_magpie.formatting import duration_text
from lazy_magpie.paths import visible

_CODES = {"bold": "1", "dim": "2", "new": "32", "old": "36", "warn": "35", "bad": "31", "head": "1;34"}
COLOURS = {
    "red": "31", "green": "32", "yellow": "33", "blue": "34", "purple": "35", "teal": "36", "grey": "90",
}  # fmt: skip
"""The colours that a person may give a tag."""
_OF_STATE = {
    "doubtful": "warn", "unknown": "bad", "unfinished": "bad", "stopped": "warn",
    "damaged": "bad", "incomplete": "warn",
}  # fmt: skip
_PROGRESS_AFTER, _PROGRESS_EVERY = 1.0, 0.1


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
        usual = "NO_COLOR" not in os.environ and sys.stdout.isatty()
        colour = args.colour == "always" or (args.colour == "auto" and usual)
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

    def table(self, table: Table, tints: Mapping[str, str] | None = None, dim: Collection[int] = ()) -> None:
        """Print a table: on a terminal as wide as it is (`fitted` says what gives way), else whole and aligned.

        `tints` are the colours of words in the column “tag”, `dim` the rows that matter less.
        """
        rows = [[visible(cell).replace("\n", "\\x0a") for cell in row] for row in table.rows]
        table = replace(table, rows=rows)
        columns, rows, widths = fitted(table, self.width)
        self.say(self.styled(aligned(columns, columns, widths, table.right).rstrip(), "bold"))
        for number, row in enumerate(rows):
            cells = []
            for column, cell, width in zip(columns, row, widths, strict=True):
                text = padded(cell, width, right=column in table.right)
                cells.append(self._tinted(text, tints or {}) if column == "tag" else self._by_state(text, cell))
            line = "  ".join(cells).rstrip()
            self.say(self.styled(line, "dim") if number in dim else line)

    @property
    def width(self) -> int:
        """How many cells wide the terminal is that the answer goes to, 0 where it goes elsewhere."""
        return shutil.get_terminal_size().columns if sys.stdout.isatty() else 0

    def _by_state(self, text: str, cell: str) -> str:
        style = _OF_STATE.get(cell)
        return self.styled(text, style) if style else text

    def _tinted(self, text: str, tints: Mapping[str, str]) -> str:
        """Return a cell of tags with each that has a colour in it."""
        parts = re.split(r"(, |\s+$)", text)
        return "".join(self.coloured(part, tints.get(part, "")) for part in parts)

    @contextmanager
    def paged(self) -> Iterator[None]:
        """Show what is said meanwhile by a pager where it is longer than the terminal."""
        if self.as_json or not (sys.stdin.isatty() and sys.stdout.isatty()):
            yield
            return
        page = _Page()
        with redirect_stdout(page):
            yield
        text = page.getvalue()
        pager = os.environ.get("PAGER", shutil.which("less") or shutil.which("more"))
        if not pager or text.count("\n") < shutil.get_terminal_size().lines or not _shown_by(pager, text):
            sys.stdout.write(text)

    @contextmanager
    def progress(self, label: str, total: int | None = None) -> Iterator[Ticker]:
        """Show progress on stderr, with rate and time left, once the work has taken a second."""
        if self.quiet or not sys.stderr.isatty():
            yield lambda done, what="": None
            return
        bar = _Progress(label, total)
        try:
            yield bar.tick
        finally:
            bar.clear()


class _Page(io.StringIO):
    """What is said, gathered for a pager; it is laid out for the terminal."""

    def isatty(self) -> bool:
        """Say that a terminal is at the end of it."""
        return True


def _shown_by(pager: str, text: str) -> bool:
    """Show a text by a pager; say whether that could be done."""
    import subprocess

    try:
        subprocess.run(shlex.split(pager), input=text.encode(), env={"LESS": "FRX", **os.environ}, check=False)
    except (OSError, ValueError):
        return False
    return True


class _Progress:
    """One line on stderr that says how far work is, with rate and time left; it leaves nothing behind."""

    def __init__(self, label: str, total: int | None) -> None:
        self.label, self.total = label, total
        self.began = self.shown = time.monotonic()
        self.begun: dict[str, float] = {}
        self.width = 0

    def tick(self, done: int, what: str = "") -> None:
        """Show that `done` are done, of `what`."""
        now = time.monotonic()
        label = what or self.label
        began = self.begun.setdefault(label, now)
        if now - self.began < _PROGRESS_AFTER or now - self.shown < _PROGRESS_EVERY:
            return
        self.shown = now
        rate = done / max(now - began, 0.01)
        parts = [f"{label} {done:,}", f"{rate:,.0f}/s"]
        if self.total:
            parts[0] += f" of {self.total:,} ({done / self.total:.0%})"
            parts.append(f"{duration_text((self.total - done) / max(rate, 0.01))} left")
        text = "  ".join(parts)[: shutil.get_terminal_size().columns - 1]
        sys.stderr.write(f"\r{text.ljust(self.width)}")
        sys.stderr.flush()
        self.width = len(text)

    def clear(self) -> None:
        """Take the line away."""
        if self.width:
            sys.stderr.write(f"\r{' ' * self.width}\r")
            sys.stderr.flush()
