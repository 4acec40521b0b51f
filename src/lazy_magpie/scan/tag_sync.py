"""Brings the tags that files carry together with those of the catalogue: a word put or taken on either side arrives.

What a file carries is held against what it carried when both sides agreed last: only what differs from that was put or
taken by another program.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Mapping
from contextlib import suppress
from pathlib import Path

from lazy_magpie import embedded_keywords
from lazy_magpie.catalogue import ATTRIBUTE, INSIDE, MAIN_ROOT, SIDECAR, Catalogue, OneOf
from lazy_magpie.change import Filesystem
from lazy_magpie.config import Config
from lazy_magpie.drives import MountedDrives
from lazy_magpie.model.steps import SetTags
from lazy_magpie.paths import join, read_back
from lazy_magpie.scan import decision_log
from lazy_magpie.xattrs import carries_tags, tags_of


def collect(catalogue: Catalogue, config: Config, here: MountedDrives, folders: Iterable[int]) -> None:
    """Keep which tags the files in `folders` carry; most carry none, and leave no trace.

    Those inside files, and in sidecars, are looked at only where the configuration wants tags there.
    """
    for id, (root, path) in catalogue.files.places(folders).items():
        if (top := here.tops.get(root)) is None:
            continue
        known = catalogue.external_tags.known_in(id)
        files = {row[1]: row[0] for row in catalogue.files.in_folder(id) if not row[5]}
        home = f"{join(top, path)}/"
        whole = {name: home + (read_back(name) if "\\" in name else name) for name in files}
        catalogue.external_tags.see(ATTRIBUTE, _attributes(files, whole, known.get(ATTRIBUTE, set())))
        if config.tags_inside:
            told = catalogue.files.told_in(id)
            wanted = {file for file, facts in told.items() if "keywords" in facts} | known.get(INSIDE, set())
            words = ((file, told.get(file, {}).get("keywords", [])) for file in wanted if file in files.values())
            catalogue.external_tags.see(
                INSIDE, ((file, [str(word) for word in w] if isinstance(w, list) else []) for file, w in words)
            )
        if config.tags_beside:
            catalogue.external_tags.see(SIDECAR, _sidecars(files, whole, known.get(SIDECAR, set())))
    catalogue.files.unsuspect()


Seen = tuple[int, Iterable[str]]
"""A file's id, and the tags that it carries."""


def _attributes(files: Mapping[str, int], whole: Mapping[str, str], known: Collection[int]) -> Iterator[Seen]:
    for name, file in files.items():
        if (file in known or carries_tags(whole[name])) and (tags := tags_of(whole[name])) is not None:
            yield file, tags


def _sidecars(files: Mapping[str, int], whole: Mapping[str, str], known: Collection[int]) -> Iterator[Seen]:
    for name, file in files.items():
        beside = name + embedded_keywords.SIDECAR
        if beside in files:
            with suppress(OSError, ValueError):
                yield file, embedded_keywords.subjects(Path(whole[beside]).read_bytes())
        elif file in known:
            yield file, ()


def synchronize(catalogue: Catalogue, places: Mapping[str, str]) -> int:
    """Give items the tags that were put on their files, take those that were taken off; return how many changed.

    `places` are the folders of the roots that are there, by their names: what has changed is noted on each.
    """
    changed = []
    for one in catalogue.external_tags.waiting():
        before = set(catalogue.tags.of(one.item))
        after = (before | (one.now - one.agreed)) - (one.agreed - one.now)
        if after != before:
            catalogue.tags.put(one.item, after)
            changed.append(one.item)
        catalogue.external_tags.agree(one.file, one.place, one.now)
    items = catalogue.items.ask(OneOf(tuple(set(changed)))) if changed else ()
    decision_log.write(places, [decision_log.note_of_tags(item) for item in items])
    return len(set(changed))


def record_agreement(catalogue: Catalogue, disk: Filesystem, step: SetTags) -> None:
    """Note what both sides agree on after a step that has put tags on an item, where its file carries them now."""
    if step.stamp is None or (file := catalogue.files.id_at(step.source, MAIN_ROOT)) is None:
        return
    old, new = set(step.old), set(step.new)
    carried = disk.tags(step.source)
    if carried is not None and new - old <= set(carried) and not (old - new) & set(carried):
        agreed = catalogue.external_tags.agreed(file, ATTRIBUTE)
        catalogue.external_tags.agree(file, ATTRIBUTE, (agreed | (new - old)) - (old - new))
