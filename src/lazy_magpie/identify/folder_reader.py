"""What the roles of folders, and the files beside it, add to the reading of a file's name, or take from it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from typing import TYPE_CHECKING

from lazy_magpie.identify.candidates import lacks
from lazy_magpie.identify.certainty import chance_of, ending_among, evidence_for, is_sure
from lazy_magpie.identify.context import Context, Systems
from lazy_magpie.identify.folders import FolderRole, understand
from lazy_magpie.identify.kit_sections import SECTION_CONCEPTS
from lazy_magpie.identify.placeholders import doubted
from lazy_magpie.identify.roles.belongings import BESIDE_KINDS, as_belonging, belongs_by_name
from lazy_magpie.identify.roles.features import IMAGES, OTHERS, PICTURES, VIDEO, matter_of
from lazy_magpie.identify.roles.left_over import (
    BELONGS,
    BESIDE_OR_ALONE,
    FOLDER_ROLE,
    OF_OWNERS,
    FileNames,
    album_in_doubt,
    file_names,
    left_over,
    maker_in_doubt,
)
from lazy_magpie.identify.roles.place import CATEGORY, OWNER, SURE, WORK, FolderReading, RoledPlace, place_by_roles
from lazy_magpie.identify.roles.trimming import without_left_over, without_maker
from lazy_magpie.identify.slots.evidence import Beside
from lazy_magpie.identify.slots.kinds import (
    BESIDE_FILMS,
    DIVISION,
    KINDS,
    READ_BY_SLOTS,
    SlotReading,
    fields_of,
    sort_of,
    stem_of,
)
from lazy_magpie.identify.slots.words import name_of_words
from lazy_magpie.identify.songs import VARIOUS
from lazy_magpie.identify.title_text import match_key
from lazy_magpie.model import Evidence, Identity, Kind, State
from lazy_magpie.paths import name_of, split_ending
from lazy_magpie.patterns import pattern
from lazy_magpie.words import meaning, role_in

if TYPE_CHECKING:
    from lazy_magpie.identify.slots.reading import SlotReader

_HANG_ON_FOLDERS = frozenset([Kind.TRACK, Kind.DESIGN, Kind.KIT, Kind.FONT, Kind.EPISODE, Kind.GAME])
_NEVER_BY_SLOTS = frozenset([VIDEO, IMAGES, BESIDE_FILMS])
_LACKING = frozenset(["no show", "no year"])
"""Doubts that a folder settles which was taken for a category but bears the name."""
_TWO_WITNESSES = frozenset([Kind.TRACK, Kind.DESIGN, Kind.KIT, Kind.FONT])
"""Kinds whose patterns, where they have no doubt, and slots are right wherever they say the same."""
_EVEN = 0.5
"""Less likely than that, slots do not take the place of patterns that have no doubt."""
LITTLE = "little speaks for it"
"""The doubt of what does not lie beside other things, where nothing else can be asked."""
_SURE_SOURCES = frozenset(["tags", "configuration"])
"""What a file says of itself, and what a person wrote down, needs no other witness."""
_UNWEIGHED = frozenset([Kind.JUNK, Kind.UNFINISHED, Kind.UNKNOWN, Kind.MOVIE, Kind.EPISODE, Kind.EXTRA])
"""Kinds that an ending alone decides, or nothing; and those whose patterns know best themselves when to doubt."""
_SECTIONS = {**SECTION_CONCEPTS, "role.preview": "previews"}
_MORE_SYSTEMS = Systems({}, {".md": "md"})
_COUNTED = pattern(r"\D{0,12}?(\d{1,3})(?!\d)")

Reader = Callable[[str, Kind | None], Identity]
"""Reads a path on a shelf of a kind, or on none."""


@dataclass(frozen=True)
class Weighed:
    """A reading with the evidence for it; `slots` is what the slots of its words say, where its kind is read so, and
    `agree` that its patterns say the same."""

    identity: Identity
    evidence: Mapping[str, float] | None = None
    slots: SlotReading | None = None
    agree: bool = False


class FolderReader:
    """Reads the files of a folder by the roles of the folders above them, and by what lies beside them."""

    def __init__(self, folder: str, roles: Mapping[str, FolderReading], names: Iterable[str]) -> None:
        self.folder = folder
        self.roles = roles
        self.all_names = tuple(names)
        self.names = file_names(self.all_names)
        self.endings = Counter(split_ending(name)[1].lower() for name in self.all_names)
        self.place = place_by_roles(folder, roles)
        self._slots: dict[tuple[Kind, str], SlotReader] = {}
        self._beside: dict[str, Beside] = {}

    @cached_property
    def others(self) -> list[tuple[str, FolderReading, RoledPlace]]:
        """The folders that are not sure, each with what it is taken for, and what would be if it were the next best."""
        found = []
        for folder in self.place.unsure:
            first = self.roles[folder]
            other = {**self.roles, folder: first._replace(role=first.other, chance=1.0)}
            found.append((folder, first, place_by_roles(self.folder, other)))
        return found

    @cached_property
    def counts_on(self) -> bool:
        """Say whether the films of the folder count from one on, each once: then it is one thing, no place for many."""
        stems = (split_ending(name)[0] for name in self.all_names if matter_of(name) == VIDEO)
        numbers = []
        for stem in stems:
            if not (match := _COUNTED.match(stem)):
                return False
            numbers.append(int(match[1]))
        return len(numbers) > 1 and sorted(numbers) == list(range(1, len(numbers) + 1))

    def identity(self, path: str, reader: Reader) -> Identity:
        """Return what a file is taken for, from all that is known of it; in doubt where that is too little."""
        return doubted(self._of_several(self._decided(self.weighed(path, reader))))

    def _decided(self, weighed: Weighed) -> Identity:
        identity, slots = weighed.identity, weighed.slots
        if weighed.evidence is None:
            return identity
        chance = chance_of(identity.kind, weighed.evidence)
        if slots is None:
            alone = identity.kind is Kind.PICTURE and self.place.is_pictures_only
            sure = is_sure(identity.kind, chance)
            if sure and len(identity.doubts) == 1 and identity.doubts[0].endswith(BELONGS):
                return replace(identity, state=State.CLEAR, doubts=())  # that was weighed with all else
            little = identity.state is State.CLEAR and not alone and not sure
            return _doubtful(identity, self._doubt(weighed)) if little else identity
        was_sure = weighed.agree and identity.state is State.CLEAR
        missing = [] if was_sure else lacks(identity.kind, identity.fields)
        if self._may_have_a_maker(identity):
            missing = [*missing, "maker"]
        if was_sure and not missing and identity.kind in _TWO_WITNESSES:
            return identity
        doubts = [f"no {field.replace('_', ' ')}" for field in missing]
        if self.place.unsure and missing and missing[0] in ("artist", "maker"):
            doubts = [self._asked_of_folder(), *doubts]
        if not doubts and not is_sure(identity.kind, chance):
            doubts = [self._doubt(weighed)]
        if not doubts and (of_maker := maker_in_doubt(identity)):
            doubts = [of_maker]
        if not doubts and (of_album := album_in_doubt(identity, self.folder, self.place.work)):
            doubts = [of_album]
        state = State.DOUBTFUL if doubts else State.CLEAR
        return replace(identity, doubts=tuple(doubts), state=state, confidence=min(chance, 0.5 if missing else 1.0))

    def weighed(self, path: str, reader: Reader) -> Weighed:
        """Return the reading of a file with the evidence for it; none is asked for what the file says of itself."""
        identity = self._by_patterns(path, reader)
        if identity.kind in _UNWEIGHED or any(one.source in _SURE_SOURCES for one in identity.why):
            return Weighed(identity)
        if belongs_by_name(path, identity, self.names):
            return Weighed(identity)
        slots = self._by_slots(identity.kind, name_of(path)) if identity.kind in READ_BY_SLOTS else None
        agree = slots is not None and agrees(identity, slots)
        if slots and not agree and not (identity.state is State.CLEAR and slots.chance < _EVEN):
            identity = joined(identity, slots)
        identity = self._with_owner(identity)
        evidence = evidence_for(path, identity, self.place, self.endings, slots, agree=agree)
        return Weighed(identity, evidence, slots, agree)

    def _with_owner(self, identity: Identity) -> Identity:
        """Return a reading with the owner that a person named, or with the only one that is certain where it has none.

        A song may be by a guest of the artist whose folder it lies in.
        """
        field = "artist" if identity.kind is Kind.TRACK else "maker"
        told, certain = self.place.told_owner, self.place.certain_owner
        owner = told if told and identity.kind is not Kind.TRACK else identity.fields.get(field) or told or certain
        if identity.kind not in OF_OWNERS or not owner or identity.fields.get(field) == owner:
            return identity
        why = (*(one for one in identity.why if one.field != field), Evidence(field, owner, "folder", str(owner)))
        doubts = tuple(doubt for doubt in identity.doubts if doubt != f"no {field}")
        return replace(identity, fields={**identity.fields, field: owner}, why=why, doubts=doubts)

    def _of_several(self, identity: Identity) -> Identity:
        """Return a song of an album on which each is by somebody else as one of various artists."""
        of_name = any((one.field, one.source) == ("artist", "name") for one in identity.why)
        is_one = identity.kind is Kind.TRACK and "album" in identity.fields and "album_artist" not in identity.fields
        if not (is_one and of_name and self.names.is_mixed):
            return identity
        why = (*identity.why, Evidence("album_artist", VARIOUS, "siblings", "each by somebody else"))
        return replace(identity, fields={**identity.fields, "album_artist": VARIOUS}, why=why)

    def _may_have_a_maker(self, identity: Identity) -> bool:
        """Say whether a font without a maker lies in somebody's folder, or in one that may be.

        Its family's own folder is none, nor one whose name means something else.
        """
        if identity.kind is not Kind.FONT or "maker" in identity.fields:
            return False
        family = "" if "glyph" in identity.fields else match_key(str(identity.fields.get("family", "")))
        unsure = (name_of(one) for one in self.place.unsure if OWNER in (self.roles[one].role, self.roles[one].other))
        folders = {*unsure, *(name for name in self.folder.split("/")[1:] if not _is_explained(name))}
        return bool(self.place.owners) or any(match_key(name) != family for name in folders)

    def _doubt(self, weighed: Weighed) -> str:
        """Return what is asked of a reading for which too little speaks."""
        of_folder = [doubt for doubt in weighed.identity.doubts if doubt.startswith(FOLDER_ROLE)]
        if of_folder:
            return of_folder[0]
        same = weighed.slots is None or weighed.agree
        if same and (doubts := weighed.identity.doubts):
            return doubts[0]  # of another reading they ask nothing
        if self.place.unsure and weighed.identity.kind in _HANG_ON_FOLDERS:
            return self._asked_of_folder()
        if slots := weighed.slots:
            said = slots.fields.get(slots.doubt, "nothing")
            return f"two readings: the {slots.doubt.replace('_', ' ')} may be “{said}” or “{slots.other or 'nothing'}”"
        if weighed.identity.kind in BESIDE_KINDS or weighed.identity.kind is Kind.COMPANION:
            return f"{BESIDE_OR_ALONE}: it may belong to what lies near it, or stand for itself"
        return f"{LITTLE}: it may be no {weighed.identity.kind}"

    def _asked_of_folder(self) -> str:
        """Return the doubt that asks what the outermost folder that is not sure is for."""
        folder = self.place.unsure[0]
        return f"{FOLDER_ROLE}: {_either(folder, self.roles[folder])}"

    def _by_slots(self, kind: Kind, name: str) -> SlotReading | None:
        """Return what the slots of its words say of a file of a kind, None for a name without words."""
        key = (kind, sort_of(name))
        if key not in self._slots:
            from lazy_magpie.identify.slots.reading import SlotReader

            beside = self._beside_of(sort_of(name))
            self._slots[key] = SlotReader(kind.value, self.folder, self.roles, beside)
        return self._slots[key].read(stem_of(name))

    def _beside_of(self, sort: str) -> Beside:
        """Return the names of one sort of file in the folder, lined up."""
        if sort not in self._beside:
            self._beside[sort] = Beside.of(stem_of(name) for name in self.all_names if sort_of(name) == sort)
        return self._beside[sort]

    def about(self, name: str) -> tuple[object, ...]:
        """Return what of the names in the folder can say anything about one of them, as plain values."""
        sort = sort_of(name)
        said: list[object] = [ending_among(name, self.endings)]
        if sort == VIDEO:
            said.append(self.counts_on)
        if sort in (PICTURES, OTHERS, BESIDE_FILMS):
            said += [self.names.thing_called(stem_of(name)), self.names.thing_in_front(stem_of(name))]
        if sort not in _NEVER_BY_SLOTS:
            said += self._beside_of(sort).about(name_of_words(stem_of(name)))
        return tuple(said)

    def _by_patterns(self, path: str, reader: Reader) -> Identity:
        """Return what a file is taken for by patterns; in doubt where another role of a folder makes it another."""
        identity = self._read(path, self.place, reader)
        if identity.state is not State.CLEAR or identity.kind not in _HANG_ON_FOLDERS:
            return identity
        name = name_of(path)
        for folder, first, place in self.others:
            if (folder, first.role, first.other) == (self.folder, WORK, CATEGORY) and self.counts_on:
                continue
            if (place.folders, place.shelf_of(name)) == (self.place.folders, self.place.shelf_of(name)):
                continue
            there = self._read(path, place, reader)
            if (there.kind, there.fields) != (identity.kind, identity.fields):
                doubtful = _doubtful(identity, f"{FOLDER_ROLE}: {_either(folder, first)}")
                return replace(doubtful, confidence=min(identity.confidence, first.chance))
        return identity

    def _read(self, path: str, place: RoledPlace, reader: Reader) -> Identity:
        name = name_of(path)
        shelf = place.shelf_of(name)
        found = reader(place.path_of(name), shelf)
        if _LACKING & set(found.doubts) and place.left_out:
            whole = reader(place.whole_path_of(name), shelf)
            if _is_borne_out(found, whole):
                found = whole
        return _adjusted(path, place, found, self.names)


def _is_explained(name: str) -> bool:
    """Say whether a folder's whole name means something, or stands for letters of the alphabet."""
    return bool(meaning(name)) or understand(name).role is FolderRole.LETTERS


