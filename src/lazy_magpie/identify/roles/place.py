"""What the roles of folders say of a file: its path without categories, divisions in one language; its shelf."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

from lazy_magpie.identify import file_types
from lazy_magpie.identify.folders import FolderRole, understand
from lazy_magpie.identify.roles.features import (
    AUDIO,
    FONTS,
    IMAGES,
    OTHERS,
    PICTURES,
    STITCHES,
    VIDEO,
    group_of,
    matter_of,
)
from lazy_magpie.model import Kind
from lazy_magpie.paths import name_of, parent, split_ending
from lazy_magpie.patterns import pattern
from lazy_magpie.words import folded, meaning, remembered

SURE = 0.9
"""So likely is at the least what a folder is taken for where nobody has to ask."""
CATEGORY, OWNER, WORK, DIVISION, BESIDE = ROLES = ("category", "owner", "work", "division", "beside")
"""A shelf or any other group of things; who made or sold them; a work (film, show, album, kit, family, set); a part of
one; what lies beside it."""


_SURENESS = ((0.97, "certain"), (SURE, "sure"), (0.7, "likely"))


class FolderReading(NamedTuple):
    """What a folder is taken for, how likely that is, what else it would be, and what it holds most of.

    `told` says that a person said so.
    """

    role: str
    chance: float
    other: str
    matter: str = OTHERS
    told: bool = False

    def as_told(self, role: str) -> FolderReading:
        """Return what it is taken for where a person has said it."""
        return self._replace(role=role, chance=1.0, told=True)

    @property
    def sureness(self) -> str:
        """How sure it is, in a word: "certain", "sure" (nobody has to ask), "likely", "unsure"."""
        return next((word for least, word in _SURENESS if self.chance >= least), "unsure")

    @property
    def is_sure(self) -> bool:
        """Say whether nobody has to ask what the folder is for."""
        return self.chance >= SURE


_SHELF_KINDS: Mapping[str, Kind] = {
    "shelf.kits": Kind.KIT, "shelf.embroidery": Kind.DESIGN, "shelf.designs": Kind.DESIGN,
    "shelf.fonts": Kind.FONT, "shelf.games": Kind.GAME, "shelf.music": Kind.TRACK, "shelf.audio_books": Kind.TRACK,
    "shelf.radio_plays": Kind.TRACK, "shelf.classical": Kind.TRACK, "shelf.films": Kind.MOVIE,
    "shelf.series": Kind.EPISODE, "shelf.clipart": Kind.KIT, "shelf.cutfiles": Kind.KIT,
}  # fmt: skip
"""The kind of thing that stands on a shelf of this concept, where it says one."""
_MATTER_KINDS = {AUDIO: Kind.TRACK, STITCHES: Kind.DESIGN, FONTS: Kind.FONT, IMAGES: Kind.GAME}
_FIRMWARE = "BIOS"
"""What a folder of what systems start with is called by the readers of names."""
_DIGITS = pattern(r"\d+")
_EXTRAS = {"extra.trailer": "Trailers", "extra.deleted_scene": "Deleted Scenes", "extra.interview": "Interviews",
           "extra.behind_the_scenes": "Behind the Scenes", "extra.featurette": "Featurettes",
           "extra.other": "Extras", "sample": "Sample"}  # fmt: skip


@remembered(4096)
def shelf_kind(name: str) -> Kind | None:
    """Return the kind of the shelf that a folder's whole name says it is, None where it says none."""
    kinds = {_SHELF_KINDS[concept]: strength for concept, strength in meaning(name).items() if concept in _SHELF_KINDS}
    return max(kinds, key=lambda kind: kinds[kind]) if kinds else None


@remembered(4096)
def number_in(name: str) -> int:
    """Return the number that a name has, in digits or in a word, 0 for none."""
    if digits := _DIGITS.search(folded(name)):
        return int(digits[0])
    for word in folded(name).split():
        for concept in meaning(word):
            front, _, number = concept.partition(".")
            if front in ("ordinal", "number") and number.isdecimal():
                return int(number)
    return 0


@remembered(4096)
def division(name: str) -> str:
    """Return a division's name as the readers know it: "Season 2", "CD 1", "papers"; its own where that is unknown."""
    concepts = meaning(name)
    number = number_in(name)
    if "season" in concepts and number:
        return f"Season {number}"
    if ("disc" in concepts or "medium.disc" in concepts) and number:
        return f"CD {number}"
    if concepts.get("special") == 2:
        return "Specials"
    section = next((concept for concept in concepts if concept.startswith("section.")), "")
    return section.partition(".")[2].replace("_", " ") if section else name


@remembered(4096)
def _beside(name: str) -> str:
    if _is_beside(name):
        return name
    concepts = meaning(name)
    if "subtitles.folder" in concepts or "subtitles" in concepts:
        return "Subs"
    return next((_EXTRAS[concept] for concept in concepts if concept in _EXTRAS), name)


_ICONS = pattern(r"(?i)(16|2[24]|32|36|48|64|72|96|128|192|256|512|1024)(?:x\1)?(?:@\d)?|scalable")
"""A folder of icons, by their size in points; twelve by twelve inches is paper of a kit."""


