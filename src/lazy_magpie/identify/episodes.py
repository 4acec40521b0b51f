"""Readings of a path as an episode: season-and-episode marks, dates, numbers below a season's folder."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import NamedTuple

from lazy_magpie.identify import titled
from lazy_magpie.identify.around import Siblings
from lazy_magpie.identify.marks import Count, Mark, Name
from lazy_magpie.identify.places import Place
from lazy_magpie.identify.readings import RELEASE_FIELDS, Reading, claims, is_shouted, languages, tail_start
from lazy_magpie.identify.titles import clean, folded, stands_for
from lazy_magpie.identify.words import COUNTRIES, STRONG
from lazy_magpie.model import Evidence, Kind, Value

_STRONG_MARK = 8.0
_DATE = 7.0
_BELOW_SEASON = 4.0
_GROUPED_NUMBER = 3.5
_IN_A_ROW = 4.5
_WEAK_MARK = 1.5
_BARE_NUMBER = 1.6
_PADDED = 1.0
_SHELF = 2.0

_COUNTRY = re.compile(rf"(?i)^(?P<show>.+?)[ ._](?P<bracket>\()?(?P<country>{'|'.join(COUNTRIES)})\)?$")
_LEADING = re.compile(r"(?i)^(?:episode|ep|e)?[ ._]*(?P<number>\d{1,3})(?:v\d)?(?:(?=[ ._-])|$)(?P<rest>.*)$")
_LAST = re.compile(r"(?i)(?P<gap>[ ._-]+)(?P<number>\d{1,4})(?:v\d)?[ ._]*(?:$|(?=[ ._][-\[(]|[\[(]))")
_ANY_NUMBER = re.compile(r"(?i)(?<![^\W_])(?:episode[ ._]?|ep[ ._]?|e)?(?P<number>\d{1,4})(?:v\d)?(?![^\W_])")
_AFTER_SHOW = re.compile(r"[ ._-]+(?P<number>\d{1,4})(?=[ ._-])")
_PART_FIRST = re.compile(r"(?i)^[ ._-]*(?:pt|part)[ ._-]?(?P<part>\d{1,2})(?![^\W_])(?P<rest>.*)$")
_SEASON_BEFORE = re.compile(r"(?i)^(?P<show>.*?)[ ._-]+s(?:eason[ ._]?)?(?P<season>\d{1,2})[ ._-]+$")


@dataclass(slots=True)
class _Found:
    """What a reading gathers on its way."""

    weight: float
    fields: dict[str, Value] = field(default_factory=dict)
    why: list[Evidence] = field(default_factory=list)
    doubts: list[str] = field(default_factory=list)

    def put(self, name: str, value: Value, source: str, text: str) -> None:
        self.fields[name] = value
        self.why.append(Evidence(name, value, source, text))


def readings(name: Name, place: Place, siblings: Siblings) -> Iterator[Reading]:
    """Yield the readings of a video file called `name` (without its ending) in `place` as an episode."""
    shelf = _SHELF if place.shelf is Kind.EPISODE else -_SHELF if place.shelf else 0.0
    marked = False
    for count in name.counts:
        marked = marked or count.strength == STRONG or place.season is not None
        yield from _counted(name, count, place, shelf)
    for mark in name.marks:
        if mark.field == "air_date":
            marked = True
            yield _dated(name, mark, place, shelf)
    if not marked:
        yield from _part_alone(name, place, shelf)
        yield from _numbered(name, place, shelf, siblings)


def _counted(name: Name, count: Count, place: Place, shelf: float) -> Iterator[Reading]:
    """A mark that counts: S02E05, 2x05, Season 2 Episode 5, 1 of 4, E05."""
    strong = count.strength == STRONG
    found = _Found(_STRONG_MARK if strong else _WEAK_MARK + shelf)
    seen = name.text[count.start : count.end]
    season, folder = count.season, place.season
    if season < 0 and folder:
        found.weight = _BELOW_SEASON
        season = folder.season
        found.put("season", season, "folder", folder.text)
    elif season < 0:
        found.put("season", 1, "guess", "no season said")
        found.doubts.append("no season said: 1 is a guess")
    else:
        found.put("season", season, "name", seen)
        if folder and folder.season != season and strong:
            found.doubts.append(f"the folder disagrees: it says season {folder.season}")
    found.put("episode", count.first, "name", seen)
    if count.last > count.first:
        found.put("last_episode", count.last, "name", seen)
    if count.part:
        found.put("part", count.part, "name", seen)
    before = name.text[titled.name_start(name) : count.start]
    tail = count.end
    if not _show(found, name, before, place, name.text[count.end :]):
        tail = _behind(found, name, count.end, may_have_part=not count.part)
    yield _reading(found, name, tail)


def _dated(name: Name, mark: Mark, place: Place, shelf: float) -> Reading:
    """An air date: 2019-03-21, 21.03.2019."""
    found = _Found(_DATE + max(shelf, 0.0))
    seen = name.text[mark.start : mark.end]
    found.put("air_date", mark.value, "name", seen)
    if mark.strength != STRONG:
        found.doubts.append(f"day or month first: {seen}")
    _show(found, name, name.text[titled.name_start(name) : mark.start], place, "")
    tail = _behind(found, name, mark.end, may_have_part=True)
    return _reading(found, name, tail)


def _numbered(name: Name, place: Place, shelf: float, siblings: Siblings) -> Iterator[Reading]:
    """A number without a mark: below a season's folder, behind a show's name, running through all seasons."""
    begin = titled.name_start(name)
    end = tail_start(name, begin)
    last = _last_number(name.text[begin:end])
    if place.season:
        yield from _below_season(name, last, begin, end, place)
    elif last:
        yield from _bare_number(name, last, begin, end, place, shelf)
    if not place.season and siblings.rows:
        yield from _in_a_row(name, begin, end, place, siblings)


def _below_season(name: Name, last: _Last | None, begin: int, end: int, place: Place) -> Iterator[Reading]:
    """Below a season's folder a number in front is the episode's, or one behind, which may repeat the season."""
    assert place.season is not None
    text = name.text[begin:end]
    named_so = bool(place.show) and folded(text).startswith(folded(place.show))
    if not named_so and (match := _LEADING.match(text)):
        found = _Found(_BELOW_SEASON)
        _season_of(found, place)
        found.put("episode", int(match["number"]), "name", text[: match.start("rest")])
        _show(found, name, "", place, "")
        _behind(found, name, begin + match.start("rest"), may_have_part=True)
        yield _reading(found, name, end)
    if last:
        found = _Found(_BELOW_SEASON - 0.5)
        _season_of(found, place)
        found.put("episode", _without_season(last.digits, place.season.season), "name", last.digits)
        _show(found, name, last.show, place, "")
        _behind(found, name, begin + last.rest, may_have_part=True)
        yield _reading(found, name, end)
    elif behind_show := _behind_show(text, place.show):
        digits = behind_show["number"]
        found = _Found(_BELOW_SEASON)
        _season_of(found, place)
        found.put("episode", _without_season(digits, place.season.season), "name", digits)
        _show(found, name, text[: behind_show.start()], place, "")
        _behind(found, name, begin + behind_show.end("number"), may_have_part=True)
        yield _reading(found, name, end)
    elif place.season.season == 0 and place.show:
        yield _special(name, text, place, end)


class _Last(NamedTuple):
    """A number behind a name: the name, what parts them, the digits, and where the rest begins."""

    show: str
    gap: str
    digits: str
    rest: int


def _last_number(text: str) -> _Last | None:
    """Return the number behind a name: the first behind a hyphen, else the last."""
    found = [match for match in _LAST.finditer(text) if any(c.isalnum() for c in text[: match.start()])]
    if not found:
        return None
    match = next((match for match in found if "-" in match["gap"]), found[-1])
    return _Last(text[: match.start()], match["gap"], match["number"], match.end())


def _without_season(digits: str, season: int) -> int:
    """Return an episode's number without the season that it may repeat: 205 in season 2 is 5."""
    number = int(digits)
    return number % 100 if len(digits) >= 3 and number // 100 == season and number % 100 else number


