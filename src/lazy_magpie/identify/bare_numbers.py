"""Readings of a path as an episode by a number without a mark: below a season's folder, in a row, running on."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import NamedTuple

from lazy_magpie.identify import title_year
from lazy_magpie.identify.candidates import FIRST_SEASON, Candidate, CandidateBuilder, tail_start
from lazy_magpie.identify.context import Siblings
from lazy_magpie.identify.episode_fields import put_behind, put_season, put_show, reading_of
from lazy_magpie.identify.folders import FolderContext
from lazy_magpie.identify.title_text import ends_in_initials, is_abbreviation_of, match_key, normalize_title
from lazy_magpie.identify.tokenizer import Name
from lazy_magpie.model import Kind
from lazy_magpie.patterns import pattern
from lazy_magpie.words import meaning

_BELOW_SEASON = 4.0
_GROUPED_NUMBER = 3.5
_GROUPED_AND_DASHED = 7.5
_GROUPED_BARE = 1.5
_IN_A_ROW = 4.5
_BARE_NUMBER = 1.6
_PADDED = 1.0

_LEADING = pattern(
    r"(?i)^[(\[]?(?:episode|ep|e|#|no|nr|№)?[ ._]*(?:(?P<season>\d{1,2}(?=[.x])|\d(?=-))[.x-](?=\d\d(?!\d)))?"
    r"(?P<number>\d{1,4})(?:(?:-| ?[+&] ?|-e)(?P<last>\d{2,3}))?(?P<part>[a-d](?=[ ._-]))?(?:v\d)?"
    r"(?:[)\]]|(?=[ ._-])|$)(?P<rest>.*)$"
)
_FIRST_OF_RANGE = pattern(r"(?P<gap>[ ._-]+)(?P<number>\d{1,4})$")
_LAST = pattern(r"(?i)(?P<gap>[ ._-]+#?)(?P<number>\d{1,4})(?:v\d)?(?:[ ._]+end)?[ ._]*(?:$|(?=[ ._][-\[(]|[\[(]))")
_ANY_NUMBER = pattern(r"(?i)(?<![^\W_])(?:episode[ ._]?|ep[ ._]?|e)?(?P<number>\d{1,4})(?:v\d)?(?![^\W_])")
_AFTER_SHOW = pattern(
    r"[ ._-]+(?:(?P<season>\d{1,2})[.x-](?=\d\d(?:$|[ _]|[.-]\D)))?(?P<number>\d{1,4})(?=[ ._-]|(?<=[.x-]\d\d)$)"
)
_INSIDE = pattern(r"(?<=[^\W_])[ ._]+(?P<number>[1-9]\d{2})(?=[ ._]+[^\W\d_])")
_SEASON_BEFORE = pattern(r"(?i)^(?P<show>.*?)[ ._-]+s(?:eason[ ._]?)?(?P<season>\d{1,2})[ ._-]+$")


_SHORT_AND_NUMBER = pattern(r"(?i)^(?:[a-z\d]+-)?(?P<show>[a-z]{2,})(?P<number>\d{2,4})$")


_IN_BRACKETS = pattern(
    r"(?i)^\[[^\]\d][^\]]*\][ _]?\[?(?P<show>[^\[\]]*[^\W\d_][^\[\]]*?)[ _]?\]?[ _]?"
    r"\[(?:ep?)?(?P<number>\d{2,3})(?:v\d)?(?:[ _-]?end)?\]"
)


class _Last(NamedTuple):
    """A number behind a name: the name, what parts them, the digits, and where the rest begins.

    `until` are the digits behind a hyphen where two numbers are the first and the last: "07-08".
    """

    show: str
    gap: str
    digits: str
    rest: int
    until: str = ""


def numbered(name: Name, place: FolderContext, shelf: float, siblings: Siblings) -> Iterator[Candidate]:
    """A number without a mark: below a season's folder, behind a show's name, running through all seasons."""
    if match := _IN_BRACKETS.match(name.text):
        yield _bracketed(name, match)
        return
    begin = title_year.name_start(name)
    end = tail_start(name, begin)
    last = _last_number(name.text[begin:end])
    if place.season:
        if last and not place.season.season and _is_year(name, last.digits):
            last = None  # "Specials/Christmas 2006"
        yield from _below_season(name, last, begin, end, place)
    elif last:
        yield from _bare_number(name, last, begin, end, place, shelf)
    elif place.show and (match := _LEADING.match(name.text[begin:end])) and (match["rest"] or _alone(match, place)):
        yield _first_in_show(name, match, begin, place, shelf)
    elif inside := _of_broadcast(name, begin, end):
        yield _season_and_episode(name, inside, begin, end, place, shelf)
    if not place.season and siblings.rows:
        yield from _in_a_row(name, begin, end, place, siblings)


def _bracketed(name: Name, match: re.Match[str]) -> Candidate:
    """Read "[Group] Show [05][1080p]", and "[Group][Show][05]": the number runs through all seasons."""
    found = CandidateBuilder(_GROUPED_AND_DASHED)
    found.put("running", int(match["number"]), "name", match["number"])
    found.put("show", normalize_title(match["show"]), "name", match["show"])
    return reading_of(found, name, match.end())


def _below_season(name: Name, last: _Last | None, begin: int, end: int, place: FolderContext) -> Iterator[Candidate]:
    """Below a season's folder a number in front is the episode's, or one behind, which may repeat the season."""
    assert place.season is not None
    text = name.text[begin:end]
    named_so = bool(place.show) and match_key(text).startswith(match_key(place.show))
    match = None if named_so else _LEADING.match(text)
    if match and (len(match["number"]) < 4 or int(match["number"]) // 100 == place.season.season):
        yield _in_front(name, match, begin, end, place)
    behind = _behind_show(text, place.show) if named_so else None
    if last and not behind and not (match and (match["last"] or match["rest"].startswith(" - "))):
        found = _of_season(place, last.digits, last.digits, until=last.until, weight=_BELOW_SEASON - 0.5)
        put_show(found, name, last.show, place, "")
        put_behind(found, name, begin + last.rest, may_have_part=True)
        yield reading_of(found, name, end)
    elif behind:
        found = _of_season(place, behind["number"], behind["number"])
        _doubt_other_season(found, behind["season"], place)
        put_show(found, name, text[: behind.start()], place, "")
        put_behind(found, name, begin + behind.end("number"), may_have_part=True)
        yield reading_of(found, name, end)
    elif (short := _SHORT_AND_NUMBER.match(text)) and _repeats(short, place):
        found = _of_season(place, short["number"], short["number"])
        put_show(found, name, "", place, "")
        yield reading_of(found, name, end)
    elif place.show and not name.counts:
        yield _special(name, text, place, end)


def _is_year(name: Name, digits: str) -> bool:
    return any(mark.field == "year" and name.text[mark.start : mark.end] == digits for mark in name.marks)


def _in_front(name: Name, match: re.Match[str], begin: int, end: int, place: FolderContext) -> Candidate:
    """Read a name below a season's folder that begins with the episode's number."""
    assert place.season is not None
    found = _of_season(place, match["number"], match.string[: match.start("rest")], until=match["last"])
    _doubt_other_season(found, match["season"], place)
    if match["part"]:
        found.put("part", " abcd".index(match["part"].lower()), "name", match["part"])
    put_show(found, name, "", place, "")
    put_behind(found, name, begin + match.start("rest"), may_have_part=True)
    return reading_of(found, name, end)


def _doubt_other_season(found: CandidateBuilder, said: str | None, place: FolderContext) -> None:
    """Say that the season in front of an episode's number, "1-06", is not its folder's."""
    if said and place.season and int(said) != place.season.season:
        found.doubts.append(f"folder disagrees: it says season {place.season.season}")


def _of_season(
    place: FolderContext, digits: str, said: str, until: str | None = None, weight: float = _BELOW_SEASON
) -> CandidateBuilder:
    """Begin a reading with the folder's season and the episode, or episodes, that the digits say."""
    assert place.season is not None
    found = CandidateBuilder(weight)
    put_season(found, place)
    found.put("episode", _without_season(digits, place.season.season), "name", said)
    if until:
        found.put("last_episode", _without_season(until, place.season.season), "name", until)
    return found


