"""Readings of a path as a film: title and year from the file's name, or from the folder that it lies in."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from functools import lru_cache

from lazy_magpie.identify import title_year
from lazy_magpie.identify.candidates import CLAIMS, Candidate, claims, languages, release_only
from lazy_magpie.identify.context import Siblings
from lazy_magpie.identify.folders import Folder, FolderContext
from lazy_magpie.identify.title_text import (
    TAG_BEHIND,
    is_abbreviation_of,
    is_incomplete,
    match_key,
    normalize_title,
    preferred_spelling,
)
from lazy_magpie.identify.title_year import TitleYear
from lazy_magpie.identify.tokenizer import Name, tokenize
from lazy_magpie.identify.vocabulary import SURE_EDITIONS
from lazy_magpie.model import Evidence, Kind, Value
from lazy_magpie.patterns import pattern

_SHELF = 2.0
_TOLD = 3.0
_BORNE_OUT = 3.0
_OTHER_TITLE = pattern(r"(?i)[ ._]+[(\[]?a\.?k\.?a\.?[ ._]+.+$")
_OF = pattern(r"(?i)(?<![^\W_])\d ?of ?\d$")
_SEASON_BEHIND = pattern(r"(?<=[^\W_]) S\d\d$")
_BRACKET_BEHIND = pattern(r"(?<=\S)\s[(\[][^()\[\]]*[)\]]$")
_TITLE_BEHIND = pattern(r" - (?!Cop|Kop)(?:[^\W\d_a-z][a-z]|[IVX]+$)")
_PART_BEHIND = pattern(
    r"(?i)[ ._-]*(?:(?:side|reel|tape|vol|volume|act)[ ._]?(?:\d{1,2}|[a-d])|\d(?:-\d)?|(?-i:[A-Da-d]|I{1,3}|IV))"
)
_EDITION_FIRST = pattern(rf"(?i)^(?:{'|'.join(sorted(SURE_EDITIONS))}|uncut|restored|uncensored) - ")
_HUMP = pattern(r"(?<=[a-z])(?=[A-Z][a-z])")


def readings(name: Name, place: FolderContext, siblings: Siblings) -> Iterator[Candidate]:
    """Yield the readings of a video file called `name` (without its ending) in `place` as a film."""
    folder = None if place.titled and place.titled.collects else place.titled
    shelf = _SHELF if place.shelf is Kind.MOVIE else -_SHELF if place.shelf else 0.0
    own = title_year.readings(name)
    for reading in own:
        yield _from_name(name, reading, folder, place, shelf, siblings)
    if folder and folder.title and not place.season:
        alike = (read for read in own if not read.year and match_key(read.title) == match_key(folder.title))
        nearest = next(alike, None) or max(own, key=lambda read: read.weight, default=None)
        yield from _from_folder(name, nearest, folder, place, shelf)


def _from_name(
    name: Name, read: TitleYear, folder: Folder | None, place: FolderContext, shelf: float, siblings: Siblings
) -> Candidate:
    """The file's own title and year, borne out or contradicted by the folders."""
    weight = 1.0 + read.weight + shelf
    doubts = _of_shelf(place)
    why = [Evidence("title", read.title, "name", read.title)]
    title, strange = _plain_title(read.title)
    if folder and (group := _behind_title(folder.text).get("group")):
        title = _without_group(title, str(group))
    same_title = folder is not None and match_key(folder.title) == match_key(title)
    doubts += strange
    if read.year and not read.bare and (behind := _unknown_behind(name, read.tail)):
        doubts.append(f"words behind the year: “{behind}” may belong to the title or be a part")
    if read.parted:
        doubts.append("release word in title: the words behind it may belong to the title")
    if word := _language_before(name, read):
        doubts.append(f"language or title: “{word}” in front of the year may be the film's language")
    if read.listed and not siblings.lists(name.text):
        doubts.append("list number: the number in front may belong to the title")
    fields: dict[str, Value] = {"title": title}
    borne_out = 0.0
    if read.year:
        fields["year"] = read.year
        why.append(Evidence("year", read.year, "name", read.text))
        borne_out = _borne_out(read, folder, place, siblings, same_title, why, doubts)
    elif len(told := _companion_year(siblings, read.title)) == 1:
        ((year, seen),) = told.items()
        fields["year"] = year
        why.append(Evidence("year", year, "companions", seen))
        weight += _TOLD
    elif place.years and place.years.year and not (folder and folder.year):
        fields["year"] = place.years.year
        why.append(Evidence("year", place.years.year, "folder", place.years.text))
        doubts.append(f"year of a folder: {place.years.year} is what the folder says, not the name")
        weight += 0.25
    elif is_abbreviation_of(read.title, folder.title if folder else ""):
        weight -= 2.0
    if same_title and folder:
        fields["title"] = preferred_spelling(title, folder.title)
        why.append(Evidence("title", fields["title"], "folder", folder.text))
        weight += 0.5
    facts = _finish(name, read, fields, why, place, folder if same_title else None)
    return Candidate(Kind.MOVIE, weight + borne_out, fields, tuple(why), tuple(doubts), facts)


