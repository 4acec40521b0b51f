"""`magpie explain NAME|PATH…`: how a name is understood; needs no collection."""

from __future__ import annotations

import argparse
import os
import sys
from collections.abc import Iterable, Iterator

from lazy_magpie.cli.main import NEEDS_YOU
from lazy_magpie.cli.shapes import identity_shape
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.identify import identify
from lazy_magpie.model import Identity, State, Value
from lazy_magpie.paths import read_back, written

_EXAMPLES = """examples:
  magpie explain "Tidewater Lane 2x05 The Ferry.avi"
  find Heap -print0 | magpie explain --json -0
"""


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `explain`."""
    parser.epilog = _EXAMPLES
    parser.add_argument("names", nargs="*", metavar="NAME", help="names or paths; - reads them from stdin, one a line")
    parser.add_argument("-0", dest="nul", action="store_true", help="read NUL-ended names from stdin, as they are")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Identify each name from itself alone and print the result."""
    if not args.names and not args.nul:
        args.names = ["-"]
    doubtful = False
    for path in _names(args):
        identity = identify(path.strip("/"))
        doubtful = doubtful or identity.state is not State.CLEAR
        if terminal.as_json:
            terminal.json(identity_shape(path, identity))
        else:
            terminal.say(terminal.styled(written(path), "bold"))
            show_why(terminal, identity)
            terminal.say()
    return NEEDS_YOU if doubtful else 0


def _names(args: argparse.Namespace) -> Iterator[str]:
    for name in args.names:
        if name == "-":
            yield from (read_back(os.fsdecode(line)) for line in _lines(b"\n") if line)
        else:
            yield os.path.normpath(name)
    if args.nul:
        yield from (os.fsdecode(name) for name in _lines(b"\0") if name)


def _lines(end: bytes) -> Iterable[bytes]:
    """Yield what stdin holds between `end`s, in bounded memory."""
    rest = b""
    while chunk := os.read(sys.stdin.fileno(), 1 << 16):
        *whole, rest = (rest + chunk).split(end)
        yield from (line.rstrip(b"\r") if end == b"\n" else line for line in whole)
    if rest:
        yield rest


def show_why(terminal: Terminal, identity: Identity) -> None:
    """Print an identity: kind and state, each field with where it was seen, the doubts."""
    style = {State.DOUBTFUL: "warn", State.UNKNOWN: "bad"}.get(identity.state, "new")
    state = terminal.styled(identity.state.value, style)
    terminal.say(f"  {identity.kind.value}, {state}, confidence {identity.confidence:.2f}")
    values = {**identity.fields, **identity.facts}
    for name, value in values.items():
        seen = [f"{e.source} “{written(e.text)}”" for e in identity.why if e.field == name]
        from_where = terminal.styled(f"  from {', '.join(seen)}", "dim") if seen else ""
        terminal.say(f"  {name.replace('_', ' '):<14} {value_text(value)}{from_where}")
    for doubt in identity.doubts:
        terminal.say(terminal.styled(f"  in doubt: {doubt}", "warn"))


def value_text(value: Value) -> str:
    """Return a field's value as text."""
    return ", ".join(value) if isinstance(value, list) else written(str(value))