def _repeats(short: re.Match[str], place: FolderContext) -> bool:
    """Say whether "gr102" is the show's initials with season 1 of its folder and an episode, or "gr02" that episode."""
    assert place.season is not None
    season, episode = divmod(int(short["number"]), 100)
    return (
        season == (place.season.season if len(short["number"]) > 2 else 0)
        and episode > 0
        and (is_abbreviation_of(short["show"], place.show) or match_key(short["show"]) == match_key(place.show))
    )


def _special(name: Name, text: str, place: FolderContext, end: int) -> Candidate:
    """A file without a number in a season's folder, the specials' as a rule: its name is its title."""
    found = CandidateBuilder(_BELOW_SEASON / 2)
    put_season(found, place)
    put_show(found, name, "", place, "")
    show, dash, rest = text.partition(" - ")
    own = rest if dash and match_key(show) == match_key(place.show) else text
    if title := normalize_title(own):
        found.put("episode_title", title, "name", own)
    return reading_of(found, name, end)


def _first_in_show(name: Name, match: re.Match[str], begin: int, place: FolderContext, shelf: float) -> Candidate:
    """Read "Tidewater Lane/05 The Ferry": a number in front, in a folder that may be a show's."""
    found = CandidateBuilder(_BARE_NUMBER - 0.3 + shelf)
    found.put("season", 1, "guess", "no season said")
    found.put("episode", int(match["number"]), "name", match["number"])
    found.doubts.append(FIRST_SEASON)
    put_show(found, name, "", place, "")
    tail = put_behind(found, name, begin + match.start("rest"), may_have_part=True)
    return reading_of(found, name, tail)


