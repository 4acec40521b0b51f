"""A unit: a folder with those below that belong to it, understood as a whole. Values in, values out.

A scan of a million files spends its time here, so units can be understood in other processes (`process_pool`): all
that goes in and comes out is plain.
"""

from __future__ import annotations

import dataclasses
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import partial
from types import MappingProxyType
from typing import NamedTuple, TypeVar

from lazy_magpie.catalogue import ItemRecord, KnownFile, MemberRecord, alone_text
from lazy_magpie.catalogue.search_index import filed_of, rows_of, search_words
from lazy_magpie.config import Config
from lazy_magpie.identify import Context, Systems, identify, not_understood, siblings_of, systems_of
from lazy_magpie.identify.beside_data import DataFiles
from lazy_magpie.identify.candidates import CLEAR_FROM
from lazy_magpie.identify.companions import companion_of_something, language_code
from lazy_magpie.identify.file_types import BY_ENDING
from lazy_magpie.identify.folder_reader import FolderReader, around_roles
from lazy_magpie.identify.folders import FolderRole, understand
from lazy_magpie.identify.games import with_system
from lazy_magpie.identify.kit_sections import section_of_folder
from lazy_magpie.identify.namesakes import Namesakes, asked
from lazy_magpie.identify.original_name import recalled
from lazy_magpie.identify.roles import FolderReading
from lazy_magpie.identify.roles.left_over import is_list_alone
from lazy_magpie.identify.title_text import match_key
from lazy_magpie.model import Evidence, Identity, Kind, State, Value, reason_of
from lazy_magpie.paths import is_below, join, name_of, parent, split_ending
from lazy_magpie.plain_json import json_text
from lazy_magpie.scan.basis import Basis, rules_of
from lazy_magpie.scan.grouping import MAIN, GroupMember, ItemGroup, grouped
from lazy_magpie.scan.identified_file import IdentifiedFile
from lazy_magpie.scan.metadata import measured
from lazy_magpie.split_archives import cuts_in
from lazy_magpie.stable_hash import stable_bytes
from lazy_magpie.words import is_junk_folder

Listed = tuple[int, str, int, int]
"""A file of a folder: id, name (in the program's inner form), size, mtime."""

T = TypeVar("T")
ORDER = "order of names"
"""The doubt that a known maker settles."""
_BELONG = frozenset([FolderRole.COMPANIONS, FolderRole.DISC_NUMBER])
_FORMATS = frozenset(ending[1:] for ending, kind in BY_ENDING.items() if kind is Kind.DESIGN)


class FolderListing(NamedTuple):
    """A folder of a unit: its path below its root, its files, and by their ids what they say of themselves, the paths
    that they first came with, and what they were identified as before. `roles` has what the folders from here to the
    top are taken for."""

    path: str
    files: tuple[Listed, ...]
    told: Mapping[int, Mapping[str, Value]]
    first: Mapping[int, str]
    known: Mapping[int, KnownFile] = {}
    roles: Mapping[str, FolderReading] = {}


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


@dataclass(frozen=True)
class Knowledge:
    """What units are understood by: the configuration, the makers that are known (folded), and what follows from them.

    `spelled` are the names, folded, that the configuration has for makers, with the one to write; `rules` stands for
    all of the configuration that says what files are. `namesakes` are shows of one name.
    """

    config: Config
    makers: frozenset[str]
    systems: Systems
    spelled: Mapping[str, str]
    rules: bytes
    namesakes: Namesakes

    @classmethod
    def of(
        cls, config: Config, makers: frozenset[str] = frozenset(), namesakes: Namesakes = MappingProxyType({})
    ) -> Knowledge:
        """Return what follows from a configuration, and from the makers and the shows of one name that are known."""
        spelled = {match_key(other): name for name, others in config.makers.items() for other in (name, *others)}
        rules = stable_bytes(rules_of(config), 16)
        return cls(config, makers | spelled.keys(), systems_of(config.systems), spelled, rules, dict(namesakes))


