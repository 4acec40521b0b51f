"""`magpie companions [ITEMS]`: plans what a player reads beside things: pictures and data files."""

from __future__ import annotations

import argparse
import os
from functools import partial
from pathlib import Path

from lazy_magpie.cli.items_argument import add_listed
from lazy_magpie.cli.output_file import check_page
from lazy_magpie.cli.pictures_report import PictureJudge, write_pictures_page
from lazy_magpie.cli.proposal import add_proposal, answer, propose
from lazy_magpie.cli.selection import collection_of, some_of
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.errors import UsageError

_EXAMPLES = """examples:
  magpie companions kind is game --from Pictures   pictures by their names, where the player looks for them
  magpie companions --from Pictures --ask          ask about those that are in question
  magpie companions Films --player lounge          what this player reads beside films
  magpie companions kind is design --make          a drawing of each design that has no picture
  magpie companions kind is track --inside         title, artist, album, number, year and cover into songs
What a player looks for stands in magpie.toml: [player.NAME] with art and data.
"""


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `companions`."""
    parser.epilog = _EXAMPLES
    parser.add_argument("--player", action="append", default=[], metavar="NAME", help="this player alone, not all")
    parser.add_argument("words", nargs="*", metavar="ITEMS", help="paths or find words; everything if none")
    add_listed(parser, "look for pictures in this folder; a file lists ITEMS, one path a line", "DIR|FILE")
    parser.add_argument("--ask", action="store_true", help="ask about each picture that may be a thing's, and may not")
    parser.add_argument("--page", metavar="FILE.html", help="show the pictures, and those in question, on a page")
    parser.add_argument("--make", action="store_true", help="make pictures for what has none: covers inside, stills")
    parser.add_argument("--inside", action="store_true", help="write title, artist, number, year and cover inside too")
    parser.add_argument("--again", action="store_true", help="write data files anew that are there")
    add_proposal(parser)
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Make the plan, keep it, show it, and apply it if asked."""
    from lazy_magpie.services.check import players_named
    from lazy_magpie.services.companion_files import CompanionWishes, plan_companion_files
    from lazy_magpie.services.propose import with_play_lists
    from lazy_magpie.services.session import writing

    pictures = args.listed if args.listed and os.path.isdir(args.listed) else ""
    if pictures:
        args.listed = ""
    collection = collection_of(args)
    if (args.ask or args.page) and not (pictures or args.make):
        raise UsageError("“--ask” and “--page” are about pictures: name a folder of them with --from, or say --make.")
    if args.page:
        check_page(Path(args.page), force=args.force)
    judge = PictureJudge(terminal, ask=args.ask)
    players = players_named(collection, args.player)
    with writing(collection, "companions", terminal.note) as catalogue:
        condition = some_of(collection, catalogue, args.words)
        with terminal.progress("making pictures") as tick:
            making = (lambda count: tick(count, "drawing")) if args.make else None
            wishes = CompanionWishes(pictures, judge, making, inside=args.inside, again=args.again)
            plan = plan_companion_files(collection, catalogue, condition, players, wishes)
            if args.page:
                write_pictures_page(args, collection, plan, judge.doubtful, tick)
                terminal.note(f"The page is {args.page}.")
        play_lists = partial(with_play_lists, collection, catalogue, condition)
        proposal = propose(collection, catalogue, plan, args, terminal, play_lists)
    return answer(proposal, args, terminal, "Everything that the players look for is there.")
