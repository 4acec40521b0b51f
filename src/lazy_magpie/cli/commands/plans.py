"""`magpie plans [N]`: the pending plans, or one of all plans; `magpie plans drop N`."""

from __future__ import annotations

import argparse

from lazy_magpie.catalogue import Catalogue, opened
from lazy_magpie.change import history
from lazy_magpie.cli.json_output import plan_shape
from lazy_magpie.cli.plan_view import groups_of, show_plan
from lazy_magpie.cli.selection import collection_of, told_of_crash
from lazy_magpie.cli.table import Table
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.collection import Collection
from lazy_magpie.errors import UsageError
from lazy_magpie.formatting import time_text
from lazy_magpie.lock import locked
from lazy_magpie.model import Plan
from lazy_magpie.services.journals import journal_store, newer_change
from lazy_magpie.suggest import nearest

_EXAMPLES = """examples:
  magpie plans                               the pending ones
  magpie plans 3 --group "Tidewater Lane"    one group of plan 3, whole
"""


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `plans`."""
    parser.epilog = _EXAMPLES
    parser.add_argument("words", nargs="*", metavar="N", help="a plan's number; “drop N” drops it")
    parser.add_argument("--group", default="", metavar="NAME", help="one group of the plan alone")
    parser.add_argument("--whole", action="store_true", help="print every step, however many there are")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """List, show or drop."""
    collection = collection_of(args)
    match args.words:
        case []:
            with opened(collection) as catalogue:
                told_of_crash(collection, terminal)
                _list(catalogue, terminal)
        case ["drop", number]:
            with locked(collection.state_dir, "plans drop"), opened(collection, write=True) as catalogue:
                found = _number(catalogue, number)
                if catalogue.plans.get(found).state != "kept":  # type: ignore[union-attr]
                    raise UsageError(f"Plan {found} is no longer pending; “magpie plans” lists those that are.")
                catalogue.plans.set_state(found, "dropped")
            terminal.note(f"Plan {found} is dropped; nothing was changed.")
        case [number]:
            with opened(collection) as catalogue:
                _show(collection, catalogue, _number(catalogue, number), args, terminal)
        case _:
            raise UsageError("“magpie plans” takes a plan's number, or “drop” and a number.")
    return 0


def _number(catalogue: Catalogue, word: str) -> int:
    if not word.isdecimal() or catalogue.plans.get(int(word)) is None:
        raise UsageError(f"No plan “{word}”; “magpie plans” lists the pending ones.")
    return int(word)


def _list(catalogue: Catalogue, terminal: Terminal) -> None:
    kept = catalogue.plans.list()
    if terminal.as_json:
        for plan in kept:
            terminal.json({"plan": plan.number, "made": plan.made, "command": plan.command, "steps": plan.steps})
    elif not kept:
        terminal.note("No plan is pending; “magpie tidy” makes one.")
    else:
        rows = [(str(plan.number), plan.command, f"{plan.steps:,}", time_text(plan.made)) for plan in kept]
        terminal.table(Table(("plan", "command", "steps", "made"), rows, right=("plan", "steps")))


def _became(collection: Collection, catalogue: Catalogue, number: int) -> str:
    """Return in words what became of a plan."""
    saved = catalogue.plans.get(number)
    assert saved is not None
    if saved.state == "kept":
        newer = newer_change(collection, saved)
        return f"pending, but older than change {newer}" if newer else "pending"
    if saved.state == "replaced":
        return f"replaced by plan {catalogue.plans.replaced_by(saved)}"
    if saved.state == "applied":
        done = [change.number for change in history(journal_store(collection)) if change.plan == number]
        return f"applied as change {done[-1]}" if done else "applied"
    return saved.state


def _show(
    collection: Collection, catalogue: Catalogue, number: int, args: argparse.Namespace, terminal: Terminal
) -> None:
    plan = catalogue.plans.load(number)
    groups = groups_of(plan)
    if args.group and args.group not in groups:
        raise UsageError(f"Plan {number} has no group “{args.group}”{nearest(args.group, groups)}")
    if terminal.as_json:
        terminal.json(plan_shape(plan))
        return
    with terminal.paged():
        _print(collection, catalogue, plan, args, terminal)


def _print(
    collection: Collection, catalogue: Catalogue, plan: Plan, args: argparse.Namespace, terminal: Terminal
) -> None:
    number = plan.number
    made = time_text(catalogue.plans.get(number).made)  # type: ignore[union-attr]
    terminal.say(f"Plan {number} ({plan.command}, {made}): {_became(collection, catalogue, number)}")
    show_plan(terminal, plan, args.group, whole=args.whole)
