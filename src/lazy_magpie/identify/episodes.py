"""Readings of a path as an episode: season-and-episode marks, air dates, parts; numbers alone are in `numbered`."""

from __future__ import annotations

from collections.abc import Iterator

from lazy_magpie.identify import title_year
from lazy_magpie.identify.bare_numbers import numbered
from lazy_magpie.identify.candidates import FIRST_SEASON, Candidate, CandidateBuilder, tail_start
from lazy_magpie.identify.context import Siblings
from lazy_magpie.identify.dates import day_behind
from lazy_magpie.identify.episode_fields import DASH, put_behind, put_show, reading_of
from lazy_magpie.identify.episode_numbers import Count
from lazy_magpie.identify.folders import Folder, FolderContext
from lazy_magpie.identify.title_text import is_abbreviation_of, match_key, normalize_title
from lazy_magpie.identify.tokenizer import Name, Token
from lazy_magpie.identify.vocabulary import STRONG
from lazy_magpie.model import Evidence, Kind
from lazy_magpie.patterns import pattern

_STRONG_MARK = 8.0
_OF_DATED = 3.0
_DATE = 7.0
_WEAK_MARK = 1.5
_SHELF = 2.0
_IN_ROW = 1.5
_BELOW_SEASON = 4.0
_NUMBER = pattern(r"\d{1,3}(?: - |[._ ] ?(?=[^\W\d_]))")
_MORE_DAYS = pattern(r"-\d{1,2}(?!\d)")
_RECORDED = pattern(
    r"(?i)^(?:[a-z]{2,4}[ _-]?)?(?:19|20)\d{6}$|"
    r"^(?:.*[ ._-])?(?:screen|video|recording|rec|capture|clip|camera)[ ._-]*[\d._ -]+$"
)
"""What cameras and recording programs call their files."""
_ON_DAY = pattern(r"[ ._](?:vom|du|del)[ ._]+$")
"""What stands between a show and its date: "Hafenschau vom 21.03.2019"."""


def readings(name: Name, place: FolderContext, siblings: Siblings) -> Iterator[Candidate]:
    """Yield the readings of a video file called `name` (without its ending) in `place` as an episode."""
    shelf = _of_shelf(place)
    marked = False
    counts = [] if place.season and _starts_with_number(name) else name.counts
    if _date_beside(name):  # "2019-03-21 - Nets (Part 2 of 2)"
        counts = [count for count in counts if not count.total]
    for count in counts:
        marked = marked or count.strength == STRONG or place.season is not None
        yield from _counted(name, count, place, siblings)
    for mark in name.marks:
        if mark.field == "air_date" and STRONG not in (count.strength for count in counts):
            marked = True
            yield _dated(name, mark, place, shelf)
    if not marked:
        yield from _part_alone(name, place, shelf)
        if not counts:
            yield from numbered(name, place, shelf, siblings)


def _counted(name: Name, count: Count, place: FolderContext, siblings: Siblings) -> Iterator[Candidate]:
    """A mark that counts: S02E05, 2x05, Season 2 Episode 5, 1 of 4, E05."""
    strong = count.strength == STRONG
    found = CandidateBuilder(_STRONG_MARK if strong else _WEAK_MARK + _of_shelf(place))
    seen = name.text[count.start : count.end]
    dated = any(mark.field == "year" for mark in name.marks) or bool(place.titled and place.titled.year)
    if count.total and not place.season and dated:
        found.weight = _OF_DATED
        found.doubts.append(f"part or episode: “{seen}” may be either")
    elif not strong and count.season >= 0:
        _weigh_weak(found, count, place, seen)
    _put_season(found, count, place.season, seen)
    found.put("episode", count.first, "name", seen)
    if count.last > count.first:
        found.put("last_episode", count.last, "name", seen)
    if count.part:
        found.put("part", count.part, "name", seen)
    date = _date_beside(name)
    shown = min(date.start, count.start) if date and strong else count.start
    before, behind = name.text[title_year.name_start(name) : shown], name.text[count.end :]
    if not behind.strip(" ._-)]") and (title := _behind_folders_show(before.rstrip(" ._-[("), place)):
        found.put("episode_title", normalize_title(title), "name", title)
        before = DASH.split(before)[0]
    elif behind == ")" and place.season and place.season.season == count.season and place.show:
        before = _title_before(found, before, place)
    tail = count.end
    day, reach = day_behind(behind) if count.season < 0 else ("", 0)
    if day:  # "E03.180319": the day it was first shown
        found.facts["air_date"] = day
        found.why.append(Evidence("air_date", day, "name", behind[:reach].strip(" ._")))
        tail += reach
    if not put_show(found, name, before, place, behind):
        tail = put_behind(found, name, tail, may_have_part=not count.part)
    of_folder = bool(place.show) and match_key(place.show) == match_key(str(found.fields.get("show", "")))
    if of_folder and FIRST_SEASON in found.doubts and siblings.has_row(name.text, count.start, count.end):
        found.doubts.remove(FIRST_SEASON)  # all of the show lies here, and has no seasons
        found.weight += _IN_ROW
    yield reading_of(found, name, tail)


