"""Cuts one name into words and finds the marks in it: stretches that mean something by themselves.

A mark is only a proposal. Whether "Web" is a source or the first word of a title, and whether 1962 is a year,
is decided where whole readings are weighed (`films`, `episodes`).
"""

from __future__ import annotations

import datetime
import re
import unicodedata
import urllib.parse
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Generic, NamedTuple, TypeVar

from lazy_magpie.identify.dates import dates_in, short_dates_in
from lazy_magpie.identify.episode_numbers import Count, counts_in
from lazy_magpie.identify.vocabulary import COUNTED, COUNTRIES, LANGUAGE_CODES, STRONG, WEAK, runs
from lazy_magpie.model import Value
from lazy_magpie.patterns import pattern
from lazy_magpie.words import counting_words, remembered

T = TypeVar("T")

FIRST_YEAR = 1888
LAST_YEAR = datetime.date.today().year + 1

_WORD = pattern(r"[^\W_]+(?:['’][^\W_]+)*")
_BRACKET = pattern(r"[(（\[【{]([^()（）\[\]【】{}]*)[)）\]】}]")
_LONGEST_RUN = 4
"""Words of the longest run that is looked for."""
_B = r"(?<![^\W_])"  # no letter or digit before
_A = r"(?![^\W_])"  # none after


class once(Generic[T]):
    """A property that is worked out once; as functools.cached_property, without its lock."""

    def __init__(self, work: Callable[[Any], T]) -> None:
        self.work = work
        self.__doc__ = work.__doc__

    def __get__(self, owner: Any, kind: type | None = None) -> T:
        value = owner.__dict__[self.work.__name__] = self.work(owner)
        return value


class Token(NamedTuple):
    """A stretch `start:end` of a name that proposes `value` for `field`; `strength` as in `words`."""

    field: str
    value: Value
    start: int
    end: int
    strength: int


@dataclass(frozen=True)
class Name:
    """One part of a path with its marks. `text` is NFC; offsets count characters of `text`."""

    text: str
    words: tuple[tuple[str, int, int], ...]
    marks: tuple[Token, ...]

    @once
    def brackets(self) -> list[tuple[int, int]]:
        """The innermost bracketed stretches, brackets included."""
        return [match.span() for match in _BRACKET.finditer(self.text)]

    @once
    def counts(self) -> list[Count]:
        """Season-and-episode marks, the strong ones first."""
        return counts_in(self.text)

    def bracket_of(self, at: int) -> tuple[int, int] | None:
        """Return the bracketed stretch that `at` lies in, if any."""
        for left, right in self.brackets:
            if left < at < right:
                return left, right
        return None

    def bracket_around(self, start: int, end: int) -> tuple[int, int] | None:
        """Return the bracketed stretch that holds nothing but `start:end`, if there is one."""
        for left, right in self.brackets:
            if (
                left < start
                and end < right
                and not self.text[left + 1 : start].strip(" ") + self.text[end : right - 1].strip(" ")
            ):
                return left, right
        return self._half_bracket(start, end)

    def _half_bracket(self, start: int, end: int) -> tuple[int, int] | None:
        """Return the stretch of a bracket with one half forgotten or cut off: "(1972", "1972)"."""
        text = self.text
        opened = text[start - 1 : start] in ("(", "[", "{") and not re.search(r"[)\]}]", text[end:])
        closed = text[end : end + 1] in (")", "]", "}") and not re.search(r"[(\[{]", text[:start])
        if opened == closed or (opened and text[end : end + 1] not in ("", " ", ".", "_", "-")):
            return None
        return (start - 1, end) if opened else (start, end + 1)


