"""The argument ITEMS, and `--from FILE`: a list of paths stands wherever a person could have typed them.

A line is a path from here or from the root; one that is put in quotes is a JSON text, for names with line breaks.
"""

from __future__ import annotations

import argparse
import json
import os
import sys
from collections.abc import Iterator
from pathlib import Path

from lazy_magpie.errors import UsageError
from lazy_magpie.paths import read_back, written

_LARGEST = 256 << 20


def add_items(
    parser: argparse.ArgumentParser, help: str, *, needed: bool = False, metavar: str = "ITEMS", leading: int = 0
) -> argparse.Action:
    """Add the words that choose items, and `--from`.

    `needed` says that there must be some; the first `leading` words are none of them.
    """
    words = parser.add_argument("words", nargs="*", metavar=metavar, help=help)
    add_listed(parser)
    parser.set_defaults(needs_items=metavar if needed else "", leading=leading)
    return words


def add_listed(
    parser: argparse.ArgumentParser,
    help: str = "also the paths in FILE, one a line (“-”: piped in)",
    metavar: str = "FILE",
) -> None:
    """Add `--from` alone, to a command that has its `words` by other means."""
    parser.add_argument("--from", dest="listed", metavar=metavar, help=help)


def take_listed(args: argparse.Namespace, root: Path) -> None:
    """Put the paths of `--from` among the words, so that the leading words stay the first.

    Raises UsageError for what is not there, for a list without paths, and where items are needed and there are none.
    """
    listed = getattr(args, "listed", None)
    if listed:
        paths = [_there(text, root, f"line {number} of {listed}") for number, text in _lines(listed)]
        if not paths:
            raise UsageError(f"{listed} lists no paths; it takes one a line.")
        leading = getattr(args, "leading", 0)
        args.words = [*args.words[:leading], *paths, *args.words[leading:]]
    if getattr(args, "needs_items", "") and not args.words:
        raise UsageError(f"{args.needs_items} are missing; “magpie {args.command} --help” shows what there is.")


def quoted_line(path: str) -> str:
    """Return a path as a line of a list."""
    text = written(path)
    return json.dumps(text) if not text.isprintable() or text.startswith('"') or text != text.strip() else text


def _lines(listed: str) -> Iterator[tuple[int, str]]:
    """Yield the lines of a list, and their numbers; a list may also part its paths by NUL, as `find -print0` does."""
    try:
        if listed == "-":
            data = sys.stdin.buffer.read(_LARGEST + 1)
        else:
            with open(listed, "rb") as file:
                data = file.read(_LARGEST + 1)
    except OSError as error:
        raise UsageError(f"The list {listed} can't be read: {error.strerror}.") from None
    if len(data) > _LARGEST:
        raise UsageError(f"{listed} is larger than {_LARGEST >> 20} MiB; it is no list of paths.")
    parted = b"\0" in data
    for number, line in enumerate(data.removeprefix(b"\xef\xbb\xbf").split(b"\0" if parted else b"\n"), start=1):
        text = os.fsdecode(line if parted else line.rstrip(b"\r"))
        if text:
            yield number, text


def _there(text: str, root: Path, where: str) -> str:
    """Return the whole path that a line names. Raises UsageError where nothing is there."""
    if text.startswith('"'):
        try:
            text = str(json.loads(text))
        except ValueError:
            raise UsageError(f"{where}: {text} is no text in quotes.") from None
    for spelled in dict.fromkeys((text, read_back(text))):
        for path in (root / spelled, Path(spelled).absolute()):
            if "\0" not in spelled and os.path.lexists(path):
                return str(path)
    raise UsageError(f"{where}: “{text}” is not there; a line is a path from here or from the collection's folder.")
