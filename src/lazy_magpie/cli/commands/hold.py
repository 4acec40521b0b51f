"""`magpie hold ITEMS`: plans taking away anything, into the holding area."""

from __future__ import annotations

import argparse

from lazy_magpie.cli.items_argument import add_items
from lazy_magpie.cli.proposal import add_proposal, answer, propose, selection_of
from lazy_magpie.cli.selection import collection_of
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.services.by_hand import plan_hold
from lazy_magpie.services.session import writing

_EXAMPLES = """examples:
  magpie hold extra is sample              take all samples away
  magpie hold "Heap/half-finished.mkv.part" --why "never ended"
“magpie held” lists what is held, “magpie held restore ITEMS” brings it back; only “magpie held empty” deletes.
"""


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `hold`."""
    parser.epilog = _EXAMPLES
    add_items(parser, "paths or find words", needed=True)
    parser.add_argument("--why", metavar="TEXT", default="taken away by hand", help="the reason, which “held” shows")
    add_proposal(parser)
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Make the plan, keep it, show it, and apply it if asked."""
    collection = collection_of(args)
    with writing(collection, "hold", terminal.note) as catalogue:
        plan = plan_hold(selection_of(collection, catalogue, args.words), args.why)
        proposal = propose(collection, catalogue, plan, args, terminal)
    return answer(proposal, args, terminal, "Nothing to take away.")
