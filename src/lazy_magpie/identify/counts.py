"""How names count seasons and episodes: S02E05, 2x05, Season 2 Episode 5, 1 of 4, E05. A new habit is a new row."""

from __future__ import annotations

import re
from typing import NamedTuple

from lazy_magpie.identify.words import COUNTED, EPISODE_WORDS, HAN_COUNTED, OF_WORDS, SEASON_WORDS, STRONG, WEAK

_B = r"(?<![^\W_])"  # no letter or digit before
_A = r"(?![^\W_])"  # none after
_AFTER = rf"(?P<part>[a-d])?(?:v\d)?{_A}"
_GAP = r"[ ._\-()\[\],]"
_N = rf"(?:\d{{1,4}}|(?:{'|'.join(COUNTED)}){_A})"
_HAN = rf"(?:\d{{1,4}}|[{''.join(HAN_COUNTED)}])"
_SEASON = "|".join([*SEASON_WORDS, "ser"])
_EPISODE = "|".join([*EPISODE_WORDS, "ep", "e"])


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


_TABLE = (
    (  # S02E05, s2 e5, S02.E05, [S02] [E05], S02EP05; S02E05E06, S02E05-06, S02E05 to E07, S02E05,06
        rf"{_B}s(?P<season>\d{{1,4}}){_GAP}{{0,3}}x?e(?:p(?:isode)?)?[ ._]?(?P<first>\d{{1,4}})"
        r"(?P<more>(?:[ ._]?(?:[-+&][ ._]?(?:s\d{1,4}[ ._]?)?e|[-+,&](?:s\d{1,4})?|to[ ._]?e|e)\d{1,4}(?![\dpi]))*)",
        STRONG,
    ),
    (  # 2x05, 2x05-06, 2x05x06, 2x05-2x06
        rf"{_B}(?P<season>\d{{1,2}})x(?P<first>\d{{2,3}})"
        r"(?P<more>(?:(?: ?[-+&] ?\d{1,2}x|[-+&]|x)\d{2,3}(?![\dpi]))*)",
        STRONG,
    ),
    (  # Season 2 Episode 5, Series 2, Episode 5, (Season 2) (Episode 5), Season 2 - 05, 2nd Season - 05
        rf"{_B}(?:(?:{_SEASON})[ ._]*(?P<season>{_N})|(?P<ordinal>\d)(?:st|nd|rd|th)[ ._]season)"
        rf"(?:{_GAP}*(?:{_EPISODE})[ ._]*(?P<first>{_N})|{_GAP}+(?P<bare>\d{{1,4}}))"
        rf"(?P<more>(?:[ ._]?[-+&][ ._]?(?:{_EPISODE})?[ ._]?\d{{1,4}}(?![\dpi]))*)",
        STRONG,
    ),
    (  # 第2季 第05集, シーズン2 第5話, 시즌2 5화
        rf"(?:第 ?(?P<season>{_HAN}) ?[季期]|(?:シーズン|시즌) ?(?P<ordinal>{_HAN}))"
        rf"[ ._-]*第?(?P<first>{_HAN}) ?[集話话回화]()",
        STRONG,
    ),
    (  # S02 - 05
        rf"{_B}s(?P<season>\d{{1,2}})(?:[ _]+-[ _]+|\.-\.)(?P<first>\d{{2,3}})",
        STRONG,
    ),
    (  # 1 of 4, 1of4, Part 1 of 4, Teil 1 von 4
        rf"{_B}(?:(?:part|pt|parte|teil|{_EPISODE})[ ._]*)?(?P<first>\d{{1,2}})"
        rf"(?:(?<=\d)of|[ ._](?:{'|'.join(OF_WORDS)})[ ._])(?P<total>\d{{1,2}})",
        STRONG,
    ),
    (  # Part One of Four, Part 1 of Three
        rf"{_B}(?:part|parte|teil|{_EPISODE})[ ._]+(?P<first>{_N})[ ._](?:{'|'.join(OF_WORDS)})[ ._](?P<total>{_N})",
        STRONG,
    ),
    (  # S02SP01, SP03, OVA 2, Special 3: a special
        rf"{_B}(?:s\d{{1,2}})?(?:sp|ova|special)[ ._]?(?P<special>\d{{1,3}})",
        WEAK,
    ),
    (  # Episode 5, Ep. 05, E05, Folge 5
        rf"{_B}(?:(?:{'|'.join(EPISODE_WORDS)})[ ._]*(?P<first>{_N})|(?:ep[ ._]{{0,2}}|e)(?P<bare>\d{{1,4}}))"
        r"(?P<more>(?:[ ._]?[-+&][ ._]?(?:episode|ep|e)?\d{1,4}(?![\dpi]))*)",
        WEAK,
    ),
    (  # 第5話
        rf"第(?P<first>{_HAN}) ?[集話话回화]()",
        WEAK,
    ),
    (  # S02.05
        rf"{_B}s(?P<season>\d{{1,2}})[ ._](?P<first>\d{{2}})",
        WEAK,
    ),
    (  # - 2.05
        r"(?<= - )(?P<season>\d{1,2})\.(?P<first>\d{2})",
        WEAK,
    ),
    (  # 2x5
        rf"{_B}(?P<season>\d{{1,2}})x(?P<first>\d)",
        WEAK,
    ),
)
_COUNTS = tuple(
    (re.compile(f"(?i){pattern}" if pattern.endswith("()") else f"(?i){pattern}{_AFTER}"), strength)
    for pattern, strength in _TABLE
)
_OF = tuple(f"{gap}{word}{gap}" for word in OF_WORDS for gap in " ._")
_HINTS = (
    ("s",),
    ("x",),
    ("ser", *{word[:4] for word in SEASON_WORDS}),
    ("第", "시즌"),
    (" - ", "_-_", ".-."),
    ("of", *_OF),
    _OF,
    ("sp", "ova"),
    tuple({"e", *(word[:3] for word in EPISODE_WORDS)}),
    ("第",),
    ("s",),
    (" - ",),
    ("x",),
)
"""For each row what a name that it matches has at least, in small letters: looked for first, as it is quickly found."""
_DIGITS = re.compile(r"\d+")
_DISC_BEFORE = re.compile(r"(?i)(?:cd|dis[ck]|dvd)[ ._-]*$")


