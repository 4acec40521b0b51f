"""Doubts about what is left of a name: it may be no title, no artist, or say more than one thing. One check a kind."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass

from lazy_magpie.identify import embedded_tags
from lazy_magpie.identify.roles.features import AUDIO, FONTS, IMAGES, OTHERS, PICTURES, STITCHES, matter_of
from lazy_magpie.identify.roles.place import RoledPlace
from lazy_magpie.model import Identity, Kind
from lazy_magpie.paths import name_of, same_name, split_ending
from lazy_magpie.patterns import pattern
from lazy_magpie.words import folded, inside, meaning

FOLDER_ROLE = "role of a folder"
"""The doubt that would be settled by what a folder is for."""
BESIDE_OR_ALONE = "beside or alone"
"""The doubt of what lies beside other things, where nothing else can be asked."""
BELONGS = "may belong to what lies beside it"
"""How that doubt ends where it is asked of a paper or a picture."""
LEFT_OVER = "left over"
"""The doubt that what is left of a name may be no title."""
_MOST_WORDS = 6
"""A maker, an artist or a show has hardly more words."""
_NO_TITLE = ("release.", "episode", "audio.", "complete", "tv.")
_NO_SHOW = ("episode", "part", "disc", "season", "shelf.", "track")
_FACES = ("font.weight", "font.slope", "font.width")
_DATED = pattern(r"(?:19|20)\d\d[-.]\d\d")
_INITIALS_IN_FRONT = pattern(r"^[A-Z]{2,4} ")
_BRACKETED = pattern(r"[(\[][^()\[\]]*[)\]]")
_SUNG_BY = pattern(r"^(?:\d{1,3}[ ._-]+)?([^\W\d_][^-–]*?) [-–] .")
_SOLD = pattern(r"^[^\W\d_][^-_]*[^\W_](?: - |_)[^\W_].*$")
_SOLD_KINDS = frozenset([Kind.DESIGN, Kind.KIT, Kind.FONT])
_ARTICLE = 2
"""Words of so few letters may be articles: "De Naaikamer"."""
_SHORT = 5
"""A name of so few letters may begin another by chance."""
_BEHIND_NAMES = " -_.(["
PLAY_LISTS = (".m3u", ".m3u8")


@dataclass(frozen=True)
class FileNames:
    """What the names of a folder's files say together.

    `stems` are those of designs, fonts and games, folded and without endings; `matters` has what each thing is by the
    key of its stem; `backs` are what stands behind a dash in several songs. `is_mixed` says that each song has a name
    in front, and no name most of them.
    """

    stems: frozenset[str]
    matters: Mapping[str, str]
    backs: frozenset[str]
    is_mixed: bool

    def thing_called(self, stem: str) -> str:
        """Return what the thing is that a stem is the name of, "" where none beside it is called so."""
        return self.matters.get(same_name(stem), "")

    def thing_in_front(self, stem: str) -> str:
        """Return what the thing is whose whole name stands in front in a stem, with more behind; "" for none."""
        key = same_name(stem)
        for at in range(len(key) - 1, _SHORT, -1):
            if key[at] in _BEHIND_NAMES and (matter := self.matters.get(key[:at].rstrip(_BEHIND_NAMES))):
                return matter
        return ""


def file_names(names: Iterable[str]) -> FileNames:
    """Return what the names of a folder's files say together."""
    stems, backs, fronts, songs = set(), Counter[str](), Counter[str](), 0
    matters: dict[str, str] = {}
    for name in names:
        matter = matter_of(name)
        if matter not in (PICTURES, OTHERS):
            matters[same_name(split_ending(name)[0])] = matter
        if matter == AUDIO:
            songs += 1
            if match := _SUNG_BY.match(name):
                fronts[folded(match[1])] += 1
        if matter in (STITCHES, FONTS, IMAGES):
            stems.add(folded(split_ending(name)[0]))
        elif matter == AUDIO and " - " in name:
            backs[folded(split_ending(name)[0].rpartition(" - ")[2])] += 1
    several = frozenset(back for back, count in backs.items() if count > 1)
    is_mixed = len(fronts) > 1 and sum(fronts.values()) == songs and 2 * max(fronts.values()) <= songs
    return FileNames(frozenset(stems), matters, several, is_mixed)


