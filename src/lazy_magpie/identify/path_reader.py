"""A whole path into an identity: its name, the folders above it, and what is known around it, weighed together."""

from __future__ import annotations

import unicodedata
from collections.abc import Callable, Mapping
from functools import lru_cache
from typing import NamedTuple

from lazy_magpie.identify import (
    beside_data,
    companions,
    designs,
    embedded_tags,
    file_types,
    fonts,
    games,
    kits,
    papers,
    placeholders,
    songs,
)
from lazy_magpie.identify.candidates import best_candidate
from lazy_magpie.identify.context import NO_CONTEXT, Context
from lazy_magpie.identify.folders import FolderContext, place_of
from lazy_magpie.identify.title_text import match_key, spaced_once
from lazy_magpie.identify.tokenizer import tokenize, without_copy
from lazy_magpie.identify.video import owner, video
from lazy_magpie.identify.vocabulary import DISC_FOLDERS
from lazy_magpie.model import Evidence, Identity, Kind, State, Value
from lazy_magpie.paths import join, name_of, parent, split_ending
from lazy_magpie.split_archives import is_volume
from lazy_magpie.words import is_junk, is_unfinished


class _Named(NamedTuple):
    """A file to be understood: its name without ending, the ending in small letters, where it lies."""

    stem: str
    ending: str
    place: FolderContext
    around: Context

    @property
    def bare(self) -> str:
        """The stem without what says that the file is a second copy."""
        return without_copy(self.stem)


def not_understood(error: Exception) -> Identity:
    """Return what a name is that an unforeseen `error` kept from being understood: unknown, and why."""
    doubt = f"name not understood: {type(error).__name__}: {error}"
    return Identity(Kind.UNKNOWN, State.UNKNOWN, 0.0, {}, doubts=(doubt,))


def identify(path: str, shelf: Kind | None = None, around: Context = NO_CONTEXT) -> Identity:
    """Say what the file at `path` is, from its name, the folders above it, and what is known around it.

    `path` is relative to the root, with `/`; `shelf` is the kind of the shelf that it stands on, if any.
    """
    return placeholders.doubted(_identified(path, shelf, around))


def _identified(path: str, shelf: Kind | None, around: Context) -> Identity:
    if not path.isascii():
        path = unicodedata.normalize("NFC", path)
    folder, name = parent(path), name_of(path)
    if is_junk(name):
        return _plain(Kind.JUNK, "ending", name)
    if is_unfinished(name):
        return _plain(Kind.UNFINISHED, "ending", name)
    if is_volume(name):
        return _plain(Kind.ARCHIVE, "ending", name)
    stem, ending = split_ending(name)
    stem, ending = spaced_once(file_types.without_second_ending(stem, ending)), ending.lower()
    place = place_of(folder)
    if shelf and not (shelf is Kind.DESIGN and place.shelf is Kind.FONT):  # fonts of stitch files among the designs
        place = place.on_shelf(shelf)
    if disc := disc_folder(path):
        return _disc(parent(disc), shelf)
    named = _Named(stem, ending, place, around)
    if (
        ending in file_types.BESIDE_SONGS
        and place.shelf in (None, Kind.TRACK)
        and (place.shelf or around.siblings.songs)
    ):
        return _beside_songs(named)
    if ending in file_types.IMAGES and (image := _image(named)):
        return image
    kind = Kind.MOVIE if ending in file_types.VIDEO else _likely(named)
    return _BY_KIND.get(kind, _other)(named) if kind else _other(named)


def _likely(named: _Named) -> Kind | None:
    """Return the kind that a file's ending, or a paper's name without one, makes likely."""
    if named.ending in named.around.systems.endings:
        return Kind.GAME
    if named.place.shelf is Kind.PICTURE and named.ending in file_types.DRAWINGS:
        return Kind.PICTURE
    return file_types.BY_ENDING.get(named.ending) or (Kind.DOCUMENT if file_types.is_paper(named.stem) else None)


def disc_folder(path: str) -> str:
    """Return the outermost folder at or above `path` that is a disc laid out by its standard, "" if there is none."""
    folder = parent(path)
    if disc := _disc_above(folder):
        return disc
    return path if name_of(path).lower() in DISC_FOLDERS else ""


@lru_cache(maxsize=4096)
def _disc_above(folder: str) -> str:
    """Return the outermost folder at or above `folder` that is a disc, "" if there is none."""
    at = ""
    for part in folder.split("/"):
        at = join(at, part)
        if part.lower() in DISC_FOLDERS:
            return at
    return ""


def _disc(folder: str, shelf: Kind | None) -> Identity:
    """A disc folder is what the folder around it is called."""
    place = place_of(parent(folder))
    return video(name_of(folder), place.on_shelf(shelf) if shelf else place, "")


def _video(named: _Named) -> Identity:
    found = video(named.stem, named.place, named.ending, named.around)
    found = embedded_tags.film(found, named.around.tags) if named.around.tags else found
    return beside_data.weighed(found, named.around.data) if named.around.data else found


def _song(named: _Named) -> Identity:
    found = best_candidate(songs.readings(named.stem, named.place, named.around.makers))
    return embedded_tags.song(found, named.around.tags) if named.around.tags else found


def _image(named: _Named) -> Identity | None:
    """An image of a disc or a memory: a system's own file, a game where anything says so."""
    if named.place.shelf is Kind.FIRMWARE or games.is_firmware(named.bare):
        return best_candidate([games.firmware(named.bare, named.place, named.around.systems)])
    found = best_candidate(games.readings(named.bare, named.ending, named.place, named.around.systems, sure=False))
    return None if found.kind is Kind.UNKNOWN else found