_SITE = pattern(
    r"(?i)^\s*(?:[\[({【]\s*[\w-]+(?:\.[\w-]+)*\.[a-z]{2,12}\s*[\])}】]|"
    r"www\.[\w-]+(?:\.[\w-]+)*?\.[a-z]{2,12}(?=[\s_-])|www([._])[a-z0-9-]+\1[a-z]{2,12}\1(?=[^\W\d_])|"
    r"[a-z0-9-]+\.(?:com|net|org|info|io|me|cc|to|ws|ru|de|eu|co|xyz|club|site|online|example)(?=_|\s-\s))[\s_-]*"
)
_SITE_BEHIND = pattern(r"(?i)[\s._-]+[\[(]?www\.[\w-]+(?:\.[\w-]+)*\.[a-z]{2,12}[\])]?$")
_GROUP = pattern(r"^\s*[\[【](?!\s*\d{1,4}\s*[\]】])([^\[\]【】]+)[\]】][\s._-]*")
_MORE_GROUPS = pattern(r"(?:(?<=[\]】])[\[【](?!\s*\d{1,4}\s*[\]】])[^\[\]【】]+[\]】][\s._-]*)+(?=[^\W_])")
"""Further groups without a gap behind the first one: "[Brine][Tarn] Moon Trawlers"."""
_COPY_BEHIND = pattern(r"(?i)(?:[\s_]*\(\d{1,2}\)|[\s_]+-[\s_]+copy(?:[\s_]*\(?\d*\)?)?|[\s_]\(copy\))+$")
_COPY_ENDS = frozenset(")yY0123456789")
_COPY_BEFORE = pattern(r"(?i)copy[\s_](?:\(?\d{1,2}\)?[\s_])?of[\s_]+")
_RESOLUTION = pattern(rf"(?i){_B}(?:(\d{{3,4}})[pi]|(\d{{3,4}})x(\d{{3,4}})){_A}")
_CHANNELS = pattern(rf"(?i){_B}(?:[12567]\.[01](?:ch)?|[1268]ch){_A}")
_MEASURE = pattern(rf"(?i){_B}(?:\d{{2,3}}(?:\.\d{{1,3}})? ?fps|\d{{1,4}}(?:[.,]\d{{1,2}})? ?[mg]i?b){_A}")
"""Pictures in a second, or the size of the file: "25fps", "1.4GB"."""
_CODES = pattern(r"(?i)[\[(]([a-z]{2}(?:[ ,+&/-]{1,2}[a-z]{2})+)[\])]")
_CODE_BEHIND_YEAR = pattern(
    r"(?<=[ ._](?:18|19|20)\d\d[ ._])(?:PL|FR|DE|ES|IT|EN|RU|HU|NL|PT|CS|SV|DA|FI|TR|RO)(?=[ ._])"
)
"""A language by its code in front of the release words: "1964.PL.DVDRip"."""
_ONE_CODE = pattern(r"(?<=\d[)\]])[ ._]?[(\[]([a-z]{2}|[A-Z]{2})[)\]]")
"""A language by its code alone in brackets behind a year: "(1987) [en]"."""
_CODE = pattern(r"[^\W\d_]{2}")
_CHECKSUM = pattern(r"\[([0-9A-Fa-f]{8})\]")
_DISCS = ("cd", "disc", "disk", "dvd")
_DIGIT = pattern(r"\d")
_YEAR = pattern(rf"{_B}(1[89]\d\d|20\d\d){_A}")
_CUT = pattern(
    r"(?i)(?:(?<=[(\[])|(?<=- )|(?<=[ ._](?:19|20)\d\d[ ._])|(?<=(?:19|20)\d\d[)\]][ ._]))"
    rf"(?:[^\W\d_]+[ ._'’]+){{1,3}}(?:cut|edition|version){_A}"
)
_TV_SERIES = pattern(
    r"(?i)(?<=\S)[ ._]?[(\[]tv(?:[ ._-](?:mini[ ._-]?)?(?:series|show))?(?:[ ._]|(?=[)\]]))"
    r"(?P<year>(?:19|20)\d\d)?(?:[-–](?:(?:19|20)\d\d)?)?[)\]]"
)
_ODD_SEPARATOR = pattern(r"[ ._]+[~|·•][ ._]+|\+(?=(?:19|20)\d\d(?!\d)|\d{3,4}p)")
_CENTURY = pattern(r"(?:19|20)\d\d")
_SPAN = pattern(r"[(\[]((?:19|20)\d\d) ?[-–] ?(?:(?:19|20)?\d\d)? ?[)\]]")
_ANNIVERSARY = pattern(rf"(?i){_B}(\d{{1,3}}(?:st|nd|rd|th))[ ._]anniversary(?:[ ._](?:edition|cut))?{_A}")
_ROUND_GROUP = pattern(r"^\((?!\d+\))([^()]+)\)(?= .+ - \d{1,4}(?:v\d)? [\[(])")
_TITLE_IN_BRACKETS = pattern(
    r"^[\[【]([^\[\]【】\d.][^\[\]【】.]*)[\]】][ ._]?(?=[(（\[](?:18|19|20)\d\d[)）\]])"
    r"|^[\[【]([^\[\]【】\d.]+ [^\[\]【】.]+)[\]】][ ._](?=(?:18|19|20)\d\d[ ._])"
)
"""A title in brackets before its year: "[Salt Orchard] (1987)"; with a bare year, one of two words or more."""
_TIMES = pattern(r"(?<=\d)×(?=\d)")
_PLAIN_SIGNS = str.maketrans("【】［］０１２３４５６７８９", "[][]0123456789")
"""Brackets and digits as wide as a Han character, and the plain ones."""
_DASHED_YEAR = pattern(r"(?<=[^\W\d])[–—](?=(?:18|19|20)\d\d(?!\d))|(?<=[–—](?:18|19|20)\d\d)[–—](?=[^\W\d])")
"""A long dash that parts a year, without spaces: "Orchard–1987–DVDRip"."""
_ALL_BRACKETS = pattern(r"^\[([^\[\]]+)\] ?\[([^\[\]]+)\] ?\[(\d{1,4}(?:v\d)?)\](.*)$")


