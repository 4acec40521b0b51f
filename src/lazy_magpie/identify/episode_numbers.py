"""How names count seasons and episodes: S02E05, 2x05, Season 2 Episode 5, 1 of 4, E05. A new habit is a new row."""

from __future__ import annotations

import re
from typing import NamedTuple

from lazy_magpie.identify.vocabulary import (
    COUNTED,
    HAN_COUNTED,
    ORDINALS,
    STRONG,
    WEAK,
)
from lazy_magpie.patterns import pattern
from lazy_magpie.words import counting_words, remembered

_B = r"(?<![^\W_])"  # no letter or digit before
_OR_EAST = rf"(?:{_B}|(?<=[\u3040-\u30ff\u3400-\u9fff\uac00-\ud7a3]))"  # or a sign of those who write no spaces
_A = r"(?![^\W_])"  # none after
_GAP = r"[ ._\-()\[\],]"
_N = rf"(?:\d{{1,4}}|(?:{'|'.join(COUNTED)}){_A})"
_HAN = rf"(?:\d{{1,4}}|[{''.join(HAN_COUNTED)}])"
_SEASONS = ("season", "series")
"""What English has, and what other languages write so, too."""
_FEW = 4
"""So many words are looked for one by one."""
_SHORT = ("eps", "odc", "cap")
"""Short words for an episode that are hardly anything else in front of a number."""
_PARTS = ("pt", "del", "díl", "osa")
"""Short words for a part."""
_AND = r"(?:[ ._]?[-–+&,~][ ._]?|[ ._](?:and|und|et|to|y)[ ._]|_)"
"""What stands between the first number and the next ones."""
_BETWEEN = r"(?:[-–+&,~]|[ ._]?&[ ._]?|[ ._](?:and|und|et|to|y)[ ._])"
"""What stands between two bare numbers of one mark: behind a hyphen with spaces a number may begin a title."""
_MORE = r"\d{1,4}(?![\dpi])"


class Count(NamedTuple):
    """Season and episodes as a name counts them; `part` is 0 where there is none. A season of -1 is not said.

    `total` is how many there are in all, 0 where the name does not say.
    """

    season: int
    first: int
    last: int
    part: int
    start: int
    end: int
    strength: int
    total: int = 0


class _CountPattern(NamedTuple):
    """A habit of counting. `hints` is what a name has at least, in small letters: quickly looked for first.

    What the pattern names: `season` (`ordinal` where it stands elsewhere), `first` (`bare`), `more` (further episodes),
    `near` (a number that is the next episode's only if it counts on), `total`, `special`. A letter for a part may
    follow unless `ends` is False.
    """

    pattern: str
    strength: int
    hints: tuple[str, ...]
    ends: bool = True


_NEAR = r"(?:[._](?P<near>\d{2,3})(?=$|[ ._]*[-\[(]|[ ._]\d{3,4}[pi]))?"

_PART = rf"(?P<part>[a-d])?(?:v\d)?{_A}"
_DIGITS = pattern(r"\d+")
_DISC_BEFORE = pattern(r"(?i)(?:cd|dis[ck]|dvd)[ ._-]*$")


