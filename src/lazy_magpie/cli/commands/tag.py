"""`magpie tag put|drop|rename|merge|colour|list`: a person's words on items."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Sequence

from lazy_magpie.catalogue import AnyOf, Catalogue, Is, opened
from lazy_magpie.cli.items_argument import add_items
from lazy_magpie.cli.json_output import outcome_shape
from lazy_magpie.cli.selection import collection_of, condition_of, nothing_matches
from lazy_magpie.cli.terminal import COLOURS, Terminal, outgoing
from lazy_magpie.collection import Collection
from lazy_magpie.errors import UsageError
from lazy_magpie.formatting import count_text
from lazy_magpie.model import Item
from lazy_magpie.planners.tagging import checked
from lazy_magpie.services.execute import Outcome
from lazy_magpie.services.retag import retag
from lazy_magpie.services.session import writing
from lazy_magpie.suggest import is_near, nearest

_EXAMPLES = """examples:
  magpie tag put "for the fair",sails Kits/Fennick* kind is kit
  magpie tag drop new tag is new arrived under 2024-01-01
  magpie tag rename sail sails              merge takes several: tag merge sail,sailing sails
  magpie tag colour sails green
  magpie tag list
"""
COMPLETION = {"bash": "_magpie_tags", "zsh": "_magpie_tags"}
"""What completes the words of `tag` in a shell."""
_FORMS = "put TAG,… ITEMS · drop TAG,… ITEMS · rename OLD NEW · merge OLD,… NEW · colour TAG COLOUR · list"


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `tag`."""
    parser.epilog = _EXAMPLES
    ways = "put|drop|rename|merge|colour|list"
    words = add_items(parser, f"{_FORMS}; several tags are parted by commas", needed=True, metavar=ways, leading=2)
    words.complete = COMPLETION  # type: ignore[attr-defined]
    parser.add_argument("--new", action="store_true", help="a tag that is nearly a known one is meant as it is")
    parser.add_argument("--unused", action="store_true", help="list: only tags that are on nothing")
    parser.add_argument("--names", action="store_true", help="list: the names alone, one a line")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Do one of the six."""
    collection = collection_of(args)
    if args.words == ["list"]:
        with opened(collection) as catalogue:
            return _list(catalogue, terminal, unused=args.unused, names=args.names)
    with writing(collection, "tag", terminal.note) as catalogue:
        match args.words:
            case ["put", tags, *words] if words:
                put = {_known(catalogue, tag, new=args.new) for tag in _tags(tags)}
                items = _items(collection, catalogue, words)
                done = retag(collection, catalogue, items, lambda old: old | put, "tag put")
            case ["drop", tags, *words] if words:
                drop = _tags(tags)
                items = _items(collection, catalogue, words)
                done = retag(collection, catalogue, items, lambda old: old - drop, "tag drop")
            case ["rename" | "merge" as way, olds, new]:
                gone, into = _tags(olds), checked(new)
                if way == "rename" and (len(gone) > 1 or into in catalogue.tags.counts()):
                    raise UsageError(f"“{new}” is there already, or several are named; to make them one: tag merge.")
                items = list(catalogue.items.ask(AnyOf(tuple(Is("tag", tag) for tag in gone)), gone=True))
                turn = lambda old: old - gone | {into} if old & gone else old  # noqa: E731
                done = retag(collection, catalogue, items, turn, f"tag {way}")
                _carry_colour(catalogue, gone, into)
            case ["colour", tag, colour]:
                return _colour(catalogue, terminal, checked(tag), colour)
            case _:
                raise UsageError(f"“magpie tag” takes {_FORMS}.")
    return _done(terminal, done)


def _tags(words: str) -> set[str]:
    return {checked(word) for word in words.split(",")}


def _known(catalogue: Catalogue, tag: str, *, new: bool) -> str:
    """Return a tag to be put; where it is nearly a known one, ask which is meant, or say so where nobody answers."""
    known = list(catalogue.tags.counts())
    near = is_near(tag, known)
    if new or tag in known or not near:
        return tag
    if not sys.stdin.isatty():
        raise UsageError(f"No tag “{tag}”. Did you mean “{near}”? Use --new to create it.")
    question = outgoing(f"No tag “{tag}” yet. Did you mean “{near}”? [yes/no] ")
    print(question, end="", file=sys.stderr, flush=True)
    return near if sys.stdin.readline().strip().lower() in ("yes", "y") else tag


def _items(collection: Collection, catalogue: Catalogue, words: Sequence[str]) -> list[Item]:
    items = list(catalogue.items.ask(condition_of(collection, catalogue, words)))
    if not items:
        raise nothing_matches(words)
    return items


def _carry_colour(catalogue: Catalogue, gone: set[str], into: str) -> None:
    colours = catalogue.tags.colours()
    had = next((colours[tag] for tag in sorted(gone) if tag in colours), "")
    if had and into not in colours:
        catalogue.tags.colour(into, had)
    for tag in gone - {into}:
        catalogue.tags.colour(tag, "")


def _colour(catalogue: Catalogue, terminal: Terminal, tag: str, colour: str) -> int:
    if colour not in (*COLOURS, "none"):
        there_are = f"; there are {', '.join(COLOURS)} and none."
        raise UsageError(f"There is no colour “{colour}”{nearest(colour, COLOURS, there_are)}")
    catalogue.tags.colour(tag, "" if colour == "none" else colour)
    terminal.note(f"“{tag}” is {colour} from now on." if colour != "none" else f"“{tag}” has no colour any more.")
    return 0


def _list(catalogue: Catalogue, terminal: Terminal, *, unused: bool, names: bool) -> int:
    colours = catalogue.tags.colours()
    rows = [(tag, count) for tag, count in catalogue.tags.counts().items() if not (unused and count)]
    if names:
        for tag, _ in rows:
            terminal.say(tag)
        return 0
    if terminal.as_json:
        for tag, count in rows:
            terminal.json({"tag": tag, "items": count, "colour": colours.get(tag, "")})
        return 0
    for tag, count in rows:
        terminal.say(f"{count:>8,}  {terminal.coloured(tag, colours.get(tag, ''))}")
    if not rows:
        terminal.note("No tags yet; “magpie tag put WORD ITEMS” adds one." if not unused else "All are in use.")
    return 0


def _done(terminal: Terminal, outcome: Outcome | None) -> int:
    if terminal.as_json:
        terminal.json(outcome_shape(outcome or Outcome(0)))
    elif outcome is None:
        terminal.note("Nothing changes by that.")
    else:
        terminal.say(f"Change {outcome.change}: {count_text(outcome.done, 'item')} tagged.")
        terminal.note(f"To undo: magpie undo {outcome.change}")
    return 0