def _either(folder: str, reading: FolderReading) -> str:
    """Return in words what a folder may be."""
    one, other = (f"an {role}" if role == OWNER else f"a {role}" for role in (reading.role, reading.other))
    return f"“{name_of(folder)}” may be {one} or {other}".replace("a beside", "what lies beside")


def _is_borne_out(lacking: Identity, whole: Identity) -> bool:
    """Say whether a folder that was taken for a category names what a film or an episode lacks, the rest the same."""
    if whole.kind is not lacking.kind or _LACKING & set(whole.doubts):
        return False
    if whole.kind is Kind.EPISODE:
        return True
    same = match_key(str(whole.fields.get("title", ""))) == match_key(str(lacking.fields.get("title", "")))
    return whole.kind is Kind.MOVIE and same


def joined(by_patterns: Identity, slots: SlotReading) -> Identity:
    """Return a reading by patterns with the values that slots have for its fields."""
    owned = fields_of(by_patterns.kind.value)
    divisions = KINDS[by_patterns.kind.value].fields.get(DIVISION, ())
    kept = {
        key: value
        for key, value in by_patterns.fields.items()
        if key not in owned or (key in divisions and key not in slots.fields)
    }
    why = (
        *(one for one in by_patterns.why if one.field in kept),
        *(Evidence(field, value, *slots.seen[field]) for field, value in slots.fields.items()),
    )
    return replace(by_patterns, fields={**slots.fields, **kept}, why=why)


