"""`magpie apply [N|FILE.csv]`: applies a plan, whole or in part, as it is or as it was corrected by hand."""

from __future__ import annotations

import argparse
from pathlib import Path

from lazy_magpie.catalogue import Catalogue
from lazy_magpie.cli.outcome_view import show_outcome
from lazy_magpie.cli.plan_view import groups_of
from lazy_magpie.cli.selection import collection_of
from lazy_magpie.cli.signals import stoppable
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.collection import Collection
from lazy_magpie.errors import UsageError
from lazy_magpie.formatting import count_text
from lazy_magpie.model import Plan
from lazy_magpie.planners import plan_csv
from lazy_magpie.services import execute
from lazy_magpie.services.execute import RunControl
from lazy_magpie.services.journals import newer_change, newest_change
from lazy_magpie.services.listing import listing_of
from lazy_magpie.services.propose import corrected, with_references
from lazy_magpie.services.retag import tag_new
from lazy_magpie.services.session import writing
from lazy_magpie.suggest import nearest

_EXAMPLES = """examples:
  magpie apply                                the newest pending plan
  magpie apply 3 --except "Tidewater Lane"    plan 3 without one group, which stays pending
  magpie apply plan.csv                       a plan saved with --save and corrected by hand
"""


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `apply`."""
    parser.epilog = _EXAMPLES
    parser.add_argument(
        "plan", nargs="?", default="", metavar="N|FILE.csv", help="a plan's number, or a corrected file"
    )
    parser.add_argument(
        "--only", action="append", default=[], metavar="GROUP", help="this group alone; may be repeated"
    )
    parser.add_argument("--except", dest="but", action="append", default=[], metavar="GROUP", help="all but this group")
    parser.add_argument("--anyway", action="store_true", help="apply a plan that is older than a later change")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Apply under the lock, after putting right what a crash may have left."""
    collection = collection_of(args)
    if args.only and args.but:
        raise UsageError("--only and --except exclude each other; name the groups with one of them.")
    with writing(collection, "apply", terminal.note) as catalogue:
        plan = _plan(args.plan, collection, catalogue)
        _refuse_old(plan, args, collection, catalogue)
        if not args.plan:
            terminal.note(f"Applying plan {plan.number} ({plan.command}, {count_text(len(plan.steps), 'step')}).")
        rest = 0
        if args.only or args.but:
            plan, rest = _part(plan, args, collection, catalogue)
        code = apply_plan(collection, catalogue, plan, terminal)
        if rest:
            catalogue.plans.renew(rest, newest_change(collection))
            terminal.note(f"The other groups are pending as plan {rest}.")
        return code


def _refuse_old(plan: Plan, args: argparse.Namespace, collection: Collection, catalogue: Catalogue) -> None:
    """Raise UsageError for a plan that is older than a change: what it looked at may be otherwise now."""
    saved = catalogue.plans.get(plan.number)
    newer = newer_change(collection, saved) if saved and not args.anyway else 0
    if newer:
        raise UsageError(
            f"Plan {plan.number} is older than change {newer}, so it may not fit any more. Make a new one "
            f"(magpie {plan.command}), or say --anyway."
        )


def _plan(word: str, collection: Collection, catalogue: Catalogue) -> Plan:
    """Return the plan that a number, a file, or nothing names."""
    if not word or word.isdecimal():
        return execute.plan_named(catalogue, int(word or 0))
    if not word.lower().endswith(".csv"):
        raise UsageError(f"“{word}” is neither a plan's number nor a .csv file; “magpie plans” lists the plans.")
    try:
        text = Path(word).read_text("utf-8-sig")
    except (OSError, UnicodeDecodeError) as error:
        raise UsageError(f"{word} can't be read: {error}. Save it as CSV in UTF-8.") from error
    plan = execute.plan_named(catalogue, plan_csv.plan_number(text, word))
    return corrected(collection, catalogue, plan, text, word)


def _part(plan: Plan, args: argparse.Namespace, collection: Collection, catalogue: Catalogue) -> tuple[Plan, int]:
    """Return the groups of a plan that are to be applied, and the number of the plan that the rest is kept as, or 0."""
    groups = groups_of(plan)
    for name in (*args.only, *args.but):
        if name not in groups:
            raise UsageError(f"Plan {plan.number} has no group “{name}”{nearest(name, groups)}")
    chosen = set(args.only) or set(groups) - set(args.but)
    keep = [shelf.folder for shelf in collection.config.shelves]
    halves = execute.split(plan, chosen, listing_of(str(collection.root)), keep)
    part, rest = (with_references(collection, catalogue, half) for half in halves)
    return part, execute.keep(collection, catalogue, rest).number if rest.steps else 0


def apply_plan(collection: Collection, catalogue: Catalogue, plan: Plan, terminal: Terminal, done: str = "done") -> int:
    """Apply a plan with progress shown, and print what became of it: so many steps `done`."""
    with stoppable() as stop, terminal.progress("applying", len(plan.steps)) as tick:
        outcome = execute.apply(collection, catalogue, plan, RunControl(tick, stop))
    tag = collection.config.intake.tag
    if plan.command == "intake" and tag and (tagged := tag_new(collection, catalogue, plan, tag)):
        terminal.note(f"{count_text(tagged.done, 'item')} tagged “{tag}” (change {tagged.change}).")
    return show_outcome(terminal, outcome, done, f"To undo: magpie undo {outcome.change}")
