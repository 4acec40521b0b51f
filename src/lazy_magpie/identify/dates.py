"""Dates in names: 2019-03-21, 21.03.2019, 21 March 2019, March 21, 2019."""

from __future__ import annotations

import datetime
import re
from collections.abc import Iterator

from lazy_magpie.identify.words import STRONG, WEAK

_YEAR_FIRST = re.compile(r"(?<!\d)((?:19|20)\d\d)([-._ ]?)(\d\d)\2(\d\d)(?!\d)")
_YEAR_LAST = re.compile(r"(?<!\d)(\d\d?)([-._ ])(\d\d?)\2((?:19|20)\d\d)(?!\d)")
_MONTHS = {
    name: number
    for number, names in enumerate(
        (
            "january jan", "february feb", "march mar", "april apr", "may", "june jun", "july jul", "august aug",
            "september sep sept", "october oct", "november nov", "december dec",
        ),
        start=1,
    )
    for name in names.split()
}  # fmt: skip
_MONTH = "|".join(sorted(_MONTHS, key=len, reverse=True))
_IN_WORDS = re.compile(
    rf"(?i)(?<![^\W_])(?:(?P<day>\d\d?)(?:st|nd|rd|th)?[ ._]+(?P<month>{_MONTH})|"
    rf"(?P<first>{_MONTH})[ ._]+(?P<second>\d\d?)(?:st|nd|rd|th)?),?[ ._]+(?P<year>(?:19|20)\d\d)(?![^\W_])"
)


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
        month, day = _MONTHS[(match["month"] or match["first"]).lower()], match["day"] or match["second"]
        yield from _dated(match, int(match["year"]), month, int(day), STRONG)


def _dated(match: re.Match[str], year: int, month: int, day: int, strength: int) -> Iterator[tuple[str, int, int, int]]:
    try:
        yield datetime.date(year, month, day).isoformat(), *match.span(), strength
    except ValueError:
        return
