"""`magpie new TITLE`: a folder for work to come, from a template of one's own."""

from __future__ import annotations

import argparse

from lazy_magpie.cli.proposal import add_proposal, answer, propose
from lazy_magpie.cli.selection import collection_of
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.errors import MagpieError
from lazy_magpie.paths import join
from lazy_magpie.planners.manual_answers import assignment
from lazy_magpie.services import execute
from lazy_magpie.services.by_hand import plan_new
from lazy_magpie.services.execute import RunControl
from lazy_magpie.services.session import writing

_EXAMPLES = """examples:
  magpie new "Kite for the fair" --now           2026-03-21 Kite for the fair, with the folders that you want in it
  cd "$(magpie new --open Kite for the fair)"    make it, if need be, and go there
[new.NAME] in magpie.toml says its path, its folders and where it goes.
"""


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `new`."""
    parser.epilog = _EXAMPLES
    parser.add_argument("title", nargs="+", metavar="TITLE", help="what the work is called")
    parser.add_argument("--as", dest="kind", metavar="NAME", default="", help="which [new.NAME], if there are several")
    parser.add_argument("--set", action="append", default=[], metavar="FIELD=VALUE", help="another field's value")
    parser.add_argument("--open", action="store_true", help="make it at once, and print its whole path alone")
    add_proposal(parser)
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Make the plan, keep it, show it, and apply it if asked."""
    collection = collection_of(args)
    values = dict(map(assignment, args.set))
    with writing(collection, "new", terminal.note, scanned=False) as catalogue:
        path, plan = plan_new(collection, args.kind, " ".join(args.title), values)
        if not args.open:
            proposal = propose(collection, catalogue, plan, args, terminal)
        elif plan.steps:
            outcome = execute.apply(collection, catalogue, execute.keep(collection, catalogue, plan), RunControl())
            if outcome.skipped or outcome.failed:
                raise MagpieError(f"“{path}” can't be made: {[*outcome.failed, *outcome.skipped][0][1]}.")
    if not args.open:
        return answer(proposal, args, terminal, f"“{path}” is there already.")
    terminal.say(join(str(collection.root), path))
    return 0