def plain_show(text: str) -> str:
    """Return a name without the remark that it is a show's, "(TV Series 1999)"; a year that stands in it stays."""
    if "(" not in text and "[" not in text:
        return text
    return _TV_SERIES.sub(lambda match: f" ({match['year']})" if match["year"] else "", text)


def _plain_form(text: str) -> str:
    """Return a name with the separators and brackets of odd habits written as most names have them."""
    if not text.isascii():
        text = unicodedata.normalize("NFC", text.translate(_PLAIN_SIGNS))
        text = _DASHED_YEAR.sub(" - ", text)
    text = plain_show(text)
    for sign in "+~":
        if text.count(sign) > 1 and " " not in text:
            text = text.replace(sign, " ")
    if " – " in text or " — " in text:
        text = text.replace(" – ", " - ").replace(" — ", " - ")
    if "×" in text or "<" in text:
        text = _TIMES.sub("x", text).replace("<", "(").replace(">", ")")
    if "~" in text or "|" in text or "+" in text or "·" in text or "•" in text:
        text = _ODD_SEPARATOR.sub(" - ", text)
    if "%20" in text:
        text = urllib.parse.unquote(text)
    if text[:1] == "[" and (match := _ALL_BRACKETS.match(text)):
        text = f"[{match[1]}] {match[2]} - {match[3]}{match[4].replace('[', ' [', 1)}"
    if text[:1] in ("[", "【") and (match := _TITLE_IN_BRACKETS.match(text)):
        text = f"{match[1] or match[2]} {text[match.end() :]}"
    if text[:1] == "(" and (match := _ROUND_GROUP.match(text)):
        text = f"[{match[1]}]{text[match.end() :]}"
    if text.count("-") > 1 and not any(separator in text for separator in " ._"):
        text = text.replace("-", " ")
    return text


def tokenize(text: str) -> Name:
    """Return `text` as a `Name`. A name with nothing but hyphens between its words is cut at the hyphens."""
    text = _plain_form(text)
    words = _words(text)
    marks = _run_marks(words, text)
    low = text.lower()
    if _DIGIT.search(text):
        marks += _number_marks(text, low)
    if _part_hint().search(low):
        marks += _part_marks(text)
    marks += _edge_marks(text)
    if "(" in text or "[" in text:
        marks += _code_marks(text)
    if "cut" in low or "ion" in low:
        marks += [Token("edition", _named_cut(match.group()), *match.span(), WEAK) for match in _CUT.finditer(text)]
    if dates := [mark for mark in marks if mark.field == "air_date"]:
        marks = [m for m in marks if m.field != "year" or not any(d.start <= m.start < d.end for d in dates)]
    marks.sort(key=lambda mark: (mark.start, -mark.end, mark.field == "edition"))
    return Name(text, words, tuple(_without_nested(marks)))


