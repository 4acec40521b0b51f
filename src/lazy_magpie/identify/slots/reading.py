"""What the slots of a path's words make of a file: its fields, each with its probability."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from lazy_magpie.identify.roles.features import matter_of
from lazy_magpie.identify.roles.place import FolderReading
from lazy_magpie.identify.slots import chain
from lazy_magpie.identify.slots.chain import DIVISION, NAME, NUMBER, SLOTS, WORK, YEAR, joint
from lazy_magpie.identify.slots.evidence import Beside, Folder, PathEvidence, folders_above
from lazy_magpie.identify.slots.words import CLOSE, OPEN, Name, name_of_words
from lazy_magpie.identify.title_text import match_key, normalize_title
from lazy_magpie.model import Value
from lazy_magpie.paths import split_ending

BLOCK = 64
"""So many names are read at once."""
DRAWS = 64
"""So many readings are drawn to weigh each value."""


class KindShape(NamedTuple):
    """The fields that the slots of a kind fill, and what else is told apart by them but read otherwise."""

    fields: Mapping[str, tuple[str, ...]]
    told: Mapping[str, tuple[str, ...]] = {}

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
    """Reads the files of one sort in a folder (`beside`), as files of one kind."""

    def __init__(self, kind: str, folder: str, roles: Mapping[str, FolderReading], beside: Beside) -> None:
        self.shape = KINDS[kind]
        self.weights = chain.fitted()[kind]
        self.folders = folders_above(folder, roles)
        self.stems = [name.text for name in beside.names]
        self.evidence = PathEvidence(self.folders, beside)
        rows = [row for folder_rows in self.evidence.of_folders() for row in folder_rows]
        self.above = chain.scores(rows, self.weights)
        self._block = {stem: at // BLOCK for at, stem in enumerate(self.stems)}
        self._read: dict[str, SlotReading | None] = {}

    def read(self, stem: str) -> SlotReading | None:
        """Return the fields of a file by its name without ending, None where it has no words."""
        if stem not in self._read:
            first = self._block[stem] * BLOCK
            self._read.update(self._readings(self.stems[first : first + BLOCK]))
        return self._read[stem]

    def _readings(self, stems: Sequence[str]) -> Iterator[tuple[str, SlotReading | None]]:
        names = [name_of_words(stem) for stem in stems]
        joints = [joints_of(self.folders, name) for name in names]
        longest, above = max(map(len, joints), default=0), len(self.above)
        own = np.zeros((len(names), longest, len(SLOTS)))
        padded = np.full((len(names), longest), -1)
        for at, name in enumerate(names):
            own[at, :above] = self.above
            own[at, above : len(joints[at])] = chain.scores(self.evidence.of_file(name), self.weights)
            padded[at, : len(joints[at])] = joints[at]
        if not longest:
            yield from ((stem, None) for stem in stems)
            return
        best = chain.best(own, padded, self.weights.joint).tolist()
        drawn = chain.drawn(own, padded, self.weights.joint, DRAWS)
        for stem, name, first, slots in zip(stems, names, best, drawn, strict=True):
            yield stem, self._agreed(name, first, slots) if name.words else None

    def _agreed(self, name: Name, first: Sequence[int], drawn: npt.NDArray[np.int64]) -> SlotReading:
        """Return the fields of the best reading of a name, with how many of those drawn give the same."""
        names = [*(folder.name for folder in self.folders), name]
        words = sum(len(one.words) for one in names)
        votes: Counter[tuple[str, ...]] = Counter()
        found: dict[tuple[str, ...], dict[str, Seen]] = {}
        fields = [field for slot in self.shape.fields.values() for field in slot]
        chosen = self._fields(names, first[:words])
        best = _keys(chosen, fields)
        for slots, count in Counter(map(tuple, drawn[:, :words].tolist())).items():
            said = self._fields(names, slots)
            keys = _keys(said, fields)
            votes[keys] += count
            found.setdefault(keys, said)
        agree = [sum(count for keys, count in votes.items() if keys[at] == best[at]) for at in range(len(fields))]
        at = min(range(len(fields)), key=agree.__getitem__)
        doubt = fields[at]
        others = Counter({keys: count for keys, count in votes.items() if keys[at] != best[at]})
        other = found[others.most_common(1)[0][0]].get(doubt, ("", None))[0] if others else ""
        return SlotReading(
            {field: value for field, (value, _) in chosen.items()},
            {field: seen for field, (_, seen) in chosen.items()},
            votes[best] / DRAWS,
            doubt,
            other,
        )

    def _fields(self, names: Sequence[Name], slots: Sequence[int]) -> dict[str, Seen]:
        """Return the fields that slots make, each with the name that it stands in."""
        by_name = _runs(names, slots)
        last = len(names) - 1
        found: dict[str, Seen] = {}
        for slot, fields in self.shape.fields.items():
            for place in _search(slot, last):
                runs = by_name[place].get(slot)
                value = _value(names[place], runs, slot) if runs else None
                if value:
                    found[fields[0]] = value, ("name" if place == last else "folder", names[place].text)
                    break
        return found


def _keys(said: Mapping[str, Seen], fields: Sequence[str]) -> tuple[str, ...]:
    return tuple(match_key(str(said[field][0])) if field in said else "" for field in fields)


def _search(slot: str, last: int) -> Sequence[int]:
    """Return in which names a slot's value is looked for, in order: the nearest first, of a work the folders' first."""
    if slot in (NAME, NUMBER):
        return [last]
    nearest = range(last, -1, -1)
    return [*nearest[1:], last] if slot == WORK else nearest


def _runs(names: Sequence[Name], slots: Sequence[int]) -> list[dict[str, list[tuple[int, int]]]]:
    """Return for each name and slot the runs of words that have it, by their first and last."""
    found: list[dict[str, list[tuple[int, int]]]] = []
    at = 0
    for name in names:
        runs: dict[str, list[tuple[int, int]]] = {}
        before = -1
        for place, slot in enumerate(slots[at : at + len(name.words)]):
            some = runs.setdefault(SLOTS[slot], [])
            if slot == before:
                some[-1] = (some[-1][0], place)
            else:
                some.append((place, place))
            before = slot
        found.append(runs)
        at += len(name.words)
    return found


def _value(name: Name, runs: Sequence[tuple[int, int]], slot: str) -> Value | None:
    if slot in (NUMBER, DIVISION, YEAR):
        first, last = runs[0]
        if year := name.words[first].year:
            return year
        digits = "".join(word.key for word in name.words[first : last + 1])
        if slot == YEAR and not (len(digits) == 4 and digits.startswith(("18", "19", "20"))):
            return None
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
