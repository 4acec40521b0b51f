"""What a video file is: a film, an episode, or an extra of one of them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from lazy_magpie.identify import beside, episodes, films
from lazy_magpie.identify.around import ALONE, Around
from lazy_magpie.identify.extras import Extra, extra_of
from lazy_magpie.identify.found import OF_TITLES
from lazy_magpie.identify.marks import Name, cut
from lazy_magpie.identify.places import Folder, Place, Sort, titled_folder
from lazy_magpie.identify.readings import Reading, choose, tail_start
from lazy_magpie.identify.titles import clean, folded, stands_for
from lazy_magpie.identify.words import STRONG
from lazy_magpie.model import Evidence, Identity, Kind, State, Value


def video(stem: str, place: Place, ending: str, around: Around = ALONE) -> Identity:
    """Return the identity of a video file called `stem` + `ending`; of a disc's folder with an empty ending."""
    name = cut(stem)
    if extra := extra_of(name, place):
        return _extra(name, extra, place)
    if place.episode and (told := _told_by(place.episode, place.show, name)):
        name = told
    best = choose(readings(name, place, around))
    if best.kind is Kind.UNKNOWN and ending:
        title = clean(stem) or stem
        why = (Evidence("title", title, "name", stem),)
        return Identity(Kind.MOVIE, State.DOUBTFUL, 0.5, {"title": title}, why=why, doubts=("no year",))
    return best


def readings(name: Name, place: Place, around: Around = ALONE) -> list[Reading]:
    """All readings as film and episode; a strong season-and-episode mark leaves no doubt which of the two it is."""
    place = _in_own_folder(name, place)
    found = list(episodes.readings(name, place, around.siblings))
    if not any(count.strength == STRONG and not count.total for count in name.counts):
        found += films.readings(name, place, around.siblings)
    return found


def _in_own_folder(name: Name, place: Place) -> Place:
    """Return the place of a film that is called as its folder: "The Second Season (1999)" is no season's then."""
    near = place.folders[0] if place.folders else None
    if near is None or near.sort is not Sort.SEASON or folded(near.text) != folded(name.text):
        return place
    return replace(place, season=None, titled=titled_folder(near.text))


def _told_by(episode: Folder, show: str, name: Name) -> Name | None:
    """Return the name of an episode's own folder where the file's says no more than that: "brn-tl205", "tl.s02e05"."""
    folder = cut(episode.text)
    if not name.counts:
        return folder if _is_short_for(name.text, show) else None
    own, same = name.counts[0], folder.counts[:1]
    agree = [(own.season, own.first, own.last, own.part)] == [(c.season, c.first, c.last, c.part) for c in same]
    behind = name.text[own.end : tail_start(name, own.end - 1)]
    short = _is_short_for(name.text[: own.start].strip(" ._-"), show)
    return folder if agree and short and not behind.strip(" ._-") else None


def _is_short_for(text: str, show: str) -> bool:
    """Say whether a name is but short for its folder's show: "brn-tl205", "tidewater.lane.205", "video"."""
    bare = text.rstrip("0123456789").rstrip(" ._-")
    return stands_for(bare, show) or folded(bare) == folded(show)


def owner(name: Name | None, place: Place) -> Mapping[str, Value]:
    """Return the fields of the film or episode that something belongs to: by its own name, or by an episode's folder.

    Empty where neither is clear; a bare year is enough, as it can only stand behind a title here, and what an
    episode's title is does not matter.
    """
    names = [name, cut(place.episode.text) if place.episode else None]
    found = (choose(readings(one, place)) for one in names if one)
    return next((of.fields for of in found if _tells_whose(of)), {})


def _tells_whose(of: Identity) -> bool:
    harmless = ("bare year", *(OF_TITLES if of.kind is Kind.EPISODE else ()))
    return all(doubt.startswith(harmless) for doubt in of.doubts)


def _extra(name: Name, extra: Extra, place: Place) -> Identity:
    fields: dict[str, Value] = {"extra": extra.sort}
    if extra.title:
        fields["title"] = extra.title
    text = place.extras.text if place.extras else name.text
    known = owner(None if extra.title else extra.of, place)
    fields |= beside.belonging(known, place)
    why = [Evidence("extra", extra.sort, "folder" if place.extras else "name", text)]
    return beside.belongs(Kind.EXTRA, fields, why, "name" if known else "folder")
