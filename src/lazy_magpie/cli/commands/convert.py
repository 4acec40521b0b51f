"""`magpie convert ITEMS --by NAME`: plans another form by an outside program that magpie.toml declares."""

from __future__ import annotations

import argparse

from lazy_magpie.cli.items_argument import add_items
from lazy_magpie.cli.proposal import add_proposal, answer, propose, selection_of
from lazy_magpie.cli.selection import collection_of
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.services.repacking import plan_convert
from lazy_magpie.services.session import writing

_EXAMPLES = """examples:
  magpie convert kind is game --by discs        discs in parts, each into one file
  magpie convert Music/Rips --by smaller --now
[convert.NAME] in magpie.toml says what a program takes and makes, and its commands: see docs/converters.md.
"""


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `convert`."""
    parser.epilog = _EXAMPLES
    add_items(parser, "paths or find words", needed=True)
    parser.add_argument("--by", required=True, metavar="NAME", help="the program: a [convert.NAME] of magpie.toml")
    parser.add_argument("--trust", action="store_true", help="hold the originals though nothing proves the result")
    add_proposal(parser)
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Make the plan, keep it, show it, and apply it if asked."""
    collection = collection_of(args)
    with writing(collection, "convert", terminal.note) as catalogue:
        selection = selection_of(collection, catalogue, args.words)
        plan = plan_convert(selection, args.by, trust=args.trust)
        proposal = propose(collection, catalogue, plan, args, terminal)
    return answer(proposal, args, terminal, "Nothing to convert.")
