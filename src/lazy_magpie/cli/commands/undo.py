"""`magpie undo [N]`: takes back a change."""

from __future__ import annotations

import argparse

from lazy_magpie.catalogue import opened
from lazy_magpie.change import Watch, locked
from lazy_magpie.cli.choose import collection_of, recovered
from lazy_magpie.cli.outcome_view import show_outcome
from lazy_magpie.cli.stopping import stoppable
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.plans import carry_out

_EXAMPLES = """examples:
  magpie undo           the newest change not undone yet
  magpie undo 3         change 3
"""


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `undo`."""
    parser.epilog = _EXAMPLES
    parser.add_argument("number", nargs="?", type=int, default=0, metavar="N", help="a change's number")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Take back under the lock; say so where nothing of the change is in effect any more."""
    collection = collection_of(args)
    with locked(collection.own, "undo"), opened(collection, write=True) as catalogue:
        recovered(collection, catalogue, terminal)
        with stoppable() as stop, terminal.progress("undoing") as tick:
            outcome = carry_out.undo(collection, catalogue, args.number, Watch(tick, stop))
    if not outcome.done and not outcome.skipped and not outcome.failed:
        terminal.note(f"Change {outcome.change} is taken back already.")
    return show_outcome(terminal, outcome, "taken back", f"To do it again: magpie redo {outcome.change}")