def _of_shelf(place: FolderContext) -> float:
    return _SHELF if place.shelf is Kind.EPISODE else -_SHELF if place.shelf else 0.0


def _starts_with_number(name: Name) -> bool:
    """Say whether a name begins with a number and has no mark beyond doubt: "05 - 2x4" is the fifth."""
    return all(count.strength != STRONG and count.start for count in name.counts) and bool(_NUMBER.match(name.text))


def _weigh_weak(found: CandidateBuilder, count: Count, place: FolderContext, seen: str) -> None:
    """Weigh a mark that may be something else: below the season that it names it is none."""
    if place.season and place.season.season == count.season:
        found.weight = _BELOW_SEASON
    else:
        what = "special" if not count.season else "bare number"
        found.doubts.append(f"{what}: “{seen}” may be season {count.season} episode {count.first}, or something else")


def _put_season(found: CandidateBuilder, count: Count, folder: Folder | None, seen: str) -> None:
    """Put in the season that the mark says, else its folder's, else the first as a guess."""
    if folder and (count.season < 0 or count.total):
        found.weight = _BELOW_SEASON
        found.put("season", folder.season, "folder", folder.text)
    elif count.season < 0:
        found.put("season", 1, "guess", "no season said")
        found.doubts.append(FIRST_SEASON)
    else:
        found.put("season", count.season, "name", seen)
        if folder and folder.season != count.season and count.strength == STRONG:
            found.doubts.append(f"folder disagrees: it says season {folder.season}")


def _date_beside(name: Name) -> Token | None:
    """Return the date beyond doubt that a name has beside the season and episode."""
    return next((mark for mark in name.marks if mark.field == "air_date" and mark.strength == STRONG), None)


def _behind_folders_show(before: str, place: FolderContext) -> str:
    """Return the title between the show, as the folders name it, and a mark at the name's end, "" if none stands so."""
    show, *title = DASH.split(before, maxsplit=1)
    return title[0] if title and place.season and place.show and match_key(show) == match_key(place.show) else ""


def _title_before(found: CandidateBuilder, before: str, place: FolderContext) -> str:
    """Put in what stands before "(S02E05)" in its season's folder as the title; return the show, if that it is."""
    title = normalize_title(before.rstrip(" ._-[("))
    if not title or match_key(title) == match_key(place.show) or is_abbreviation_of(title, place.show):
        return before
    found.put("episode_title", title, "name", title)
    return ""


def _dated(name: Name, mark: Token, place: FolderContext, shelf: float) -> Candidate:
    """An air date: 2019-03-21, 21.03.2019."""
    found = CandidateBuilder(_DATE + max(shelf, 0.0))
    seen = name.text[mark.start : mark.end]
    found.put("air_date", mark.value, "name", seen)
    if mark.strength != STRONG:
        found.doubts.append(f"day or month first: {seen}")
    before = name.text[title_year.name_start(name) : mark.start]
    if not before.strip(" ._-[(") and not place.show:
        return _dated_first(found, name, mark)
    end = mark.end
    if _RECORDED.match(name.text[: mark.end]):
        found.doubts.append("recording: the date may be the day that a camera or a program wrote it")
    if len(before.split(" - ")) > 2:
        found.doubts.append(f"show or title: where the show ends in “{before.strip()}” is a guess")
    if several := _MORE_DAYS.match(name.text[end:]):
        end += several.end()
        found.doubts.append(f"several days: {seen}{several.group()}")
    put_show(found, name, _ON_DAY.sub("", before), place, "")
    tail = put_behind(found, name, end, may_have_part=True)
    return reading_of(found, name, tail)


def _dated_first(found: CandidateBuilder, name: Name, mark: Token) -> Candidate:
    """Read "2019-03-21 - The Harbour Report - Nets": the show stands behind its date, which is a guess."""
    end = tail_start(name, mark.end)
    parts = [part for part in DASH.split(name.text[mark.end : end].strip(" ._-)]")) if part.strip()]
    if parts:
        found.put("show", normalize_title(parts[0]), "name", parts[0])
        found.doubts.append("show behind: the show seems to stand behind the date")
    if len(parts) > 1:
        found.put("episode_title", normalize_title(" - ".join(parts[1:])), "name", " - ".join(parts[1:]))
    return reading_of(found, name, end)


def _part_alone(name: Name, place: FolderContext, shelf: float) -> Iterator[Candidate]:
    """ "Part 2" behind a name without a year: a short series, as a guess."""
    if any(mark.field == "year" for mark in name.marks):
        return
    for mark in name.marks:
        if mark.field == "part" and mark.strength != STRONG and (mark.start > 0 or place.show):
            seen = name.text[mark.start : mark.end]
            found = CandidateBuilder(_WEAK_MARK + shelf)
            found.put("season", 1, "guess", "no season said")
            found.put("episode", mark.value, "name", seen)
            found.doubts.append(f"part or episode: “{seen}” may be either")
            put_show(found, name, name.text[title_year.name_start(name) : mark.start], place, "")
            put_behind(found, name, mark.end, may_have_part=False)
            yield reading_of(found, name, mark.end)
            return
