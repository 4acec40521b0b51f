"""`magpie tidy [ITEMS]`: plans names and places by the shelves' namings."""

from __future__ import annotations

import argparse

from lazy_magpie.cli.commands.apply import apply_plan
from lazy_magpie.cli.json_output import plan_shape
from lazy_magpie.cli.main import NEEDS_YOU
from lazy_magpie.cli.plan_file import add_save, next_step, save_if_asked
from lazy_magpie.cli.plan_view import show_plan
from lazy_magpie.cli.selection import collection_of, condition_of, nothing_matches
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.errors import UsageError
from lazy_magpie.identify.file_types import VIDEO
from lazy_magpie.model import Plan
from lazy_magpie.paths import split_ending
from lazy_magpie.services import execute
from lazy_magpie.services.propose import tidy_collection, with_references
from lazy_magpie.services.session import writing

_EXAMPLES = """examples:
  magpie tidy                         everything
  magpie tidy Downloads kind is movie the films in one folder
"""


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `tidy`."""
    parser.epilog = _EXAMPLES
    parser.add_argument("words", nargs="*", metavar="ITEMS", help="paths or find words; everything if none")
    add_save(parser)
    parser.add_argument("--force", action="store_true", help="let --save replace a file that is there")
    parser.add_argument("--unplayable", action="store_true", help="file films and songs, too, that can't be played")
    parser.add_argument("--keep-both", action="store_true", help="file films of one name side by side, told apart")
    parser.add_argument("--now", action="store_true", help="apply the plan at once")
    parser.add_argument("--whole", action="store_true", help="print every step, however many there are")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Make the plan, keep it, show it, and apply it if asked."""
    collection = collection_of(args)
    if not collection.config.shelves:
        raise UsageError("No shelf is configured, so nothing has a place; add a [shelf.NAME] to magpie.toml.")
    with writing(collection, "tidy", terminal.note) as catalogue:
        condition = condition_of(collection, catalogue, args.words)
        if args.words and next(catalogue.items.ask(condition), None) is None:
            raise nothing_matches(args.words)
        with terminal.progress("planning") as tick:
            plan = tidy_collection(
                catalogue, collection, condition, tick, unplayable=args.unplayable, keep_both=args.keep_both
            )
        plan = with_references(collection, catalogue, plan)
        if plan.steps:
            plan = execute.keep(collection, catalogue, plan)
        save_if_asked(plan, args)
        if args.now and plan.steps:
            if not terminal.as_json:
                show_plan(terminal, plan, whole=args.whole)
                terminal.say()
            return apply_plan(collection, catalogue, plan, terminal)
    if terminal.as_json:
        terminal.json(plan_shape(plan))
    elif plan.steps or plan.conflicts or plan.unmoved or (args.words and plan.passed):
        with terminal.paged():
            show_plan(terminal, plan, whole=args.whole)
    if not args.keep_both and any(split_ending(one.target)[1].lower() in VIDEO for one in plan.conflicts):
        terminal.note("\nTwo versions of one film that both stay: magpie tidy --keep-both names what differs.")
    if text := _next(plan, args):
        terminal.note(text)
    return NEEDS_YOU if plan.conflicts or any(left.asks for left in plan.unmoved) else 0


def _next(plan: Plan, args: argparse.Namespace) -> str:
    if plan.steps:
        return f"\nNothing has changed yet. {next_step(plan, args)}"
    if plan.conflicts or (args.words and plan.passed):
        return ""
    return "Everything that can be placed is in its place."