def _words(text: str) -> tuple[tuple[str, int, int], ...]:
    """Return the words of a name in small letters, without apostrophes, each with its start and end."""
    low = text.lower()
    if len(low) != len(text):  # in small letters some names are longer
        spans = (match.span() for match in _WORD.finditer(text))
        return tuple((text[start:end].lower().replace("'", "").replace("’", ""), start, end) for start, end in spans)
    if "'" in low or "’" in low:
        return tuple(
            (match.group().replace("'", "").replace("’", ""), match.start(), match.end())
            for match in _WORD.finditer(low)
        )
    return tuple([(match.group(), match.start(), match.end()) for match in _WORD.finditer(low)])


def _without_nested(marks: list[Token]) -> list[Token]:
    kept: list[Token] = []
    for mark in marks:
        if kept and mark.end <= kept[-1].end and mark.start >= kept[-1].start and kept[-1].field == mark.field:
            continue
        kept.append(mark)
    return kept


def _named_cut(text: str) -> str:
    words = re.sub(r"[ ._-]+", " ", text).split(" ")
    words = words[words[0].lower() == "the" and len(words) > 2 :]
    return " ".join(word[0].upper() + word[1:] for word in words)


@remembered(None)
def _first_words() -> frozenset[str]:
    return frozenset(run[0] for run in runs())


def _run_marks(words: tuple[tuple[str, int, int], ...], text: str) -> list[Token]:
    marks: list[Token] = []
    behind = 0
    first_words, known = _first_words(), runs()
    for at, (word, start, _) in enumerate(words):
        if at < behind or word not in first_words:
            continue
        for length in range(min(_LONGEST_RUN, len(words) - at), 0, -1):
            if row := known.get(tuple([one[0] for one in words[at : at + length]])):
                marks.append(Token(row.field, row.value, start, words[at + length - 1][2], row.strength))
                behind = at + length
                break
    return marks


def _code_marks(text: str) -> list[Token]:
    """Languages by their codes, several in one bracket: [En+Fr], (de, en)."""
    marks = [
        Token("languages", match[1].lower(), *match.span(1), STRONG)
        for match in _ONE_CODE.finditer(text)
        if match[1].lower() in LANGUAGE_CODES and match[1].lower() not in COUNTRIES
    ]
    for match in _CODES.finditer(text):
        codes = [(one.group().lower(), *one.span()) for one in _CODE.finditer(text, *match.span(1))]
        if all(code in LANGUAGE_CODES for code, _, _ in codes):
            marks += [Token("languages", code, start, end, STRONG) for code, start, end in codes]
    return marks


@remembered(None)
def _part_hint() -> re.Pattern[str]:
    """Return what a name with a part has at least, in small letters: looked for first since it is quickly found."""
    words = (*counting_words("part", "{w} {n}"), *counting_words("part", "{n} {w}"))
    return re.compile("|".join(map(re.escape, (*_DISCS, "part", "pt", "teil", "del", *words))))


@remembered(None)
def _part_pattern() -> re.Pattern[str]:
    """Return how names count parts: "CD1", "part two", "(1987) del 1", "2. část"."""
    words, behind = "|".join(counting_words("part", "{w} {n}")), "|".join(counting_words("part", "{n} {w}"))
    return re.compile(
        rf"(?i){_B}(?:(?P<word>cd|dis[ck]|dvd|part|pt|{words}|(?<=\d[)\]][ ._])del)(?:[ ._-]|\. )?"
        rf"(?P<number>\d{{1,2}}|{'|'.join(COUNTED)}){_A}(?P<of>[ ._]?of[ ._]?\d{{1,2}}(?!\d))?|"
        rf"(?P<first>\d)(?:\.|-?[^\W\d_]{{1,2}}|[ªº°])[ ._]?(?:{behind}){_A})"
    )


