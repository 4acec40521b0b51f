"""`magpie redo [N]`: does a change again, or the rest of one that was stopped."""

from __future__ import annotations

import argparse

from lazy_magpie.cli.outcome_view import show_outcome
from lazy_magpie.cli.rerun import add_number, run_again
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.services import execute

_EXAMPLES = """examples:
  magpie redo           the change undone last
  magpie redo 3         change 3
"""


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `redo`."""
    parser.epilog = _EXAMPLES
    add_number(parser)
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Do again."""
    outcome = run_again(args, terminal, "redo", "doing again", execute.redo)
    return show_outcome(terminal, outcome, "done", f"To undo: magpie undo {outcome.change}")