def _behind_show(text: str, show: str) -> re.Match[str] | None:
    """Match "Tidewater Lane 205 The Ferry": a number between the show's own name and a title."""
    found = _AFTER_SHOW.finditer(text) if show else iter(())
    return next((match for match in found if folded(text[: match.start()]) == folded(show)), None)


def _bare_number(name: Name, last: _Last, begin: int, end: int, place: Place, shelf: float) -> Iterator[Reading]:
    """Without a season's folder a number behind the name runs through, or is season and episode (205)."""
    number, digits, before = int(last.digits), last.digits, last.show
    dashed = "-" in last.gap
    grouped = dashed and any(mark.field == "group" for mark in name.marks)
    if grouped and (season := _SEASON_BEFORE.match(before + last.gap)):
        found = _Found(_GROUPED_NUMBER)
        found.put("season", int(season["season"]), "name", season.group())
        found.put("episode", number, "name", digits)
        _show(found, name, season["show"], place, "")
        yield _reading(found, name, end)
        return
    is_year = any(m.field == "year" and name.text[m.start : m.end] == digits for m in name.marks)
    countable = len(digits) >= 2 and not is_year
    own_folder = dashed and bool(place.show) and folded(place.show) == folded(clean(before))
    sure = grouped or (own_folder and countable)
    if sure or countable:
        padded = _PADDED if digits.startswith("0") and dashed else 0.0
        found = _Found(_GROUPED_NUMBER + max(shelf, 0.0) if sure else _BARE_NUMBER / 2 + padded + shelf)
        found.put("running", number, "name", digits)
        if not sure:
            found.doubts.append(f"bare number: {digits} may be an episode's or belong to the title")
        _show(found, name, before, place, "")
        _behind(found, name, begin + last.rest, may_have_part=False)
        yield _reading(found, name, end)
    if len(digits) == 3 and not sure and number % 100 and number >= 100:
        found = _Found(_BARE_NUMBER + shelf)
        found.put("season", number // 100, "name", digits)
        found.put("episode", number % 100, "name", digits)
        found.doubts.append(f"bare number: {digits} may be season {number // 100} episode {number % 100}, or a number")
        _show(found, name, before, place, "")
        yield _reading(found, name, end)


def _in_a_row(name: Name, begin: int, end: int, place: Place, siblings: Siblings) -> Iterator[Reading]:
    """A number that counts on through the folder: 01 … 12 is a season, 101 … 112 the first one, 013 … runs on."""
    text = name.text[begin:end]
    for match in _ANY_NUMBER.finditer(text):
        before, digits = text[: match.start()], match["number"]
        row = siblings.count_on(before, int(digits))
        if not row or not (before.strip(" ._-") or place.show):
            continue
        number, first = int(digits), min(row)
        found = _Found(_IN_A_ROW)
        seen = f"{first} … {max(row)} in this folder"
        if first < 3 and max(row) < 100:
            found.put("season", 1, "siblings", seen)
            found.put("episode", number, "siblings", digits)
        elif len(digits) == 3 and first // 100 == max(row) // 100 > 0 and first % 100 in (1, 2):
            found.put("season", number // 100, "siblings", seen)
            found.put("episode", number % 100, "siblings", digits)
        else:
            found.put("running", number, "siblings", seen)
        _show(found, name, before, place, "")
        _behind(found, name, begin + match.end(), may_have_part=False)
        yield _reading(found, name, end)
        return


def _part_alone(name: Name, place: Place, shelf: float) -> Iterator[Reading]:
    """ "Part 2" behind a name without a year: a short series, as a guess."""
    if any(mark.field == "year" for mark in name.marks):
        return
    for mark in name.marks:
        if mark.field == "part" and mark.strength != STRONG and mark.start > 0:
            seen = name.text[mark.start : mark.end]
            found = _Found(_WEAK_MARK + shelf)
            found.put("season", 1, "guess", "no season said")
            found.put("episode", mark.value, "name", seen)
            found.doubts.append(f"part or episode: “{seen}” may be either")
            _show(found, name, name.text[titled.name_start(name) : mark.start], place, "")
            _behind(found, name, mark.end, may_have_part=False)
            yield _reading(found, name, mark.end)
            return


def _special(name: Name, text: str, place: Place, end: int) -> Reading:
    """A file without a number in the folder of specials: its name is its title."""
    found = _Found(_BELOW_SEASON / 2)
    _season_of(found, place)
    _show(found, name, "", place, "")
    if title := clean(text):
        found.put("episode_title", title, "name", text)
    return _reading(found, name, end)


def _season_of(found: _Found, place: Place) -> None:
    assert place.season is not None
    found.put("season", place.season.season, "folder", place.season.text)


def _show(found: _Found, name: Name, before: str, place: Place, behind: str) -> bool:
    """Find the show: in front of the mark, or from the folders. Say whether the name ran the other way round."""
    stem = before.strip(" ._-")
    shouted = name.text.upper() == name.text
    if stem.endswith(("[", "(")):
        stem = stem[:-1].rstrip(" ._-")
    show, year, text = _split_year(name, stem, before)
    if place.show and (not show or (not year and stands_for(show, place.show))):
        folder = place.season if place.season and place.season.title else place.titled
        assert folder is not None
        found.put("show", _country(found, place.show, False), "folder", folder.text)
        if place.show_year:
            found.put("show_year", place.show_year, "folder", place.titled.text if place.titled else "")
        found.weight += 0.5
        return False
    if not show:
        return _show_behind(found, behind)
    show = _country(found, show, shouted or name.text.lower() == name.text)
    same = bool(place.show) and folded(place.show) == folded(show)
    if same and (show.isupper() or not stem.isascii() or stem.islower() or stem.isupper()):
        show = place.show
    found.put("show", show, "name", stem)
    if year:
        found.put("show_year", year, "name", text)
    elif same and place.show_year:
        found.put("show_year", place.show_year, "folder", place.titled.text if place.titled else "")
    if same and place.titled:
        found.why.append(Evidence("show", show, "folder", place.titled.text))
        found.weight += 0.5
    elif place.season and place.show and not same:
        found.doubts.append(f"the folder disagrees: it says {place.show}")
    return False


def _split_year(name: Name, stem: str, before: str) -> tuple[str, int, str]:
    """Split the text in front of a mark into show and first year (0: none)."""
    if not any(mark.field == "year" for mark in name.marks) or not stem:
        return clean(stem), 0, ""
    begin = name.text.find(before)
    end = begin + before.find(stem) + len(stem)
    best = None
    for reading in titled.readings(name, end):
        bare_at_end = reading.year and reading.bare and reading.weight > 0 and stem.endswith(reading.text)
        if reading.year and (not reading.bare or bare_at_end) and (best is None or reading.weight > best.weight):
            best = reading
    return (best.title, best.year, best.text) if best else (clean(stem), 0, "")


def _country(found: _Found, show: str, one_case: bool) -> str:
    """Write a country's code behind a show's name in brackets; where all is in one case it may be a word."""
    match = _COUNTRY.match(show)
    if not match or not (one_case or match["country"].isupper()):
        return show
    if one_case and not match["bracket"]:
        found.doubts.append(f"country or word: “{match['country']}” may be either")
    return f"{match['show']} ({match['country'].upper()})"


def _show_behind(found: _Found, behind: str) -> bool:
    """Read "S02E05 - The Ferry - Tidewater Lane": the show stands last, which is a guess."""
    parts = [part for part in re.split(r"[ _]-[ _]", behind.strip(" ._-")) if part.strip()]
    if len(parts) < 2:
        return False
    found.put("show", clean(parts[-1]), "name", parts[-1])
    found.put("episode_title", clean(" - ".join(parts[:-1])), "name", " - ".join(parts[:-1]))
    found.doubts.append("show last: the show seems to stand last in the name")
    return True


def _behind(found: _Found, name: Name, start: int, *, may_have_part: bool) -> int:
    """Read what stands behind the mark, a part and the episode's title; return where the release words begin."""
    text = name.text
    if match := _PART_FIRST.match(text[start:]):
        if may_have_part:
            found.put("part", int(match["part"]), "name", match.group()[: match.start("rest")].strip())
        start += match.start("rest")
    before = start
    start = _past_weak_words(name, start)
    end = tail_start(name, start)
    title = text[start:end].strip(" ._-")
    if title[:1] in "])" and not any(b in title for b in "[("):
        title = title[1:]
    if cleaned := clean(title):
        found.put("episode_title", cleaned, "name", title)
        return end
    return before


def _past_weak_words(name: Name, start: int) -> int:
    """Skip release words that stand directly behind the mark, if no title follows them or they are in capitals."""
    at = start
    for mark in name.marks:
        if mark.start < at or mark.field not in RELEASE_FIELDS:
            continue
        if mark.strength == STRONG:
            break
        seen = name.text[mark.start : mark.end]
        if name.text[at : mark.start].strip(" ._-[(") or not (
            is_shouted(seen) or name.text.islower() or name.bracket_around(mark.start, mark.end)
        ):
            break
        at = mark.end
    return at


def _reading(found: _Found, name: Name, start: int) -> Reading:
    if codes := languages(name, start):
        found.put("languages", codes, "name", ", ".join(codes))
    facts, reasons = claims(name, start)
    return Reading(Kind.EPISODE, found.weight, found.fields, tuple(found.why + reasons), tuple(found.doubts), facts)