def identified(folder: FolderListing, root: str, knowledge: Knowledge) -> Iterator[IdentifiedFile]:
    """Yield the files of a folder with their identities: as they are known, where that rests on the same as now."""
    siblings = siblings_of(name for _, name, _, _ in folder.files)
    volumes = {cut.lead: len(cut.names) for cut in cuts_in(name for _, name, _, _ in folder.files)}
    config, makers, systems = knowledge.config, knowledge.makers, knowledge.systems
    usual = Context(siblings, {}, makers, systems)
    roles = [(one.role, one.sureness, one.other, one.matter, one.told) for one in folder.roles.values()]
    by_roles = FolderReader(folder.path, folder.roles, (name for _, name, _, _ in folder.files))
    backs = (bool(by_roles.names.matters), by_roles.names.is_mixed, *sorted(by_roles.names.backs))
    data = DataFiles(folder.files, folder.told)
    for id, name, size, mtime in folder.files:
        path = join(folder.path, name)
        told, first = folder.told.get(id), folder.first.get(id)
        shelf = config.shelf_of(path, root) if config.shelves else None
        beside = (root, volumes.get(name, 0), *siblings.about(split_ending(name)[0]), *roles, *backs)
        if folder.roles and shelf is None:  # on a shelf a name is read by itself
            beside = (*beside, *by_roles.about(name))
        is_list = is_list_alone(name, by_roles.names)
        beside = (*beside, is_list) if is_list else beside
        about = data.about(name)
        beside = (*beside, tuple(sorted(about.items()))) if about else beside
        is_data = data.is_one(id, name)
        beside = (*beside, "data") if is_data else beside
        basis = Basis(path, size, mtime, dict(told) if told else None, first, beside).number(knowledge.rules)
        known = folder.known.get(id)
        if known and known.identity and known.basis == basis:
            yield IdentifiedFile(id, path, size, mtime, known.identity, basis)
            continue
        around = Context(siblings, told or {}, makers, systems, about or {}) if told or about else usual
        if name in volumes:
            why = (Evidence("kind", Kind.ARCHIVE.value, "siblings", f"one archive in {volumes[name]} volumes"),)
            yield IdentifiedFile(id, path, size, mtime, Identity(Kind.ARCHIVE, State.CLEAR, 0.99, {}, why=why), basis)
            continue
        if is_junk_folder(folder.path):
            identity = Identity(
                Kind.JUNK, State.CLEAR, 0.99, {}, why=(Evidence("kind", "junk", "folder", folder.path),)
            )
        elif shelf is None and folder.roles:
            identity = _by_roles(by_roles, path, partial(read_by_roles, around, first))
        else:
            identity = _identity(config.as_read(path, shelf), shelf.kind if shelf else None, around, first)
        if is_list and identity.kind is Kind.GAME:
            identity = companion_of_something("other", split_ending(name)[0])
        if is_data and identity.kind in (Kind.UNKNOWN, Kind.COMPANION):
            identity = companion_of_something("info", split_ending(name)[0])
        if identity.kind is Kind.ARCHIVE and is_below(path, config.inbox):
            identity = dataclasses.replace(identity, state=State.DOUBTFUL, doubts=(_WAITS,))
        if knowledge.spelled and "maker" in identity.fields:
            identity = _with_maker(identity, knowledge.spelled)
        identity = asked(identity, knowledge.namesakes)
        yield IdentifiedFile(id, path, size, mtime, _with_measured(identity, told) if told else identity, basis)


def _by_roles(reader: FolderReader, path: str, read: Callable[[str, Kind | None], Identity]) -> Identity:
    """Return what a file is taken for by the roles of its folders. What nobody foresaw costs that one file."""
    try:
        return reader.identity(path, read)
    except Exception as error:
        return not_understood(error)


def read_by_roles(around: Context, first: str | None, path: str, shelf: Kind | None) -> Identity:
    return _identity(path, shelf, around_roles(around, path, shelf), first)


def _identity(path: str, kind: Kind | None, around: Context, first: str | None) -> Identity:
    """Return what a file is taken for. A name that nobody foresaw costs that one file, and says so."""
    try:
        identity = identify(path, kind, around)
        return recalled(identity, identify(first)) if first and first != path else identity
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
    identity = with_system(identity, told)
    facts = measured(identity.kind, told)
    why = [one for one in identity.why if facts.get(one.field, one.value) == one.value]
    why += [Evidence(key, value, "measured", "") for key, value in facts.items() if identity.facts.get(key) != value]
    return dataclasses.replace(identity, facts={**identity.facts, **facts}, why=tuple(why))


def groups_of(unit: Unit, knowledge: Knowledge) -> list[ItemGroup]:
    """Return the items of a unit as identities with their files; where they can't be grouped, each for itself."""
    return _grouped([seen for folder in unit.folders for seen in identified(folder, unit.root, knowledge)])


def _grouped(files: Sequence[IdentifiedFile]) -> list[ItemGroup]:
    try:
        return grouped(files)
    except Exception:
        return [ItemGroup(file.identity, (GroupMember(file),)) for file in files]


def understood(unit: Unit, knowledge: Knowledge) -> list[ItemRecord]:
    """Return the items of a unit that are not in the catalogue as they are, ready to be stored."""
    known = {id: one for folder in unit.folders for id, one in folder.known.items()}
    files = (seen for folder in unit.folders for seen in identified(folder, unit.root, knowledge))
    groups = _grouped([file.without_evidence() for file in files])  # of many files it would take the most room
    return [made_of(group) for group in taken_out(groups) if not _stands(group, known)]


def taken_out(several: list[T]) -> Iterator[T]:
    """Yield what is in a list in its order and take it out, so that what is made of it does not lie beside it."""
    several.reverse()
    while several:
        yield several.pop()


def _stands(group: ItemGroup, known: Mapping[int, KnownFile]) -> bool:
    """Say whether an item is in the catalogue as it is: the same files in the same places, resting on the same."""
    main = known.get(group.members[0].file.id)
    if main is None or main.identity is None or main.files != len(group.members):
        return False
    now = ((known.get(member.file.id), member) for member in group.members)
    return all(
        before is not None
        and (before.item, before.role, before.part, before.basis)
        == (main.item, member.role, member.part, member.file.basis)
        and not (before.identity is None and _is_beside(member))
        for before, member in now
    )


def _is_beside(member: GroupMember) -> bool:
    """Say whether a file is a companion of its item: what it is taken for by itself is kept beside the item's."""
    return member.file.identity.kind is Kind.COMPANION and member.role != MAIN


def made_of(group: ItemGroup) -> ItemRecord:
    """Return an item as the catalogue takes it."""
    identity, members = group
    fields, facts = identity.fields, identity.facts
    first = members[0].file
    size = sum(max(member.file.size, 0) for member in members)
    filed = filed_of(size, first.mtime, (name_of(member.file.path) for member in members if member.role == MAIN))
    return ItemRecord(
        tuple(
            MemberRecord(
                member.file.id,
                member.role,
                member.part,
                member.file.basis,
                alone_text(member.file.identity) if _is_beside(member) else "",
            )
            for member in members
        ),
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
