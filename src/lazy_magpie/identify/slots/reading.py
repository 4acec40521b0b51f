"""What the slots of a path's words make of a file: its fields, each with its probability."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from typing import NamedTuple

import numpy as np

from lazy_magpie.identify.roles.features import matter_of
from lazy_magpie.identify.roles.place import FolderReading
from lazy_magpie.identify.slots import chain
from lazy_magpie.identify.slots.chain import DIVISION, NAME, NUMBER, SLOTS, WORK, YEAR, joint
from lazy_magpie.identify.slots.evidence import Beside, Folder, PathEvidence, folders_above
from lazy_magpie.identify.slots.words import CLOSE, OPEN, Name, name_of_words
from lazy_magpie.identify.title_text import match_key, normalize_title
from lazy_magpie.model import Value
from lazy_magpie.paths import split_ending

DRAWS = 64
"""So many readings are drawn to weigh each value."""


class KindShape(NamedTuple):
    """The fields that the slots of a kind fill."""

    fields: Mapping[str, tuple[str, ...]]


KINDS: Mapping[str, KindShape] = {
    "track": KindShape({"owner": ("artist",), "work": ("album",), "name": ("title",), "number": ("track",),
                        "division": ("disc",), "year": ("year",)}),
    "design": KindShape({"owner": ("maker",), "name": ("title",), "work": ()}),
    "kit": KindShape({"owner": ("maker",), "work": ("title",), "name": ()}),
    "font": KindShape({"owner": ("maker",), "work": ("family",), "name": ()}),
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


READ_BY_SLOTS = frozenset(["track", "design", "kit", "font"])
"""The kinds that are read by slots; the others only add to what all kinds have in common."""


def fields_of(kind: str) -> frozenset[str]:
    """Return the fields of a kind that slots fill."""
    return frozenset(field for fields in KINDS[kind].fields.values() for field in fields)


def stem_of(name: str) -> str:
    """Return a file's name without its ending."""
    return split_ending(name)[0]


def sort_of(name: str) -> str:
    """Return with which other files of its folder a file is lined up."""
    return matter_of(name)


def joints_of(folders: Sequence[Folder], name: Name) -> list[int]:
    """Return the joint in front of each word of a path."""
    return [
        *(joint("folder", word.gap) for folder in folders for word in folder.name.words),
        *(joint("file", word.gap) for word in name.words),
    ]


class SlotReader:
    """Reads the files of one sort in a folder, as files of one kind."""

    def __init__(self, kind: str, folder: str, roles: Mapping[str, FolderReading], names: Iterable[str]) -> None:
        self.shape = KINDS[kind]
        self.weights = chain.fitted().kinds[kind]
        self.folders = folders_above(folder, roles)
        self.evidence = PathEvidence(self.folders, Beside.of(map(stem_of, names)))
        rows = [row for folder_rows in self.evidence.of_folders() for row in folder_rows]
        self.above = chain.scores(rows, self.weights)

    def read(self, stem: str) -> SlotReading | None:
        """Return the fields of a file by its name without ending, None where it has no words."""
        name = name_of_words(stem)
        if not name.words:
            return None
        own = np.concatenate([self.above, chain.scores(self.evidence.of_file(name), self.weights)])
        between = self.weights.joint[joints_of(self.folders, name)]
        names = [*(folder.name for folder in self.folders), name]
        first = self._fields(names, chain.best(own, between))
        drawn = chain.samples(own, between, DRAWS)
        readings, counts = np.unique(drawn, axis=0, return_counts=True)
        agree: Counter[str] = Counter()
        others: dict[str, Counter[Value]] = {}
        fields = [field for slot in self.shape.fields.values() for field in slot]
        whole = 0
        for slots, count in zip(readings.tolist(), counts.tolist(), strict=True):
            found = self._fields(names, slots)
            same = True
            for field in fields:
                if _key(found.get(field)) == _key(first.get(field)):
                    agree[field] += count
                else:
                    same = False
                    others.setdefault(field, Counter())[found[field][0] if field in found else ""] += count
            whole += count * same
        doubt = min(fields, key=lambda field: agree[field])
        other = others[doubt].most_common(1)[0][0] if doubt in others else ""
        return SlotReading(
            {field: value for field, (value, _) in first.items()},
            {field: seen for field, (_, seen) in first.items()},
            whole / DRAWS,
            doubt,
            other,
        )

    def _fields(self, names: Sequence[Name], slots: Sequence[int]) -> dict[str, Seen]:
        """Return the fields that slots make, each with the name that it stands in."""
        by_name: list[dict[str, list[tuple[int, int]]]] = []
        at = 0
        for name in names:
            runs: dict[str, list[tuple[int, int]]] = {}
            before = -1
            for place in range(len(name.words)):
                slot = slots[at + place]
                if slot == before:
                    first, _ = runs[SLOTS[slot]][-1]
                    runs[SLOTS[slot]][-1] = (first, place)
                else:
                    runs.setdefault(SLOTS[slot], []).append((place, place))
                before = slot
            by_name.append(runs)
            at += len(name.words)
        found: dict[str, Seen] = {}
        for slot, fields in self.shape.fields.items():
            nearest = range(len(names) - 1, -1, -1)
            if slot == WORK:
                nearest = [*range(len(names) - 2, -1, -1), len(names) - 1]
            elif slot in (NAME, NUMBER):
                nearest = [len(names) - 1]
            for place in nearest:
                runs_here = by_name[place].get(slot, [])
                value = _value(names[place], runs_here, slot) if runs_here and fields else None
                if value:
                    found[fields[0]] = value, ("name" if place == len(names) - 1 else "folder", names[place].text)
                    break
        return found


def _key(value: Seen | None) -> str:
    return match_key(str(value[0])) if value else ""


def _value(name: Name, runs: Sequence[tuple[int, int]], slot: str) -> Value | None:
    if slot in (NUMBER, DIVISION, YEAR):
        first, last = runs[0]
        if year := name.words[first].year:
            return year
        digits = "".join(word.key for word in name.words[first : last + 1])
        if digits.isdecimal():
            return int(digits)
        return None
    first, last = max(runs, key=lambda run: name.words[run[1]].end - name.words[run[0]].start)
    return normalize_title(_text(name, first, last))


def _text(name: Name, first: int, last: int) -> str:
    """Return the text of some words, with the brackets that are opened among them closed."""
    start, end = name.words[first].start, name.words[last].end
    opened = sum(sign in OPEN for sign in name.text[start:end]) - sum(sign in CLOSE for sign in name.text[start:end])
    while opened > 0 and end < len(name.text) and name.text[end] in CLOSE:
        end, opened = end + 1, opened - 1
    while end < len(name.text) and name.text[end] in "!?…":
        end += 1
    return name.text[start:end]
