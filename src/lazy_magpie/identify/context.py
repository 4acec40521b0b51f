"""What is known around a file besides its path: what lies beside it, what it says of itself, known makers."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

from lazy_magpie.identify.file_types import BY_ENDING, SUBTITLES, VIDEO
from lazy_magpie.identify.title_text import match_key
from lazy_magpie.model import Kind, Value
from lazy_magpie.paths import split_ending
from lazy_magpie.patterns import pattern

_NUMBER = pattern(r"(?<![^\W_])(?:e|ep|episode ?|第)?(\d{1,4})(?:[ªa]?(?![^\W_])|(?=[회화話话集回]))", re.IGNORECASE)
_YEAR_LAST = pattern(r"^(?P<title>.*[^\W_])[ ._-]+(?P<year>(?:19|20)\d\d)$")
_YEAR_FIRST = pattern(r"^(?P<year>(?:19|20)\d\d)[ _]+[-–][ _]+(?P<title>.*[^\W\d_].*)$")
_FEW = 3
"""So many files of one habit at the least make a row."""
_MOST_COMPANIONS = 12
"""Where more subtitles and papers lie in a folder, they are no evidence for one film."""


@dataclass(frozen=True)
class Siblings:
    """The files of one folder, as evidence for each of them.

    `rows` maps what stands in front of a number (folded) to the numbers behind it, where they count on in a row;
    `years` holds the years of the names that end in a bare year or begin with one, where several different titles do
    so; `letters` says that most of the stitch files are called by one letter each; `companions` are the names, without
    endings, of subtitles and papers that lie beside a few films; `songs` says that there are songs.
    """

    rows: Mapping[str, frozenset[int]] = field(default_factory=dict)
    years: frozenset[int] = frozenset()
    letters: bool = False
    companions: tuple[str, ...] = ()
    songs: bool = False

    def count_on(self, before: str, number: int) -> frozenset[int]:
        """Return the row that `number` behind `before` stands in, empty if in none."""
        row = self.rows.get(match_key(before), frozenset())
        return row if number in row else frozenset()

    def lists(self, stem: str) -> bool:
        """Say whether a name begins with a number that counts on through the folder, as in a list."""
        match = _NUMBER.match(stem.lstrip("[(#"))
        return match is not None and bool(self.count_on("", int(match[1])))

    def has_row(self, stem: str, start: int, end: int) -> bool:
        """Say whether a number between two places of a name stands in such a row."""
        numbers = (match for match in _NUMBER.finditer(stem) if start <= match.start() and match.end() <= end)
        return any(self.count_on(stem[: match.start()], int(match[1])) for match in numbers)

    def about(self, stem: str) -> tuple[Value | tuple[int, ...], ...]:
        """Return what of all this can say anything about a name without its ending, as plain values."""
        said: list[Value | tuple[int, ...]] = [self.letters, self.songs, bool(self.rows), *self.companions]
        if self.rows:
            rows = (self.count_on(stem[: match.start()], int(match[1])) for match in _NUMBER.finditer(stem))
            said += [tuple(sorted(row)) for row in rows]
        if self.years and (match := _YEAR_LAST.match(stem) or _YEAR_FIRST.match(stem)):
            said.append(int(match["year"]) in self.years)
        return tuple(said)


@dataclass(frozen=True)
class Systems:
    """Systems of games besides those that magpie knows: by the folded names of their folders, and by endings."""

    folders: Mapping[str, str] = field(default_factory=dict)
    endings: Mapping[str, str] = field(default_factory=dict)


def systems_of(tables: Mapping[str, tuple[Iterable[str], Iterable[str]]]) -> Systems:
    """Return the systems of a configuration: for each name its folders and its endings (small letters, with a dot)."""
    folders = {match_key(folder): name for name, (named, _) in tables.items() for folder in (name, *named)}
    return Systems(folders, {ending: name for name, (_, endings) in tables.items() for ending in endings})


@dataclass(frozen=True)
class Context:
    """All that an identity may rest on besides the path. `makers` are names known to be makers or artists, folded.

    `tags` are what the file says of itself, `data` is what a data file beside it says.
    """

    siblings: Siblings = field(default_factory=Siblings)
    tags: Mapping[str, Value] = field(default_factory=dict)
    makers: frozenset[str] = frozenset()
    systems: Systems = field(default_factory=Systems)
    data: Mapping[str, Value] = field(default_factory=dict)


NO_CONTEXT = Context()


def siblings_of(names: Iterable[str]) -> Siblings:
    """Return what the file names of one folder say together."""
    videos, stitched, beside = [], [], []
    songs = False
    for name in names:
        stem, ending = split_ending(name)
        ending = ending.lower()
        if ending in VIDEO:
            videos.append(stem)
        elif BY_ENDING.get(ending) is Kind.DESIGN:
            stitched.append(stem)
        elif BY_ENDING.get(ending) is Kind.TRACK:
            songs = True
        elif ending in SUBTITLES or ending == ".nfo":
            beside.append(stem)
    last = [re.split(r"[ ._-]+", stem)[-1] for stem in stitched]
    letters = [word for word in last if len(word) == 1 and word.isalnum()]
    return Siblings(
        _rows(videos),
        _years(videos),
        (len(letters) >= 8 and len(letters) * 2 > len(stitched)) or (len(set(letters)) >= _FEW and letters == stitched),
        tuple(beside) if len(beside) <= _MOST_COMPANIONS else (),
        songs,
    )


def _rows(stems: list[str]) -> dict[str, frozenset[int]]:
    """Find the numbers that count on behind one beginning."""
    if len(stems) < _FEW:
        return {}
    numbers: dict[str, list[int]] = defaultdict(list)
    for stem in stems:
        for match in _NUMBER.finditer(stem):
            numbers[match_key(stem[: match.start()])].append(int(match[1]))
    return {before: frozenset(row) for before, row in numbers.items() if _counts_on(row)}


def _counts_on(row: list[int]) -> bool:
    """Say whether numbers count on: no two alike, hardly a gap, from the beginning of a season or of a hundred."""
    first, last, count = min(row), max(row), len(set(row))
    whole = count == len(row) >= _FEW and last - first < count * 5 // 4 + 1
    return whole and (first % 100 in (0, 1, 2) or count >= 8)


def _years(stems: list[str]) -> frozenset[int]:
    """Find the bare years behind titles, or in front of them, that differ, in a folder where that is the habit."""
    return frozenset(year for form in (_YEAR_LAST, _YEAR_FIRST) for year in _years_in(stems, form))


def _years_in(stems: list[str], form: re.Pattern[str]) -> set[int]:
    found = [match for stem in stems if (match := form.match(stem))]
    titles = {match_key(re.sub(r"\d+$", "", match["title"])) for match in found}
    years = {int(match["year"]) for match in found}
    habit = len(found) >= _FEW and len(titles) == len(found) and len(years) >= _FEW and len(found) * 2 > len(stems)
    return years if habit else set()