@dataclass
class RoledPlace:
    """What the roles of a folder, and of those above it, say of its files.

    `folders` are the names that are kept of a path, `unsure` the folders whose role is not sure, `owners` the names of
    the owners, `told_owner` the one that a person named, `certain_owner` the only one if it is certain, `work` the name
    of the nearest work, `beside` that of the nearest folder of what lies beside one. `with_left_out` are the names with
    those of categories that no word tells, `left_out` says that there are such. `thing` is what the nearest folder
    is taken for that is an owner or a work, `holder` the folder itself.
    """

    folders: list[str] = field(default_factory=list)
    shelf: Kind | None = None
    unsure: list[str] = field(default_factory=list)
    owners: list[str] = field(default_factory=list)
    work: str = ""
    beside: str = ""
    with_left_out: list[str] = field(default_factory=list)
    left_out: bool = False
    told_owner: str = ""
    certain_owner: str = ""
    thing: FolderReading | None = None
    holder: FolderReading | None = None
    is_of_photos: bool = False
    is_pictures_only: bool = False
    is_of_letters: bool = False
    is_of_system: bool = False

    def take(self, folder: str, reading: FolderReading) -> None:
        """Take in the next folder, from the top down."""
        name = name_of(folder)
        reading = self.holder = by_words(name, reading)
        of_pictures = is_of_pictures(folder, reading.matter)
        self.is_pictures_only |= of_pictures
        self.is_of_photos |= of_pictures
        if reading.matter == IMAGES and reading.role == OWNER and _is_system(name):
            self.is_of_system = True  # what stands above it says nothing more
            self.folders = [one for one in self.folders if one == _FIRMWARE]
            self.owners, self.unsure = [], []
        if not reading.is_sure or (reading.role == OWNER and _is_group(name) and not reading.told):
            self.unsure.append(folder)
        if reading.role in (OWNER, WORK):
            self.thing = reading
        if reading.role == BESIDE or _is_of_pictures(name):
            self.beside = name
        self.is_of_letters |= _is_of_letters(name)
        kept = len(self.folders)
        self._take_role(name, reading)
        self.with_left_out += self.folders[kept:]
        if len(self.folders) == kept and not reading.told and not meaning(name):
            self.with_left_out.append(name)
            self.left_out = True

    def _take_role(self, name: str, reading: FolderReading) -> None:
        match reading.role:
            case "category":
                self._take_category(name)
            case "division":
                self.folders.append(division(name))
            case "beside":
                self.folders.append(_beside(name))
            case "owner":
                self.owners.append(name)
                self.told_owner = name if reading.told else self.told_owner
                self.certain_owner = name if reading.sureness == "certain" and len(self.owners) == 1 else ""
                self.folders.append(name)
            case _:
                self.work = name
                self.folders.append(name)

    def _take_category(self, name: str) -> None:
        self.shelf = shelf_kind(name) or self.shelf
        self.is_of_photos |= "shelf.pictures" in meaning(name)
        self.is_of_letters |= understand(name).kind is Kind.FONT
        some = meaning(name)
        if "various_artists" in some:
            self.folders.append(name)
        elif some.get("firmware") == 2:
            self.folders.append(_FIRMWARE)

    def whole_path_of(self, name: str) -> str:
        """Return the path of a file with the folders of unknown names that were left out of it as categories."""
        return "/".join([*self.with_left_out, name])

    def path_of(self, name: str) -> str:
        """Return the path of a file as the roles of its folders have it."""
        fonts = ["Fonts"] if self.is_of_letters and self.shelf_of(name) is Kind.DESIGN else []
        return "/".join([*fonts, *self.folders, name])

    def shelf_of(self, name: str) -> Kind | None:
        """Return the kind of the shelf that a file stands on, None where nothing says it."""
        matter, thing = matter_of(name), self.thing.matter if self.thing else OTHERS
        if matter == IMAGES and thing == AUDIO:  # a record's cue sheet
            matter = AUDIO
        elif split_ending(name)[1].lower() in file_types.IMAGES:  # by its ending alone it may be anything
            matter = OTHERS
            thing = OTHERS if thing == IMAGES and not self.is_of_system else thing
        shelf = _MATTER_KINDS.get(matter) or _MATTER_KINDS.get(thing) or self.shelf
        if shelf is Kind.GAME and _FIRMWARE in self.folders:
            return Kind.FIRMWARE
        return Kind.KIT if shelf is None and thing == PICTURES and not self.is_of_photos else shelf


def is_of_pictures(folder: str, matter: str) -> bool:
    """Say whether pictures in a folder can lie beside nothing: at the top it is called "Pictures" and holds nothing
    else, or it is called by the size of its icons."""
    if matter != PICTURES:
        return False
    of_icons = _ICONS.fullmatch(name_of(folder)) is not None
    return of_icons or ("/" not in folder and meaning(folder).get("shelf.pictures") == 2)


