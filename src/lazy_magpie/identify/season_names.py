"""How a folder's name says which season it holds: "Tidewater Lane Season 2", "2. Staffel", "Quarta stagione"."""

from __future__ import annotations

import re
from typing import NamedTuple

from lazy_magpie.identify.vocabulary import COUNTED, HAN_COUNTED, ORDINALS, ROMAN_COUNTED
from lazy_magpie.patterns import pattern
from lazy_magpie.words import counting_words, meaning, remembered

_HAN_SEASON = pattern(
    rf"^(?P<show>.*?)[ ._-]*(?:第|シーズン|시즌) ?(?P<number>\d{{1,3}}|[{''.join(HAN_COUNTED)}]) ?[季期]?$"
)


_GLUED = pattern(r"^([^\W\d_]{1,4})\.?(\d{1,2})$")


class SeasonName(NamedTuple):
    """A season as a name says it: what stands in front of it, its number, and what stands behind."""

    show: str
    number: int
    rest: str = ""


def season_said(text: str) -> SeasonName | None:
    """Return the season that a folder's name says, None if it says none."""
    if match := _season_pattern().match(text):
        word = match["number"].lower()
        return SeasonName(match["show"], COUNTED.get(word) or ROMAN_COUNTED.get(word) or int(word), match["rest"])
    if match := _HAN_SEASON.match(text):
        return SeasonName(match["show"], HAN_COUNTED.get(match["number"]) or int(match["number"]))
    if match := _ordinal_season().match(text):
        word = (match["ordinal"] or match["number"]).lower()
        return SeasonName(match["show"], ORDINALS.get(word) or int(word.rstrip(".stndrh")))
    if (match := _GLUED.match(text)) and meaning(f"{match[1]} {match[2]}").get("season", 0) > 1:  # "T1", "Temp02"
        return SeasonName("", int(match[2]))
    number = _season_in_words(text)
    return SeasonName("", number) if number else None


@remembered(None)
def _season_pattern() -> re.Pattern[str]:
    """Return how a folder's name says its season: "Tidewater Lane Season 2"."""
    words = ("season", "series", *counting_words("season", "{w} {n}"))
    return re.compile(
        rf"(?i)^(?P<show>.*?)[ ._-]*(?:(?<![^\W_])complete[ ._-]+)?(?<![^\W_])(?:(?:{'|'.join(words)})[ ._-]*|s)"
        rf"(?P<number>\d{{1,4}}|(?<=[ ._-])(?:{'|'.join(COUNTED)}|(?:{'|'.join(ROMAN_COUNTED)})(?=$|[ ._]*[(\[])))"
        r"(?![^\W_])(?P<rest>.*)$"
    )


@remembered(None)
def _ordinal_season() -> re.Pattern[str]:
    """Return how a folder's name says it the other way round: "2nd Season", "2. Staffel"."""
    words = "|".join(counting_words("season", "{n} {w}"))
    return re.compile(
        rf"(?i)^(?P<show>.*?)[ ._-]*(?:the[ ._])?(?:complete[ ._])?"
        rf"(?:(?P<ordinal>{'|'.join(ORDINALS)}|\d{{1,2}}(?:st|nd|rd|th|\.))[ ._]?(?:season|series|staffel|saison)|"
        rf"(?<![^\W_])(?P<number>\d{{1,2}})(?:-?[^\W\d_]{{1,3}}|[.ªº°])?[ ._]?(?:{words})(?![^\W_]))"
        r"(?P<rest>.*)$"
    )


def _season_in_words(text: str) -> int:
    """Return the season that two words say, 0 if they say none: "Quarta stagione", "Erste Staffel"."""
    words = text.lower().split()
    of_season = {*counting_words("season", "{w} {n}"), *counting_words("season", "{n} {w}")}
    if len(words) != 2 or len(of_season.intersection(words)) != 1:
        return 0
    said = meaning(words[words[0] in of_season])
    numbers = (concept.partition(".")[2] for concept in said if concept.startswith(("ordinal.", "number.")))
    return next((int(number) for number in numbers if number.isdecimal()), 0)
