"""What a video file is: a film, an episode, or an extra of one of them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from lazy_magpie.identify import companions, episodes, films
from lazy_magpie.identify.candidates import Candidate, best_candidate, tail_start
from lazy_magpie.identify.context import NO_CONTEXT, Context
from lazy_magpie.identify.episode_fields import OF_TITLES
from lazy_magpie.identify.extras import Extra, extra_of
from lazy_magpie.identify.folders import Folder, FolderContext, FolderRole, titled_folder
from lazy_magpie.identify.placeholders import is_cameras
from lazy_magpie.identify.title_text import is_abbreviation_of, match_key, normalize_title
from lazy_magpie.identify.tokenizer import Name, tokenize
from lazy_magpie.identify.vocabulary import STRONG
from lazy_magpie.model import Evidence, Identity, Kind, State, Value


def video(stem: str, place: FolderContext, ending: str, around: Context = NO_CONTEXT) -> Identity:
    """Return the identity of a video file called `stem` + `ending`; of a disc's folder with an empty ending."""
    name = tokenize(stem)
    if extra := extra_of(name, place):
        return _extra(name, extra, place)
    if place.episode and (told := _told_by(place.episode, place.show, name)):
        name = told
    best = best_candidate(readings(name, place, around))
    if best.kind is Kind.UNKNOWN and ending:
        title = normalize_title(stem) or stem
        why = (Evidence("title", title, "name", stem),)
        return Identity(Kind.MOVIE, State.DOUBTFUL, 0.5, {"title": title}, why=why, doubts=("no year",))
    return best


def readings(name: Name, place: FolderContext, around: Context = NO_CONTEXT) -> list[Candidate]:
    """All readings as film and episode; a strong season-and-episode mark leaves no doubt which of the two it is."""
    place = _in_own_folder(name, place)
    found = [] if is_cameras(name.text) else list(episodes.readings(name, place, around.siblings))
    if not any(count.strength == STRONG and not count.total for count in name.counts):
        found += films.readings(name, place, around.siblings)
    return found


def _in_own_folder(name: Name, place: FolderContext) -> FolderContext:
    """Return the place of a film that is called as its folder: "The Second Season (1999)" is no season's then."""
    near = place.folders[0] if place.folders else None
    if near is None or near.role is not FolderRole.SEASON or match_key(near.text) != match_key(name.text):
        return place
    return replace(place, season=None, titled=titled_folder(near.text))


def _told_by(episode: Folder, show: str, name: Name) -> Name | None:
    """Return the name of an episode's own folder where the file's says no more than that: "brn-tl205", "tl.s02e05"."""
    folder = tokenize(episode.text)
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
    return is_abbreviation_of(bare, show) or match_key(bare) == match_key(show)


def owner(name: Name | None, place: FolderContext) -> Mapping[str, Value]:
    """Return the fields of the film or episode that something belongs to: by its own name, or by an episode's folder.

    Empty where neither is clear; a bare year is enough, as it can only stand behind a title here, and what an
    episode's title is does not matter.
    """
    names = [name, tokenize(place.episode.text) if place.episode else None]
    found = (best_candidate(readings(one, place)) for one in names if one)
    return next((of.fields for of in found if _tells_whose(of)), {})


def _tells_whose(of: Identity) -> bool:
    harmless = ("bare year", *(OF_TITLES if of.kind is Kind.EPISODE else ()))
    return all(doubt.startswith(harmless) for doubt in of.doubts)


def _extra(name: Name, extra: Extra, place: FolderContext) -> Identity:
    fields: dict[str, Value] = {"extra": extra.role}
    if extra.title:
        fields["title"] = extra.title
    text = place.extras.text if place.extras else name.text
    known = owner(None if extra.title else extra.of, place)
    if not known and extra.of and not place.titled:
        best = best_candidate(readings(extra.of, place)).fields
        if of := best.get("show") or best.get("title"):
            fields["of"] = of
    fields |= companions.belonging(known, place)
    why = [Evidence("extra", extra.role, "folder" if place.extras else "name", text)]
    return companions.belongs(Kind.EXTRA, fields, why, "name" if known else "folder")
