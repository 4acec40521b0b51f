"""`magpie show ITEMS`: all about an item."""

from __future__ import annotations

import argparse
from typing import Any

from lazy_magpie.catalogue import Catalogue, OneOf, opened
from lazy_magpie.cli.choose import collection_of, condition_of, told_of_crash
from lazy_magpie.cli.commands.explain import show_why
from lazy_magpie.cli.labels import label
from lazy_magpie.cli.main import NEEDS_YOU
from lazy_magpie.cli.shapes import item_shape, why_shape
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.collection import Collection
from lazy_magpie.errors import UsageError
from lazy_magpie.model import Evidence, Identity, Item, id_text
from lazy_magpie.paths import written
from lazy_magpie.plans.questions import PERSON
from lazy_magpie.plans.tidy import tidy_collection
from lazy_magpie.scan import identity_of
from lazy_magpie.units import size_text

_EXAMPLES = """examples:
  magpie show lamp room
  magpie show "Films/The Salt Orchard (1987)"
"""
_MOST = 20


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `show`."""
    parser.epilog = _EXAMPLES
    parser.add_argument("words", nargs="+", metavar="ITEMS", help="paths, find words, or an item's id")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Show each item chosen, twenty at the most for the eye."""
    collection = collection_of(args)
    with opened(collection) as catalogue:
        told_of_crash(collection, terminal)
        items = list(catalogue.items.ask(condition_of(collection, catalogue, args.words), gone=True))
        if not items:
            raise UsageError(f"No item is called “{' '.join(args.words)}”; “magpie find” lists what there is.")
        for item in items if terminal.as_json else items[:_MOST]:
            place = _place(collection, catalogue, item)
            facts = catalogue.items.facts(item.id)
            if terminal.as_json:
                terminal.json({**item_shape(item), **_more(collection, catalogue, item), "place": place, "kept": facts})
            else:
                _show(terminal, collection, catalogue, item, place, facts)
    if len(items) > _MOST and not terminal.as_json:
        terminal.note(f"… and {len(items) - _MOST:,} more; “magpie find” lists them all.")
    return NEEDS_YOU if any(item.doubts for item in items) else 0


def _more(collection: Collection, catalogue: Catalogue, item: Item) -> dict[str, Any]:
    return {"why": why_shape(_identity(collection, catalogue, item)), "doubts": list(item.doubts)}


def _identity(collection: Collection, catalogue: Catalogue, item: Item) -> Identity:
    """Return what an item is with all the evidence; of a settled one, who settled it and what it was read as."""
    read = identity_of(catalogue, collection.config, item.path, item.root)
    answer = catalogue.items.answer_of(item.id)
    if answer is None:
        return read
    source = "you" if answer["by"] == PERSON else "title list"
    seen = answer["at"][:10] if source == "you" else answer["by"]
    why = [Evidence(field, value, source, seen) for field, value in item.fields.items()]
    why += [one for one in read.why if one.field in item.fields and item.fields[one.field] == one.value]
    return Identity(item.kind, item.state, item.confidence, item.fields, item.facts, tuple(why))


def _place(collection: Collection, catalogue: Catalogue, item: Item) -> str:
    """Return where the item should be, or why that can't be said."""
    plan = tidy_collection(catalogue, collection, OneOf((item.id,)))
    for conflict in plan.conflicts:
        return f"{written(conflict.target)}, but another file wants that name"
    for step in plan.steps:
        if step.source == item.path:
            return written(step.target)
    for left in plan.left:
        if left.path == item.path:
            return f"not known: {left.why}"
    return "no shelf is for it" if plan.passed else "here"


def _show(
    terminal: Terminal,
    collection: Collection,
    catalogue: Catalogue,
    item: Item,
    place: str,
    facts: list[tuple[str, str, str]],
) -> None:
    terminal.say(f"{terminal.styled(label(item.kind, item.fields) or written(item.path), 'bold')}  {id_text(item.id)}")
    show_why(terminal, _identity(collection, catalogue, item))
    values = {"place": place}
    values |= {field.replace("_", " "): value for field, value, _ in facts}
    for number, file in enumerate(item.files, start=1):
        values[f"file {number}"] = f"{written(file.path)}  {size_text(file.size)}  {file.role}"
    terminal.pairs(values)
    terminal.say()
