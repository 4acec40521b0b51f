"""What the readings of episodes share: the show in front of a mark, and what stands behind it."""

from __future__ import annotations

import re

from lazy_magpie.identify import title_year
from lazy_magpie.identify.candidates import (
    RELEASE_FIELDS,
    Candidate,
    CandidateBuilder,
    claims,
    is_shouted,
    languages,
    release_only,
    tail_start,
)
from lazy_magpie.identify.folders import FolderContext, FolderRole, understand
from lazy_magpie.identify.show_spelling import one_spelling
from lazy_magpie.identify.title_text import (
    TAG_BEHIND,
    ends_in_initials,
    has_article,
    is_abbreviation_of,
    is_incomplete,
    keeps_dot,
    match_key,
    normalize_title,
    preferred_spelling,
)
from lazy_magpie.identify.tokenizer import Name, tokenize
from lazy_magpie.identify.vocabulary import COUNTRIES, LANGUAGE_CODES, SMALL_WORDS, STRONG
from lazy_magpie.model import Evidence, Kind, Value
from lazy_magpie.patterns import pattern

_COUNTRY = pattern(rf"(?i)^(?P<show>.+?)(?: -)?[ ._](?P<bracket>[(\[])?(?P<country>{'|'.join(COUNTRIES)})[)\]]?$")
_EPISODE_BEHIND = pattern(r"(?i)(?<=[^\W_])[ ._-]+(?:ep|eps|episode|folge|épisode)\.?$")
_VERSION = pattern(r"(?i)(?:^|(?<!the)[ ._])v\d$")
_YEAR_AND_COUNTRY = pattern(
    rf"^(?P<stem>.*(?:19|20)\d\d[)\]]?)[ ._]+[(\[]?(?P<country>{'|'.join(COUNTRIES).upper()})[)\]]?$"
)
_NUMBER_ALONE = pattern(r"^\d{1,4}$")
_NUMBER_FIRST = pattern(r"^(?:-\d| \(\d\)) ")
_DASHES = (" - ", "_-_")
_DASHED = pattern(r"[ _]*-[ _]")
DASH = pattern(r"[ _]-[ _]")
"""What parts a show, a mark and a title from each other."""
_ALL_IN_BRACKETS = pattern(r"^[(\[]([^()\[\]]+)[)\]]$")
_GROUP_BEHIND = pattern(r"(?<=[a-z])(?: - |-)([A-Z][A-Z\d]{2,})$")
_TAG_OF_SERVICE = pattern(r"(?<=[a-z])[ .](?![IVX]+$)([A-Z]{2,5})$")
_MAY_END = (
    (pattern(r"(?<=\S) \[[^\[\]]+\]$"), "bracket in title"),
    (pattern(r"(?<=[^\W_])[._](?:19|20)\d\d$(?<!of[._]\d{4})(?<!in[._]\d{4})"), "bare number"),
    (pattern(rf"(?<=[^\W_])\.(?:{'|'.join(sorted(LANGUAGE_CODES))})$"), "language or title"),
)
"""What may stand behind a title and be none of it, and the doubt that it raises."""
OF_TITLES = ("bracket in title", "release word in title", "language or title", "group or title")
"""How doubts begin that concern nothing but an episode's title."""
_PART_FIRST = pattern(
    r"(?i)^[ ._-]*[(\[]?(?:(?:pt|part|teil|часть|cd|dis[ck])[. _-]{0,2}(?P<part>\d{1,2})(?![^\W_])"
    r"(?:[ ._]?of[ ._]?\d{1,2}(?!\d))?|(?P<one>\d)[ ._]?(?:of|von|из)[ ._]?\d(?!\d))[)\]]?(?P<rest>.*)$"
)


def put_show(found: CandidateBuilder, name: Name, before: str, place: FolderContext, behind: str) -> bool:
    """Find the show: in front of the mark, or from the folders. Say whether the name ran the other way round."""
    stem = _without_release(name, before).strip(" ._-")
    stem = _EPISODE_BEHIND.sub("", stem)
    if stem.endswith(("[", "(", "{")):
        stem = stem[:-1].rstrip(" ._-")
    if before[before.find(stem) + len(stem) :].startswith(".") and keeps_dot(f"{stem}."):
        stem += "."
    stem = _without_season(stem, found.fields.get("season"))
    show, year, text = _split_year(name, stem, before)
    if place.show and (not show or (not year and is_abbreviation_of(show, place.show))):
        folder = place.season if place.season and place.season.title else place.titled
        assert folder is not None
        found.put("show", _country(found, place.show, False), "folder", folder.text)
        if place.show_year:
            found.put("show_year", place.show_year, "folder", place.titled.text if place.titled else "")
        found.weight += 0.5
        return False
    if not show:
        return _show_behind(found, behind)
    show = _country(found, show, name.text in (name.text.lower(), name.text.upper()))
    show, same = _as_spelled(show, stem, place, dated=bool(year))
    found.put("show", show, "name", stem)
    if year:
        _put_show_year(found, year, text, place.show_year if same else 0)
    elif same and place.show_year:
        found.put("show_year", place.show_year, "folder", place.titled.text if place.titled else "")
    if same and place.titled:
        found.why.append(Evidence("show", show, "folder", place.titled.text))
        found.weight += 0.5
    elif place.season and place.show and not same:
        found.doubts.append(f"folder disagrees: it says {place.show}")
    return False


