"""Files of a heap that speak for themselves as items: what each is, and what belongs to it, as a scan would say."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import replace

from lazy_magpie.catalogue import Catalogue
from lazy_magpie.config import Config
from lazy_magpie.identify.file_types import BY_ENDING
from lazy_magpie.identify.title_text import match_key
from lazy_magpie.intake import Bundle, Piece
from lazy_magpie.model import File, Item, Kind, State, Value
from lazy_magpie.paths import name_of, parent, split_ending
from lazy_magpie.planners.intake.intake_answers import answered
from lazy_magpie.scan.folder_unit import FolderListing, Unit, groups_of, home_of
from lazy_magpie.scan.pipeline import knowledge_of

Facts = Mapping[str, Value]
ReadFacts = Callable[[Iterable[str]], Iterable[tuple[str, Facts]]]
"""Yields what files say of themselves, each with its path."""
_SAY_WHAT_THEY_ARE = (Kind.TRACK, Kind.FONT)
"""Kinds of files that are read for what they say of themselves."""


def items_of(pieces: Mapping[str, Piece], config: Config, catalogue: Catalogue, read: ReadFacts) -> Iterator[Item]:
    """Yield the items that pieces make, by their paths in the heap."""
    folders: dict[str, list[str]] = defaultdict(list)
    for path in pieces:
        folders[parent(path)].append(path)
    homes: dict[str, list[str]] = defaultdict(list)
    for folder in folders:
        homes[home_of(folder)].append(folder)
    numbers = {path: number for number, path in enumerate(pieces)}
    facts = _facts(pieces, read)
    knowledge = knowledge_of(catalogue, config)
    for inside in homes.values():
        unit = Unit("", tuple(_folder(folder, folders[folder], pieces, numbers, facts) for folder in sorted(inside)))
        for found, members in groups_of(unit, knowledge):
            files = tuple(File(m.file.path, m.file.size, m.file.mtime, 0, m.role, m.part) for m in members)
            about = (found.kind, found.state, found.confidence, found.fields, found.facts, found.doubts)
            item = Item(0, files[0].path, *about, files)
            settled = answered(catalogue, pieces[item.path].source.path)
            if settled and (found.kind is settled.kind or not pieces[item.path].member):
                item = replace(item, kind=settled.kind, state=State.SETTLED, fields=settled.fields, doubts=())
            yield item


def _facts(pieces: Mapping[str, Piece], read: ReadFacts) -> dict[str, Facts]:
    """Return, by path in the heap, what files say of themselves, where nothing else would say it."""
    paths = {
        piece.source.path: path
        for path, piece in pieces.items()
        if not piece.member and BY_ENDING.get(split_ending(path)[1].lower()) in _SAY_WHAT_THEY_ARE
    }
    return {paths[source]: {} if "unreadable" in facts else facts for source, facts in read(paths)}


def _folder(
    folder: str,
    paths: Iterable[str],
    pieces: Mapping[str, Piece],
    numbers: Mapping[str, int],
    facts: Mapping[str, Facts],
) -> FolderListing:
    inside = sorted(paths)
    listed = ((numbers[path], name_of(path), pieces[path].size, pieces[path].source.stamp.mtime) for path in inside)
    return FolderListing(folder, tuple(listed), {numbers[path]: facts[path] for path in inside if path in facts}, {})


def folder_of(bundle: Bundle) -> str:
    """Return where the folder lies that a bundle is."""
    first = bundle.pieces[0]
    return first.source.path[: -len(first.path) - 1]


def pieces_below_top(bundle: Bundle) -> Iterator[tuple[str, Piece]]:
    """Yield the pieces of a bundle with their paths, without the one folder that is called as the bundle is."""
    top = bundle.top
    strip = len(top) + 1 if top and match_key(top) == match_key(bundle.name) else 0
    return ((piece.path[strip:], piece) for piece in bundle.pieces)
