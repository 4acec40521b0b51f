"""`magpie find [WORDS…]`: lists items."""

from __future__ import annotations

import argparse

from lazy_magpie.catalogue import opened
from lazy_magpie.cli.choose import collection_of, condition_of, told_of_crash
from lazy_magpie.cli.labels import label
from lazy_magpie.cli.shapes import item_shape
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.model import Item
from lazy_magpie.paths import written
from lazy_magpie.units import size_text

_EXAMPLES = """examples:
  magpie find salt orchard                     words anywhere in title or path
  magpie find kind is movie not state is clear films that are not clear
"""


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `find`."""
    parser.epilog = _EXAMPLES
    parser.add_argument("words", nargs="*", metavar="WORDS", help="plain words, paths, “kind is movie”; all if none")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Print the items as a table, or one JSON object a line."""
    collection = collection_of(args)
    with opened(collection) as catalogue:
        told_of_crash(collection, terminal)
        items = catalogue.items.ask(condition_of(collection, catalogue, args.words))
        if terminal.as_json:
            for item in items:
                terminal.json(item_shape(item))
            return 0
        rows = [
            (
                item.kind.value,
                item.state.value,
                written(label(item.kind, item.fields)),
                _size(item),
                written(item.path),
            )
            for item in items
        ]
    if not rows:
        terminal.note("Nothing found.")
        return 0
    terminal.table(("kind", "state", "what", "size", "path"), rows, right=("size",))
    return 0


def _size(item: Item) -> str:
    """Return the size of an item's files; a disc folder, whose inside is not looked at, has none."""
    return "" if item.files[0].size < 0 else size_text(sum(max(file.size, 0) for file in item.files))
