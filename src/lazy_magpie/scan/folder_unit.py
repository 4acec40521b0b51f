"""A unit: a folder with those below that belong to it, understood as a whole. Values in, values out.

A scan of a million files spends its time here, so units can be understood in other processes (`process_pool`): all
that goes in and comes out is plain.
"""

from __future__ import annotations

import dataclasses
from collections.abc import Iterator, Mapping
from typing import NamedTuple

from lazy_magpie.catalogue import ItemRecord, json_text
from lazy_magpie.catalogue.search_index import filed_of, rows_of, search_words
from lazy_magpie.config import Config
from lazy_magpie.identify import Context, identify, not_understood, siblings_of, systems_of
from lazy_magpie.identify.candidates import CLEAR_FROM
from lazy_magpie.identify.companions import language_code
from lazy_magpie.identify.file_types import BY_ENDING
from lazy_magpie.identify.folders import FolderRole, understand
from lazy_magpie.identify.kit_sections import section_of_folder
from lazy_magpie.identify.original_name import recalled
from lazy_magpie.identify.title_text import match_key
from lazy_magpie.model import Evidence, Identity, Kind, State, Value, reason_of
from lazy_magpie.paths import is_below, join, name_of, parent
from lazy_magpie.scan.grouping import MAIN, GroupMember, IdentifiedFile, ItemGroup, grouped
from lazy_magpie.scan.metadata import measured
from lazy_magpie.split_archives import cuts_in

Listed = tuple[int, str, int, int]
"""A file of a folder: id, name (in the program's inner form), size, mtime."""

ORDER = "order of names"
"""The doubt that a known maker settles."""
_BELONG = frozenset([FolderRole.COMPANIONS, FolderRole.DISC_NUMBER])
_FORMATS = frozenset(ending[1:] for ending, kind in BY_ENDING.items() if kind is Kind.DESIGN)


class FolderListing(NamedTuple):
    """A folder of a unit: its path below its root, its files, and by their ids what they say of themselves, and the
    paths that they first came with."""

    path: str
    files: tuple[Listed, ...]
    told: Mapping[int, Mapping[str, Value]]
    first: Mapping[int, str]


class Unit(NamedTuple):
    """Folders that are understood together, on the root of this name; the first is the one the others belong to."""

    root: str
    folders: tuple[FolderListing, ...]


def home_of(folder: str) -> str:
    """Return the folder that `folder` belongs to: the nearest above that is no part of another, or itself."""
    while folder and _belongs(name_of(folder), name_of(parent(folder))):
        folder = parent(folder)
    return folder


def _belongs(name: str, above: str) -> bool:
    """Say whether a folder of this name is part of the one above: subtitles, their language, a disc, a section of a
    kit, a format."""
    if name.lower() in _FORMATS or section_of_folder(name, above):
        return True
    if understand(above).role is FolderRole.COMPANIONS and language_code(name.lower()):
        return True
    return understand(name).role in _BELONG


_WAITS = "waits in the inbox: nothing says what it holds"


def identified(folder: FolderListing, root: str, config: Config, makers: frozenset[str]) -> Iterator[IdentifiedFile]:
    """Yield the files of a folder with their identities."""
    siblings = siblings_of(name for _, name, _, _ in folder.files)
    volumes = {cut.lead: len(cut.names) for cut in cuts_in(name for _, name, _, _ in folder.files)}
    systems = systems_of(config.systems)
    spelled = {match_key(other): name for name, others in config.makers.items() for other in (name, *others)}
    makers |= spelled.keys()
    known = Context(siblings, {}, makers, systems)
    for id, name, size, mtime in folder.files:
        path = join(folder.path, name)
        shelf = config.shelf_of(path, root) if config.shelves else None
        told = folder.told.get(id)
        around = Context(siblings, told, makers, systems) if told else known
        if name in volumes:
            why = (Evidence("kind", Kind.ARCHIVE.value, "siblings", f"one archive in {volumes[name]} volumes"),)
            yield IdentifiedFile(id, path, size, mtime, Identity(Kind.ARCHIVE, State.CLEAR, 0.99, {}, why=why))
            continue
        identity = _identity(config.as_read(path, shelf), shelf.kind if shelf else None, around, folder.first.get(id))
        if identity.kind is Kind.ARCHIVE and is_below(path, config.inbox):
            identity = dataclasses.replace(identity, state=State.DOUBTFUL, doubts=(_WAITS,))
        if spelled and "maker" in identity.fields:
            identity = _with_maker(identity, spelled)
        yield IdentifiedFile(id, path, size, mtime, _with_measured(identity, told) if told else identity)


def _identity(path: str, kind: Kind | None, around: Context, first: str | None) -> Identity:
    """Return what a file is taken for. A name that nobody foresaw costs that one file, and says so."""
    try:
        identity = identify(path, kind, around)
        return recalled(identity, identify(first)) if first else identity
    except Exception as error:
        return not_understood(error)


def _with_maker(identity: Identity, spelled: Mapping[str, str]) -> Identity:
    """Give a maker whom the configuration names one spelling; then nobody doubts that it is the maker."""
    maker = spelled.get(match_key(str(identity.fields["maker"])))
    if maker is None:
        return identity
    doubts = tuple(doubt for doubt in identity.doubts if reason_of(doubt) != ORDER)
    cured = identity.doubts and not doubts and identity.state is State.DOUBTFUL
    state, confidence = (State.CLEAR, CLEAR_FROM) if cured else (identity.state, identity.confidence)
    why = (*identity.why, Evidence("maker", maker, "configuration", str(identity.fields["maker"])))
    fields = {**identity.fields, "maker": maker}
    return dataclasses.replace(
        identity, fields=fields, doubts=doubts, state=state, confidence=max(confidence, identity.confidence), why=why
    )


def _with_measured(identity: Identity, told: Mapping[str, Value]) -> Identity:
    """Put what was measured over what the name claims."""
    facts = measured(identity.kind, told)
    why = [one for one in identity.why if facts.get(one.field, one.value) == one.value]
    why += [Evidence(key, value, "measured", "") for key, value in facts.items() if identity.facts.get(key) != value]
    return dataclasses.replace(identity, facts={**identity.facts, **facts}, why=tuple(why))


def groups_of(unit: Unit, config: Config, makers: frozenset[str]) -> list[ItemGroup]:
    """Return the items of a unit as identities with their files; where they can't be grouped, each for itself."""
    files = [seen for folder in unit.folders for seen in identified(folder, unit.root, config, makers)]
    try:
        return grouped(files)
    except Exception:
        return [ItemGroup(file.identity, (GroupMember(file),)) for file in files]


def understood(unit: Unit, config: Config, makers: frozenset[str] = frozenset()) -> list[ItemRecord]:
    """Return the items of a unit, ready to be stored."""
    return [made_of(group) for group in groups_of(unit, config, makers)]


def made_of(group: ItemGroup) -> ItemRecord:
    """Return an item as the catalogue takes it."""
    identity, members = group
    fields, facts = identity.fields, identity.facts
    first = members[0].file
    size = sum(max(member.file.size, 0) for member in members)
    filed = filed_of(size, first.mtime, (name_of(member.file.path) for member in members if member.role == MAIN))
    return ItemRecord(
        tuple((member.file.id, member.role, member.part) for member in members),
        identity.kind.value,
        identity.state.value,
        identity.confidence,
        json_text(fields),
        json_text(facts) if facts else "{}",
        json_text(identity.doubts) if identity.doubts else "[]",
        search_words((member.file.path for member in members), fields, facts),
        filed.text(),
        tuple(rows_of(fields, facts, filed)),
    )
