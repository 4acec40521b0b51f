"""`magpie tidy [ITEMS]`: plans names and places by the shelves' namings."""

from __future__ import annotations

import argparse
import dataclasses
from pathlib import Path

from lazy_magpie.catalogue import opened
from lazy_magpie.change import locked
from lazy_magpie.cli.choose import collection_of, condition_of, recovered, write_new
from lazy_magpie.cli.commands.apply import apply_plan
from lazy_magpie.cli.main import NEEDS_YOU
from lazy_magpie.cli.plan_view import show_plan
from lazy_magpie.cli.shapes import plan_shape
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.errors import UsageError
from lazy_magpie.model import Plan
from lazy_magpie.plans.saved import to_csv
from lazy_magpie.plans.tidy import tidy_collection

_EXAMPLES = """examples:
  magpie tidy                         everything
  magpie tidy Downloads kind is movie the films in one folder
"""


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `tidy`."""
    parser.epilog = _EXAMPLES
    parser.add_argument("words", nargs="*", metavar="ITEMS", help="paths or find words; everything if none")
    parser.add_argument("--save", metavar="FILE.csv", help="write the plan to a file to correct by hand")
    parser.add_argument("--force", action="store_true", help="let --save replace a file that is there")
    parser.add_argument("--now", action="store_true", help="apply the plan at once")
    parser.add_argument("--whole", action="store_true", help="print every step, however many there are")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Make the plan, keep it, show it, and apply it if asked."""
    collection = collection_of(args)
    if not collection.config.shelves:
        raise UsageError("No shelf is configured, so nothing has a place; add a [shelf.NAME] to magpie.toml.")
    with locked(collection.own, "tidy"), opened(collection, write=True) as catalogue:
        recovered(collection, catalogue, terminal)
        condition = condition_of(collection, catalogue, args.words)
        with terminal.progress("planning") as tick:
            plan = tidy_collection(catalogue, collection, condition, tick)
        if plan.steps:
            plan = dataclasses.replace(plan, number=catalogue.plans.keep(plan))
        if args.save and plan.steps:
            save(plan, Path(args.save), force=args.force)
        if args.now and plan.steps:
            if not terminal.as_json:
                show_plan(terminal, plan, whole=args.whole)
                terminal.say()
            return apply_plan(collection, catalogue, plan, terminal)
    if terminal.as_json:
        terminal.json(plan_shape(plan))
    elif plan.steps or plan.conflicts or plan.left:
        show_plan(terminal, plan, whole=args.whole)
    if args.save and plan.steps:
        terminal.note(f"\nNothing has changed yet. Correct {args.save}, then: magpie apply {args.save}")
    else:
        terminal.note(_next(plan.number, bool(plan.steps), bool(plan.conflicts)))
    return NEEDS_YOU if plan.conflicts or any(left.asks for left in plan.left) else 0


def save(plan: Plan, path: Path, *, force: bool) -> None:
    """Write a plan as CSV. Raises UsageError where the file is there already and `force` does not say otherwise."""
    if path.suffix.lower() != ".csv":
        raise UsageError(f"A plan is saved as CSV; call the file {path.name}.csv.")
    write_new(path, to_csv(plan), force=force)


def _next(number: int, has_steps: bool, has_conflicts: bool) -> str:
    if has_steps:
        return f"\nNothing has changed yet. Next: magpie apply {number}"
    return "Nothing can be moved." if has_conflicts else "Everything that can be placed is in its place."
