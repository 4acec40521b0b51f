"""What a person says of an item, as FIELD=VALUE words: the fields that each kind has, and their values."""

from __future__ import annotations

import re
from collections.abc import Sequence

from lazy_magpie.errors import UsageError
from lazy_magpie.identify.candidates import lacks
from lazy_magpie.identify.tokenizer import FIRST_YEAR, LAST_YEAR
from lazy_magpie.model import Answer, Item, Kind, Value
from lazy_magpie.paths import written
from lazy_magpie.suggest import nearest

FIELDS = {
    Kind.MOVIE: "title year edition part languages",
    Kind.EPISODE: "show show_year season episode last_episode part episode_title air_date running languages",
    Kind.EXTRA: "extra title of year",
    Kind.TRACK: "artist album_artist album year disc track title genre",
    Kind.GAME: "title year regions languages revision disc status system",
    Kind.FIRMWARE: "system title",
    Kind.FONT: "family style maker glyph",
    Kind.DESIGN: "maker title code",
    Kind.KIT: "maker title section part",
    Kind.PICTURE: "title date",
    Kind.DOCUMENT: "title date",
    Kind.ARCHIVE: "title",
}
"""The fields that an item of a kind may have."""
NONE = "none"
"""Given for the kind it says that an item is nothing that has a name: it stays as it is, and nobody asks again."""
_NUMBERS = frozenset("year show_year season episode last_episode part running disc track".split())
_LISTS = frozenset("languages regions status".split())
_YEARS = frozenset(["year", "show_year"])
_DATE = re.compile(r"\d{4}-\d\d-\d\d")


def by_hand(item: Item, words: Sequence[str]) -> Answer:
    """Return what an item is when `words` (FIELD=VALUE) are put over its fields; `kind=…` makes it another kind.

    An empty value takes a field away. Raises UsageError for an unknown field, a wrong value, a needed field missing.
    """
    pairs = [assignment(word) for word in words]
    kind = next((_kind(value) for field, value in pairs if field == "kind"), item.kind)
    known = FIELDS.get(kind, "").split()
    fields = {key: value for key, value in item.fields.items() if key in known}
    for field, text in pairs:
        if field == "kind":
            continue
        if field not in known:
            raise UsageError(f"{kind.value} has no field “{field}”{nearest(field, known, _there_are(known))}")
        if text:
            fields[field] = value_of(field, text)
        else:
            fields.pop(field, None)
    if missing := lacks(kind, fields):
        named = " and ".join(name.replace("_", " ") for name in missing)
        raise UsageError(f"“{written(item.path)}” still has no {named}; add --set {missing[0]}=… as well.")
    return Answer(kind, fields)


def assignment(word: str) -> tuple[str, str]:
    """Return the two sides of FIELD=VALUE. Raises UsageError for a word that is none."""
    field, equals, value = word.partition("=")
    if not equals or not field.strip():
        raise UsageError(f"“{word}” is not FIELD=VALUE, like year=1985.")
    return field.strip(), value.strip()


def _kind(text: str) -> Kind:
    if text == NONE:
        return Kind.UNKNOWN
    kinds = [kind.value for kind in FIELDS]
    if text not in kinds:
        raise UsageError(f"There is no kind “{text}”{nearest(text, kinds, _there_are(kinds))}")
    return Kind(text)


def _there_are(names: Sequence[str]) -> str:
    return f"; there are {', '.join(names)}."


def value_of(field: str, text: str) -> Value:
    """Return the value of a field that a person's text means. Raises UsageError, saying what it takes."""
    if field in _NUMBERS:
        if not text.isdecimal() or len(text) > 5:
            raise UsageError(f"“{field}” is a number, not “{text}”.")
        if field in _YEARS and not FIRST_YEAR <= int(text) <= LAST_YEAR:
            raise UsageError(f"“{field}” is a year from {FIRST_YEAR} to {LAST_YEAR}, not {text}.")
        return int(text)
    if field in _LISTS:
        return [part.strip() for part in text.split(",") if part.strip()]
    if field in ("air_date", "date") and not _DATE.fullmatch(text):
        raise UsageError(f"“{field}” is written 2019-03-21, not “{text}”.")
    return text
