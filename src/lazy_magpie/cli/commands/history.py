"""`magpie history [N]`: lists the changes, or shows one with its plan."""

from __future__ import annotations

import argparse
from collections.abc import Iterator, Mapping

from lazy_magpie.catalogue import opened
from lazy_magpie.change import Change, history
from lazy_magpie.cli.json_output import plan_shape
from lazy_magpie.cli.parser import CHANGE
from lazy_magpie.cli.plan_view import show_plan
from lazy_magpie.cli.selection import collection_of
from lazy_magpie.cli.table import Table
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.collection import Collection
from lazy_magpie.errors import UsageError
from lazy_magpie.formatting import time_text
from lazy_magpie.services.journals import journal_store

_EXAMPLES = """examples:
  magpie history
  magpie history 3        what was planned for change 3, and what it left and why
"""


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `history`."""
    parser.epilog = _EXAMPLES
    parser.add_argument("number", nargs="?", type=CHANGE, metavar="N", help="one change with its plan; all if none")
    parser.add_argument("--whole", action="store_true", help="print every step of it, however many there are")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Print the changes, oldest first, or one with the plan that it came from."""
    collection = collection_of(args)
    changes = history(journal_store(collection))
    if args.number is not None:
        return _one(args, collection, terminal, {change.number: change for change in changes})
    if terminal.as_json:
        for change in changes:
            shape = change._asdict()
            terminal.json({"change": shape.pop("number"), **shape})
    elif not changes:
        terminal.note("No change has been made yet.")
    else:
        columns = ("change", "command", "state", "steps", "skipped", "failed", "who", "when")
        rows = [
            (
                str(change.number),
                change.command,
                change.state,
                f"{change.done:,}",
                f"{change.skipped:,}",
                f"{change.failed:,}",
                change.who,
                time_text(change.ended),
            )
            for change in changes
        ]
        terminal.table(Table(columns, rows, right=("change", "steps", "skipped", "failed")))
    return 0


def _one(args: argparse.Namespace, collection: Collection, terminal: Terminal, changes: Mapping[int, Change]) -> int:
    """Print what a change was to do and did, what it left and why."""
    change = changes.get(args.number)
    if change is None:
        raise UsageError(f"There is no change {args.number}; “magpie history” lists them.")
    with opened(collection) as catalogue:
        kept = change.plan and catalogue.plans.get(change.plan)
        plan = catalogue.plans.load(change.plan) if kept else None
    if terminal.as_json:
        shape = change._asdict()
        planned = (
            {key: list(v) if isinstance(v, Iterator) else v for key, v in plan_shape(plan).items()} if plan else None
        )
        terminal.json({"change": shape.pop("number"), **shape, "planned": planned})
        return 0
    when = time_text(change.ended)
    terminal.say(f"Change {change.number}: {change.command}, {change.state}, {when}, by {change.who}")
    terminal.say(f"  {change.done:,} steps done, {change.skipped:,} skipped, {change.failed:,} failed")
    if plan is None:
        terminal.note("It came from no plan that was kept.")
    else:
        with terminal.paged():
            show_plan(terminal, plan, whole=args.whole)
    return 0
