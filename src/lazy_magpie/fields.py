"""The fields that conditions, columns and sorting may name, each with what its values are and how they are written.

A person adds fields of their own in magpie.toml ([field.NAME]); their values are filled in by hand or in a sheet.
"""

from __future__ import annotations

import datetime
import math
import re
from collections.abc import Callable, Collection, Iterable, Mapping
from dataclasses import dataclass, field
from enum import StrEnum

from lazy_magpie.errors import UsageError
from lazy_magpie.formatting import bitrate_text, duration_text, size_text
from lazy_magpie.model import Kind, State, Value
from lazy_magpie.suggest import nearest


class FieldType(StrEnum):
    """What the values of a field are."""

    TEXT = "text"
    NUMBER = "number"
    SIZE = "size"
    BITRATE = "bit rate"
    LENGTH = "length"
    DATE = "date"
    FLAG = "yes or no"


@dataclass(frozen=True, slots=True)
class FieldDefinition:
    """A field: its name, the type of its values, and which values there are where they are few."""

    name: str
    type: FieldType
    values: tuple[str, ...] = ()


class CustomFieldType(StrEnum):
    """What the values of a custom field are, as magpie.toml says it; `words` are several texts."""

    TEXT = "text"
    WORDS = "words"
    NUMBER = "number"
    DATE = "date"
    FLAG = "yes-no"


@dataclass(frozen=True, slots=True)
class CustomField:
    """A custom field: what its values are, those that are allowed (none named: all), what it is for.

    `needed` says that a sheet must not leave it empty. `from_tags` gives it a value by the tag that an item has, so
    that nobody fills it in.
    """

    name: str
    type: CustomFieldType = CustomFieldType.TEXT
    allowed: tuple[str, ...] = ()
    needed: bool = False
    note: str = ""
    from_tags: Mapping[str, str] = field(default_factory=dict)

    def value(self, text: str) -> Value:
        """Return the value that a person's text means. Raises UsageError, saying what the field takes."""
        words = [
            " ".join(word.split())
            for word in (re.split("[,;]", text) if self.type is CustomFieldType.WORDS else [text])
        ]
        words = [self._allowed(word) for word in words if word]
        match self.type:
            case CustomFieldType.WORDS:
                return list(dict.fromkeys(words))
            case CustomFieldType.NUMBER if _NUMBER.match(words[0]):
                number = float(words[0])
                return int(number) if number.is_integer() else number
            case CustomFieldType.DATE if day := day_of(words[0]):
                return day
            case CustomFieldType.FLAG if words[0].lower() in (*_YES, *_NO):
                return words[0].lower() in _YES
            case CustomFieldType.TEXT if words[0].isprintable():
                return words[0]
        raise UsageError(f"“{text}” is no value for {self.name}: it takes {OWN_TAKES[self.type]}")

    def _allowed(self, word: str) -> str:
        """Return a word as the list of allowed ones spells it. Raises UsageError where it is none of them."""
        if not self.allowed:
            return word
        for known in self.allowed:
            if known.casefold() == word.casefold():
                return known
        there_are = f"; there are {', '.join(self.allowed)}"
        raise UsageError(f"“{word}” is not allowed for {self.name}{nearest(word, self.allowed, there_are)}")

    def derived(self, tags: Collection[str]) -> str:
        """Return the value that an item with these tags has by them, "" for none."""
        return next((value for tag, value in self.from_tags.items() if tag in tags), "")


_DAY_FIRST = re.compile(r"(\d{1,2})\. ?(\d{1,2})\. ?(\d{4})")
_YEAR_FIRST = re.compile(r"(\d{4})[-/.](\d{1,2})[-/.](\d{1,2})")


def day_of(text: str) -> str:
    """Return the day (2019-03-21) that a person means by 2019-3-21, 2019/03/21 or 21.03.2019, "" for none.

    21/03/2019 may be of either order for other days, so it is none.
    """
    if match := _YEAR_FIRST.fullmatch(text):
        year, month, day = match.groups()
    elif match := _DAY_FIRST.fullmatch(text):
        day, month, year = match.groups()
    else:
        return ""
    try:
        return datetime.date(int(year), int(month), int(day)).isoformat()
    except ValueError:
        return ""


OWN_TAKES = {
    CustomFieldType.TEXT: "a text on one line",
    CustomFieldType.WORDS: "words parted by commas",
    CustomFieldType.NUMBER: "a number",
    CustomFieldType.DATE: "a date like 2019-03-21",
    CustomFieldType.FLAG: "yes or no",
}


def with_custom(own: Iterable[CustomField]) -> Mapping[str, FieldDefinition]:
    """Return every field that conditions may name, custom ones too."""
    added = {one.name: FieldDefinition(one.name, _SORT_OF[one.type], one.allowed) for one in own}
    return {**FIELDS, **added} if added else FIELDS


