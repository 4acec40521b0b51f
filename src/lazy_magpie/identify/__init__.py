"""Names, folders and facts into identities, each with its evidence.

`identify` is the whole face of the room: a path goes in, an `Identity` comes out. A name is cut into words and
marks (`marks`), the folders above are understood (`places`), whole readings of the path are assembled and weighed
(`films`, `episodes`), and the best one wins (`readings.choose`). Nothing here touches a disk.
"""

from __future__ import annotations

from lazy_magpie.identify import beside, episodes, films, kinds
from lazy_magpie.identify.marks import Name, cut
from lazy_magpie.identify.places import Place, place_of
from lazy_magpie.identify.readings import Reading, choose
from lazy_magpie.identify.titles import clean
from lazy_magpie.identify.words import DISC_FOLDERS, STRONG
from lazy_magpie.model import Evidence, Identity, Kind, State, Value
from lazy_magpie.paths import join, name_of, parent, split_ending

__all__ = ["disc_folder", "identify"]


def identify(path: str, shelf: Kind | None = None) -> Identity:
    """Say what the file at `path` is, from its name and the folders above it alone.

    `path` is relative to the root, with `/`; `shelf` is the kind of the shelf that it stands on, if any.
    """
    folder, name = parent(path), name_of(path)
    if kinds.is_junk(name):
        return _plain(Kind.JUNK, "ending", name)
    stem, ending = split_ending(name)
    ending = ending.lower()
    if ending in kinds.UNFINISHED:
        return _plain(Kind.UNFINISHED, "ending", ending)
    place = place_of(folder)
    if shelf:
        place = place.on_shelf(shelf)
    if disc := disc_folder(path):
        return _disc(parent(disc), shelf)
    kind = kinds.BY_ENDING.get(ending)
    if ending in kinds.VIDEO and not (ending in kinds.DISC_IMAGES and place.shelf is Kind.GAME):
        return _video(stem, place, ending)
    if kind in (Kind.COMPANION, Kind.PICTURE):
        return _beside(stem, ending, kind, place)
    if kind is None and kinds.is_paper(stem):
        kind = Kind.DOCUMENT
    return _other(kind, stem, ending, place)


def disc_folder(path: str) -> str:
    """Return the outermost folder at or above `path` that is a disc laid out by its standard, "" if there is none."""
    at = ""
    for part in path.split("/"):
        at = join(at, part)
        if part.lower() in DISC_FOLDERS:
            return at
    return ""


def _disc(folder: str, shelf: Kind | None) -> Identity:
    """A disc folder is what the folder around it is called."""
    place = place_of(parent(folder))
    return _video(name_of(folder), place.on_shelf(shelf) if shelf else place, "")


def _video(stem: str, place: Place, ending: str) -> Identity:
    name = cut(stem)
    if extra := beside.extra_of(name, place):
        return _extra(name, extra, place)
    best = choose(_readings(name, place))
    if best.kind is Kind.UNKNOWN and ending:
        return Identity(
            Kind.MOVIE, State.DOUBTFUL, 0.5, {"title": clean(stem) or stem}, doubts=("no title and no year",)
        )
    return best


def _readings(name: Name, place: Place) -> list[Reading]:
    """All readings as film and episode; a strong season-and-episode mark leaves no doubt which of the two it is."""
    found = list(episodes.readings(name, place))
    if not any(count.strength == STRONG for count in name.counts):
        found += films.readings(name, place)
    return found


def _extra(name: Name, extra: tuple[str, str], place: Place) -> Identity:
    sort, title = extra
    fields: dict[str, Value] = {"extra": sort}
    if title:
        fields["title"] = title
    text = place.extras.text if place.extras else name.text
    of = choose(_readings(name, place)) if not place.extras else None
    known = of.fields if of and of.state is State.CLEAR else {}
    fields |= beside.belonging(known, place)
    why = [Evidence("extra", sort, "folder" if place.extras else "name", text)]
    return beside.belongs(Kind.EXTRA, fields, why, "name" if known else "folder")


def _beside(stem: str, ending: str, kind: Kind, place: Place) -> Identity:
    """Subtitles, covers and papers: companions of what their name or folder names; else a picture."""
    role = beside.companion_role(stem, ending, place)
    if not role:
        return _other(kind, stem, ending, place)
    of = choose(_readings(cut(_bare_stem(stem, role)), place))
    known = of.fields if of.state is State.CLEAR else {}
    if kind is Kind.PICTURE and not known and not _has_owner(place):
        return _other(kind, stem, ending, place)
    fields: dict[str, Value] = {"role": role}
    if role == "subtitles":
        fields |= beside.subtitle_fields(stem)
    fields |= beside.belonging(known, place)
    return beside.belongs(
        Kind.COMPANION, fields, [Evidence("role", role, "ending", ending)], "name" if known else "folder"
    )


def _has_owner(place: Place) -> bool:
    return place.titled is not None or place.shelf in (Kind.MOVIE, Kind.EPISODE)


def _bare_stem(stem: str, role: str) -> str:
    """Take the language and the role's word from the end of a companion's name."""
    while role == "subtitles" and "." in stem:
        head, _, last = stem.rpartition(".")
        if not beside.language_code(last.lower()) and last.lower() not in ("forced", "sdh", "cc", "hi"):
            break
        stem = head
    head, hyphen, last = stem.rpartition("-")
    return head if hyphen and last.lower() in beside.PICTURE_ROLES else stem


def _other(kind: Kind | None, stem: str, ending: str, place: Place) -> Identity:
    """Kinds whose names are not taken apart yet: the kind from the ending, the title from the name."""
    if kind is None:
        return Identity(Kind.UNKNOWN, State.UNKNOWN, 0.0, {})
    why = (Evidence("kind", kind.value, "ending" if ending else "name", ending or stem),)
    if kind is Kind.ARCHIVE:
        return Identity(kind, State.CLEAR, 0.9, {}, why=why)
    if kind in (Kind.DOCUMENT, Kind.PICTURE):
        return Identity(kind, State.CLEAR, 0.9, {"title": stem}, why=why)
    if kind is Kind.COMPANION:
        return beside.belongs(kind, {"role": "other"} | beside.belonging({}, place), list(why), "folder")
    fields: dict[str, Value] = {"family" if kind is Kind.FONT else "title": stem}
    return Identity(kind, State.DOUBTFUL, 0.5, fields, why=why, doubts=("only its ending was read",))


def _plain(kind: Kind, source: str, text: str) -> Identity:
    return Identity(kind, State.CLEAR, 0.99, {}, why=(Evidence("kind", kind.value, source, text),))
