"""`magpie find [WORDS…]`: lists items."""

from __future__ import annotations

import argparse
from collections.abc import Mapping

from lazy_magpie.catalogue import opened
from lazy_magpie.cli.choose import collection_of, condition_of, told_of_crash
from lazy_magpie.cli.shapes import item_shape
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.model import Item, Kind, Value
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
            (item.kind.value, item.state.value, written(label(item)), _size(item), written(item.path)) for item in items
        ]
    if not rows:
        terminal.note("Nothing found.")
        return 0
    terminal.table(("kind", "state", "what", "size", "path"), rows, right=("size",))
    return 0


def _size(item: Item) -> str:
    """Return the size of an item's files; a disc folder, whose inside is not looked at, has none."""
    return "" if item.files[0].size < 0 else size_text(sum(max(file.size, 0) for file in item.files))


def label(item: Item) -> str:
    """Return an item in a few words: the film with its year, the episode with its number."""
    fields = item.fields
    if item.kind is Kind.EPISODE:
        return " ".join(
            str(part) for part in (fields.get("show"), _number(fields), fields.get("episode_title")) if part
        )
    text = str(fields.get("title") or fields.get("family") or fields.get("extra") or fields.get("of") or "")
    return f"{text} ({fields['year']})" if text and "year" in fields else text


def _number(fields: Mapping[str, Value]) -> str:
    if "season" in fields and "episode" in fields:
        last = f"-E{int(str(fields['last_episode'])):02}" if "last_episode" in fields else ""
        return f"S{int(str(fields['season'])):02}E{int(str(fields['episode'])):02}{last}"
    return str(fields.get("air_date") or fields.get("running") or "")