def _from_folder(
    name: Name, own: TitleYear | None, folder: Folder, place: FolderContext, shelf: float
) -> Iterator[Candidate]:
    """The folder's title and year, where the file's name is none of its own or the same title without year."""
    own = _without_mark_behind(name, own, folder)
    own_title = own.title if own else ""
    told = _behind_title(folder.text)
    if part := told.get("part") or (place.disc_number and place.disc_number.season):
        own_title = own_title.removesuffix(str(part))
    if group := told.get("group"):
        own_title = _without_group(own_title, str(group))
    if own and own.year and not own.bare and match_key(own_title) != match_key(folder.title):
        return
    same = match_key(own_title) == match_key(folder.title)
    if not same and release_only(name, weak=True):  # "Rope Row (1988)/Extended.mkv"
        own_title = ""
    in_part = place.disc_number is not None
    weight = 1.0 + (folder.year_weight if folder.year else 0.0) + shelf
    doubts = _of_shelf(place)
    fields: dict[str, Value] = {"title": folder.title}
    why = [Evidence("title", folder.title, "folder", folder.text)]
    if same:
        weight += 0.5
        fields["title"] = preferred_spelling(own_title, folder.title)
        why.append(Evidence("title", fields["title"], "name", own_title))
    elif not is_abbreviation_of(own_title, folder.title) and not (
        in_part and match_key(own_title) in match_key(folder.title)
    ):
        weight -= 2.5
        doubts.append(f"two titles: the file calls itself “{own_title}”, its folder “{folder.title}”")
    if own and own.year and own.year != folder.year:
        weight -= 1.0
    if folder.year:
        fields["year"] = folder.year
        why.append(Evidence("year", folder.year, "folder", folder.text))
        if _is_bare(folder):
            doubts.append(f"bare year: {folder.year} in the folder's name may belong to the title")
    short = not same and is_abbreviation_of(own_title, folder.title)
    facts = _finish(name, None if short else own, fields, why, place, folder)
    yield Candidate(Kind.MOVIE, weight, fields, tuple(why), tuple(doubts), facts)


def _language_before(name: Name, read: TitleYear) -> str:
    """Return the language that stands between dots in front of a bare year, and may be no word of the title, or ""."""
    if not read.year or " " in name.text or not read.text.isdecimal():
        return ""
    found = (mark for mark in name.marks if mark.field == "languages" and name.text.startswith(read.text, mark.end + 1))
    mark = next(found, None)
    return name.text[mark.start : mark.end] if mark and not is_incomplete(name.text[: mark.start]) else ""


def _unknown_behind(name: Name, tail: int) -> str:
    """Return what stands behind a year and may be more of the title, or a part: "- The Beginning", "-2", "reel 2"."""
    first = min([mark.start for mark in name.marks if mark.start >= tail], default=len(name.text))
    behind = name.text[tail:first].rstrip(" ._-([")
    return behind.strip(" ._-") if _TITLE_BEHIND.match(behind) or _PART_BEHIND.fullmatch(behind) else ""


def _of_shelf(place: FolderContext) -> list[str]:
    """Return the doubt that a season's folder or the shelf of series raises: only a strong mark would be beyond it."""
    if place.season:
        return ["season: a film in a season's folder may be an episode"]
    return ["shelf: on the shelf of series it may be an episode"] if place.shelf is Kind.EPISODE else []


def _without_mark_behind(name: Name, own: TitleYear | None, folder: Folder) -> TitleYear | None:
    """Return a file's title as its folder has it, without edition or language behind: "Salt Orchard - Extended"."""
    for mark in name.marks if own else ():
        if mark.field in ("edition", "languages") and own and not name.text[mark.end : own.tail].strip(" ._-)]"):
            title = normalize_title(name.text[title_year.name_start(name) : mark.start])
            if match_key(title) == match_key(folder.title):
                return own._replace(title=title, tail=mark.start)
    return own


def _without_group(title: str, group: str) -> str:
    """Return a title without the release group of its folder at either end: "Oys Saltbox", "brn-tso"."""
    written = re.escape(group)
    return re.sub(rf"(?i)^{written}[ -](?=.)|[ -]* {written}$", "", title, count=1)


def _borne_out(
    read: TitleYear,
    folder: Folder | None,
    place: FolderContext,
    siblings: Siblings,
    same_title: bool,
    why: list[Evidence],
    doubts: list[str],
) -> float:
    """Return how much bears out the year of a name: the folders, what lies beside it; put evidence and doubts in."""
    year = read.year
    borne_out = 0.0
    if place.years and place.years.year == year and read.bare:
        borne_out = _BORNE_OUT
        why.append(Evidence("year", year, "folder", place.years.text))
    if read.bare and read.weight >= title_year.BARE and year in siblings.years:
        borne_out = _BORNE_OUT
        why.append(Evidence("year", year, "siblings", f"{len(siblings.years)} years in this folder"))
    if read.bare and (seen := _companion_year(siblings, read.title).get(year)):
        borne_out = _BORNE_OUT
        why.append(Evidence("year", year, "companions", seen))
    if folder and same_title and folder.year == year:
        borne_out = max(borne_out, _BORNE_OUT if read.bare and not _is_bare(folder) else 1.0)
        why.append(Evidence("year", year, "folder", folder.text))
    elif folder and folder.year and not _is_bare(folder) and folder.year != year and (same_title or not read.bare):
        said = folder.year if same_title else f"{folder.title} ({folder.year})"
        doubts.append(f"folder disagrees: it says {said}")
    if read.bare and borne_out < _BORNE_OUT:
        doubts.append(f"bare year: {year} may belong to the title")
    return borne_out


