"""Dates in names: 2019-03-21, 21.03.2019, 21 March 2019, March 21, 2019, 21. Mai 2019, 2019年3月21日, 21.03.19."""

from __future__ import annotations

import datetime
import re
from collections.abc import Iterator

from lazy_magpie.identify.vocabulary import STRONG, WEAK
from lazy_magpie.patterns import pattern

_YEAR_FIRST = pattern(r"(?<!\d)((?:19|20)\d\d)([-._ ]?)(\d\d)\2(\d\d)(?!\d)")
_YEAR_LAST = pattern(r"(?<!\d)(\d\d?)([-._ ])(\d\d?)\2((?:19|20)\d\d)(?!\d)")
MONTHS = {
    name: number
    for number, names in enumerate(
        (
            "january jan januar janvier enero gennaio januari janeiro января",
            "february feb februar février fevrier febrero febbraio februari fevereiro февраля",
            "march mar märz maerz mars marzo maart março marco марта",
            "april apr avril abril aprile апреля",
            "may mai mayo maggio mei maio maj мая",
            "june jun juni juin junio giugno junho июня",
            "july jul juli juillet julio luglio julho июля",
            "august aug août aout agosto augustus augusti августа",
            "september sep sept septembre septiembre settembre setembro сентября",
            "october oct oktober octobre octubre ottobre outubro октября",
            "november nov novembre noviembre novembro ноября",
            "december dec dezember décembre decembre diciembre dicembre dezembro декабря",
        ),
        start=1,
    )
    for name in names.split()
}  # fmt: skip
_MONTH = "|".join(sorted(MONTHS, key=len, reverse=True))
_IN_WORDS = pattern(
    rf"(?i)(?<![^\W_])(?:(?P<day>\d\d?)(?:st|nd|rd|th|er|º)?[ ._]+(?:de[ ._])?(?P<month>{_MONTH})|"
    rf"(?P<first>{_MONTH})[ ._]+(?P<second>\d\d?)(?:st|nd|rd|th)?),?[ ._]+(?:de[ ._])?(?P<year>(?:19|20)\d\d)(?![^\W_])"
)
_IN_HAN = pattern(r"((?:19|20)\d\d)年 ?(\d\d?)月 ?(\d\d?)日")
_SIX_DIGITS = pattern(r"[ ._]+([0-4]\d)(\d\d)(\d\d)(?![^\W_])")
_SHORT_YEAR = pattern(r"(?<![\d.,-])(\d\d?)([-._])(\d\d?)\2(\d\d)(?![\d.,-])")


def dates_in(text: str) -> Iterator[tuple[str, int, int, int]]:
    """Yield the dates of a name as (ISO date, start, end, strength); day or month first unknown: weak, day first."""
    for match in _YEAR_FIRST.finditer(text):
        yield from _dated(match, int(match[1]), int(match[3]), int(match[4]), STRONG)
    for match in _YEAR_LAST.finditer(text):
        first, second, year = int(match[1]), int(match[3]), int(match[4])
        if first > 12 or second <= 12:
            sure = first > 12 or first == second
            yield from _dated(match, year, second, first, STRONG if sure else WEAK)
        else:
            yield from _dated(match, year, first, second, STRONG)
    for match in _IN_WORDS.finditer(text):
        month, day = MONTHS[(match["month"] or match["first"]).lower()], match["day"] or match["second"]
        yield from _dated(match, int(match["year"]), month, int(day), STRONG)
    for match in _IN_HAN.finditer(text):
        yield from _dated(match, int(match[1]), int(match[2]), int(match[3]), STRONG)


def short_dates_in(text: str) -> Iterator[tuple[str, int, int, int]]:
    """Yield the dates with two digits for a year, "21.03.19", all weak: the day first if it is a date gone by."""
    for match in _SHORT_YEAR.finditer(text):
        first, second, last = int(match[1]), int(match[3]), int(match[4])
        for year, month, day in ((last, second, first), (last, first, second), (first, second, last)):
            dated = next(_dated(match, 2000 + year, month, day, WEAK), None)
            if dated and dated[0] <= datetime.date.today().isoformat():
                yield dated
                break


def day_behind(text: str) -> tuple[str, int]:
    """Return the day (ISO) that six digits in front of a text say, "180319", and their end; ("", 0) if none."""
    match = _SIX_DIGITS.match(text)
    found = next(_dated(match, 2000 + int(match[1]), int(match[2]), int(match[3]), WEAK), None) if match else None
    return (found[0], found[2]) if found else ("", 0)


def _dated(match: re.Match[str], year: int, month: int, day: int, strength: int) -> Iterator[tuple[str, int, int, int]]:
    try:
        yield datetime.date(year, month, day).isoformat(), *match.span(), strength
    except ValueError:
        return
