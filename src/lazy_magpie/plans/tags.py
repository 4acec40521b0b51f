"""Puts tags on items and takes them off: each answer is one change, which stands in the history and can be undone."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence

from lazy_magpie.catalogue import Catalogue
from lazy_magpie.change import Outcome, Watch
from lazy_magpie.collection import Collection
from lazy_magpie.errors import UsageError
from lazy_magpie.model import Do, Item, Plan, Step

_LONGEST = 80


def checked(tag: str) -> str:
    """Return a tag as it is kept: without space around it, single spaces inside. Raises UsageError for what is none."""
    text = " ".join(tag.split())
    if not text or not text.isprintable() or "," in text or len(text) > _LONGEST:
        raise UsageError(f"“{tag}” can't be a tag: one to {_LONGEST} characters, no comma, on one line.")
    return text


def retagging(item: Item, new: Iterable[str]) -> Step:
    """Return the step that lets an item have the tags `new` instead of its own; its main file carries them, too."""
    data = {"old": sorted(item.tags), "new": sorted(set(new))}
    seen = item.files[0].seen if not item.root else None  # steps reach the files of the collection's own root alone
    return Step(0, Do.TAG, item.path, "", "tags", item=item.id, seen=seen, data=data)


def retag(
    collection: Collection,
    catalogue: Catalogue,
    items: Sequence[Item],
    turn: Callable[[set[str]], set[str]],
    command: str,
) -> Outcome | None:
    """Let `turn` make the tags of items into others, as one change; None where none changes."""
    wanted = [(item, turn(set(item.tags))) for item in items]
    steps = [retagging(item, new) for item, new in wanted if new != set(item.tags)]
    if not steps:
        return None
    from lazy_magpie.plans import carry_out

    numbered = tuple(step.numbered(number) for number, step in enumerate(steps, start=1))
    return carry_out.apply(collection, catalogue, Plan(command, numbered), Watch())
