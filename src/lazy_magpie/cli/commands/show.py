"""`magpie show ITEMS`: all about an item."""

from __future__ import annotations

import argparse
from collections import Counter
from collections.abc import Mapping, Sequence
from typing import Any, NamedTuple

from lazy_magpie.catalogue import MAIN_ROOT, Catalogue, OneOf, opened
from lazy_magpie.catalogue.marks import Mark
from lazy_magpie.change import Change, of_item
from lazy_magpie.cli.commands.explain import ROLE_WORDS, show_why
from lazy_magpie.cli.items_argument import add_items
from lazy_magpie.cli.json_output import item_shape, why_shape
from lazy_magpie.cli.main import NEEDS_YOU
from lazy_magpie.cli.selection import collection_of, condition_of, nothing_matches, path_in, told_of_crash
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.collection import Collection
from lazy_magpie.drives import present
from lazy_magpie.fields import shown
from lazy_magpie.formatting import size_text
from lazy_magpie.identify.roles.place import by_words
from lazy_magpie.labels import label, role_text
from lazy_magpie.model import PERSON, Evidence, Identity, Item, Kind, Step, id_text
from lazy_magpie.paths import name_of, written
from lazy_magpie.scan import identity_of
from lazy_magpie.scan.folder_roles import FolderRoles
from lazy_magpie.services.journals import journal_store
from lazy_magpie.services.tidying import tidy_collection

_EXAMPLES = """examples:
  magpie show lamp room
  magpie show "Films/The Salt Orchard (1987)"
"""
_MOST = 20
_FILES = 30


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `show`."""
    parser.epilog = _EXAMPLES
    add_items(parser, "paths, find words, or an item's id", needed=True)
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Show each item chosen, twenty at the most for the eye."""
    collection = collection_of(args)
    with opened(collection) as catalogue:
        told_of_crash(collection, terminal)
        items = list(catalogue.items.ask(condition_of(collection, catalogue, args.words), gone=True))
        if not items:
            raise nothing_matches(args.words)
        here = present(catalogue, collection)
        if not terminal.as_json:
            _say_roles(terminal, catalogue, _folders(collection, here, args.words))
        for item in items if terminal.as_json else items[:_MOST]:
            whole = _Whole(
                item,
                _identity(collection, catalogue, item),
                _place(collection, catalogue, item, here),
                catalogue.items.facts(item.id),
                [member for file in catalogue.files.ids_of(item.id) for member in catalogue.files.members_of(file)],
                list(of_item(journal_store(collection), item.id)),
                catalogue.digests.same_as(item.id),
                _mark(collection, catalogue, item),
            )
            if terminal.as_json:
                terminal.json(_shape(whole, here))
            else:
                _show(terminal, whole, catalogue.tags.colours())
    if len(items) > _MOST and not terminal.as_json:
        terminal.note(f"… and {len(items) - _MOST:,} more; “magpie find” lists them all.")
    return NEEDS_YOU if any(item.doubts for item in items) else 0


def _folders(collection: Collection, here: Mapping[str, str], words: Sequence[str]) -> list[str]:
    """Return the paths of the collection's own root that words name."""
    wholes = [path_in(collection, here, word) for word in words]
    return [path for whole in wholes if whole and (path := collection.relative(whole))]


def _say_roles(terminal: Terminal, catalogue: Catalogue, paths: Sequence[str]) -> None:
    """Say what folders are taken for, and how sure that is."""
    roles = FolderRoles(catalogue)
    for path in paths:
        if kept := roles.of(MAIN_ROOT, path):
            reading = by_words(name_of(path), kept)
            said = "You said so." if reading.told else f"{reading.chance:.0%} sure."
            terminal.say(f"“{written(path)}” is taken for {ROLE_WORDS[reading.role]}. {said}")


class _Whole(NamedTuple):
    """All that is known of an item: `kept` are facts that were kept (field, value, source)."""

    item: Item
    identity: Identity
    place: str
    kept: list[tuple[str, str, str]]
    members: list[tuple[str, int, int | None]]
    history: list[tuple[Change, list[Step]]]
    copies: list[str]
    mark: Mark | None


def _shape(whole: _Whole, here: Mapping[str, str]) -> dict[str, Any]:
    item = whole.item
    return {
        **item_shape(item, () if item.root in here else (item.root,)),
        "why": why_shape(whole.identity),
        "doubts": list(item.doubts),
        "place": whole.place,
        "lists": whole.mark.values | {"why": whole.mark.why} if whole.mark else None,
        "kept": whole.kept,
        "copies": list(map(written, whole.copies)),
        "members": [{"path": written(path), "size": size, "crc": crc} for path, size, crc in whole.members],
        "history": [
            {
                "change": change.number,
                "command": change.command,
                "state": change.state,
                "when": change.ended,
                "steps": [
                    {"do": step.kind.value, "from": written(step.source), "to": written(step.target)} for step in steps
                ],
            }
            for change, steps in whole.history
        ],
    }


