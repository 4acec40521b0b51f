"""`magpie intake [PATH…]`: plans bringing downloads in, each thing into one clean folder in its place."""

from __future__ import annotations

import argparse
import dataclasses
import os
import time
from collections.abc import Sequence

from lazy_magpie.cli.json_output import plan_shape
from lazy_magpie.cli.main import NEEDS_YOU
from lazy_magpie.cli.plan_file import add_save, next_step, save_if_asked
from lazy_magpie.cli.plan_view import show_plan
from lazy_magpie.cli.selection import collection_of
from lazy_magpie.cli.signals import stoppable
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.collection import Collection
from lazy_magpie.errors import BusyError, UsageError
from lazy_magpie.formatting import count_text
from lazy_magpie.intake.downloads import outside
from lazy_magpie.intake.unfinished import YOUNG
from lazy_magpie.model import Plan, StepKind
from lazy_magpie.model.steps import Move, Unpack
from lazy_magpie.paths import above
from lazy_magpie.services import execute
from lazy_magpie.services.propose import plan_intake, with_references
from lazy_magpie.services.session import writing

_EXAMPLES = """examples:
  magpie intake ~/Downloads           what would become of it; nothing is changed
  magpie intake --copy --now          the folders that [intake] from names, copied in
"""


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `intake`."""
    parser.epilog = _EXAMPLES
    parser.add_argument("paths", nargs="*", metavar="PATH", help="folders of downloads; those of [intake] from if none")
    way = parser.add_mutually_exclusive_group()
    way.add_argument("--move", action="store_const", const="move", dest="take", help="move loose files in")
    way.add_argument("--copy", action="store_const", const="copy", dest="take", help="copy them, and leave archives")
    add_save(parser)
    parser.add_argument("--force", action="store_true", help="let --save replace a file that is there")
    parser.add_argument("--watch", action="store_true", help="with --now: go on as downloads arrive, until Ctrl-C")
    parser.add_argument("--now", action="store_true", help="apply the plan at once")
    parser.add_argument("--whole", action="store_true", help="print every step, however many there are")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Make the plan, keep it, show it, and apply it if asked."""
    collection = collection_of(args)
    tops = _tops(args.paths or collection.config.intake.sources, collection)
    if args.watch and not args.now:
        raise UsageError("“magpie intake --watch” brings in what arrives, so it needs --now.")
    if args.watch and args.save:
        raise UsageError("--save and --watch exclude each other: a saved plan waits to be corrected.")
    code = _once(args, collection, tops, terminal)
    return _watch(args, collection, tops, terminal) if args.watch else code


def _watch(args: argparse.Namespace, collection: Collection, tops: Sequence[str], terminal: Terminal) -> int:
    """Take in what arrives, once nobody has written to it for a minute; while another command writes, wait."""
    from lazy_magpie.scan.watch import QUIET, changes

    whole = [os.path.normpath(os.path.join(collection.root, top)) for top in tops]
    with stoppable() as stop:
        terminal.note("Watching; Ctrl-C ends it.")
        for _ in changes(whole, stop, quiet=YOUNG + QUIET, longest=float("inf")):
            try:
                _once(args, collection, tops, terminal, quietly=True)
            except BusyError as busy:
                terminal.note(f"{busy}")
    return 0


def _once(
    args: argparse.Namespace, collection: Collection, tops: Sequence[str], terminal: Terminal, *, quietly: bool = False
) -> int:
    """Look at the downloads once; `quietly` says nothing where there is nothing to do."""
    with writing(collection, "intake", terminal.note) as catalogue:
        with terminal.progress("looking") as tick:
            plan = plan_intake(collection, catalogue, tops, time.time(), args.take or "", tick)
        plan = with_references(collection, catalogue, plan)
        if plan.steps:
            plan = execute.keep(collection, catalogue, plan)
        save_if_asked(plan, args)
        if quietly and not plan.steps:
            return 0
        if not terminal.as_json:
            if plan.steps or plan.conflicts or plan.unmoved:
                show_plan(terminal, dataclasses.replace(plan, passed={}), whole=args.whole)  # the report has them
            _report(terminal, plan)
        if args.now and plan.steps:
            from lazy_magpie.cli.commands.apply import apply_plan

            code = apply_plan(collection, catalogue, plan, terminal)
            return code or (NEEDS_YOU if _asks(plan) else 0)
    if terminal.as_json:
        terminal.json(plan_shape(plan))
    elif plan.steps:
        terminal.note(f"\nNothing has changed yet. {next_step(plan, args)}")
    return NEEDS_YOU if _asks(plan) else 0


def _asks(plan: Plan) -> bool:
    return bool(plan.conflicts) or any(left.asks for left in plan.unmoved)


def _tops(words: Sequence[str], collection: Collection) -> list[str]:
    """Return the folders of downloads as steps name them. Raises UsageError for what is none."""
    if not words:
        raise UsageError("Name a folder of downloads: magpie intake ~/Downloads, or [intake] from in magpie.toml.")
    tops = []
    for word in words:
        whole = word if os.path.isdir(word) else os.path.join(collection.root, word)
        if not os.path.isdir(whole):
            raise UsageError(f"There is no folder “{word}”.")
        top = outside(str(collection.root), whole)
        if not top or all(part == ".." for part in top.split("/")):
            raise UsageError(f"“{word}” is, or holds, the collection itself; name a folder of downloads.")
        tops.append(top)
    return tops


def _report(terminal: Terminal, plan: Plan) -> None:
    """Print how many files were found, and what becomes of them."""
    unpacked = {step.target for step in plan.steps if isinstance(step, Unpack)}
    done = {
        "files to unpack": sum(
            len(part.layout) for step in plan.steps if isinstance(step, Unpack) for part in step.parts
        ),
        "to move": sum(isinstance(step, Move) and unpacked.isdisjoint(above(step.source)) for step in plan.steps),
        "to copy": sum(1 for step in plan.steps if step.kind is StepKind.COPY),
        "to hold": sum(1 for step in plan.steps if step.kind is StepKind.HOLD),
        "already there": plan.passed.get("already there", 0),
        "there twice, taken once": plan.passed.get("there twice, taken once", 0),
        "left": len(plan.unmoved),
    }
    found = count_text(plan.passed.get("files in the heap", 0), "download")
    words = ", ".join(f"{count:,} {word}" for word, count in done.items() if count)
    terminal.say(f"\n{found}: {words or 'nothing to do'}.")
