"""What all commands share that propose by hand: their options, and keeping, showing and applying the plan."""

from __future__ import annotations

import argparse
from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, NamedTuple

from lazy_magpie.catalogue import Catalogue
from lazy_magpie.cli.json_output import plan_shape
from lazy_magpie.cli.main import NEEDS_YOU
from lazy_magpie.cli.plan_file import add_save, next_step, save_if_asked
from lazy_magpie.cli.selection import condition_of, nothing_matches, places_of
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.collection import Collection
from lazy_magpie.errors import UsageError

if TYPE_CHECKING:  # what makes and applies plans is loaded when it is needed
    from lazy_magpie.model import Plan
    from lazy_magpie.services.by_hand import Selection


def add_proposal(parser: argparse.ArgumentParser) -> None:
    """Add the options of commands whose answer is a plan."""
    add_save(parser)
    parser.add_argument("--force", action="store_true", help="let --save or --page replace a file that is there")
    parser.add_argument("--now", action="store_true", help="apply the plan at once")
    parser.add_argument("--whole", action="store_true", help="print every step, however many there are")


def check_fix(args: argparse.Namespace) -> None:
    """Raise UsageError where options of a plan are given to a command that makes one with --fix alone."""
    if (args.save or args.now) and not args.fix:
        raise UsageError("“--save” and “--now” are for a plan, so they need --fix.")


def selection_of(
    collection: Collection, catalogue: Catalogue, words: Sequence[str], order: str = "", *, down: bool = False
) -> Selection:
    """Return what words choose: paths alone in their order, else what find words find. Raises UsageError for none."""
    from lazy_magpie.services.by_hand import Selection

    places = places_of(collection, catalogue)
    named = [places.path_of(word) for word in words]
    here = [one for one in named if one is not None and one.root == 0]
    paths = list(dict.fromkeys(one.path for one in here)) if here and len(here) == len(words) else None
    condition = condition_of(collection, catalogue, words, places)
    if paths is None and next(catalogue.items.ask(condition), None) is None:
        raise nothing_matches(words)
    return Selection(collection, catalogue, paths, condition, order, down=down)


class Proposal(NamedTuple):
    """A plan that was made; `code` is the exit code where it was applied at once, None where it waits."""

    plan: Plan
    code: int | None = None


def propose(
    collection: Collection,
    catalogue: Catalogue,
    plan: Plan,
    args: argparse.Namespace,
    terminal: Terminal,
    complete: Callable[[Plan], Plan] = lambda plan: plan,
) -> Proposal:
    """Keep a plan, and apply it where that was asked for: all that needs the catalogue.

    `complete` adds what comes after the texts that follow the moves.
    """
    if plan.steps:
        from lazy_magpie.services.propose import with_references

        plan = with_references(collection, catalogue, plan)
    plan = complete(plan)
    if plan.steps:
        from lazy_magpie.services import execute

        plan = execute.keep(collection, catalogue, plan)
    save_if_asked(plan, args)
    if not args.now or not plan.steps:
        return Proposal(plan)
    if not terminal.as_json:
        from lazy_magpie.cli.plan_view import show_plan

        show_plan(terminal, plan, whole=args.whole)
        terminal.say()
    from lazy_magpie.cli.commands.apply import apply_plan

    return Proposal(plan, apply_plan(collection, catalogue, plan, terminal))


def answer(
    proposal: Proposal, args: argparse.Namespace, terminal: Terminal, nothing: str, *, counts: bool = True
) -> int:
    """Show a plan that waits, and return the exit code. Nobody is kept waiting meanwhile, however long one reads.

    `nothing` is said where there is nothing to do; with `counts` also what the plan has passed over is.
    """
    plan, code = proposal
    if code is not None:
        return code
    if terminal.as_json:
        terminal.json(plan_shape(plan))
    elif plan.steps or plan.conflicts or plan.unmoved or (counts and plan.passed):
        from lazy_magpie.cli.plan_view import show_plan

        with terminal.paged():
            show_plan(terminal, plan, whole=args.whole)
    if plan.steps:
        terminal.note(f"\nNothing has changed yet. {next_step(plan, args)}")
    elif not plan.conflicts and nothing:
        terminal.note(nothing)
    return NEEDS_YOU if plan.conflicts or any(left.asks for left in plan.unmoved) else 0
