"""Groups files into items: which files are one thing, which of them is its main file, what belongs to it.

One thing are the parts of a film, the machine formats of a design, the faces of a font family, the letters of a font of
stitch files, the discs of a game with their tracks, the pictures of a kit. What lies beside a thing and belongs to it
(subtitles, covers, charts, cue sheets) is its companion. Nothing here touches a disk or the catalogue.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Hashable, Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from typing import NamedTuple

from lazy_magpie.identify.companions import picture_role
from lazy_magpie.identify.file_types import PICTURES
from lazy_magpie.identify.folders import is_heap
from lazy_magpie.identify.fonts import REGULAR
from lazy_magpie.identify.title_text import match_key
from lazy_magpie.identify.vocabulary import COMPANION_FOLDERS
from lazy_magpie.model import Evidence, Identity, Kind, State, Value
from lazy_magpie.paths import name_of, parent
from lazy_magpie.scan import font_families
from lazy_magpie.scan.identified_file import IdentifiedFile
from lazy_magpie.split_archives import cuts_in, whole_name

MAIN, CUE, OTHER = "main", "cue", "other"


class GroupMember(NamedTuple):
    """A file of an item: its role there, and which part or disc it is (0: the item has none)."""

    file: IdentifiedFile
    role: str = MAIN
    part: int = 0


class ItemGroup(NamedTuple):
    """An item in the making: what it is, and its files, the main one first."""

    identity: Identity
    members: tuple[GroupMember, ...]


def grouped(files: Sequence[IdentifiedFile]) -> list[ItemGroup]:
    """Return the items that `files` make, the files of one folder and of those below that belong to it."""
    files = font_families.joined(files)
    together: dict[tuple[Kind, Hashable], list[IdentifiedFile]] = defaultdict(list)
    alone: list[IdentifiedFile] = []
    beside: list[IdentifiedFile] = []
    for file in files:
        rule = _RULES.get(file.identity.kind)
        if rule and (key := rule.key(file)) is not None:
            together[file.identity.kind, key].append(file)
        elif file.identity.kind is Kind.COMPANION or (file.identity.kind is Kind.PICTURE and _is_cover(file)):
            beside.append(file)
        else:
            alone.append(file)
    groups = []
    for (kind, _), found in together.items():
        members, rest = _RULES[kind].members(found) if len(found) > 1 else ([], found)
        alone += rest
        if members:
            groups.append(ItemGroup(_merged(members), tuple(members)))
    groups += [ItemGroup(file.identity, (GroupMember(file),)) for file in alone]
    return _with_companions(groups, beside)


# --- which files are one thing ---------------------------------------------------------------------------------------


class _GroupingRule(NamedTuple):
    """How files of a kind become one item: `key` is what they share, None for a file that stands for itself.

    `members` takes the files that share a key; it returns those that are one item, the main one first, and the rest.
    """

    key: Callable[[IdentifiedFile], Hashable | None]
    members: Callable[[Sequence[IdentifiedFile]], tuple[list[GroupMember], list[IdentifiedFile]]]


def _field(file: IdentifiedFile, name: str) -> str:
    value = file.identity.fields.get(name, "")
    return match_key(", ".join(map(str, value))) if isinstance(value, list) else match_key(str(value))


def _shared(file: IdentifiedFile, *names: str) -> tuple[str, ...]:
    return tuple(_field(file, name) for name in names)


def _part_key(file: IdentifiedFile) -> Hashable | None:
    """Parts of a film or an episode share all but the part."""
    if "part" not in file.identity.fields:
        return None
    return _shared(file, "title", "year", "edition", "show", "season", "episode", "air_date", "running")


def _parts(found: Sequence[IdentifiedFile]) -> tuple[list[GroupMember], list[IdentifiedFile]]:
    """One file for each part; where a part is there twice, nobody knows which one belongs to the others."""
    numbers = [int(str(file.identity.fields["part"])) for file in found]
    if len(set(numbers)) < len(numbers):
        return [], list(found)
    ordered = sorted(zip(numbers, found, strict=True), key=lambda pair: pair[0])
    return [GroupMember(file, MAIN, number) for number, file in ordered], []


def _design_key(file: IdentifiedFile) -> Hashable | None:
    return (file.stem, *_shared(file, "maker", "title", "code"))


def _formats(found: Sequence[IdentifiedFile]) -> tuple[list[GroupMember], list[IdentifiedFile]]:
    """One file for each machine format; a second one of a format is another item, a copy most likely."""
    first: dict[str, IdentifiedFile] = {}
    rest = []
    for file in sorted(found, key=lambda file: file.path):
        if file.ending in first:
            rest.append(file)
        else:
            first[file.ending] = file
    return ([GroupMember(file) for file in first.values()], rest) if len(first) > 1 else ([], list(found))


def _font_key(file: IdentifiedFile) -> Hashable | None:
    family = _field(file, "family")
    return (family, _field(file, "maker"), "glyph" in file.identity.fields) if family else None


def _all_of(found: Sequence[IdentifiedFile]) -> tuple[list[GroupMember], list[IdentifiedFile]]:
    return [GroupMember(file) for file in sorted(found, key=lambda file: file.path)], []


def _faces(found: Sequence[IdentifiedFile]) -> tuple[list[GroupMember], list[IdentifiedFile]]:
    """The regular face first."""
    order = sorted(found, key=lambda file: (_field(file, "style") not in REGULAR, file.path))
    return [GroupMember(file) for file in order], []


def _kit_key(file: IdentifiedFile) -> Hashable | None:
    key = _shared(file, "maker", "title")
    return key if all(key) else None


def _game_key(file: IdentifiedFile) -> Hashable | None:
    return _shared(file, "title", "system", "regions", "languages", "revision", "status")


def _discs(found: Sequence[IdentifiedFile]) -> tuple[list[GroupMember], list[IdentifiedFile]]:
    """Discs and tracks with their cue sheets; images that are none of these stand for themselves."""
    if not any("disc" in file.identity.fields or file.ending == ".cue" for file in found):
        return [], list(found)
    members = []
    for file in found:
        disc = file.identity.fields.get("disc", 0)
        role = CUE if file.ending == ".cue" else OTHER if file.ending in _PLAY_LISTS else MAIN
        members.append(GroupMember(file, role, int(str(disc))))
    members.sort(key=lambda member: (member.role != MAIN, member.part, member.file.path))
    return members, []


_PLAY_LISTS = frozenset([".m3u", ".m3u8"])


def _volume_key(file: IdentifiedFile) -> Hashable | None:
    """Volumes of one archive lie in one folder and are called alike."""
    return parent(file.path), whole_name(name_of(file.path)).lower()


def _volumes(found: Sequence[IdentifiedFile]) -> tuple[list[GroupMember], list[IdentifiedFile]]:
    """All volumes of one archive, first the one that it is opened by."""
    by_name = {name_of(file.path): file for file in found}
    cut = next(iter(cuts_in(by_name)), None)
    if cut is None:
        return [], list(found)
    others = [by_name.pop(name) for name in cut.names if name != cut.lead]
    return [GroupMember(by_name.pop(cut.lead)), *(GroupMember(file, OTHER) for file in others)], list(by_name.values())


_RULES: Mapping[Kind, _GroupingRule] = {
    Kind.MOVIE: _GroupingRule(_part_key, _parts),
    Kind.EPISODE: _GroupingRule(_part_key, _parts),
    Kind.DESIGN: _GroupingRule(_design_key, _formats),
    Kind.FONT: _GroupingRule(_font_key, _faces),
    Kind.KIT: _GroupingRule(_kit_key, _all_of),
    Kind.GAME: _GroupingRule(_game_key, _discs),
    Kind.ARCHIVE: _GroupingRule(_volume_key, _volumes),
}
"""How the files of each kind become items; files of other kinds are items of their own."""

_OF_ONE = frozenset(["part", "section", "style", "glyph", "disc"])
"""The fields that are a file's: where they differ, the item has none of its own, or (below) a list of them."""
_LISTED = frozenset(["section", "style"])
_COUNTED: Mapping[Kind, tuple[str, Callable[[GroupMember], Hashable]]] = {
    Kind.KIT: ("pictures", lambda member: member.file.path if member.file.ending in PICTURES else None),
    Kind.FONT: ("faces", lambda member: _field(member.file, "style")),
    Kind.GAME: ("discs", lambda member: member.part),
}
"""What is counted of a thing of each kind, and what makes two of its files count as two."""
_EACH: Mapping[Kind, tuple[str, ...]] = {Kind.FONT: ("weight",)}
"""Facts of which an item has each one that a file of it has."""
_ADDED = ("length",)
"""Facts that add up."""


