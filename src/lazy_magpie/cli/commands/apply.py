"""`magpie apply [N]`: applies a plan."""

from __future__ import annotations

import argparse

from lazy_magpie.catalogue import Catalogue, opened
from lazy_magpie.change import Watch, locked
from lazy_magpie.cli.choose import collection_of, recovered
from lazy_magpie.cli.outcome_view import show_outcome
from lazy_magpie.cli.stopping import stoppable
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.collection import Collection
from lazy_magpie.model import Plan
from lazy_magpie.plans import carry_out

_EXAMPLES = """examples:
  magpie apply          the newest plan that waits
  magpie apply 3        plan 3
"""


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `apply`."""
    parser.epilog = _EXAMPLES
    parser.add_argument("number", nargs="?", type=int, default=0, metavar="N", help="a plan's number")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Apply under the lock, after putting right what a crash may have left."""
    collection = collection_of(args)
    with locked(collection.own, "apply"), opened(collection, write=True) as catalogue:
        recovered(collection, catalogue, terminal)
        return apply_plan(collection, catalogue, carry_out.plan_named(catalogue, args.number), terminal)


def apply_plan(collection: Collection, catalogue: Catalogue, plan: Plan, terminal: Terminal) -> int:
    """Apply a plan with progress shown, and print what became of it."""
    with stoppable() as stop, terminal.progress("applying", len(plan.steps)) as tick:
        outcome = carry_out.apply(collection, catalogue, plan, Watch(tick, stop))
    return show_outcome(terminal, outcome, "done", f"To take it back: magpie undo {outcome.change}")
