"""`magpie tidy [ITEMS]`: plans names and places by the shelves' namings."""

from __future__ import annotations

import argparse
from functools import partial

from lazy_magpie.cli.items_argument import add_items
from lazy_magpie.cli.proposal import add_proposal, answer, propose
from lazy_magpie.cli.selection import collection_of, some_of
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.errors import UsageError
from lazy_magpie.identify.file_types import VIDEO
from lazy_magpie.model import Conflict
from lazy_magpie.paths import split_ending
from lazy_magpie.services.companion_files import with_companions
from lazy_magpie.services.propose import with_play_lists
from lazy_magpie.services.session import writing
from lazy_magpie.services.tidying import tidy_collection

_EXAMPLES = """examples:
  magpie tidy                         everything
  magpie tidy Downloads kind is movie the films in one folder
"""


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `tidy`."""
    parser.epilog = _EXAMPLES
    add_items(parser, "paths or find words; everything if none")
    add_proposal(parser)
    parser.add_argument("--unplayable", action="store_true", help="file films and songs, too, that can't be played")
    parser.add_argument("--keep-both", action="store_true", help="file films of one name side by side, told apart")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Make the plan, keep it, show it, and apply it if asked."""
    collection = collection_of(args)
    if not collection.config.shelves:
        raise UsageError("No shelf is configured, so nothing has a place; add a [shelf.NAME] to magpie.toml.")
    with writing(collection, "tidy", terminal.note) as catalogue:
        condition = some_of(collection, catalogue, args.words)
        with terminal.progress("planning") as tick:
            plan = tidy_collection(
                catalogue, collection, condition, tick, unplayable=args.unplayable, keep_both=args.keep_both
            )
            plan = with_companions(collection, catalogue, condition, plan)
        play_lists = partial(with_play_lists, collection, catalogue, condition)
        proposal = propose(collection, catalogue, plan, args, terminal, play_lists)
    if not args.now and not args.keep_both and any(map(_is_film, plan.conflicts)):
        terminal.note("Two versions of one film that both stay: magpie tidy --keep-both names what differs.\n")
    nothing = "" if args.words and plan.passed else "Everything that can be placed is in its place."
    return answer(proposal, args, terminal, nothing, counts=bool(args.words))


def _is_film(conflict: Conflict) -> bool:
    return split_ending(conflict.target)[1].lower() in VIDEO