def _as_spelled(show: str, stem: str, place: FolderContext, *, dated: bool) -> tuple[str, bool]:
    """Return a show's name as it is written, of the name's spelling and the folder's, and whether they are one."""
    same = bool(place.show) and match_key(place.show) == match_key(show)
    if not same and (of := _COUNTRY.match(place.show)) and match_key(of["show"]) == match_key(show):
        show, same = place.show, True
    if not same and not dated and place.show and (spelled := one_spelling(show, place.show)):
        return spelled, True
    if not same or show == f"{place.show}.":  # a folder's name can't end in a dot
        return show, same
    if show.isupper() or not stem.isascii() or stem.islower() or stem.isupper():
        return place.show, True
    return preferred_spelling(show, place.show), True


def _without_season(stem: str, season: Value | None) -> str:
    """Return a show's name without its season, where that is said again: "Tidewater Lane - Season 2 [2x05]"."""
    if not season or not stem[-1:].isdecimal():
        return stem
    here = understand(stem)
    said_again = here.role is FolderRole.SEASON and here.season == season and bool(here.title)
    return stem[: stem.find(here.title) + len(here.title)] if said_again and here.title in stem else stem


def _put_show_year(found: CandidateBuilder, year: int, text: str, of_folder: int) -> None:
    found.put("show_year", year, "name", text)
    if of_folder not in (0, year):
        found.doubts.append(f"folder disagrees: it says {of_folder}")


def _without_release(name: Name, before: str) -> str:
    """Return what stands in front of the mark up to a release word: "Tidewater Lane [720p] S02E05"."""
    begin = name.text.find(before) if before else -1
    for mark in name.marks if begin >= 0 else ():
        if mark.strength == STRONG and mark.field in RELEASE_FIELDS and begin < mark.start < begin + len(before):
            bracket = name.bracket_of(mark.start)
            stem = name.text[begin : bracket[0] if bracket else tail_start(name, begin, mark.end)]
            return stem if normalize_title(stem) else before
    return before


def _split_year(name: Name, stem: str, before: str) -> tuple[str, int, str]:
    """Split the text in front of a mark into show and first year (0: none)."""
    if not any(mark.field == "year" for mark in name.marks) or not stem:
        return _spaced_title(stem, before), 0, ""
    country = ""
    if match := _YEAR_AND_COUNTRY.match(stem):
        stem, country = match["stem"], f" ({match['country']})"
    begin = name.text.find(before)
    end = begin + before.find(stem) + len(stem)
    best = None
    for reading in title_year.readings(name, end):
        bare_at_end = reading.year and reading.bare and reading.weight > 0 and stem.endswith(reading.text)
        if reading.year and (not reading.bare or bare_at_end) and (best is None or reading.weight > best.weight):
            best = reading
    if best:
        return f"{best.title}{country}", best.year, best.text
    return _spaced_title(stem, before) + country, 0, ""


def _spaced_title(stem: str, before: str) -> str:
    """Return a show's name; where a space parts it from the mark, the dots in its numbers are its own: "11.22.63"."""
    spaced = before[before.find(stem) + len(stem) :][:1] == " "
    return normalize_title(f"{stem} " if spaced else stem)


def _country(found: CandidateBuilder, show: str, one_case: bool) -> str:
    """Write a country's code behind a show's name in brackets; where all is in one case it may be a word."""
    match = _COUNTRY.match(show)
    if not match or not (one_case or match["country"].isupper()):
        return show
    if match["show"].split(" ")[-1].lower() in SMALL_WORDS and not match["bracket"]:  # "Made in UK"
        return show
    if one_case and not match["bracket"]:
        found.doubts.append(f"country or word: “{match['country']}” may be either")
    return f"{match['show']} ({match['country'].upper()})"