def _identity(collection: Collection, catalogue: Catalogue, item: Item) -> Identity:
    """Return what an item is with all the evidence; of a settled one, who settled it and what it was read as."""
    read = identity_of(catalogue, collection.config, item)
    answer = catalogue.items.answer_of(item.id)
    if answer is None:
        return read
    source = "you" if answer.by == PERSON else "title list"
    seen = catalogue.items.settled_at(item.id)[:10] if source == "you" else answer.by
    why = [Evidence(field, value, source, seen) for field, value in item.fields.items()]
    why += [one for one in read.why if one.field in item.fields and item.fields[one.field] == one.value]
    return Identity(item.kind, item.state, item.confidence, item.fields, item.facts, tuple(why))


def _place(collection: Collection, catalogue: Catalogue, item: Item, here: Mapping[str, str]) -> str:
    """Return where the item should be, or why that can't be said."""
    if item.missing:
        return "missing; “magpie forget” lets it go"
    if item.root:
        return f"on {item.root}" if item.root in here else f"on {item.root}, which is away"
    plan = tidy_collection(catalogue, collection, OneOf((item.id,)))
    for conflict in plan.conflicts:
        return f"{written(conflict.target)}, but another file wants that name"
    for step in plan.steps:
        if step.source == item.path:
            return written(step.target)
    for left in plan.unmoved:
        if left.path == item.path:
            return f"not known: {left.why}"
    if any("reference lists" in what for what in plan.passed):
        return "where a reference list says; “magpie match” puts it right"
    return "no shelf is for it" if plan.passed else "here"


def _mark(collection: Collection, catalogue: Catalogue, item: Item) -> Mark | None:
    """Return what reference lists and preferences say of a game."""
    if item.kind not in (Kind.GAME, Kind.FIRMWARE):
        return None
    from lazy_magpie.services.marks import refresh_marks

    refresh_marks(collection, catalogue)
    return catalogue.marks.of([item.id]).get(item.id)


def _marked(mark: Mark | None) -> dict[str, str]:
    """Return what is said of a game, in words."""
    if mark is None:
        return {}
    found = {"listed": mark.listed} if mark.listed else {}
    if not mark.complete:
        found["complete"] = "no"
    if mark.why:
        found["preferred"] = f"{'yes' if mark.preferred else 'no'}: {mark.why}"
    return found


def _show(terminal: Terminal, whole: _Whole, colours: Mapping[str, str]) -> None:
    item = whole.item
    terminal.say(f"{terminal.styled(label(item.kind, item.fields) or written(item.path), 'bold')}  {id_text(item.id)}")
    show_why(terminal, whole.identity)
    tags = ", ".join(terminal.coloured(written(tag), colours.get(tag, "")) for tag in item.tags)
    values = {"place": whole.place} | _marked(whole.mark) | ({"tags": tags} if tags else {})
    values |= {field.replace("_", " "): written(shown(field, value)) for field, value in item.custom.items()}
    values |= {field.replace("_", " "): value for field, value, _ in whole.kept}
    for change, steps in whole.history:
        what = ", ".join(Counter(step.kind.value for step in steps))
        values[f"change {change.number}"] = f"{change.ended[:10]}  {change.command}: {what}, {change.state}"
    for name, value in values.items():
        terminal.say(f"  {terminal.styled(f'{name:<14}', 'dim')} {value}")
    _list(terminal, "files", [(written(f.path), size_text(f.size), role_text(f)) for f in item.files])
    _list(terminal, "copies, as “magpie copies” has seen them", [(written(path), "", "") for path in whole.copies])
    _list(terminal, "holds", [(written(path), size_text(size), "") for path, size, _ in whole.members])
    terminal.say()


def _list(terminal: Terminal, head: str, rows: Sequence[tuple[str, str, str]]) -> None:
    """Print files or members, thirty at the most."""
    if rows:
        terminal.say(f"  {head}")
    for path, size, role in rows[:_FILES]:
        terminal.say(f"    {path}  {terminal.styled(f'{size}  {role}'.rstrip(), 'dim')}")
    if len(rows) > _FILES:
        terminal.say(f"    … and {len(rows) - _FILES:,} more")