def _merged(members: Sequence[GroupMember]) -> Identity:
    """Return what several files are together: the main file's identity without what is one file's alone."""
    identities = [member.file.identity for member in members]
    first = identities[0]
    fields: dict[str, Value] = {}
    for key, value in first.fields.items():
        if key in _OF_ONE and any(identity.fields.get(key) != value for identity in identities):
            values = dict.fromkeys(str(one.fields[key]) for one in identities if key in one.fields)
            if key in _LISTED:
                fields[key] = list(values)
        else:
            fields[key] = value
    for key in _LISTED - first.fields.keys():
        if values := dict.fromkeys(str(one.fields[key]) for one in identities if key in one.fields):
            fields[key] = list(values)
    worst = next((identity for identity in identities if identity.state is not State.CLEAR), first)
    doubts = dict.fromkeys(doubt for identity in identities for doubt in identity.doubts)
    confidence = min(identity.confidence for identity in identities)
    facts, why = _facts(members)
    return replace(
        first,
        state=worst.state,
        confidence=confidence,
        fields=fields,
        facts=facts,
        why=(*first.why, *why),
        doubts=tuple(doubts),
    )


def _facts(members: Sequence[GroupMember]) -> tuple[dict[str, Value], list[Evidence]]:
    """Return the facts of the whole: lengths added up, parts counted; of a kit not those of one picture."""
    first = members[0].file.identity
    one_of_many = first.kind is Kind.KIT or "glyph" in first.fields
    facts = {} if one_of_many else dict(first.facts)
    for key in _ADDED:
        lengths = [member.file.identity.facts.get(key) for member in members]
        if all(isinstance(length, int | float) for length in lengths):
            facts[key] = round(sum(float(str(length)) for length in lengths), 3)
    refused = next((m.file.identity.facts["unreadable"] for m in members if "unreadable" in m.file.identity.facts), "")
    if refused:
        facts["unreadable"] = refused
    for key in _EACH.get(first.kind, ()):
        values = {int(str(one.file.identity.facts[key])) for one in members if key in one.file.identity.facts}
        if len(values) > 1:
            facts[key] = sorted(values)
    name, what = _COUNTED.get(first.kind, ("", lambda member: 0))
    if "glyph" in first.fields:
        name, what = "glyphs", lambda member: _field(member.file, "glyph")
    mains = [member for member in members if member.role == MAIN]
    count = len({what(member) for member in mains} - {None})
    if not name or not count:
        return facts, []
    facts[name] = count
    return facts, [Evidence(name, facts[name], "files", f"{len(mains)} files")]


