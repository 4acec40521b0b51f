"""`magpie move ITEMS FOLDER`: plans places by hand."""

from __future__ import annotations

import argparse
import os

from lazy_magpie.cli.items_argument import add_items
from lazy_magpie.cli.proposal import add_proposal, answer, propose, selection_of
from lazy_magpie.cli.selection import collection_of
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.collection import STATE_DIR_NAME, Collection
from lazy_magpie.errors import UsageError
from lazy_magpie.naming.safe import is_safe
from lazy_magpie.paths import is_below, read_back, written
from lazy_magpie.services.by_hand import plan_move
from lazy_magpie.services.session import writing

_EXAMPLES = """examples:
  magpie move kind is kit tag is finished Finished     all finished kits, each with its folder
  magpie move --attic "Kits/Fennick Paper Co/Kite Day" put it away; it knows where it came from
  magpie move --back Attic/Kits                        bring kits back to where they were
What is moved by hand stays there: tidy leaves it until “magpie rename --free ITEMS”.
"""


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `move`."""
    parser.epilog = _EXAMPLES
    add_items(parser, "paths or find words, then the folder to move to", needed=True)
    where = parser.add_mutually_exclusive_group()
    where.add_argument("--attic", dest="to", action="store_const", const="attic", help="put away in the attic")
    where.add_argument("--back", dest="to", action="store_const", const="back", help="back from the attic")
    where.add_argument("--inbox", dest="to", action="store_const", const="inbox", help="to the inbox, to be settled")
    add_proposal(parser)
    parser.set_defaults(run=run, to="folder")


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Make the plan, keep it, show it, and apply it if asked."""
    collection = collection_of(args)
    words, folder = list(args.words), ""
    if args.to == "folder":
        if len(words) < 2:
            raise UsageError("Name what to move, then the folder to move it to; or say --attic, --back or --inbox.")
        folder = _folder(collection, words.pop())
    with writing(collection, "move", terminal.note) as catalogue:
        plan = plan_move(selection_of(collection, catalogue, words), args.to, folder)
        proposal = propose(collection, catalogue, plan, args, terminal)
    return answer(proposal, args, terminal, "Nothing to move.")


def _folder(collection: Collection, word: str) -> str:
    """Return the folder that a person means, seen from here where that is in the collection, else from its root.

    Raises UsageError for a file, for magpie's own folder, and for what lies outside.
    """
    spelled = read_back(word)
    here, at_root = os.path.abspath(spelled), os.path.normpath(collection.root.joinpath(spelled))
    from_here = spelled.startswith(("/", "./", "../")) or collection.relative(os.path.abspath(".")) is not None
    whole = here if from_here and (os.path.lexists(here) or not os.path.isdir(at_root)) else at_root
    folder = collection.relative(whole)
    if folder is None:
        raise UsageError(f"“{word}” is not in the collection {collection.root}.")
    if is_below(folder, STATE_DIR_NAME):
        raise UsageError(f"“{written(folder)}” is magpie's own folder.")
    if os.path.isdir(whole):
        return folder
    if os.path.lexists(whole):
        raise UsageError(f"“{written(folder)}” is a file; name a folder to move to, last of all.")
    wrong = next((part for part in folder.split("/") if not is_safe(part, everywhere=collection.config.everywhere)), "")
    if wrong:
        raise UsageError(f"“{written(wrong)}” is a name that not every disk takes.")
    return folder
