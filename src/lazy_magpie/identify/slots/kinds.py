"""The slots of each kind, and what a reading by slots says."""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

from lazy_magpie.identify.file_types import SUBTITLES
from lazy_magpie.identify.roles.features import matter_of
from lazy_magpie.model import Value
from lazy_magpie.paths import split_ending

OWNER, WORK, NAME, NUMBER, DIVISION, YEAR, SHORT, REST = SLOTS = (
    "owner", "work", "name", "number", "division", "year", "short", "rest"
)  # fmt: skip
"""Who made it; the work it belongs to; its own name; its number; the number of a division of the work (a disc, a
season); a year; letters that stand for an owner or a work; and what says nothing of these."""


class KindShape(NamedTuple):
    """The fields that the slots of a kind fill, and what else is told apart by them but read otherwise."""

    fields: Mapping[str, tuple[str, ...]]
    told: Mapping[str, tuple[str, ...]] = {}

    @property
    def filled(self) -> tuple[tuple[str, str], ...]:
        """The slots that fill a field, with it."""
        return tuple((slot, field) for slot, fields in self.fields.items() for field in fields)

    def all_of(self, slot: str) -> tuple[str, ...]:
        """Return the fields whose values stand in a slot, whether it fills them or not."""
        return (*self.fields.get(slot, ()), *self.told.get(slot, ()))


KINDS: Mapping[str, KindShape] = {
    "track": KindShape({"owner": ("artist",), "work": ("album",), "name": ("title",), "number": ("track",),
                        "division": ("disc",), "year": ("year",)}),
    "design": KindShape({"owner": ("maker",), "name": ("title",)}, {"number": ("code",)}),
    "kit": KindShape({"owner": ("maker",), "work": ("title",)}),
    "font": KindShape({"owner": ("maker",), "work": ("family",)}, {"name": ("glyph",), "division": ("style",)}),
    "episode": KindShape({"work": ("show",), "name": ("episode_title",), "number": ("episode",),
                          "division": ("season",), "year": ("show_year",)}),
    "movie": KindShape({"name": ("title",), "year": ("year",), "division": ("part",)}),
    "game": KindShape({"owner": ("system",), "name": ("title",), "division": ("disc",)}),
}  # fmt: skip
"""Of each kind what its slots are called."""


Seen = tuple[Value, tuple[str, str]]
"""A value with where it was seen."""


class SlotReading(NamedTuple):
    """The fields of a file, with where each was seen ("name" or "folder", and its text), and how likely it is that all
    are right. `doubt` is the field that is least sure, `other` what it would be else.
    """

    fields: Mapping[str, Value]
    seen: Mapping[str, tuple[str, str]]
    chance: float
    doubt: str
    other: Value


BESIDE_FILMS = "beside films"
"""The sort of files that are called after a film or an episode."""

READ_BY_SLOTS = frozenset(["track", "design", "kit", "font"])
"""The kinds that are read by slots; the others only add to what all kinds have in common."""


def fields_of(kind: str) -> frozenset[str]:
    """Return the fields of a kind that slots fill."""
    return frozenset(field for fields in KINDS[kind].fields.values() for field in fields)


def stem_of(name: str) -> str:
    """Return a file's name without its ending."""
    return split_ending(name)[0]


def sort_of(name: str) -> str:
    """Return with which other files of its folder a file is lined up; subtitles are called after what they are to."""
    return BESIDE_FILMS if split_ending(name)[1].lower() in SUBTITLES else matter_of(name)
