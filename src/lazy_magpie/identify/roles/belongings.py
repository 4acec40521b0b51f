"""What lies with a thing and belongs to it: its pictures and papers, saves, lists, by their words and their place."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from lazy_magpie.identify import file_types
from lazy_magpie.identify.companions import companion_of_something as companion
from lazy_magpie.identify.placeholders import is_cameras
from lazy_magpie.identify.roles.features import AUDIO, FONTS, IMAGES, OTHERS, PICTURES, STITCHES, matter_of
from lazy_magpie.identify.roles.left_over import BELONGS, FOLDER_ROLE, FileNames, is_list_alone
from lazy_magpie.identify.roles.place import OWNER, WORK, RoledPlace
from lazy_magpie.model import Identity, Kind, State
from lazy_magpie.paths import name_of, split_ending
from lazy_magpie.words import folded, meaning, role_in

_ROLES: Mapping[str, str] = {
    "licence.": "licence", "role.instructions": "instructions", "role.chart": "chart", "role.thumbnail": "thumbnail",
    "role.preview": "thumbnail", "document.readme": "info", "picture.cover": "cover", "picture.poster": "cover",
    "picture.back": "cover", "picture.booklet": "cover", "picture.disc": "cover", "game.boxart": "cover",
    "picture.artwork": "cover", "picture.scans": "cover", "game.manual": "instructions",
}  # fmt: skip
"""What concepts say of a file that lies beside a thing."""
_PAPERS, _OF_PAPERS = frozenset(["licence", "instructions", "info"]), ("licence.", "role.", "document.readme")
"""Papers that are nothing without the thing that they are about, where they are called by nothing else."""
_PICTURED = frozenset(["cover", "backdrop", "thumbnail"])
"""What only pictures are, or a paper that is called by nothing else."""
_SAVES = frozenset(".sav .srm .state .ss .eep .sra .fla .mcr .mcd .dsv".split())
_WITH_GAMES = frozenset(".xml .m3u .ips .bps .ups .xdelta .ppf .txt .pdf .cht".split())
_NOTES = (".txt", ".nfo", ".log", ".md", ".rtf")
BESIDE_KINDS = frozenset([Kind.PICTURE, Kind.DOCUMENT, Kind.UNKNOWN])


def as_belonging(path: str, read: RoledPlace, identity: Identity, names: FileNames) -> Identity:
    """Return a picture or paper that lies with a thing as its companion, where a word or the place says so."""
    stem, ending = split_ending(name_of(path))
    if identity.kind in BESIDE_KINDS and (matter := thing_named(name_of(path), identity.kind, names)):
        return companion(_role_beside(stem, identity.kind) or _usual_role(identity.kind, matter), stem)
    matters = {reading.matter for reading in (read.thing, read.holder) if reading} - {PICTURES, OTHERS}
    if IMAGES in matters and ending.lower() in _WITH_GAMES:
        return companion("other", stem)
    if _is_by_itself_beside(name_of(path), identity.kind, names):
        return companion("cover" if identity.kind is Kind.KIT else "other", stem)
    if not matters and identity.kind is Kind.COMPANION and file_types.BY_ENDING.get(ending.lower()) is Kind.PICTURE:
        return Identity(Kind.PICTURE, State.CLEAR, 0.9, {"title": stem})  # there is nothing that it could belong to
    if identity.kind not in BESIDE_KINDS or is_cameras(stem):
        return identity
    role = _role_beside(stem, identity.kind)
    if role in _PAPERS and _says_paper(stem):
        return companion(role, stem)  # whatever it lies with
    if read.beside and identity.kind is Kind.PICTURE and (there := role_in(read.beside, _ROLES)):
        return companion(role or there, stem)
    if role and (matters or any(concept.startswith("picture.cover") for concept in meaning(stem))):
        return companion(role, stem)
    return _by_place(stem, read, identity, names, matters)


def thing_named(name: str, kind: Kind, names: FileNames) -> str:
    """Return what the thing is, a file beside it, after which a file of a kind is named; "" where there is none.

    It needs no other reason to belong to it. A camera's number is no name; a text of its own may be called as a song.
    """
    stem, ending = split_ending(name)
    if matter_of(name) not in (PICTURES, OTHERS) or is_cameras(stem):
        return ""
    matter = names.thing_called(stem)
    if not matter and kind in (Kind.COMPANION, Kind.DOCUMENT):
        matter = names.thing_in_front(stem)
    is_own = kind is Kind.DOCUMENT and matter == AUDIO and ending.lower() not in _NOTES
    return "" if is_own else matter


def belongs_by_name(path: str, identity: Identity, names: FileNames) -> bool:
    """Say whether a companion is named after a thing beside it, which is reason enough."""
    return identity.kind is Kind.COMPANION and bool(thing_named(name_of(path), identity.kind, names))


def _usual_role(kind: Kind, matter: str) -> str:
    """Return what a picture, a paper or anything else is beside a thing after which it is named."""
    if kind is Kind.PICTURE:
        return "thumbnail" if matter in (STITCHES, FONTS) else "cover"
    if kind is Kind.DOCUMENT:
        return "chart" if matter == STITCHES else "info"
    return "other"


def _is_by_itself_beside(name: str, kind: Kind, names: FileNames) -> bool:
    """Say whether a file is beside others wherever it lies: a saved game, a list of games, a folder's picture."""
    stem, ending = split_ending(name)
    is_save = ending.lower().rstrip("0123456789") in _SAVES or ".state" in name.lower()
    is_list = kind is Kind.GAME and is_list_alone(name, names)
    return is_save or is_list or (kind is Kind.KIT and stem.lower() == "folder")


def _by_place(stem: str, read: RoledPlace, identity: Identity, names: FileNames, matters: set[str]) -> Identity:
    """Return a picture or paper without a word for what it is as the companion that its place makes it."""
    key = folded(stem)
    if matters & {STITCHES, FONTS, IMAGES} and any(key.startswith(other) for other in names.stems if other):
        if IMAGES in matters:
            return companion("cover" if identity.kind is Kind.PICTURE else "other", stem)
        return companion("thumbnail" if identity.kind is Kind.PICTURE else "chart", stem)
    if read.thing and read.thing.role in (OWNER, WORK) and matters & {STITCHES, FONTS}:
        return companion("other", stem)
    if matters and read.thing and read.thing.role == WORK:
        if identity.kind is Kind.PICTURE and AUDIO in matters:
            return companion("cover", stem)
        doubt = f"{FOLDER_ROLE}: “{stem}” {BELONGS}"
        return replace(identity, state=State.DOUBTFUL, doubts=(*identity.doubts, doubt))
    return identity


def _role_beside(stem: str, kind: Kind) -> str:
    """Return what words of a name say that a picture or paper is beside a thing: an invoice for a box is no cover."""
    role = role_in(stem, _ROLES)
    return "" if role in _PICTURED and kind is Kind.DOCUMENT and not meaning(stem) else role


def _says_paper(stem: str) -> bool:
    """Say whether a whole name can mean nothing but a paper that goes with a thing."""
    return any(strength == 2 and concept.startswith(_OF_PAPERS) for concept, strength in meaning(stem).items())
