"""The steps that set the tags of items: in the catalogue, on the file, inside it, or in a sidecar beside it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from lazy_magpie import embedded_keywords
from lazy_magpie.config import Config
from lazy_magpie.errors import UsageError
from lazy_magpie.model import Item, Step
from lazy_magpie.model.steps import Hold, RewriteKeywords, SetTags, Write
from lazy_magpie.paths import name_of, split_ending
from lazy_magpie.planners.disk_view import DiskView

_LONGEST = 80
_LONGEST_SIDECAR = 1 << 22


def checked(tag: str) -> str:
    """Return a tag as it is kept: without space around it, single spaces inside. Raises UsageError for what is none."""
    text = " ".join(tag.split())
    if not text or not text.isprintable() or "," in text or len(text) > _LONGEST:
        raise UsageError(f"“{tag}” can't be a tag: one to {_LONGEST} characters, no comma, on one line.")
    return text


def set_tags_step(item: Item, new: Iterable[str]) -> SetTags:
    """Return the step that lets an item have the tags `new` instead of its own; its main file carries them, too."""
    stamp = item.files[0].stamp if not item.root else None  # steps reach the files of the collection's own root alone
    return SetTags(
        source=item.path,
        why="tags",
        item=item.id,
        stamp=stamp,
        old=tuple(sorted(item.tags)),
        new=tuple(sorted(set(new))),
    )


def with_carried_tags(steps: Iterable[Step], config: Config, disk: DiskView) -> Iterator[Step]:
    """Yield steps, and behind each that changes tags those that let the file carry them in other places.

    That is inside the file, where the configuration wants it and the format has a place; and in a sidecar, where it
    wants that and the drive has no attributes.
    """
    for step in steps:
        yield step
        if not isinstance(step, SetTags) or step.stamp is None:
            continue
        ending = split_ending(name_of(step.source))[1]
        if config.tags_inside and embedded_keywords.can_hold(ending):
            yield RewriteKeywords(
                target=step.source,
                why="keywords inside",
                group=step.group,
                item=step.item,
                stamp=step.stamp,
                old=step.old,
                new=step.new,
            )
        if config.tags_beside and disk.tags(step.source) is None:
            yield from _sidecar(disk, step)


def _sidecar(disk: DiskView, step: SetTags) -> Iterator[Step]:
    """Yield the steps that bring the sidecar of a file up to date; one that can't be read stays as it is."""
    path = step.source + embedded_keywords.SIDECAR
    status, packet = disk.status(path), b""
    if status is not None:
        with disk.open_old(path) as file:
            packet = file.read(_LONGEST_SIDECAR)
    try:
        before = embedded_keywords.subjects(packet) if packet else []
        words = [word for word in before if word in step.new or word not in step.old]
        words += sorted(set(step.new) - set(step.old) - set(words))
        text = embedded_keywords.with_subjects(packet, words).decode()
    except ValueError:
        return
    if words == before:
        return
    if status is not None:
        yield Hold(source=path, why="other words in it", group=step.group, stamp=status.stamp)
    yield Write(target=path, why="words beside it", group=step.group, text=text)
