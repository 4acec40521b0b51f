"""`magpie forget [ITEMS]`: lets go of what is missing for good, or on a drive that will not come back."""

from __future__ import annotations

import argparse

from lazy_magpie.catalogue import All, AnyOf, Is, OnRoot
from lazy_magpie.change import held_things
from lazy_magpie.cli.items_argument import add_items
from lazy_magpie.cli.selection import agreed, collection_of, condition_of, places_of
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.errors import UsageError
from lazy_magpie.formatting import count_text
from lazy_magpie.labels import label
from lazy_magpie.model import Item, State, id_text
from lazy_magpie.paths import is_below, written
from lazy_magpie.services.journals import journal_store
from lazy_magpie.services.session import writing

_EXAMPLES = """examples:
  magpie forget                    all that is missing
  magpie forget root is attic      all that was on a drive that will not come back
"""
_SHOWN = 20


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `forget`."""
    parser.epilog = _EXAMPLES
    add_items(parser, "paths, find words, or an item's id")
    parser.add_argument("--yes", action="store_true", help="do not ask")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Forget the chosen items that are missing or away, after a question; no file is touched."""
    collection = collection_of(args)
    with writing(collection, "forget", terminal.note) as catalogue:
        places = places_of(collection, catalogue)
        lost = AnyOf((Is("gone", 1.0), *map(OnRoot, places.away)) if args.words else (Is("gone", 1.0),))
        chosen = condition_of(collection, catalogue, args.words, places)
        held = [one.origin for one in held_things(journal_store(collection))]
        items = [
            item
            for item in catalogue.items.ask(All((chosen, lost)), gone=True)
            if item.root or not any(is_below(item.path, origin) for origin in held)
        ]
        if args.words and not items:
            raise UsageError(
                "Nothing of that is missing or away, and only that can be forgotten; see “magpie find gone is yes”."
            )
        settled = sum(item.state is State.SETTLED for item in items)
        if items and not args.yes and not _agreed(items, settled, terminal):
            terminal.note("Nothing was forgotten.")
            return 0
        catalogue.writer.let_go(item.id for item in items)
        files = 0 if args.words or held else catalogue.writer.let_go_of_missing()
    if terminal.as_json:
        terminal.json({"forgotten": [id_text(item.id) for item in items], "files": files})
    else:
        terminal.say(f"{count_text(len(items), 'item')} forgotten.")
    return 0


def _agreed(items: list[Item], settled: int, terminal: Terminal) -> bool:
    for item in items[:_SHOWN]:
        terminal.note(f"  {label(item.kind, item.fields) or written(item.path)}  ({written(item.path)})")
    if len(items) > _SHOWN:
        terminal.note(f"  … and {len(items) - _SHOWN:,} more")
    lost = f", {settled:,} of them settled by you or a list," if settled else ""
    return agreed(f"Forget {count_text(len(items), 'item')}{lost} and all that is known of them?")
