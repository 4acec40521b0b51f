"""Pictures and papers: the day in their names, and what the files say of themselves.

| name | day | title |
|---|---|---|
| IMG_20190321_140500 | 2019-03-21 | IMG 140500 |
| 2019-03-21 Boiler service | 2019-03-21 | Boiler service |
| Minutes 21.03.2019 | 2019-03-21 | Minutes |

A bare year stays in the title. A name with two days is of none.
"""

from __future__ import annotations

from collections.abc import Mapping

from lazy_magpie.identify.dates import dates_in
from lazy_magpie.identify.vocabulary import STRONG
from lazy_magpie.model import Evidence, Kind, Value
from lazy_magpie.patterns import pattern

_AROUND = " -_.,()[]"
_NAMELESS = pattern(r"(?i)(?:scan|scanned|img|image|doc|document|untitled|file|download|print)?[ _-]*\(?\d*\)?")
"""Names that scanners and browsers give."""


def dated(stem: str) -> tuple[str, str]:
    """Return the day (2019-03-21) that a name has, and the rest of it; "" where there is none."""
    found = [
        (day, start, end)
        for day, start, end, strength in dates_in(stem)
        if strength == STRONG or "." in stem[start:end]  # with dots the day comes first
    ]
    if len(found) != 1:
        return "", stem
    day, start, end = found[0]
    before, after = stem[:start].rstrip(_AROUND), stem[end:].lstrip(_AROUND)
    return day, f"{before} {after}".strip(_AROUND)


def fields_of(kind: Kind, stem: str, told: Mapping[str, Value]) -> tuple[dict[str, Value], list[Evidence]]:
    """Return day and title of a picture or a paper, with the evidence; `told` is what the file says of itself."""
    day, title = dated(stem)
    source, text = ("name", stem) if day else ("tag", str(told.get("taken") or told.get("created") or ""))
    day = day or text[:10]
    fields: dict[str, Value] = {"title": title} if title else {}
    why = [Evidence("title", title, "name", stem)] if title else []
    said = str(told.get("title", "")).strip()
    if kind is Kind.DOCUMENT and said and _NAMELESS.fullmatch(title):
        fields["title"], why = said, [Evidence("title", said, "tag", said)]
    if day:
        fields["date"] = day
        why.append(Evidence("date", day, source, text))
    return fields, why
