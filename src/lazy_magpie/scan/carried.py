"""Brings the tags that files carry together with those of the catalogue: a word put or taken on either side arrives.

What a file carries is held against what it carried when both sides agreed last: only what differs from that was put or
taken by another program.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from lazy_magpie.attributes import carries_tags, tags_of
from lazy_magpie.catalogue import OWN, Catalogue, OneOf
from lazy_magpie.change import Disk
from lazy_magpie.model import Step
from lazy_magpie.paths import join, read_back
from lazy_magpie.roots import Here
from lazy_magpie.scan import notes


def look(catalogue: Catalogue, here: Here, folders: Iterable[int]) -> None:
    """Keep which tags the files in `folders` carry; most carry none, and leave no trace."""
    for id, (root, path) in catalogue.files.places(folders).items():
        top = here.tops.get(root)
        if top is None:
            continue
        known = catalogue.outside.known_in(id)
        seen = []
        for file, name, _, _, _, missing, _ in catalogue.files.in_folder(id):
            whole = join(top, join(path, read_back(name)))
            if not missing and (file in known or carries_tags(whole)) and (tags := tags_of(whole)) is not None:
                seen.append((file, tags))
        catalogue.outside.see(seen)
    catalogue.files.unsuspect()


def bring_together(catalogue: Catalogue, places: Mapping[str, str]) -> int:
    """Let items have the tags that were put on their files, and lose those taken off; return how many have changed.

    `places` are the folders of the roots that are there, by their names: what has changed is noted on each.
    """
    changed = []
    for one in catalogue.outside.waiting():
        before = set(catalogue.tags.of(one.item))
        after = (before | (one.now - one.agreed)) - (one.agreed - one.now)
        if after != before:
            catalogue.tags.put(one.item, after)
            changed.append(one.item)
        catalogue.outside.agree(one.file, one.now)
    items = catalogue.items.ask(OneOf(tuple(set(changed)))) if changed else ()
    notes.write(places, [notes.note_of_tags(item) for item in items])
    return len(set(changed))


def agree_after(catalogue: Catalogue, disk: Disk, step: Step) -> None:
    """Note what both sides agree on after a step that has put tags on an item, where its file carries them now."""
    if step.seen is None or (file := catalogue.files.id_at(step.source, OWN)) is None:
        return
    old, new = set(step.data.get("old") or ()), set(step.data.get("new") or ())
    carried = disk.tags(step.source)
    if carried is not None and new - old <= set(carried) and not (old - new) & set(carried):
        catalogue.outside.agree(file, (catalogue.outside.agreed(file) | (new - old)) - (old - new))