def _alone(match: re.Match[str], place: FolderContext) -> bool:
    """Say whether a number of two digits, alone in a folder without a year, is an episode's rather than a film's."""
    if len(match["number"]) != 2 or not place.titled:
        return False
    return not place.titled.year or place.shelf is Kind.EPISODE


def _last_number(text: str) -> _Last | None:
    """Return the number behind a name: the first behind a hyphen, else the last."""
    found = [match for match in _LAST.finditer(text) if any(c.isalnum() for c in text[: match.start()])]
    if not found:
        return None
    match = next((match for match in found if "-" in match["gap"]), found[-1])
    before, digits = text[: match.start()], match["number"]
    if match["gap"].startswith(".") and ends_in_initials(f"{before}."):
        before += "."
    first = _FIRST_OF_RANGE.search(before) if match["gap"] == "-" else None
    if first and int(first["number"]) < int(digits):
        return _Last(before[: first.start()], first["gap"], first["number"], match.end(), until=digits)
    return _Last(before, match["gap"], digits, match.end())


def _without_season(digits: str, season: int) -> int:
    """Return an episode's number without the season that it may repeat: 205 in season 2 is 5."""
    number = int(digits)
    return number % 100 if len(digits) >= 3 and number // 100 == season and number % 100 else number


def _behind_show(text: str, show: str) -> re.Match[str] | None:
    """Match "Tidewater Lane 205 The Ferry": a number between the show's own name and a title."""
    found = _AFTER_SHOW.finditer(text) if show else iter(())
    return next((match for match in found if match_key(text[: match.start()]) == match_key(show)), None)