def is_list_alone(name: str, names: FileNames) -> bool:
    """Say whether a file is a play list of discs that are out of sight: none beside it is called so, with more behind.

    It is no game by itself then, but belongs to one.
    """
    stem, ending = split_ending(name)
    key = folded(stem)
    return ending.lower() in PLAY_LISTS and not any(other.startswith(key) and other != key for other in names.stems)


@dataclass(frozen=True)
class _Reading:
    """A clear reading that is looked at again: the name it was read from, its place, and what lies beside."""

    stem: str
    place: RoledPlace
    identity: Identity
    names: FileNames

    def text(self, field: str) -> str:
        """Return a field as text, "" for none."""
        return str(self.identity.fields.get(field, ""))


def left_over(path: str, place: RoledPlace, identity: Identity, names: FileNames) -> str:
    """Return the doubt that something in a clear reading is no name, "" where nothing speaks for that."""
    read = _Reading(split_ending(name_of(path))[0], place, identity, names)
    if len(place.owners) > 1 and identity.kind in OF_OWNERS:
        return f"{FOLDER_ROLE}: “{place.owners[0]}” or “{place.owners[-1]}” may be the maker or the artist"
    for field in ("maker", "artist", "show"):
        if len(read.text(field).split()) > _MOST_WORDS:
            return f"{LEFT_OVER}: “{read.text(field)}” may be no name"
    check = _CHECKS.get(identity.kind)
    return check(read) if check else ""


def maker_in_doubt(identity: Identity) -> str:
    """Return the doubt about a maker that is a folder's name: a thing's own folder, or one for who gave it."""
    if identity.kind not in _SOLD_KINDS or "maker" not in identity.fields:
        return ""
    maker, title = str(identity.fields["maker"]), str(identity.fields.get("title", ""))
    if folded(maker) == folded(title):
        return f"{FOLDER_ROLE}: “{maker}” may be its own folder, and no maker"
    first = maker.split(" ", maxsplit=1)[0]
    if len(first) > _ARTICLE and "by_line" in meaning(first):  # "From Margaret"
        return f"{FOLDER_ROLE}: “{maker}” may be whom it came from, and no maker"
    return ""


def album_in_doubt(identity: Identity, folder: str, work: str) -> str:
    """Return the doubt that an album's title is but the beginning of its folder's name, a day and more, or missing."""
    album = folded(said := str(identity.fields.get("album", "")))
    if identity.kind is not Kind.TRACK:
        return ""
    if not album:
        called = folded(work) and folded(work) != folded(str(identity.fields.get("artist", "")))
        return f"{LEFT_OVER}: “{work}” may be the album" if called else ""
    if _DATED.match(said):
        return f"{FOLDER_ROLE}: “{said}” may be an artist and an album"
    bare = (_BRACKETED.sub(" ", name) for name in folder.split("/"))
    longer = next((name.strip() for name in bare if folded(name).startswith(f"{album} ")), "")
    return f"{LEFT_OVER}: “{longer}” may be the whole title of the album" if longer else ""


def _of_paper(read: _Reading) -> str:
    return f"{FOLDER_ROLE}: “{read.stem}” {BELONGS}" if read.names.matters else ""


def _of_archive(read: _Reading) -> str:
    return f"{LEFT_OVER}: “{read.stem}” may be sold by a maker" if _SOLD.match(read.stem) else ""


def _of_song(read: _Reading) -> str:
    album, title, artist = read.text("album"), read.text("title"), read.text("artist")
    if folded(title) in read.names.backs and not read.place.owners:
        return f"order of names: “{title}” or “{artist}” may be the artist"
    if " - " in album or _DATED.match(album):
        return f"{FOLDER_ROLE}: “{album}” may be an artist and an album"
    if "(" in album or "[" in album or _says_whole(album, ("shelf.", "various_artists")):
        return f"{LEFT_OVER}: “{album}” may say more than the album's title"
    if _says(title, ("side", "disc", "track.number")) and any(sign.isdecimal() for sign in title):
        return f"{LEFT_OVER}: “{title}” may say more than the title"
    return f"{LEFT_OVER}: “{artist}” may say more than the artist" if re.search(r"\d{3,}", artist) else ""