def _show_behind(found: CandidateBuilder, behind: str) -> bool:
    """Read "S02E05 - The Ferry - Tidewater Lane", and "[S02E05] Tidewater Lane - The Ferry": both are guesses."""
    parts = [part for part in DASH.split(behind.lstrip("])").strip(" ._-")) if part.strip()]
    if len(parts) < 2:
        return False
    if behind.lstrip("]) ._").startswith("-"):
        parts = [parts[-1], *parts[:-1]]
    title = " - ".join(parts[1:])
    found.put("show", normalize_title(parts[0]), "name", parts[0])
    found.put("episode_title", normalize_title(title), "name", title)
    found.doubts.append("show behind: which of the names behind the mark is the show's is a guess")
    return True


def put_behind(found: CandidateBuilder, name: Name, start: int, *, may_have_part: bool) -> int:
    """Read what stands behind the mark, a part and the episode's title; return where the release words begin."""
    text = name.text
    if match := _PART_FIRST.match(text[start:]):
        if may_have_part:
            found.put("part", int(match["part"] or match["one"]), "name", match.group()[: match.start("rest")].strip())
        start += match.start("rest")
    behind = start
    first = _past_release_alone(name, start)
    start = _past_weak_words(name, first)
    start, end = _without_date(name, start, tail_start(name, start - 1))
    end = _before_last_word(found, name, start, end)
    title = _title_behind(found, name, first, start, end)
    edition = "" if title else _edition_alone(name, first)
    if not title and _DASHED.match(text[first:]) and _is_weak_word(name, text[first:].strip(" _-")):
        found.doubts.append(f"release word in title: “{text[first:].strip(' _-')}” may be the title")
    if edition and (_DASHED.match(text[first:]) or normalize_title(edition) == "Final Cut"):
        found.doubts.append(f"release word in title: “{edition}” may be the title")
    parted = text[start - 1 : start] in (".", ",", "-") or text[start : start + 1] in ".," or end < len(text)
    parted = parted or (len(title) == 4 and any(bracket in (")", "]") for bracket in text[start - 1 : start + 1]))
    if (parted and _NUMBER_ALONE.match(title)) or (title and _NUMBER_FIRST.match(text[start:])):
        found.doubts.append(f"bare number: {title} behind the episode's may be its title, a year or a part")
    if bracketed := _ALL_IN_BRACKETS.match(title):
        title = bracketed[1]
        found.doubts.append(f"bracket in title: “{title}” may be the episode's title or a remark")
    if text not in (text.upper(), text.lower()):
        title = _doubt_end(found, name, title, end)
    if title.isupper() and title.lower() in LANGUAGE_CODES and end < len(text):  # "S01E04.PL.480p"
        found.put("languages", [title.lower()], "name", title)
        title = ""
    if title in LANGUAGE_CODES:
        found.doubts.append(f"language or title: “{title}” may be the language's code or the episode's title")
        title = ""
    lower = title.isupper() and is_shouted(text) and not ends_in_initials(title)
    if cleaned := normalize_title(title.lower() if lower else title):
        found.put("episode_title", cleaned, "name", title)
        return end if first == behind else behind
    return behind


def _is_weak_word(name: Name, text: str) -> bool:
    """Say whether a text is one word that may be a release's or a title: "S02E05 - DVD"."""
    return any(mark.strength != STRONG and name.text[mark.start : mark.end] == text for mark in name.marks)


def _before_last_word(found: CandidateBuilder, name: Name, start: int, end: int) -> int:
    """Return where the title ends: in front of a last word that may be the first of the release's, which is a doubt.

    "S02E05.The.Ferry.German.720p" is in German as likely as not; of "The.German.720p" nobody doubts it.
    """
    follows = any(mark.start == end and mark.field in RELEASE_FIELDS for mark in name.marks)
    reach = len(name.text[:end].rstrip(" ._-"))
    last = next((m for m in name.marks if m.end == reach and m.start > start and m.field in RELEASE_FIELDS), None)
    if not follows or last is None or is_incomplete(name.text[start : last.start]):
        return end
    found.doubts.append(f"release word in title: “{name.text[last.start : last.end]}” may be the title's last word")
    return last.start


def _doubt_end(found: CandidateBuilder, name: Name, title: str, end: int) -> str:
    """Say what the last word of a title, or all of it, may be besides; return the title without a group's name."""
    if match := _GROUP_BEHIND.search(title):
        found.doubts.append(f"group or title: “{match[1]}” may be a group's name")
        return title if match.group().startswith(" ") else title[: match.start()]
    for sign, what in _MAY_END:
        if match := sign.search(title):
            found.doubts.append(f"{what}: “{match.group().strip(' ._')}” may be no part of the title")
            return title
    source = next((mark for mark in name.marks if mark.field == "source" and mark.start == end), None)
    if source and source.value == "web" and (match := _TAG_OF_SERVICE.search(title)):
        found.doubts.append(f"release word in title: “{match[1]}” may be a service's short name")
        return title[: match.start()]
    begin = name.text.rfind(title, 0, end)
    parted = name.text[begin - 3 : begin] in _DASHES or has_article(title)
    if title and not parted and release_only(tokenize(title), weak=True):
        found.doubts.append(f"release word in title: “{title}” may be the title")
    return title