# --- what belongs to a thing -----------------------------------------------------------------------------------------

_WATCHED = frozenset([Kind.MOVIE, Kind.EPISODE])
_MADE = frozenset([Kind.DESIGN, Kind.FONT, Kind.KIT])
_OF_MADE = frozenset(["chart", "instructions", "licence", "metrics"])


def _is_cover(file: IdentifiedFile) -> bool:
    """Say whether a picture is named as players name covers."""
    return bool(picture_role(file.stem))


def _owners(file: IdentifiedFile) -> frozenset[Kind]:
    """Return the kinds that a companion may belong to."""
    fields = file.identity.fields
    return _MADE if "maker" in fields or fields.get("role") in _OF_MADE else _WATCHED


def _folders_of(path: str) -> Iterator[str]:
    """Yield the folders that a companion may lie in, below or beside its thing: "Subs/English" lies two below."""
    folder = parent(path)
    yield folder
    yield parent(folder)
    if name_of(parent(folder)).lower() in COMPANION_FOLDERS:
        yield parent(parent(folder))


class _ItemBuilder:
    """The groups that can have companions, by their folders, and there by the stems of their files."""

    def __init__(self, groups: Sequence[ItemGroup]) -> None:
        self.by_stem: dict[str, dict[str, list[int]]] = defaultdict(dict)
        self.in_folder: dict[str, set[int]] = defaultdict(set)
        self.kinds = [group.identity.kind for group in groups]
        for at, group in enumerate(groups):
            if group.identity.kind in _WATCHED | _MADE:
                for member in group.members:
                    folder = parent(member.file.path)
                    self.by_stem[folder].setdefault(member.file.stem, []).append(at)
                    self.in_folder[folder].add(at)

    def owner(self, file: IdentifiedFile) -> int | None:
        """Return the group that a companion belongs to.

        That is the one whose file's whole stem its name begins with, else the only one in its folder, in those above,
        or of all. Where all sorts of things are put, the only one there owns nothing but what is called as it is.
        """
        kinds = _owners(file)
        for folder in _folders_of(file.path):
            if folder not in self.in_folder:
                continue
            stem = file.stem
            while stem:
                if found := self._fitting(self.by_stem[folder].get(stem, ()), kinds):
                    return next(iter(found)) if len(found) == 1 else None
                cut = max(stem.rfind("."), stem.rfind("-"), stem.rfind("_"), stem.rfind(" "))
                stem = stem[: max(cut, 0)]
            if found := self._fitting(self.in_folder[folder], kinds):
                return next(iter(found)) if len(found) == 1 and not is_heap(name_of(folder)) else None
        found = self._fitting(range(len(self.kinds)), kinds)
        return next(iter(found)) if len(found) == 1 else None

    def _fitting(self, groups: Iterable[int], kinds: frozenset[Kind]) -> set[int]:
        return {at for at in groups if self.kinds[at] in kinds}


def _with_companions(groups: list[ItemGroup], beside: Sequence[IdentifiedFile]) -> list[ItemGroup]:
    """Give every companion to the thing that it belongs to; one that belongs to none is an item of its own."""
    if not beside:
        return groups
    things = _ItemBuilder(groups)
    taken: dict[int, list[GroupMember]] = defaultdict(list)
    for file in beside:
        owner = things.owner(file)
        if owner is None or (file.identity.kind is Kind.PICTURE and parent(file.path) not in things.in_folder):
            groups.append(ItemGroup(file.identity, (GroupMember(file),)))
        else:
            taken[owner].append(GroupMember(file, str(file.identity.fields.get("role", "cover"))))
    return [
        group._replace(members=(*group.members, *taken[at])) if at in taken else group
        for at, group in enumerate(groups)
    ]