def _bare_number(
    name: Name, last: _Last, begin: int, end: int, place: FolderContext, shelf: float
) -> Iterator[Candidate]:
    """Without a season's folder a number behind the name runs through, or is season and episode (205)."""
    number, digits, before = int(last.digits), last.digits, last.show
    dashed = "-" in last.gap
    grouped = dashed and any(mark.field == "group" for mark in name.marks)
    if grouped and (season := _SEASON_BEFORE.match(before + last.gap)):
        found = CandidateBuilder(_GROUPED_NUMBER)
        found.put("season", int(season["season"]), "name", season.group())
        found.put("episode", number, "name", digits)
        put_show(found, name, season["show"], place, "")
        yield reading_of(found, name, end)
        return
    is_year = _is_year(name, digits)
    countable = len(digits) >= 2 and not is_year
    shows = (place.show, place.titled.text if place.titled else "")  # the folder's text has the show's year too
    own_folder = dashed and bool(place.show) and match_key(normalize_title(before)) in map(match_key, shows)
    sure = grouped or (own_folder and countable)
    behind_group = any(mark.field == "group" for mark in name.marks) and not is_year
    if sure or countable:
        padded = _PADDED if digits.startswith("0") and (dashed or "#" in last.gap) else _GROUPED_BARE * behind_group
        found = CandidateBuilder(_BARE_NUMBER / 2 + padded + shelf)
        if sure:
            found.weight = _GROUPED_AND_DASHED if grouped or shelf > 0 else _GROUPED_NUMBER
        found.put("running", number, "name", digits)
        if last.until:
            found.doubts.append("several numbers: which episodes these are is not clear")
        if not sure:
            found.doubts.append(f"bare number: {digits} may be an episode's or belong to the title")
        put_show(found, name, before, place, "")
        put_behind(found, name, begin + last.rest, may_have_part=False)
        yield reading_of(found, name, end)
    may_be_both = len(digits) in (3, 4) and number >= 100 and 0 < number % 100 < 50
    if may_be_both and not (last.until or sure or is_year):
        yield _season_and_episode(name, last, begin, end, place, shelf)


def _season_and_episode(name: Name, last: _Last, begin: int, end: int, place: FolderContext, shelf: float) -> Candidate:
    """Read a bare 205 as season 2 episode 5: a guess."""
    season, episode = divmod(int(last.digits), 100)
    found = CandidateBuilder(_BARE_NUMBER + shelf)
    found.put("season", season, "name", last.digits)
    found.put("episode", episode, "name", last.digits)
    found.doubts.append(f"bare number: {last.digits} may be season {season} episode {episode}, or a number")
    put_show(found, name, last.show, place, "")
    put_behind(found, name, begin + last.rest, may_have_part=False)
    return reading_of(found, name, end)


def _of_broadcast(name: Name, begin: int, end: int) -> _Last | None:
    """Return the number in "Tidewater.Lane.205.The.Ferry.HDTV": of what was broadcast, with no year, an episode's."""
    broadcast = any(mark.field == "source" and mark.value == "tv" for mark in name.marks)
    if not broadcast or any(mark.field == "year" for mark in name.marks):
        return None
    found = (match for match in _INSIDE.finditer(name.text[begin:end]) if 0 < int(match["number"]) % 100 < 50)
    match = next(found, None)
    return _Last(match.string[: match.start()], ".", match["number"], match.end("number")) if match else None


def _in_a_row(name: Name, begin: int, end: int, place: FolderContext, siblings: Siblings) -> Iterator[Candidate]:
    """A number that counts on through the folder: 01 … 12 is a season, 101 … 112 the first one, 013 … runs on."""
    text = name.text[begin:end]
    for match in _ANY_NUMBER.finditer(text):
        before, digits = text[: match.start()], match["number"]
        row = siblings.count_on(before, int(digits))
        if not row or not (before.strip(" ._-") or place.show):
            continue
        number, first = int(digits), min(row)
        found = CandidateBuilder(_IN_A_ROW)
        seen = f"{first} … {max(row)} in this folder"
        if first < 3 and max(row) < 100:
            found.put("season", 1, "siblings", seen)
            found.put("episode", number, "siblings", digits)
        elif len(digits) == 3 and first // 100 == max(row) // 100 > 0 and first % 100 in (1, 2):
            found.put("season", number // 100, "siblings", seen)
            found.put("episode", number % 100, "siblings", digits)
        else:
            found.put("running", number, "siblings", seen)
        put_show(found, name, "" if place.show and _is_counting_word(before) else before, place, "")
        put_behind(found, name, begin + match.end(), may_have_part=False)
        yield reading_of(found, name, end)
        return


def _is_counting_word(text: str) -> bool:
    """Say whether what stands in front of a number is nothing but a word for an episode: "Lesson 04"."""
    return "episode" in meaning(f"{text} 1")