def _edition_alone(name: Name, start: int) -> str:
    """Return the edition of several words that stands where a title would, "" if none: "S02E05 - The Final Cut"."""
    editions = (mark for mark in name.marks if mark.field == "edition" and mark.start >= start)
    mark = next(editions, None)
    seen = name.text[mark.start : mark.end] if mark and not name.text[start : mark.start].strip(" ._-") else ""
    return seen if not seen.isalpha() else ""


def _without_date(name: Name, start: int, end: int) -> tuple[int, int]:
    """Return where the title begins and ends beside an air date that stands in front of it or behind."""
    dates = (m for m in name.marks if m.field == "air_date" and m.start >= start and m.strength == STRONG)
    if (date := next(dates, None)) is None:
        return start, end
    left, right = name.bracket_around(date.start, date.end) or (date.start, date.end)
    return (start, min(end, left)) if name.text[start:left].strip(" ._-") else (right, max(end, right))


def _title_behind(found: CandidateBuilder, name: Name, first: int, start: int, end: int) -> str:
    """Return the title as it stands from `start` to `end`; release words from `first` on may be its beginning."""
    text = name.text
    title = _VERSION.sub("", text[start:end].strip(" ._-:;"))
    if text[start:end].rstrip().endswith(f"{title}.") and ends_in_initials(f"{title}."):
        title += "."
    if tag := TAG_BEHIND.search(title):
        title = title[: tag.start()]
        found.doubts.append("bracket in title: what stands in it may be a group's name or a remark")
    if title[:1] in "])}" and not any(b in title for b in "[("):
        title = title.lstrip(" ._-])}")
    if start == first or not title:
        return title
    if text[start : start + 1] == "-" and title.isalnum():  # a group behind the release words
        return ""
    whole = text[first:end].strip(" ._-")
    if _DASHED.match(text[first:]) or re.split(r"[ ._]", title)[0] in SMALL_WORDS:  # " - DVD Night", "WEB of Nets"
        return whole
    in_one_case = text.isupper() or text.islower()
    if any((in_one_case or mark.field != "release") and first <= mark.start < start for mark in name.marks):
        found.doubts.append(f"release word in title: “{whole}” may be the title")
    return title


def _past_release_alone(name: Name, start: int) -> int:
    """Skip a resolution between the mark and a title: "S02E05 [720p] - The Ferry"."""
    text = name.text
    for mark in name.marks:
        if mark.field != "resolution" or mark.start < start:
            continue
        left, right = name.bracket_around(mark.start, mark.end) or (mark.start, mark.end)
        goes_on = text[right : right + 3] == " - " or (right > mark.end and text[right : right + 2].strip().isalnum())
        return right if goes_on and not text[start:left].strip(" ._-") else start
    return start


def _past_weak_words(name: Name, start: int) -> int:
    """Skip release words that stand directly behind the mark, if no title follows them or they are in capitals.

    A language alone in front of the other release words is no title: "S02E05.German.720p".
    """
    at = start
    release = {mark.start for mark in name.marks if mark.field in RELEASE_FIELDS and mark.strength == STRONG}
    for mark in name.marks:
        if mark.start < at or mark.field not in RELEASE_FIELDS:
            continue
        if mark.strength == STRONG:
            break
        seen = name.text[mark.start : mark.end]
        between = name.text[at : mark.start]
        alone = mark.field == "languages" and "-" not in between and mark.end + 1 in release
        if between.strip(" ._-[(") or not (
            alone or is_shouted(seen) or name.text.islower() or name.bracket_around(mark.start, mark.end)
        ):
            break
        at = mark.end
    return at


def put_season(found: CandidateBuilder, place: FolderContext) -> None:
    """Put in the season that a folder names, with a doubt where that is a guess."""
    assert place.season is not None
    found.put("season", place.season.season, "folder", place.season.text)
    if place.season.guess:
        found.doubts.append(f"no season said: the folder “{place.season.text}” may be one")


def reading_of(found: CandidateBuilder, name: Name, start: int) -> Candidate:
    """Return the finished reading; `start` is where release words and languages begin."""
    codes, words = languages(name, start)
    if codes:
        found.put("languages", codes, "name", words)
    facts, reasons = claims(name, start)
    found.why += reasons
    return found.reading(Kind.EPISODE, facts)