def by_words(name: str, reading: FolderReading) -> FolderReading:
    """Return what a folder is taken for, surely where its whole name can mean but one thing."""
    role = reading.role
    if reading.told:
        return reading
    if _is_systems(name) or meaning(name).get("firmware") == 2 or (role == CATEGORY and _is_group(name)):
        return FolderReading(CATEGORY, 1.0, OWNER, reading.matter)
    if reading.matter == IMAGES and _is_system(name):
        return FolderReading(OWNER, 1.0, CATEGORY, IMAGES)
    if role != DIVISION and _divides(name):
        return FolderReading(DIVISION, 1.0, role, reading.matter)
    if role != BESIDE and _is_beside(name):
        return FolderReading(BESIDE, 1.0, role, reading.matter)
    if reading.matter == VIDEO and role != WORK and _is_of_show(name):
        return FolderReading(WORK, 1.0, role, VIDEO)
    if (role in (OWNER, CATEGORY) and _is_place(name)) or (role in (OWNER, CATEGORY, WORK) and _sorts(name)):
        return FolderReading(CATEGORY, 1.0, OWNER, reading.matter)
    if role == OWNER and _is_nobody(name):
        return FolderReading(CATEGORY, reading.chance, OWNER, reading.matter)
    return reading


def place_by_roles(folder: str, readings: Mapping[str, FolderReading]) -> RoledPlace:
    """Return what the roles of a folder and those above it say; a folder without a role stands for itself."""
    above = []
    while folder:
        above.append(folder)
        folder = parent(folder)
    place = RoledPlace()
    for one in reversed(above):
        if one in readings:
            place.take(one, readings[one])
        else:
            place.folders.append(name_of(one))
    return place


@remembered(4096)
def _is_of_show(name: str) -> bool:
    """Say whether a folder is called by a show and its season or episode: "Gull.Lane.S02.720p"."""
    folder = understand(name)
    return bool(folder.title) and folder.role in (FolderRole.SEASON, FolderRole.EPISODE)


@remembered(4096)
def _is_beside(name: str) -> bool:
    """Say whether a whole name is a word for extras or companions that the readers know."""
    return understand(name).role in (FolderRole.EXTRAS, FolderRole.COMPANIONS)


@remembered(4096)
def _is_place(name: str) -> bool:
    """Say whether a name can be one for nothing but a place where things are put: "Heap", "Old disk", "A-L"."""
    role = understand(name).role
    return role is FolderRole.GENERIC or (role is FolderRole.LETTERS and len(name) > 1)


@remembered(4096)
def _sorts(name: str) -> bool:
    """Say whether a whole name can only say by what things are sorted: "by hoop", "nach Stil", "Makers"."""
    return any(
        strength == 2 and (concept == "folder.sets" or group_of(concept) == "owners")
        for concept, strength in meaning(name).items()
    )


@remembered(4096)
def _is_nobody(name: str) -> bool:
    """Say whether a name is one for a place rather than for anybody: "Heap", "Old disk", "A-L", "1998"."""
    return understand(name).role in (FolderRole.GENERIC, FolderRole.SHELF, FolderRole.LETTERS, FolderRole.YEARS)


@remembered(4096)
def _is_systems(name: str) -> bool:
    """Say whether a whole name is a word for several game systems."""
    return any(group_of(concept) == "systems" for concept in meaning(name))


@remembered(4096)
def _is_group(name: str) -> bool:
    """Say whether a whole name is a word for a group of things, which is hardly anybody's name."""
    return any(group_of(concept) in ("shelf", "state", "genre", "various", "owners") for concept in meaning(name))


@remembered(4096)
def _is_of_pictures(name: str) -> bool:
    """Say whether a whole name is a word for the pictures of other things."""
    return any(concept in ("game.boxart", "picture.artwork", "picture.scans") for concept in meaning(name))


@remembered(4096)
def _is_of_letters(name: str) -> bool:
    """Say whether a whole name is a word for alphabets that are sewn."""
    some = ("embroidery.font", "theme.alphabet", "section.alphabets")
    return any(concept in some for concept in meaning(name))


@remembered(4096)
def _is_system(name: str) -> bool:
    """Say whether a whole name is a game system's short code or name."""
    return any(group_of(concept) == "system" and strength for concept, strength in meaning(name).items())


@remembered(4096)
def _divides(name: str) -> bool:
    """Say whether a whole name can be nothing but a numbered part of a work: a season, a disc."""
    concepts = meaning(name)
    numbered = any(concepts.get(concept) == 2 for concept in ("season", "disc")) and bool(number_in(name))
    return numbered or (understand(name).role is FolderRole.SEASON and not understand(name).title)


def reading_of(chances: Sequence[float], roles: Sequence[str], matter: str) -> FolderReading:
    """Return what a folder is taken for, from the probability of each role, and what it holds most of.

    A category and what lies beside are left out of a thing's name alike: either will do.
    """
    order = sorted(range(len(roles)), key=lambda at: -chances[at])
    best, chance = roles[order[0]], chances[order[0]]
    alike = (CATEGORY, BESIDE)
    if best in alike:
        chance = sum(chances[roles.index(role)] for role in alike)
    other = next(roles[at] for at in order[1:] if best not in alike or roles[at] not in alike)
    return FolderReading(best, float(chance), other, matter)