def counts_in(text: str) -> list[Count]:
    """Return the season-and-episode marks of a name, the strong ones first."""
    found: list[Count] = []
    low = text.lower()
    for (pattern, strength), hints in zip(_COUNTS, _HINTS, strict=True):
        if found and not found[0].total:  # nothing further down weighs against it
            break
        for hint in hints:
            if hint in low:
                break
        else:
            continue
        for match in pattern.finditer(text):
            if any(match.start() < count.end and count.start < match.end() for count in found):
                continue
            if (count := _count(match, text, strength)) is not None:
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
    numbers = [
        int(number) for number in _DIGITS.findall(_without_seasons(groups["more"]) if groups.get("more") else "")
    ]
    total = _number(groups.get("total") or "0")
    if total and (not 1 <= first <= total or _DISC_BEFORE.search(text[:start])):
        return None
    said = groups.get("season") or groups.get("ordinal")
    season = _number(said) if said else 1 if total else -1
    start, end = _with_brackets(text, start, end)
    return Count(season, first, max([first, *numbers]), part, start, end, strength, total)


def _number(text: str) -> int:
    """Return the number that digits or a word say."""
    return int(text) if text.isdigit() else COUNTED.get(text.lower()) or HAN_COUNTED[text]


def _with_brackets(text: str, start: int, end: int) -> tuple[int, int]:
    """Take in a bracket that opens within the mark's reach or closes it: "[S02] [E05]", "(Season 2) (Episode 5)"."""
    inside = text[start:end]
    if inside.count("(") + inside.count("[") != inside.count(")") + inside.count("]") or "(" in inside or "[" in inside:
        start -= text[start - 1 : start] in ("(", "[", "{")
        end += text[end : end + 1] in (")", "]", "}")
    return start, end


def _without_seasons(more: str) -> str:
    return re.sub(r"(?i)s\d{1,4}[ ._]?(?=e)|\d{1,2}(?=x\d)", "", more)