def _of_design(read: _Reading) -> str:
    title = read.text("title")
    if " - " in title or _says(title, ("format.word", "complete", "folder.zips")):
        return f"{LEFT_OVER}: “{title}” may say more than the title"
    if len(title.split(" ")[-1]) == 1:
        return f"{LEFT_OVER}: “{title}” may be a letter of a font"
    return f"{LEFT_OVER}: “{title}” may begin with the maker's initials" if _INITIALS_IN_FRONT.match(title) else ""


def _of_kit(read: _Reading) -> str:
    title = read.text("title")
    return f"{FOLDER_ROLE}: “{title}” may be a maker and a kit" if " - " in title else ""


def _of_font(read: _Reading) -> str:
    if read.identity.confidence >= embedded_tags.TOLD:  # the font itself says so
        return ""
    front, _, last = read.text("family").rpartition(" ")
    return f"{LEFT_OVER}: “{last}” of “{front} {last}” may be the style" if front and _says(last, _FACES) else ""


def _of_episode(read: _Reading) -> str:
    title, show = read.text("episode_title"), read.text("show")
    if read.place.work and _is_other_show(show, read.place.work):
        return f"folder disagrees: it says {read.place.work}"
    if _says(title, _NO_TITLE) or _says_whole(title, ("part",)):
        return f"{LEFT_OVER}: “{title}” may be no title"
    if _says_whole(show.split(" - ")[-1], _NO_SHOW):
        return f"{LEFT_OVER}: “{show}” may be no show"
    dated = "air_date" in read.identity.fields and "_" in read.stem
    return f"{LEFT_OVER}: “{read.stem}” may say more than the show" if dated else ""


def _of_film(read: _Reading) -> str:
    if _says_whole(read.stem.partition(" - ")[0], ("copy_of", "folder.copy")):
        return f"{LEFT_OVER}: “{read.stem}” may be a copy"
    is_part = not read.text("part") and _says(read.stem.rpartition(")")[2], ("part", "disc"))
    return f"{LEFT_OVER}: “{read.stem}” may be a part of a film" if is_part else ""


OF_OWNERS = frozenset([Kind.TRACK, Kind.DESIGN, Kind.KIT, Kind.FONT])
"""Kinds of things that somebody made or sold, in whose folder they lie."""
_CHECKS: Mapping[Kind, Callable[[_Reading], str]] = {
    Kind.DOCUMENT: _of_paper,
    Kind.PICTURE: _of_paper,
    Kind.ARCHIVE: _of_archive,
    Kind.TRACK: _of_song,
    Kind.DESIGN: _of_design,
    Kind.KIT: _of_kit,
    Kind.FONT: _of_font,
    Kind.EPISODE: _of_episode,
    Kind.MOVIE: _of_film,
}
"""What speaks against a clear reading of each kind."""


def _is_other_show(show: str, work: str) -> bool:
    """Say whether a show is called by more than its folder, or in another script."""
    here, there = folded(show), folded(re.sub(r"[(\[].*", "", work))
    longer = bool(there) and here.startswith(there) and here != there and not here.startswith(folded(work))
    return longer or (here.isascii() != there.isascii() and bool(there))


def _says(text: str, concepts: tuple[str, ...]) -> bool:
    """Say whether any phrase in a text has a concept that begins so."""
    return any(
        concept.startswith(concepts) and strength for some, _ in inside(text) for concept, strength in some.items()
    )


def _says_whole(text: str, concepts: tuple[str, ...]) -> bool:
    """Say whether a whole text, numbers apart, has a concept that begins so."""
    words = " ".join(word for word in text.split() if not word.isdecimal())
    some = {**meaning(text), **meaning(f"{words} 1"), **meaning(words)}
    return bool(words) and any(concept.startswith(concepts) for concept in some)