_SORT_OF = {
    CustomFieldType.TEXT: FieldType.TEXT,
    CustomFieldType.WORDS: FieldType.TEXT,
    CustomFieldType.NUMBER: FieldType.NUMBER,
    CustomFieldType.DATE: FieldType.DATE,
    CustomFieldType.FLAG: FieldType.FLAG,
}
_NAMES: Mapping[FieldType, str] = {
    FieldType.TEXT: (
        "kind state title show episode_title edition artist album_artist album genre system revision maker family "
        "style section code glyph of role extra languages regions status language resolution source codec "
        "picture_codec sound_codec audio_languages subtitle_languages hoop volume disc_system colour_mode scripts "
        "version licence licence_name author vendor top real_type unreadable ending group dump root header "
        "header_title keywords tag listed holds"
    ),
    FieldType.NUMBER: (
        "year show_year season episode last_episode part running disc track width height channels sample_rate frames "
        "glyphs weight faces pictures discs stitches colours width_mm height_mm members tracks pages lines chapters"
    ),
    FieldType.SIZE: "size unpacked program graphics",
    FieldType.BITRATE: "bitrate",
    FieldType.LENGTH: "length",
    FieldType.DATE: "air_date arrived date taken created",
    FieldType.FLAG: (
        "lossless variable transparent camera_raw encrypted forced hearing_impaired gone away header_ok battery "
        "complete preferred"
    ),
}
MARKS = ("listed", "complete", "preferred")
"""Fields that reference lists and preferences give."""
_VALUES = {
    "listed": ("there", "elsewhere", "misnamed", "damaged", "incomplete", "unknown"),
    "kind": tuple(kind.value for kind in Kind),
    "state": tuple(state.value for state in State),
}
FIELDS: Mapping[str, FieldDefinition] = {
    name: FieldDefinition(name, type, _VALUES.get(name, ())) for type, names in _NAMES.items() for name in names.split()
}
"""Every field that conditions may name."""

PLACES = ("path", "folder", "name")
"""What a column may show besides: where the item lies."""

_UNITS = {"": 1, "k": 1, "m": 2, "g": 3, "t": 4}
_NUMBER = re.compile(r"^\d+(?:\.\d+)?$")
_SIZE = re.compile(r"(?i)^(\d+(?:\.\d+)?)\s*([kmgt]?)i?b?$")
_DATE = re.compile(r"^\d{4}(?:-\d\d(?:-\d\d)?)?$")
_LINES = re.compile(r"(?i)^(\d{3,4})[pi]?$")
_YES, _NO = ("yes", "true", "1"), ("no", "false", "0")


def value_of(field: FieldDefinition, word: str) -> str | float:
    """Return the value that a person's word means for a field. Raises UsageError, saying what the field takes."""
    read = _READ[field.type](field, word)
    if read is None:
        raise UsageError(f"“{word}” is no value for {field.name}: it takes {_TAKES[field.type]}.")
    return read


def _text(field: FieldDefinition, word: str) -> str | float | None:
    return word


def _number(field: FieldDefinition, word: str) -> str | float | None:
    return float(word) if _NUMBER.match(word) else None


def _scaled(step: int) -> Callable[[FieldDefinition, str], str | float | None]:
    def read(field: FieldDefinition, word: str) -> str | float | None:
        match = _SIZE.match(word)
        if not match:
            return None
        unit = match[2].lower()
        power = _UNITS[unit] if unit else 0
        scaled: float = float(match[1]) * math.pow(step, power)
        return scaled

    return read


def _length(field: FieldDefinition, word: str) -> str | float | None:
    parts = word.split(":")
    if not all(_NUMBER.match(part) for part in parts) or len(parts) > 3:
        return None
    return math.fsum(float(part) * (1, 60, 3600)[power] for power, part in enumerate(reversed(parts)))


def _date(field: FieldDefinition, word: str) -> str | float | None:
    return word if _DATE.match(word) else None


def _flag(field: FieldDefinition, word: str) -> str | float | None:
    return 1.0 if word.lower() in _YES else 0.0 if word.lower() in _NO else None


_READ: Mapping[FieldType, Callable[[FieldDefinition, str], str | float | None]] = {
    FieldType.TEXT: _text,
    FieldType.NUMBER: _number,
    FieldType.SIZE: _scaled(1024),
    FieldType.BITRATE: _scaled(1000),
    FieldType.LENGTH: _length,
    FieldType.DATE: _date,
    FieldType.FLAG: _flag,
}
_TAKES: Mapping[FieldType, str] = {
    FieldType.TEXT: "a text",
    FieldType.NUMBER: "a number",
    FieldType.SIZE: "a size like 700M or 4G",
    FieldType.BITRATE: "a bit rate like 192k",
    FieldType.LENGTH: "a length like 1:42:07 or 95 (seconds)",
    FieldType.DATE: "a date like 2019-03-21, 2019-03 or 2019",
    FieldType.FLAG: "yes or no",
}


def shown(name: str, value: Value | None) -> str:
    """Return a field's value as a person reads it, "" for none."""
    if value is None:
        return ""
    if isinstance(value, list):
        return ", ".join(map(str, value))
    if isinstance(value, bool):
        return "yes" if value else "no"
    type = FIELDS[name].type if name in FIELDS else FieldType.TEXT
    match type:
        case FieldType.SIZE:
            return size_text(int(value))
        case FieldType.BITRATE:
            return bitrate_text(int(value))
        case FieldType.LENGTH:
            return duration_text(float(value))
        case FieldType.FLAG:
            return "yes" if value else "no"
        case _:
            return str(int(value)) if isinstance(value, float) and value.is_integer() else str(value)


def is_right(name: str) -> bool:
    """Say whether a column of this field stands to the right: numbers and measures."""
    return name in FIELDS and FIELDS[name].type not in (FieldType.TEXT, FieldType.DATE, FieldType.FLAG)


def lines_of(word: str) -> float | None:
    """Return the lines of a resolution (720p, 1080), None where the word is none."""
    match = _LINES.match(word)
    return float(match[1]) if match else None
