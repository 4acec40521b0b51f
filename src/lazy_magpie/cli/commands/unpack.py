"""`magpie unpack ITEMS`: plans files out of archives, where these lie."""

from __future__ import annotations

import argparse

from lazy_magpie.cli.items_argument import add_items
from lazy_magpie.cli.proposal import add_proposal, answer, propose, selection_of
from lazy_magpie.cli.selection import collection_of
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.services.repacking import plan_unpack
from lazy_magpie.services.session import writing

_EXAMPLES = """examples:
  magpie unpack Downloads                    every archive in a folder, each into a folder of its name
  magpie unpack Heap/lamp.part1.rar --keep   one archive in several volumes, which stay
Zip, 7z, RAR, tar with gzip, bzip2, xz or Zstandard, and single packed files. All is compared before archives are held.
"""


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `unpack`."""
    parser.epilog = _EXAMPLES
    add_items(parser, "archives: paths or find words", needed=True)
    parser.add_argument("--keep", action="store_true", help="leave the archives where they are")
    parser.add_argument("--names", metavar="ENCODING", default="", help="the encoding of old archives' names: cp866 …")
    add_proposal(parser)
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Make the plan, keep it, show it, and apply it if asked."""
    collection = collection_of(args)
    with writing(collection, "unpack", terminal.note) as catalogue:
        selection = selection_of(collection, catalogue, args.words)
        with terminal.progress("looking into archives") as tick:
            plan = plan_unpack(selection, tick, keep=args.keep, names=args.names)
        proposal = propose(collection, catalogue, plan, args, terminal)
    return answer(proposal, args, terminal, "Nothing to unpack.")