def _game(named: _Named) -> Identity:
    return best_candidate(games.readings(named.bare, named.ending, named.place, named.around.systems, sure=True))


def _font(named: _Named) -> Identity:
    found = best_candidate(fonts.font(named.bare, named.place, named.around.makers))
    return embedded_tags.font(found, named.around.tags, named.around.makers) if "family" in named.around.tags else found


def _design(named: _Named) -> Identity:
    _, _, place, around = named
    letters = list(fonts.stitch_font(named.bare, place, many=around.siblings.letters))
    return best_candidate([*letters, *([] if letters else designs.design(named.bare, place, around.makers))])


def _archive(named: _Named) -> Identity:
    """An archive is of the kind that its name or its shelf says, else an archive."""
    stem, ending, place, around = named
    if file_types.is_packed_paper(stem, ending):
        return _other(named)
    bare, inner = split_ending(named.bare)
    bare = bare if file_types.BY_ENDING.get(inner.lower()) in (Kind.FONT, Kind.DESIGN) else named.bare
    found = [
        *kits.kit(stem, place, archive=True, known=around.makers),
        *games.readings(named.bare, ending, place, named.around.systems, sure=False),
        *(designs.design(bare, place, around.makers) if place.shelf is Kind.DESIGN else ()),
        *(fonts.font(bare, place) if place.shelf is Kind.FONT else ()),
    ]
    return best_candidate(found) if found else _other(named)


def _beside(named: _Named) -> Identity:
    """Subtitles, covers and papers: companions of what their name or folder names; else a picture or part of a kit."""
    _, ending, place, _ = named
    stem, kind = named.bare, file_types.BY_ENDING[ending]
    if kind is Kind.PICTURE and (found := list(kits.kit(stem, place, archive=False))):
        return best_candidate(found)
    if craft := designs.beside(stem, kind, place):
        return companions.belongs(Kind.COMPANION, *craft, "folder")
    role = companions.companion_role(stem, ending, place)
    known = owner(tokenize(companions.bare_stem(stem, role)), place) if role or kind is Kind.PICTURE else {}
    role = role or _named_after(known, place)
    if not role:
        return _other(named)
    if kind is Kind.PICTURE and not known and not _has_owner(place):
        return _other(named)
    fields: dict[str, Value] = {"role": role}
    if role == "subtitles":
        fields |= companions.subtitle_fields(stem, place)
    fields |= companions.belonging(known, place)
    why = [Evidence("role", role, "ending", ending)]
    return companions.belongs(Kind.COMPANION, fields, why, "name" if known else "folder")


def _named_after(known: Mapping[str, Value], place: FolderContext) -> str:
    """Return the role of a picture that is called as its film, or as its episode; "" if as neither."""
    if "episode" in known:
        return "thumbnail"
    film = place.titled
    return "cover" if film and film.year and match_key(str(known.get("title", ""))) == match_key(film.title) else ""


def _beside_songs(named: _Named) -> Identity:
    """A cue sheet, a log, a play list: companions of the record in whose folder they lie."""
    role = file_types.BESIDE_SONGS[named.ending]
    fields: dict[str, Value] = {"role": role, **companions.belonging({}, named.place)}
    return companions.belongs(Kind.COMPANION, fields, [Evidence("role", role, "ending", named.ending)], "folder")


def _has_owner(place: FolderContext) -> bool:
    return place.titled is not None or place.shelf in (Kind.MOVIE, Kind.EPISODE)


def _document(named: _Named) -> Identity:
    craft = designs.beside(named.bare, Kind.DOCUMENT, named.place)
    return companions.belongs(Kind.COMPANION, *craft, "folder") if craft else _other(named)


def _other(named: _Named) -> Identity:
    """What is not taken apart: the kind from the ending, the title from the name."""
    stem, ending, place, _ = named
    kind = _likely(named)
    if (
        kind is None
        and ending
        and (found := list(games.readings(stem, ending, place, named.around.systems, sure=False)))
    ):
        return best_candidate(found)
    if kind is None and ending in file_types.PARTS_OF_KITS and (found := list(kits.kit(stem, place, archive=False))):
        return best_candidate(found)
    if kind is None:
        return Identity(Kind.UNKNOWN, State.UNKNOWN, 0.0, {})
    why = (Evidence("kind", kind.value, "ending" if ending else "name", ending or stem),)
    if kind in (Kind.DOCUMENT, Kind.PICTURE):
        fields, more = papers.fields_of(kind, stem, named.around.tags)
        return Identity(kind, State.CLEAR, 0.9, fields, why=(*why, *more))
    if kind is Kind.COMPANION:
        return companions.belongs(kind, {"role": "other"} | companions.belonging({}, place), list(why), "folder")
    return Identity(kind, State.CLEAR, 0.9, {}, why=why)


_BY_KIND: Mapping[Kind, Callable[[_Named], Identity]] = {
    Kind.MOVIE: _video,
    Kind.TRACK: _song,
    Kind.GAME: _game,
    Kind.FONT: _font,
    Kind.DESIGN: _design,
    Kind.ARCHIVE: _archive,
    Kind.COMPANION: _beside,
    Kind.PICTURE: _beside,
    Kind.DOCUMENT: _document,
}
"""How a file is read that its ending makes likely to be of a kind."""


def _plain(kind: Kind, source: str, text: str) -> Identity:
    return Identity(kind, State.CLEAR, 0.99, {}, why=(Evidence("kind", kind.value, source, text),))
