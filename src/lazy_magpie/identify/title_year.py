"""The ways to read one name, a file's or a folder's, as a title with a year."""

from __future__ import annotations

import re
from typing import NamedTuple

from lazy_magpie.identify.candidates import RELEASE_FIELDS, is_shouted, tail_start
from lazy_magpie.identify.dates import MONTHS
from lazy_magpie.identify.title_text import ends_in_initials, normalize_title
from lazy_magpie.identify.tokenizer import Name, Token
from lazy_magpie.identify.vocabulary import ARTICLES, CONNECTING, MOVED_ARTICLES, SEASONS, STRONG, SURE_EDITIONS
from lazy_magpie.patterns import pattern

BRACKETED = 4.0
FOLLOWED = 3.5
BARE = 1.0
NO_YEAR = 0.0
"""What a year weighs: in brackets, followed by a release word, bare at an end; and the reading without any."""


_MOVED_ARTICLE = pattern(rf"(?i),[ ._]+(?:{'|'.join(MOVED_ARTICLES)})[ ._]*$")
_APART = pattern(r"[-–—([{,][ ._]*$")
"""What parts a year from the word before it: no "Summer of" goes on behind it."""


_YEAR_ALONE = pattern(r"^ *[(\[]\d{4}[)\]] *$")
_REMARK_BEHIND = pattern(r"(?i), | (?:film|movie|tv film|tv movie)$")


class TitleYear(NamedTuple):
    """A title and year (0: none) read from one name, and how much speaks for it.

    `text` is the year as it stood, `tail` where the rest of the name begins; `bare` says that nothing but its
    place speaks for the year, `listed` that a number in front was taken for one in a list, `parted` that words stand
    between the title and its year that nobody knows.
    """

    title: str
    year: int
    weight: float
    text: str
    tail: int
    bare: bool
    listed: bool = False
    parted: bool = False


_LISTED = pattern(
    r"^\s*(?:(?:[\[(]\d{1,3}[\])]|\d{1,2}\)|#\d{1,2}(?= ))[ ._-]*(?=[^\W\d_])|"
    r"0\d{1,2}(?:[ ._]*[-.][ ._]*|[ ._]+)(?=[^\W\d_])|"
    r"\d{1,2}(?:\.[ _]+| +- +)(?=[^\W\d_]))"
)
"""A number in a list before a film's title: "01 - ", "3. ", "[12] "."""


def name_start(name: Name) -> int:
    """Return where the title can begin: behind a site, a group in brackets, "Copy of"."""
    begin = 0
    for mark in name.marks:
        if mark.field in ("site", "copy", "group") and mark.start <= begin and mark.end < len(name.text):
            begin = max(begin, mark.end)
    for mark in name.marks:
        leads = mark.start == begin and mark.strength == STRONG and mark.field in RELEASE_FIELDS
        parted = mark.field == "resolution" or name.text[mark.end : mark.end + 3] == " - "
        if leads and parted and name.text[mark.end :].lstrip(" ._-")[:1].isalpha():
            begin = mark.end
    for left, right in name.brackets[:1]:
        inside = next((mark for mark in name.marks if left < mark.start < right), None)
        if left != begin or inside is None or inside.start != left + 1 or inside.field not in RELEASE_FIELDS:
            break
        if inside.strength == STRONG or name.bracket_around(inside.start, inside.end):
            begin = right
    return begin


def readings(name: Name, end: int | None = None) -> list[TitleYear]:
    """Return every way to read `name` (up to `end`) as title and year; no title is empty."""
    stop = len(name.text) if end is None else end
    begin = name_start(name)
    if (number := _LISTED.match(name.text[begin:stop])) and "year" in {mark.field for mark in name.marks}:
        padded = number.group().lstrip().startswith("0")
        behind = _from(name, begin + number.end(), stop)
        return behind if padded else [read._replace(listed=True) for read in behind]
    return _from(name, begin, stop)


def _from(name: Name, begin: int, stop: int) -> list[TitleYear]:
    """Return the readings of what stands from `begin` to `stop`."""
    title_end = tail_start(name, begin, stop)
    found = []
    for mark in name.marks:
        if mark.field == "year" and begin <= mark.start and mark.end <= stop:
            reading = _with_year(name, mark, begin, title_end, stop)
            if reading.title:
                found.append(reading)
    bracketed = any(reading.weight >= BRACKETED for reading in found)
    without = NO_YEAR - 2 * bracketed
    part = _last_part(name, begin, title_end)
    if part and (title := normalize_title(name.text[begin : part.start])):
        found.append(TitleYear(title, 0, without - 0.5 * (part.strength < STRONG), "", part.start, False))
    if not (part and part.strength == STRONG) and (title := normalize_title(name.text[begin:title_end])):
        found.append(TitleYear(title, 0, without, "", title_end, False))
    return found


def _without_edition(name: Name, begin: int, end: int) -> int:
    """Return where a title before its year ends: in front of an edition, unless it is a word that titles end in, or
    of a disc's number."""
    for mark in name.marks:
        edition = mark.field == "edition" and _ends_no_title(name, mark)
        disc = mark.field == "part" and mark.strength == STRONG
        if not (edition or disc) or not begin < mark.start < end or name.text[mark.end : end].strip(" ._-)]"):
            continue
        title = normalize_title(name.text[begin : mark.start])
        if title and title.lower() not in ARTICLES:
            return mark.start - (name.text[mark.start - 1] in "([")
    return end


