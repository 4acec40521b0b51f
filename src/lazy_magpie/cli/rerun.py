"""What `undo` and `redo` share: run a change once more, one way or the other, under the lock."""

from __future__ import annotations

import argparse
from collections.abc import Callable

from lazy_magpie.catalogue import Catalogue
from lazy_magpie.change import Outcome, RunControl
from lazy_magpie.cli.parser import CHANGE
from lazy_magpie.cli.selection import collection_of
from lazy_magpie.cli.signals import stoppable
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.collection import Collection
from lazy_magpie.services.session import writing

Act = Callable[[Collection, Catalogue, int, RunControl], Outcome]


def add_number(parser: argparse.ArgumentParser) -> None:
    """Add the argument that names a change."""
    parser.add_argument("number", nargs="?", type=CHANGE, default=0, metavar="N", help="a change's number")


def run_again(args: argparse.Namespace, terminal: Terminal, command: str, label: str, act: Act) -> Outcome:
    """Run `act` on the change that is named, after putting right what a crash may have left."""
    collection = collection_of(args)
    with (
        writing(collection, command, terminal.note, scanned=False) as catalogue,
        stoppable() as stop,
        terminal.progress(label) as tick,
    ):
        return act(collection, catalogue, args.number, RunControl(tick, stop))