def _habits() -> tuple[_CountPattern, ...]:
    """Return the habits of counting, the surest first, with the words of all languages."""
    in_front, behind = (*counting_words("episode", "{w} {n}"), *_SHORT), counting_words("episode", "{n} {w}")
    seasons = (*_SEASONS, *counting_words("season", "{w} {n}"))
    between, within = counting_words("count.of", "{n} {w} {n}"), counting_words("count.of", "{n}{w}{n}")
    season_words = "|".join((*seasons, "ser", "temp"))
    season_hints = tuple({word[:4] for word in (*seasons, "ser", "temp")})
    episode = "|".join((*in_front, "ep", "e"))
    parts = "|".join((*_PARTS, *counting_words("part", "{w} {n}")))
    of, of_within = "|".join(between), "|".join(within)
    of_hints = tuple(f"{gap}{word}{gap}" for word in between for gap in " ._")
    return (
        _CountPattern(  # [Cap.201]
            rf"(?<=[\[(])cap[ ._]?(?P<season>\d{{1,2}})(?P<first>\d\d)(?P<more>(?:[_-]{_MORE})?)(?=[\])])",
            STRONG,
            ("cap",),
        ),
        # S02E05, s2 e5, S02.E05, [S02] [E05], S02EP05, T02E05; S02E05E06, S02E05-06, S02E05 to E07, S02E05,06
        _CountPattern(
            rf"{_OR_EAST}(?:s[ .]?|t(?=\d{{1,2}}e))(?P<season>\d{{1,4}}){_GAP}{{0,3}}"
            r"x?e(?:p(?:isode)?)?[ ._]?(?P<first>\d{1,4})"
            rf"(?P<more>(?:(?:{_AND}(?:s\d{{1,4}}[ ._]?)?e|[-+,&](?:s\d{{1,4}})?|"
            rf"[ ._]?(?:s\d{{1,4}}[ ._]?)?e){_MORE})*)"
            rf"{_NEAR}(?:[ ._]?[(\[]?of[ ._]?\d{{1,3}}[)\]]?)?",
            STRONG,
            ("s", "t"),
        ),
        _CountPattern(  # 2x05, 2x05-06, 2x05x06, 2x05-2x06, S02x05
            rf"{_OR_EAST}s?(?P<season>\d{{1,2}})x(?P<first>\d{{2,3}})"
            rf"(?P<more>(?:(?:(?:{_AND}|[ ._])\d{{1,2}}x|[-+&]|x)\d{{2,3}}(?![\dpi]))*){_NEAR}",
            STRONG,
            ("x",),
        ),
        # Season 2 Episode 5, Series 2, Episode 5, (Season 2) (Episode 5), Season 2 - 05, 2nd Season - 05, T2 Cap 5
        _CountPattern(
            rf"{_B}(?:(?:{season_words}|t(?=\d{{1,2}}{_GAP}+cap))[ ._]*(?P<season>{_N})|"
            rf"(?P<ordinal>\d(?=st|nd|rd|th)|{'|'.join(ORDINALS)})(?:st|nd|rd|th)?[ ._]season)"
            rf"(?:{_GAP}*(?:{episode})[ ._]*(?P<first>{_N})|{_GAP}+(?P<bare>(?!(?:19|20)\d\d)\d{{1,4}})"
            rf"(?!{_GAP}*(?:{episode})[ ._]*\d))"
            rf"(?P<more>(?:(?:{_AND}(?:{episode})[ ._]?|{_BETWEEN}){_MORE})*)(?:[ ._](?:{of})[ ._]\d{{1,3}}(?!\d))?",
            STRONG,
            (*season_hints, "cap"),
        ),
        _CountPattern(  # 3 сезон 11 серия, 2. Staffel 5. Folge, 2e saison épisode 5, 3ª Temporada - Episodio 11
            rf"{_B}(?P<season>\d{{1,2}})(?:\.|-?[^\W\d_]{{1,3}}|[ªº°])?[ ._]?(?:{season_words}){_A}{_GAP}{{0,3}}"
            rf"(?:(?P<first>\d{{1,3}})(?:\.|-?[^\W\d_]{{1,2}}|[ªº°])?[ ._]?(?:{episode})|"
            rf"(?:{episode})[ ._]*(?P<bare>\d{{1,3}}))",
            STRONG,
            season_hints,
        ),
        _CountPattern(  # 第2季 第05集, シーズン2 第5話, 시즌2 5화, 2期 5話
            rf"(?:(?:第 ?)?(?P<season>{_HAN}) ?[季期]|(?:シーズン|시즌) ?(?P<ordinal>{_HAN}))"
            rf"[ ._-]*第?(?P<first>{_HAN}) ?[集話话回화회]",
            STRONG,
            ("季", "期", "シーズン", "시즌"),
            ends=False,
        ),
        _CountPattern(  # 2017x05
            rf"{_B}(?P<season>(?:19|20)\d\d)x(?P<first>\d\d)",
            STRONG,
            ("x",),
        ),
        _CountPattern(  # S02 - 05
            rf"{_B}s(?P<season>\d{{1,2}})(?:[ _]+-[ _]+|\.-\.)(?P<first>\d{{2,3}})",
            STRONG,
            (" - ", "_-_", ".-."),
        ),
        _CountPattern(  # 1 of 4, 1of4, Part 1 of 4, Teil 1 von 4
            rf"{_B}(?:(?:{parts}|{episode})[ ._]*)?(?P<first>\d{{1,2}})"
            rf"(?:(?<=\d)(?:{of_within})|[ ._](?:{of})[ ._])(?P<total>\d{{1,2}})",
            STRONG,
            (*within, *of_hints),
        ),
        _CountPattern(  # Part One of Four, Part 1 of Three
            rf"{_B}(?:{parts}|{episode})[ ._]+(?P<first>{_N})[ ._](?:{of})[ ._](?P<total>{_N})",
            STRONG,
            of_hints,
        ),
        _CountPattern(  # S02SP01, SP03, OVA 2, Special 3: a special
            rf"{_B}(?:s\d{{1,2}})?(?:sp|ova|special)[ ._]?(?P<special>\d{{1,3}})",
            WEAK,
            ("sp", "ova"),
        ),
        _CountPattern(  # Episode 5, Ep. 05, E05, Folge 5, E05E06
            rf"{_B}(?:(?:{'|'.join(in_front)})[ ._]*(?P<first>{_N})|(?:ep[ ._]{{0,2}}|e)(?P<bare>\d{{1,4}}))"
            rf"(?P<more>(?:(?:{_AND}(?:episode|ep|e)[ ._]?|{_BETWEEN}|e){_MORE})*)",
            WEAK,
            ("e", *in_front),
        ),
        _CountPattern(  # 5 серия, 5. Folge, 5. bölüm
            rf"{_B}(?P<first>\d{{1,3}})(?:\.|-?[^\W\d_]{{1,2}})?[ ._]?(?:{'|'.join(behind)})",
            WEAK,
            behind,
        ),
        _CountPattern(  # 第5話, 5회
            rf"(?:第(?P<first>{_HAN}) ?[集話话回화]|(?<!\d)(?P<bare>\d{{1,4}})[회화](?![^\W\d_]))",
            WEAK,
            ("第", "회", "화"),
            ends=False,
        ),
        _CountPattern(  # S02.05
            rf"{_B}s(?P<season>\d{{1,2}})[ ._](?P<first>\d{{2}})",
            WEAK,
            ("s",),
        ),
        _CountPattern(  # - 2.05, [2.05], (2-05)
            r"(?:(?<= - )(?=\d{1,2}\.)|(?<=[(\[])(?=\d{1,2}[.-]\d\d[)\]]))(?P<season>\d{1,2})[.-](?P<first>\d{2})",
            WEAK,
            (" - ", "[", "("),
        ),
        _CountPattern(  # 2x5, 2 x 05
            rf"{_B}(?P<season>\d{{1,2}})(?:x(?P<first>\d)| x (?P<bare>\d\d))",
            WEAK,
            ("x",),
        ),
    )