def _ends_no_title(name: Name, mark: Token) -> bool:
    """Say whether an edition in front of the year is no part of the title: by its words, a bracket, its capitals."""
    seen = name.text[mark.start : mark.end]
    return (
        seen.lower() in SURE_EDITIONS
        or not seen.isalpha()
        or (is_shouted(seen) and not is_shouted(name.text[: mark.start]))
        or name.bracket_around(mark.start, mark.end) is not None
    )


def _last_part(name: Name, begin: int, end: int) -> Token | None:
    """Return the mark of a part (CD1, part 2) that ends the title, if one does."""
    for mark in name.marks:
        if mark.field == "part" and begin < mark.start and not name.text[mark.end : end].strip(" ._-"):
            return mark
    return None


def _with_year(name: Name, mark: Token, begin: int, title_end: int, stop: int) -> TitleYear:
    text, year = name.text, int(str(mark.value))
    bracket = name.bracket_around(mark.start, mark.end) or _bracket_with_remark(name, mark)
    start, tail = bracket or (mark.start, mark.end)
    if not text[begin:start].strip(" ._-"):  # the year stands first
        behind = tail_start(name, tail, stop)
        title = "" if _YEAR_ALONE.match(text[tail:behind]) else normalize_title(text[tail:behind])
        dashed = text[tail : tail + 3].strip("._ ").startswith("-")
        weight = BRACKETED if bracket else BARE if dashed else BARE / 4
        return TitleYear(title, year, weight, text[start:tail], behind, weight < FOLLOWED)
    stretch = _without_edition(name, begin, min(start, _before_edition(name, title_end, start)))
    title = normalize_title(text[begin:stretch])
    weight = BRACKETED if bracket else _bare_weight(name, mark, begin, title_end, stop)
    if stretch < start and any(m.field == "edition" and stretch <= m.start < start for m in name.marks):
        weight = max(weight, FOLLOWED)
    seen = text[start:tail]
    behind = min(stretch, tail) if stretch < start else tail
    return TitleYear(title, year, weight, seen, behind, weight < FOLLOWED, parted=_has_unknown(name, stretch, start))


def _has_unknown(name: Name, begin: int, end: int) -> bool:
    """Say whether a word that is none of a release, nor in capitals as a group's name, stands from `begin` to `end`."""
    between = [(start, stop) for _, start, stop in name.words if begin <= start and stop <= end]
    return any(
        not any(mark.start <= start and stop <= mark.end for mark in name.marks) and not name.text[start:stop].isupper()
        for start, stop in between
    )


def _bracket_with_remark(name: Name, mark: Token) -> tuple[int, int] | None:
    """Return the bracket that a year shares with a remark: "(1972 film)", "(1972, by Ann Tallow)", "(Tallow, 1972)"."""
    bracket = name.bracket_of(mark.start)
    if bracket is None:
        return None
    before, behind = name.text[bracket[0] + 1 : mark.start], name.text[mark.end : bracket[1] - 1]
    first = not before.strip() and _REMARK_BEHIND.match(behind)
    words = re.findall(r"[^\W\d_]+", before.lower())
    alone = 0 < len(words) < 4 and words[-1] not in CONNECTING and words[-1] not in MONTHS
    last = not behind.strip() and (before.rstrip().endswith((",", "-")) or (alone and not re.search(r"\d", before)))
    return bracket if first or last else None


def _before_edition(name: Name, title_end: int, start: int) -> int:
    """Return where the title ends: at an edition in brackets before the year, if the whole is no title."""
    edition = any(mark.field == "edition" and mark.start == title_end + 1 for mark in name.marks)
    return start if title_end < start and edition and name.text[title_end] in "([" else title_end


def _release_words(name: Name, at: int, stop: int) -> bool:
    """Say whether one or two words in capitals that nobody knows lead from `at` to the release words."""
    tail = min((m.start for m in name.marks if m.field in RELEASE_FIELDS and at <= m.start < stop), default=at)
    between = name.text[at:tail].strip(" ._-[(")
    words = re.split(r"[ ._]+", between)
    return len(words) < 3 and all(word.isupper() and word.isalnum() for word in words) and not name.text.isupper()


def _bare_weight(name: Name, mark: Token, begin: int, title_end: int, stop: int) -> float:
    """Weigh a year without brackets by what stands before and behind it."""
    before = [word for word, start, _ in name.words if begin <= start < mark.start]
    text = name.text[begin : mark.start]
    apart = bool(_APART.search(text) or _MOVED_ARTICLE.search(text))
    connects = bool(before) and before[-1] in CONNECTING and not ends_in_initials(text)
    connected = -3.0 if connects and not apart else 0.0
    behind = name.text[mark.end : stop]
    rest = behind.lstrip(" ._-[(,;|")
    if not rest or any(other.field == "site" and other.start >= mark.end for other in name.marks):
        sited = any(other.field == "site" for other in name.marks)
        return (FOLLOWED if sited else BARE) + connected
    at = stop - len(rest)
    followed = any(
        other.start == at and (other.field in RELEASE_FIELDS or other.field == "part") for other in name.marks
    )
    if followed or _release_words(name, at, stop):
        return FOLLOWED + (0.0 if before[-1:] and before[-1] in SEASONS else connected / 2)
    return (BARE / 2 if mark.start <= title_end else 0.0) - 1.0 + connected
