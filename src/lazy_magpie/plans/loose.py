"""Files of a heap that speak for themselves as items: what each is, and what belongs to it, as a scan would say."""

from __future__ import annotations

import os
from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import replace

from lazy_magpie.catalogue import Catalogue
from lazy_magpie.config import Config
from lazy_magpie.identify.kinds import BY_ENDING
from lazy_magpie.intake import Piece
from lazy_magpie.model import File, Item, Kind, State
from lazy_magpie.paths import name_of, parent, split_ending
from lazy_magpie.plans.answers import answered
from lazy_magpie.readers.pool import Facts, read_all
from lazy_magpie.scan.gather import known_makers
from lazy_magpie.scan.units import Folder, Unit, groups_of, home_of

_SAY_WHAT_THEY_ARE = (Kind.TRACK, Kind.FONT)
"""Kinds of files that are read for what they say of themselves."""


def items_in(pieces: Mapping[str, Piece], config: Config, catalogue: Catalogue, root: str) -> Iterator[Item]:
    """Yield the items that pieces make, by their paths in the heap; `root` is the folder that steps start from."""
    folders: dict[str, list[str]] = defaultdict(list)
    for path in pieces:
        folders[parent(path)].append(path)
    homes: dict[str, list[str]] = defaultdict(list)
    for folder in folders:
        homes[home_of(folder)].append(folder)
    numbers = {path: number for number, path in enumerate(pieces)}
    told = _told(pieces, root)
    makers = known_makers(catalogue)
    for inside in homes.values():
        unit = Unit("", tuple(_folder(folder, folders[folder], pieces, numbers, told) for folder in sorted(inside)))
        for found, members in groups_of(unit, config, makers):
            files = tuple(File(m.file.path, m.file.size, m.file.mtime, 0, m.role, m.part) for m in members)
            about = (found.kind, found.state, found.confidence, found.fields, found.facts, found.doubts)
            item = Item(0, files[0].path, *about, files)
            settled = answered(catalogue, pieces[item.path].source.path)
            if settled and (found.kind is settled.kind or not pieces[item.path].member):
                item = replace(item, kind=settled.kind, state=State.SETTLED, fields=settled.fields, doubts=())
            yield item


def _told(pieces: Mapping[str, Piece], root: str) -> dict[str, Facts]:
    """Return by their paths in the heap what files say of themselves, those of which nothing else would say it."""
    paths = {
        os.path.join(root, piece.source.path): path
        for path, piece in pieces.items()
        if not piece.member and BY_ENDING.get(split_ending(path)[1].lower()) in _SAY_WHAT_THEY_ARE
    }
    return {paths[whole]: {} if "unreadable" in facts else facts for whole, facts in read_all(paths)}


def _folder(
    folder: str,
    paths: Iterable[str],
    pieces: Mapping[str, Piece],
    numbers: Mapping[str, int],
    told: Mapping[str, Facts],
) -> Folder:
    inside = sorted(paths)
    listed = ((numbers[path], name_of(path), pieces[path].size, pieces[path].source.seen.mtime) for path in inside)
    return Folder(folder, tuple(listed), {numbers[path]: told[path] for path in inside if path in told}, {})