def _companion_year(siblings: Siblings, title: str) -> dict[int, str]:
    """Return the years beyond doubt that companions named after a film of this title have, with the names."""
    found = {}
    for stem in siblings.companions:
        for read in title_year.readings(tokenize(stem)):
            if read.year and not read.bare and match_key(read.title) == match_key(title):
                found[read.year] = stem
    return found


def _plain_title(title: str) -> tuple[str, list[str]]:
    """Return a title without another title behind it, its glued words apart, and what is doubtful about that."""
    if other := _OTHER_TITLE.search(title):
        return title[: other.start()], []
    if _SEASON_BEHIND.search(title):
        return title, ["season: the film may be a show's"]
    if _OF.search(title):
        return title, ["part or episode: one of several, of a film or of a short series"]
    if tag := TAG_BEHIND.search(title):
        return title[: tag.start()], ["bracket in title: what stands in it may be another title or a remark"]
    if _BRACKET_BEHIND.search(title):
        return title, ["bracket in title: what stands in it may be another title or a remark"]
    if title[:1] in "([{" or _EDITION_FIRST.match(title):
        return title, ["release word in title: what stands in front may be no part of it"]
    if " " not in title and len(_HUMP.findall(title)) > 1 and not title.isupper():
        return _HUMP.sub(" ", title), ["words written together: where one ends is a guess"]
    return title, []


def _is_bare(folder: Folder) -> bool:
    return folder.year_weight < title_year.FOLLOWED


def _finish(
    name: Name,
    read: TitleYear | None,
    fields: dict[str, Value],
    why: list[Evidence],
    place: FolderContext,
    folder: Folder | None,
) -> dict[str, Value]:
    """Add to `fields` and `why` what stands behind the title: edition, part, languages; return the facts.

    What the name does not say, the film's own `folder` may.
    """
    tail = read.tail if read else 0
    start = tail if read and read.year else min(tail, len(name.text))
    for mark in name.marks:
        if mark.start >= start and mark.field in ("edition", "part") and mark.field not in fields:
            fields[mark.field] = mark.value
            why.append(Evidence(mark.field, mark.value, "name", name.text[mark.start : mark.end]))
    for count in name.counts:
        if count.total and count.start >= start and "part" not in fields:
            fields["part"] = count.first
            why.append(Evidence("part", count.first, "name", name.text[count.start : count.end]))
    if (disc := place.disc_number) and "part" not in fields:
        fields["part"] = disc.season
        why.append(Evidence("part", disc.season, "folder", disc.text))
    codes, words = languages(name, start)
    if codes:
        fields["languages"] = codes
        why.append(Evidence("languages", codes, "name", words))
    facts, reasons = claims(name, start)
    why += reasons
    for near in (*_of_version(place), *([folder] if folder else [])):
        facts |= _told_by(near, fields, facts, why)
    return facts


def _of_version(place: FolderContext) -> Iterator[Folder]:
    """Yield the folders below the film's own that are called by release words alone: "Director's Cut", "English"."""
    for near in place.folders if place.titled else ():
        if near is place.titled:
            break
        if release_only(tokenize(near.text), weak=True):
            yield near


def _told_by(
    folder: Folder, fields: dict[str, Value], facts: dict[str, Value], why: list[Evidence]
) -> dict[str, Value]:
    """Add to `fields` and `why` the edition and languages that the film's folder has; return the facts it claims."""
    told = _behind_title(folder.text)
    for key in ("edition", "part", "languages"):
        if key in told and key not in fields:
            fields[key] = told[key]
            why.append(Evidence(key, told[key], "folder", folder.text))
    claimed = {key: told[key] for key in CLAIMS if key in told and key not in facts}
    why += [Evidence(key, value, "folder", folder.text) for key, value in claimed.items()]
    return claimed


@lru_cache(maxsize=4096)
def _behind_title(text: str) -> Mapping[str, Value]:
    """Return what stands behind the title of a film's folder."""
    name = tokenize(text)
    best = max(title_year.readings(name), key=lambda read: read.weight, default=None)
    if best is None:
        return {}
    tail = 0 if release_only(name, weak=True) else best.tail
    told, _ = claims(name, tail)
    for mark in name.marks:
        if mark.field in ("edition", "part") and mark.start >= tail:
            told.setdefault(mark.field, mark.value)
    codes, _ = languages(name, tail)
    return told | {"languages": codes} if codes else told
