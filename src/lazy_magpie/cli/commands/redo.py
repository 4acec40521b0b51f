"""`magpie redo [N]`: does a change again, or the rest of one that was stopped."""

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
  magpie redo           the change taken back last
  magpie redo 3         change 3
"""


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `redo`."""
    parser.epilog = _EXAMPLES
    parser.add_argument("number", nargs="?", type=int, default=0, metavar="N", help="a change's number")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Do again under the lock."""
    collection = collection_of(args)
    with locked(collection.own, "redo"), opened(collection, write=True) as catalogue:
        recovered(collection, catalogue, terminal)
        with stoppable() as stop, terminal.progress("doing again") as tick:
            outcome = carry_out.redo(collection, catalogue, args.number, Watch(tick, stop))
    return show_outcome(terminal, outcome, "done", f"To take it back: magpie undo {outcome.change}")
