"""`magpie pack ITEMS`: plans archives out of files, where these lie."""

from __future__ import annotations

import argparse

from lazy_magpie.cli.items_argument import add_items
from lazy_magpie.cli.proposal import add_proposal, answer, propose, selection_of
from lazy_magpie.cli.selection import collection_of
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.errors import UsageError
from lazy_magpie.services.repacking import plan_pack
from lazy_magpie.services.session import writing

_EXAMPLES = """examples:
  magpie pack kind is game system is gb        one zip a game
  magpie pack "Kits/Needle Jetty/Tern" --store one zip of a folder, not compressed
  magpie pack --again kind is archive          the archives that there are, as zips written the same way
The same files always make the same zip: names in order, one time for all.
"""


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `pack`."""
    parser.epilog = _EXAMPLES
    add_items(parser, "paths or find words; a folder becomes one zip", needed=True)
    parser.add_argument("--store", action="store_true", help="do not compress")
    parser.add_argument("--again", action="store_true", help="pack archives anew, as zips written the same way")
    parser.add_argument("--keep", action="store_true", help="leave what was packed where it is")
    add_proposal(parser)
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Make the plan, keep it, show it, and apply it if asked."""
    collection = collection_of(args)
    if args.again and args.keep:
        raise UsageError("--again puts the new archive in the place of the old one, so --keep does not go with it.")
    with writing(collection, "pack", terminal.note) as catalogue:
        selection = selection_of(collection, catalogue, args.words)
        plan = plan_pack(selection, store=args.store, keep=args.keep, again=args.again)
        proposal = propose(collection, catalogue, plan, args, terminal)
    return answer(proposal, args, terminal, "Nothing to pack.")
