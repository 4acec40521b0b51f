"""Puts tags on items and takes them off: each answer is one change, which stands in the history and can be undone."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence

from lazy_magpie import keywords
from lazy_magpie.catalogue import AnyOf, Below, Catalogue
from lazy_magpie.change import Disk, Outcome, Watch
from lazy_magpie.collection import Collection
from lazy_magpie.errors import UsageError
from lazy_magpie.model import Do, Item, Kind, Plan, Step
from lazy_magpie.paths import is_below, name_of, split_ending

_LONGEST = 80
_LONGEST_SIDECAR = 1 << 22


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

    every = carried_too(steps, collection)
    numbered = tuple(step.numbered(number) for number, step in enumerate(every, start=1))
    return carry_out.apply(collection, catalogue, Plan(command, numbered), Watch())


def tag_new(collection: Collection, catalogue: Catalogue, plan: Plan, tag: str) -> Outcome | None:
    """Put a tag on what a plan has brought in, as a change of its own; None where there is nothing to tag."""
    came = {step.target for step in plan.steps if step.do in (Do.UNPACK, Do.MOVE, Do.COPY)}
    inbox = collection.config.inbox
    conditions = tuple(Below(path) for path in sorted(came) if not is_below(path, inbox))
    if not conditions:
        return None
    archive = (Kind.ARCHIVE, Kind.JUNK, Kind.COMPANION)
    items = [item for item in catalogue.items.ask(AnyOf(conditions)) if item.kind not in archive]
    return retag(collection, catalogue, items, lambda old: old | {checked(tag)}, "tag put")


def carried_too(steps: Iterable[Step], collection: Collection) -> Iterator[Step]:
    """Yield steps, and behind each that changes tags those that let the file carry them in other places.

    That is inside the file, where the configuration wants it and the format has a place; and in a sidecar, where it
    wants that and the drive has no attributes.
    """
    config, disk = collection.config, Disk(str(collection.root))
    for step in steps:
        yield step
        if step.do is not Do.TAG or "field" in step.data or step.seen is None:
            continue
        ending = split_ending(name_of(step.source))[1]
        if config.tags_inside and keywords.can_hold(ending):
            data = {when: step.data[when] for when in ("old", "new")}
            yield Step(0, Do.REPLACE, "", step.source, "keywords inside", step.group, step.item, step.seen, data)
        if config.tags_beside and disk.tags(step.source) is None:
            yield from _sidecar(disk, step)


def _sidecar(disk: Disk, step: Step) -> Iterator[Step]:
    """Yield the steps that bring the sidecar of a file up to date; one that can't be read stays as it is."""
    path = step.source + keywords.SIDECAR
    status, packet = disk.status(path), b""
    if status is not None:
        with disk.open_old(path) as file:
            packet = file.read(_LONGEST_SIDECAR)
    try:
        before = keywords.subjects(packet) if packet else []
        words = [word for word in before if word in step.data["new"] or word not in step.data["old"]]
        words += sorted(set(step.data["new"]) - set(step.data["old"]) - set(words))
        text = keywords.with_subjects(packet, words).decode()
    except ValueError:
        return
    if words == before:
        return
    if status is not None:
        yield Step(0, Do.HOLD, path, "", "other words in it", step.group, 0, status.seen)
    yield Step(0, Do.WRITE, "", path, "words beside it", step.group, 0, data={"text": text})
