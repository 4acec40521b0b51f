"""What speaks for the slot of each word of a path: the word, its place, the folders above, and the names beside it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

from lazy_magpie.identify.roles.place import FolderReading
from lazy_magpie.identify.slots.words import Name, Word, meanings_of, name_of_words
from lazy_magpie.model import Value
from lazy_magpie.paths import name_of, parent
from lazy_magpie.words import meaning

DEEPEST = 5
"""So many folders above a file are looked at."""
_YEARS = range(1900, 2031)
_ALL = 0.8
"""Such a share of the names beside a file is all of them, but for a stray."""


@dataclass(frozen=True)
class Folder:
    """A folder above a file: its name as words, and what it is taken for."""

    name: Name
    reading: FolderReading | None

    @property
    def role(self) -> str:
        """What it is taken for, "none" where nothing is known."""
        return self.reading.role if self.reading else "none"

    @cached_property
    def key(self) -> str:
        """Its name as it is compared."""
        return "".join(self.name.segments)

    @cached_property
    def says(self) -> frozenset[str]:
        """What its name means, where it is a known phrase as a whole."""
        whole = meaning(self.name.text)
        return frozenset(_sort_of(concept) for concept, strength in whole.items() if strength)

    @cached_property
    def initials(self) -> str:
        """The first letters of its words."""
        return "".join(word.key[:1] for word in self.name.words)


@dataclass(frozen=True)
class Beside:
    """The names of one sort of file in a folder, lined up: what recurs, and which numbers count.

    `recurring` says of the segments of names with so many, by place, which recurs most: of artists and titles that is
    the artist.
    """

    names: Sequence[Name]
    segments: Counter[str] = field(default_factory=Counter)
    words: Counter[str] = field(default_factory=Counter)
    lengths: Counter[int] = field(default_factory=Counter)
    counting: frozenset[tuple[int, int]] = frozenset()
    recurring: Mapping[tuple[int, int], str] = field(default_factory=dict)

    @classmethod
    def of(cls, stems: Iterable[str]) -> Beside:
        """Line up the names (without endings) of files of one sort."""
        names = [name_of_words(stem) for stem in stems]
        segments, words = Counter[str](), Counter[str]()
        lengths = Counter(len(name.segments) for name in names)
        numbers: dict[tuple[int, int], list[int]] = {}
        for name in names:
            segments.update(set(name.segments))
            words.update({word.key for word in name.words})
            for place, word in places(name):
                if word.key.isdecimal() and len(word.key) < 5:
                    numbers.setdefault(place, []).append(int(word.key))
        counting = frozenset(place for place, values in numbers.items() if _counts(values, len(names)))
        return cls(names, segments, words, lengths, counting, _recurring(names))

    def share(self, counts: Counter[Any], key: Any) -> str:
        """Return how many of the names have a segment or a word: "alone", "one", "some", "all"."""
        if len(self.names) < 2:
            return "alone"
        count = counts[key]
        return "one" if count < 2 else "all" if count >= _ALL * len(self.names) else "some"

    def about(self, name: Name) -> tuple[Value | tuple[str, ...], ...]:
        """Return what of all this can say anything about one of the names, as plain values."""
        return (
            self.share(self.lengths, len(name.segments)),
            tuple(self.share(self.segments, segment) for segment in name.segments),
            tuple(self.share(self.words, word.key) for word in name.words),
            tuple(str(at) for at, (place, _) in enumerate(places(name)) if place in self.counting),
            tuple(self.recurring.get((len(name.segments), place), "") for place in range(len(name.segments))),
        )


def _recurring(names: Iterable[Name]) -> dict[tuple[int, int], str]:
    """Return, by the number of segments and the place of one, whether it is the one that recurs most among the names
    that have so many; where none recurs there is nothing."""
    lined: dict[int, list[Sequence[str]]] = {}
    for name in names:
        lined.setdefault(len(name.segments), []).append(name.segments)
    found = {}
    for count, some in lined.items():
        again = [len(some) - len(set(column)) for column in zip(*some, strict=True)]
        if count > 1 and max(again):
            for place, times in enumerate(again):
                found[count, place] = "most" if times == max(again) else "less" if times else "never"
    return found


def places(name: Name) -> Iterator[tuple[tuple[int, int], Word]]:
    """Yield the words of a name, each with its segment and its place in that."""
    at, segment = 0, -1
    for word in name.words:
        at = at + 1 if word.segment == segment else 0
        segment = word.segment
        yield (segment, at), word


def _counts(values: Sequence[int], names: int) -> bool:
    """Say whether the numbers in one place of several names count on."""
    several = len(values) > 1 and len(values) >= 0.6 * names and len(set(values)) >= 0.9 * len(values)
    return several and max(values) - min(values) <= 1.5 * len(values) + 2


def folders_above(folder: str, roles: Mapping[str, FolderReading]) -> list[Folder]:
    """Return the folders above a file that are looked at, the outermost first."""
    found: list[Folder] = []
    while folder and len(found) < DEEPEST:
        found.append(Folder(name_of_words(name_of(folder)), roles.get(folder)))
        folder = parent(folder)
    return found[::-1]


def _sort_of(concept: str) -> str:
    """Return the group of concepts that one belongs to, as far as it makes a difference to a slot."""
    front, _, rest = concept.partition(".")
    if rest in ("compilations", "soundtracks", "mixes", "audio_books", "radio_plays", "classical", "singles"):
        return rest
    return concept if front in ("track", "archive", "date") or rest == "word" else front


def _shape(word: Word, text: str) -> Iterator[str]:
    """Yield what a word looks like."""
    key = word.key
    if word.year:
        yield "date"
        return
    if key.isdecimal():
        yield f"digits{min(len(key), 5)}"
        if len(key) == 4 and int(key) in _YEARS:
            yield "year"
        if len(key) > 1 and key[0] == "0":
            yield "zero"
        return
    written = text[word.start : word.end]
    yield "letter" if len(key) == 1 else f"length{min(len(key), 4)}"
    if len(key) > 1:
        yield "upper" if written.isupper() else "lower" if written.islower() else "title"


def spelled(words: Sequence[Word], key: str) -> Iterator[range]:
    """Yield where words, run together, are the same as a key."""
    for first in range(len(words)):
        rest = key
        for at in range(first, len(words)):
            if not rest.startswith(words[at].key) or not words[at].key:
                break
            rest = rest[len(words[at].key) :]
            if not rest:
                yield range(first, at + 1)
                break


def _of_names(name: Name) -> list[list[str]]:
    """Return for each word of a name what can be said of it from that name alone."""
    found: list[list[str]] = []
    words, several = name.words, len(name.segments)
    own: list[list[str]] = []
    for word, (means, whole) in zip(words, meanings_of(words), strict=True):
        some = [*_shape(word, name.text)]
        groups = {(_sort_of(concept), strength) for concept, strength in means.items()}
        some += [f"w {group}" for group, strength in groups if strength]
        some += [f"w {group} {strength}{'!' if whole else ''}" for group, strength in groups]
        if not means:
            some.append("unknown")
        own.append(some)
    for at, word in enumerate(words):
        here = list(own[at])
        first = at == 0 or words[at - 1].segment != word.segment
        last = at == len(words) - 1 or words[at + 1].segment != word.segment
        here.append(f"gap {word.gap}")
        here.append(f"then {words[at + 1].gap if at + 1 < len(words) else 'end'}")
        if word.depth:
            here.append("in brackets")
        if first:
            here.append("segment begins")
        if last:
            here.append("segment ends")
        if first and last:
            here.append("segment alone")
        place = (
            "only"
            if several == 1
            else "first"
            if word.segment == 0
            else "last"
            if word.segment == several - 1
            else "inner"
        )
        here.append(f"segment {place}")
        if several > 1:
            here.append(f"segment {min(word.segment, 3)} of {min(several, 4)}")
        if at:
            here += [f"before: {said}" for said in own[at - 1] if said[0] != "w" or said[-1] in "12!"]
        if at + 1 < len(words):
            here += [f"behind: {said}" for said in own[at + 1] if said[0] != "w" or said[-1] in "12!"]
        if words[0].key.isdecimal() and at:
            here.append("number in front")
        found.append(here)
    return found


class PathEvidence:
    """The evidence for the words of the files of one sort in a folder."""

    def __init__(self, folders: Sequence[Folder], beside: Beside) -> None:
        self.folders = folders
        self.beside = beside
        self.roles = {folder.role for folder in folders}
        self.said = [f"below {group}" for group in sorted({group for folder in folders for group in folder.says})]

    def of_folders(self) -> list[list[list[str]]]:
        """Return for each folder above, the outermost first, and each of its words what speaks for a slot."""
        found = []
        for at, folder in enumerate(self.folders):
            up = len(self.folders) - at
            role = folder.role
            sure = f"folder {role} {folder.reading.sureness if folder.reading else ''}"
            rows = _of_names(folder.name)
            others = self.folders[:at]
            for word, row in zip(folder.name.words, rows, strict=True):
                row += [
                    f"folder {role}",
                    sure,
                    f"up {min(up, 3)}",
                    f"{role} up {min(up, 3)}",
                ]
                several = len(folder.name.segments)
                place = "only" if several == 1 else min(word.segment, 2)
                row.append(f"{role} segment {place} of {min(several, 3)}")
                if "owner" in self.roles and role != "owner":
                    row.append("beside an owner")
                if "work" in self.roles and role != "work":
                    row.append("beside a work")
                if self.beside.segments:
                    row.append(f"in files {self._in_files(folder.name.segments[word.segment])}")
            self._mark(folder.name.words, rows, others)
            found.append(rows)
        return found

    def of_file(self, name: Name) -> list[list[str]]:
        """Return for each word of a file's name what speaks for a slot."""
        rows = _of_names(name)
        alike = self.beside.share(self.beside.lengths, len(name.segments))
        owner = f"{'below' if 'owner' in self.roles else 'no'} owner"
        for (at, word), row in zip(places(name), rows, strict=True):
            row += ["file", *self.said]
            row += [f"file {said}" for said in row if said.startswith(("segment ", "digits", "in brackets", "year"))]
            row.append(f"segment shared by {self.beside.share(self.beside.segments, name.segments[word.segment])}")
            here = self.beside.recurring.get((len(name.segments), word.segment), "no")
            row.append(f"segment recurs: {here}")
            row.append(f"word shared by {self.beside.share(self.beside.words, word.key)}")
            if at in self.beside.counting and word.key.isdecimal():
                row.append("counts")
            row += [f"{'below' if role in self.roles else 'no'} {role}" for role in ("owner", "work")]
            place = f"file segment {min(word.segment, 3)} of {min(len(name.segments), 4)}"
            row += [f"{place} as {alike} {owner}", f"{place} {owner}"]
        self._mark(name.words, rows, self.folders)
        return rows

    def _in_files(self, key: str) -> str:
        share = self.beside.share(self.beside.segments, key)
        return "none" if not self.beside.segments[key] else share

    def _mark(self, words: Sequence[Word], rows: list[list[str]], folders: Iterable[Folder]) -> None:
        """Add to the words of a name what of it stands in the names of folders above, in full or as initials."""
        for folder in folders:
            for run in spelled(words, folder.key):
                for at in run:
                    rows[at].append(f"is {folder.role}")
            if len(folder.name.segments) > 1:
                for key in folder.name.segments:
                    for run in spelled(words, key) if len(key) > 2 else ():
                        for at in run:
                            rows[at].append(f"is of {folder.role}")
            short = folder.initials
            for at, word in enumerate(words):
                if len(word.key) > 1 and len(short) > 1 and short.startswith(word.key):
                    rows[at].append(f"short of {folder.role}")