def _part_marks(text: str) -> list[Token]:
    """CD1, disc 2 of 3, part two, pt.1."""
    marks = []
    for match in _part_pattern().finditer(text):
        number = (match["number"] or match["first"]).lower()
        if match.group().lower() in ("dvd5", "dvd9"):  # a size of disc, no number
            continue
        value = COUNTED[number] if number in COUNTED else int(number)
        disc = (match["word"] or "").lower() in _DISCS
        end = match.end("of") if disc and match["of"] else match.end("number") if match["number"] else match.end()
        marks.append(Token("part", value, match.start(), end, STRONG if disc else WEAK))
    return marks


def _number_marks(text: str, low: str) -> list[Token]:
    marks = []
    for match in _RESOLUTION.finditer(text):
        lines = match.group(1) or match.group(3)
        marks.append(Token("resolution", f"{lines}p", *match.span(), STRONG))
    if "fps" in low or "mb" in low or "gb" in low or "ib" in low:
        marks += [Token("release", "measure", *match.span(), STRONG) for match in _MEASURE.finditer(text)]
    if ".1" in text or ".0" in text or "ch" in low:
        marks += [Token("sound", match.group(), *match.span(), WEAK) for match in _CHANNELS.finditer(text)]
    if "[" in text:
        marks += [Token("checksum", match.group(1), *match.span(), STRONG) for match in _CHECKSUM.finditer(text)]
    marks += [
        Token("year", int(match.group()), *match.span(), WEAK)
        for match in _YEAR.finditer(text)
        if FIRST_YEAR <= int(match.group()) <= LAST_YEAR
    ]
    if _CENTURY.search(text):
        marks += [
            Token("year", int(match[1]), match.start() + 1, match.end() - 1, STRONG) for match in _SPAN.finditer(text)
        ]
        marks += [Token("air_date", *date) for date in dates_in(text)]
        marks += [
            Token("languages", code.group().lower(), *code.span(), WEAK) for code in _CODE_BEHIND_YEAR.finditer(text)
        ]
    elif text.count(".") > 1 or text.count("-") > 1 or text.count("_") > 1:
        marks += [Token("air_date", *date) for date in short_dates_in(text)]
    if "nniv" in text or "NNIV" in text:
        marks += [
            Token("edition", f"{match[1].lower()} Anniversary Edition", *match.span(), WEAK)
            for match in _ANNIVERSARY.finditer(text)
        ]
    return marks


def without_copy(text: str) -> str:
    """Return a name without what file managers and browsers write at a second copy: "Copy of", " (1)", " - Copy"."""
    if text[:4].lower() == "copy" and (match := _COPY_BEFORE.match(text)) and _begins(text, match.end()):
        text = text[match.end() :]
    return (_COPY_BEHIND.sub("", text) if text[-1:] in _COPY_ENDS else text) or text


def _begins(text: str, at: int) -> bool:
    """Say whether a title can begin at `at`: "Copy of a Copy" is one itself."""
    return not re.match(r"[a-z]+[ ._][A-Z]", text[at:])


def _edge_marks(text: str) -> list[Token]:
    marks = []
    if match := _SITE.match(text):
        marks.append(Token("site", match.group().strip(), *match.span(), STRONG))
    elif match := _GROUP.match(text):
        end = more.end() if (more := _MORE_GROUPS.match(text, match.end())) else match.end()
        marks.append(Token("group", match.group(1), match.start(), end, STRONG))
    if "www." in text[1:] and (match := _SITE_BEHIND.search(text)):
        marks.append(Token("site", match.group().strip(), *match.span(), STRONG))
    at = marks[0].end if marks and marks[0].field == "site" and not marks[0].start else 0
    if text[at : at + 4].lower() == "copy" and (match := _COPY_BEFORE.match(text, at)) and _begins(text, match.end()):
        marks.append(Token("copy", "copy", *match.span(), STRONG))
    if text[-1:] in _COPY_ENDS and (match := _COPY_BEHIND.search(text)):
        marks.append(Token("copy", "copy", *match.span(), STRONG))
    return marks