class _Habit(NamedTuple):
    """A habit made ready: its pattern, its strength, and what a name has at least: many words as a pattern."""

    sign: re.Pattern[str]
    strength: int
    few: tuple[str, ...]
    many: re.Pattern[str] | None


@remembered(None)
def _counts() -> tuple[_Habit, ...]:
    return tuple(map(_ready, _habits()))


def _ready(row: _CountPattern) -> _Habit:
    sign = pattern(f"(?i){row.pattern}{_PART if row.ends else ''}")
    many = row.hints[_FEW:]
    words = re.compile("|".join(map(re.escape, many))) if many else None
    return _Habit(sign, row.strength, row.hints[:_FEW], words)


def counts_in(text: str) -> list[Count]:
    """Return the season-and-episode marks of a name, the strong ones first."""
    found: list[Count] = []
    low = text.lower()
    for habit in _counts():
        if found and not found[0].total:  # nothing further down weighs against it
            break
        for hint in habit.few:
            if hint in low:
                break
        else:
            if habit.many is None or not habit.many.search(low):
                continue
        for match in habit.sign.finditer(text):
            if any(match.start() < count.end and count.start < match.end() for count in found):
                continue
            if (count := _count(match, text, habit.strength)) is not None:
                found.append(count)
    if len(found) < 2:
        return found
    return sorted(found, key=lambda count: -count.strength)


def _count(match: re.Match[str], text: str, strength: int) -> Count | None:
    groups = match.groupdict()
    part = " abcd".index(groups["part"].lower()) if groups.get("part") else 0
    start, end = match.span()
    if special := groups.get("special"):
        return Count(0, int(special), int(special), part, start, end, strength)
    first = _number(groups["first"] or groups["bare"])
    numbers = [int(number) for number in _DIGITS.findall(_without_seasons(groups.get("more") or ""))]
    if (of := groups.get("season") or "").isdecimal():  # "Cap.202_203"
        numbers = [number % 100 if number > 100 and number // 100 == int(of) else number for number in numbers]
    if numbers and min(numbers) <= first:  # " - E1 Lantern" behind S01E02 counts nothing on
        numbers, end = [], match.start("more")
    if near := groups.get("near"):
        if int(near) == max([first, *numbers]) + 1:
            numbers.append(int(near))
        else:
            end = match.start("near") - 1
    total = _number(groups.get("total") or "0")
    if total and (not 1 <= first <= total or _DISC_BEFORE.search(text[:start])):
        return None
    said = groups.get("season") or groups.get("ordinal")
    if said and len(said) == 4 and groups.get("bare"):  # "The Season 2019-03-21"
        return None
    season = _number(said) if said else 1 if total else -1
    start, end = _with_brackets(text, start, end)
    return Count(season, first, max([first, *numbers]), part, start, end, strength, total)


def _number(text: str) -> int:
    """Return the number that digits or a word say."""
    word = text.lower()
    return int(text) if text.isdecimal() else COUNTED.get(word) or ORDINALS.get(word) or HAN_COUNTED[text]


def _with_brackets(text: str, start: int, end: int) -> tuple[int, int]:
    """Take in a bracket that opens within the mark's reach or closes it: "[S02] [E05]", "(Season 2) (Episode 5)"."""
    inside = text[start:end]
    if inside.count("(") + inside.count("[") != inside.count(")") + inside.count("]") or "(" in inside or "[" in inside:
        start -= text[start - 1 : start] in ("(", "[", "{")
        end += text[end : end + 1] in (")", "]", "}")
    return start, end


def _without_seasons(more: str) -> str:
    return re.sub(r"(?i)s\d{1,4}[ ._]?(?=e)|\d{1,2}(?=x\d)", "", more)
