"""What the slots of a path's words make of a file: its fields, each with its probability."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from itertools import groupby

import numpy as np
import numpy.typing as npt

from lazy_magpie.identify.roles.place import FolderReading
from lazy_magpie.identify.slots import chain
from lazy_magpie.identify.slots.chain import JOINT_AT
from lazy_magpie.identify.slots.evidence import Beside, Folder, PathEvidence, folders_above
from lazy_magpie.identify.slots.kinds import DIVISION, KINDS, NAME, NUMBER, OWNER, SLOTS, WORK, YEAR, Seen, SlotReading
from lazy_magpie.identify.slots.words import CLOSE, OPEN, Name, name_of_words
from lazy_magpie.identify.title_text import match_key, normalize_title
from lazy_magpie.model import Value
from lazy_magpie.words import inside, remembered

BLOCK = 64
"""So many names are read at once."""
DRAWS = 48
"""So many readings are drawn to weigh each value."""


def joints_above(folders: Sequence[Folder]) -> list[int]:
    """Return the joint in front of each word of the folders of a path."""
    return [JOINT_AT["folder", word.gap] for folder in folders for word in folder.name.words]


def joints_in(name: Name) -> list[int]:
    """Return the joint in front of each word of a file's name."""
    return [JOINT_AT["file", word.gap] for word in name.words]


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
        self._joints_above = joints_above(self.folders)
        self._filled = self.shape.filled
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
        joints = [self._joints_above + joints_in(name) for name in names]
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
        fields = [field for _, field in self._filled]
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
        by_name, at = [], 0
        for name in names:
            by_name.append(_runs(tuple(slots[at : at + len(name.words)])))
            at += len(name.words)
        last = len(names) - 1
        found: dict[str, Seen] = {}
        for slot, field in self._filled:
            for place in _search(slot, last):
                if (runs := by_name[place].get(slot)) and (value := _value(names[place].text, runs, slot)):
                    found[field] = value, ("name" if place == last else "folder", names[place].text)
                    break
        if "year" in self.shape.fields.get(YEAR, ()) and "year" not in found:
            for name in names[-2:-4:-1]:
                if year := _year_of(name.text):
                    found["year"] = year, ("folder", name.text)
                    break
        (disc, _), (number, seen) = found.get("disc", (0, None)), found.get("track", (0, None))
        if seen and disc and int(str(number)) // 100 == int(str(disc)):  # "2-03" on the second disc
            found["track"] = int(str(number)) % 100, seen
        return found


def _keys(said: Mapping[str, Seen], fields: Sequence[str]) -> tuple[str, ...]:
    return tuple(match_key(str(said[field][0])) if field in said else "" for field in fields)


def _search(slot: str, last: int) -> Sequence[int]:
    """Return in which names a slot's value is looked for, in order: the nearest first, of a work the folders' first."""
    if slot in (NAME, NUMBER):
        return [last]
    nearest = range(last, -1, -1)
    return [*nearest[1:], last] if slot == WORK else nearest


_LONG = 5
"""So many letters are no word cut short."""
_CENTURIES = ("18", "19", "20")
_MOST_DIGITS = 6
"""No song, disc or season has a longer number."""
Runs = tuple[tuple[int, int], ...]
"""The first and last words of each run of words that have one slot."""


@remembered(16384)
def _runs(slots: tuple[int, ...]) -> Mapping[str, Runs]:
    """Return the runs of words of a name that have each slot."""
    found: dict[str, list[tuple[int, int]]] = {}
    at = 0
    for slot, some in groupby(slots):
        length = sum(1 for _ in some)
        found.setdefault(SLOTS[slot], []).append((at, at + length - 1))
        at += length
    return {slot: tuple(runs) for slot, runs in found.items()}


@remembered(16384)
def _value(text: str, runs: Runs, slot: str) -> Value | None:
    """Return what runs of words of a name say as a slot's value, None for nothing."""
    name = name_of_words(text)
    if slot in (NUMBER, DIVISION, YEAR):
        return _number(name, *runs[0], is_year=slot == YEAR)
    first, last = max(runs, key=lambda run: name.words[run[1]].end - name.words[run[0]].start)
    if slot == OWNER:  # nobody is called by a day
        while first < last and name.words[first].year:
            first += 1
    if slot == NAME:
        last = _with_version(name, last)
    if slot in (NAME, WORK):
        last = _with_number(name, last)
    return normalize_title(_text(name, first, last))


def _with_number(name: Name, last: int) -> int:
    """Return the last word of a title that ends at `last`: the number behind a word cut short is its own (op. 44)."""
    end, behind = name.words[last], name.words[last + 1 : last + 2]
    if behind and behind[0].key.isdecimal() and len(end.key) < _LONG and name.text[end.end : behind[0].start] == ". ":
        return last + 1
    return last


def _with_version(name: Name, last: int) -> int:
    """Return the last word of a title that ends at `last`, with brackets behind it that say which version it is."""
    end = last + 1
    if end >= len(name.words) or name.words[end].gap != "open":
        return last
    while end < len(name.words) and name.words[end].segment == name.words[last + 1].segment:
        end += 1
    bracket = name.text[name.words[last + 1].start : name.words[end - 1].end]
    says = any(concept.startswith("track.") for some, _ in inside(bracket) for concept in some)
    return _with_version(name, end - 1) if says else last


@remembered(4096)
def _year_of(text: str) -> int:
    """Return the one year that stands in a folder's name in brackets or as a part of a date, 0 for none or several."""
    name = name_of_words(text)
    dated = {word.year for word in name.words if word.year}
    digits = (word.key for word in name.words if word.depth and len(word.key) == 4 and word.key.isdecimal())
    found = dated or {int(year) for year in digits if year.startswith(_CENTURIES)}
    return found.pop() if len(found) == 1 else 0


def _number(name: Name, first: int, last: int, *, is_year: bool) -> int | None:
    if year := name.words[first].year:
        return year
    digits = "".join(word.key for word in name.words[first : last + 1])
    if is_year and not (len(digits) == 4 and digits.startswith(_CENTURIES)):
        return None
    return int(digits) if digits.isdecimal() and len(digits) <= _MOST_DIGITS else None


def _text(name: Name, first: int, last: int) -> str:
    """Return the text of some words, with the brackets that are opened among them closed."""
    start, end = name.words[first].start, name.words[last].end
    opened = sum(sign in OPEN for sign in name.text[start:end]) - sum(sign in CLOSE for sign in name.text[start:end])
    while opened > 0 and end < len(name.text) and name.text[end] in CLOSE:
        end, opened = end + 1, opened - 1
    while end < len(name.text) and name.text[end] in "!?…":
        end += 1
    return name.text[start:end]
