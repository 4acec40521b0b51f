"""`magpie undo [N]`: takes back a change."""

from __future__ import annotations

import argparse
from functools import partial

from lazy_magpie.cli.outcome_view import show_outcome
from lazy_magpie.cli.rerun import add_number, run_again
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.services import execute

_EXAMPLES = """examples:
  magpie undo           the newest change not undone yet
  magpie undo 3         change 3
"""


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `undo`."""
    parser.epilog = _EXAMPLES
    add_number(parser)
    parser.add_argument("--anyway", action="store_true", help="pass over newer changes whose journal can't be read")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Take back; say so where nothing of the change is in effect any more."""
    outcome = run_again(args, terminal, "undo", "undoing", partial(execute.undo, anyway=args.anyway))
    if not outcome.done and not outcome.skipped and not outcome.failed:
        terminal.note(f"Change {outcome.change} is undone already.")
    return show_outcome(terminal, outcome, "undone", f"To redo: magpie redo {outcome.change}")