def agrees(by_patterns: Identity, slots: SlotReading) -> bool:
    """Say whether two readings of one file give the same fields; a division may stand in a word that one can't read."""
    kind = by_patterns.kind.value
    words = {field for field in KINDS[kind].fields.get(DIVISION, ()) if field not in slots.fields}
    pairs = ((by_patterns.fields.get(field, ""), slots.fields.get(field, "")) for field in fields_of(kind) - words)
    return all(match_key(str(one)) == match_key(str(other)) for one, other in pairs)


def around_roles(around: Context, path: str, shelf: Kind | None) -> Context:
    """Return what is known around a file, with endings that mean a game only on the games' shelf."""
    if shelf is not Kind.GAME or not path.endswith(".md"):
        return around
    return replace(around, systems=Systems(around.systems.folders, {**_MORE_SYSTEMS.endings, **around.systems.endings}))


def _adjusted(path: str, read: RoledPlace, identity: Identity, names: FileNames) -> Identity:
    """Return a reading with what the folders around, and the files beside it, add or take."""
    identity = as_belonging(path, read, identity, names)
    if belongs_by_name(path, identity, names):
        return identity
    if identity.kind is Kind.EPISODE:
        identity = without_left_over(identity, split_ending(name_of(path))[0])
    if identity.kind is Kind.DESIGN:
        identity = without_maker(identity)
        if identity.doubts == ("no maker",) and not read.unsure and read.thing is None:
            return replace(identity, state=State.CLEAR, doubts=(), confidence=SURE)
    if identity.kind is Kind.FONT and read.owners and "maker" not in identity.fields:
        identity = replace(identity, fields={**identity.fields, "maker": read.owners[-1]})
    wanted = identity.kind is Kind.KIT and "section" not in identity.fields
    if wanted and (section := role_in(split_ending(name_of(path))[0], _SECTIONS, codes=True)):
        identity = replace(identity, fields={**identity.fields, "section": section})
    if identity.state is State.CLEAR and (doubt := left_over(path, read, identity, names)):
        return _doubtful(identity, doubt)
    return identity


def _doubtful(identity: Identity, doubt: str) -> Identity:
    return replace(identity, state=State.DOUBTFUL, doubts=(*identity.doubts, doubt))
