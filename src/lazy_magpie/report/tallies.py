"""Tables of the report that count items by what they have: a row here for each."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable, Iterator, Sequence
from typing import NamedTuple

from lazy_magpie.columns import value_of
from lazy_magpie.model import Item, Kind
from lazy_magpie.report.report_table import NOT_KNOWN, Cell, Chart, Part, ReportSources, ReportTable

_BESIDE = (Kind.COMPANION, Kind.JUNK, Kind.UNFINISHED)


class Tally(NamedTuple):
    """A table that counts items, and their bytes, by what they have.

    `by` names its first columns, `keys` gives an item's values for these (none: it does not count). `largest` says
    that the rows with the most bytes come first, else they are in the order of their keys.
    """

    name: str
    section: str
    title: str
    by: tuple[str, ...]
    keys: Callable[[Item], Iterable[tuple[Cell, ...]]]
    chart: Chart
    largest: bool = True
    note: str = ""


_LINES = (480, 576, 720, 1080, 2160)
_RATES = (96, 128, 192, 256, 320)


def _band(value: float, limits: Sequence[int], unit: str) -> str:
    low = 0
    for limit in limits:
        if value <= limit:
            return f"up to {limit} {unit}" if not low else f"{low + 1} to {limit} {unit}"
        low = limit
    return f"over {low} {unit}"


def _lines(item: Item) -> Iterator[tuple[Cell, ...]]:
    height = item.facts.get("height")
    if item.kind in (Kind.MOVIE, Kind.EPISODE):
        is_known = isinstance(height, int | float) and height
        yield (_band(float(str(height)), _LINES, "lines") if is_known else NOT_KNOWN), item.kind.value


def _rates(item: Item) -> Iterator[tuple[Cell, ...]]:
    if item.kind is Kind.TRACK:
        rate = item.facts.get("bitrate")
        if item.facts.get("lossless"):
            yield ("lossless",)
        else:
            yield (_band(rate / 1000, _RATES, "kbit/s") if isinstance(rate, int | float) and rate else NOT_KNOWN,)


def _decades(item: Item) -> Iterator[tuple[Cell, ...]]:
    year = item.fields.get("year") or item.fields.get("show_year")
    if isinstance(year, int) and item.kind not in _BESIDE:
        yield f"{year // 10 * 10}s", item.kind.value


def _years(item: Item) -> Iterator[tuple[Cell, ...]]:
    year = item.fields.get("year") or item.fields.get("show_year")
    if isinstance(year, int) and item.kind not in _BESIDE:
        yield (str(year),)


def _ages(item: Item) -> Iterator[tuple[Cell, ...]]:
    yield (str(value_of(item, "arrived"))[:4],)


def _each(name: str, *kinds: Kind) -> Callable[[Item], Iterator[tuple[Cell, ...]]]:
    """Return what gives the values that items of some kinds have of a field or fact."""

    def keys(item: Item) -> Iterator[tuple[Cell, ...]]:
        if item.kind in kinds:
            value = value_of(item, name)
            for one in value if isinstance(value, list) else [value]:
                yield (NOT_KNOWN if one in (None, "") else str(one),)

    return keys


_FILMS = (Kind.MOVIE, Kind.EPISODE)


def _sound(item: Item) -> Iterator[tuple[Cell, ...]]:
    """Yield the codecs of sound; a film whose picture is known and that names none has no sound."""
    for (codec,) in _each("sound_codec", *_FILMS, Kind.TRACK)(item):
        yield ("no sound" if codec == NOT_KNOWN and "picture_codec" in item.facts else codec,)


TALLIES: Sequence[Tally] = (
    Tally("ages", "Space", "Space by the year of the files", ("year",), _ages, Chart("columns", "size"), largest=False),
    Tally("lines", "Quality", "Films and episodes by lines", ("lines", "kind"), _lines,
          Chart("stacked", "count"), False),
    Tally("bitrates", "Quality", "Songs by bit rate", ("bit rate",), _rates, Chart("bars", "count")),
    Tally("picture-codecs", "Quality", "Codecs of pictures", ("codec",), _each("picture_codec", *_FILMS),
          Chart("bars", "count")),
    Tally("sound-codecs", "Quality", "Codecs of sound", ("codec",), _sound,
          Chart("bars", "count")),
    Tally("decades", "Years", "Decades", ("decade", "kind"), _decades, Chart("stacked", "count"), False),
    Tally("years", "Years", "Years", ("year",), _years, Chart("columns", "count"), False),
    Tally("hoops", "Crafts and fonts", "Hoops of designs", ("hoop",), _each("hoop", Kind.DESIGN),
          Chart("bars", "count")),
    Tally("scripts", "Crafts and fonts", "Scripts of fonts", ("script",), _each("scripts", Kind.FONT),
          Chart("bars", "count")),
    Tally("licences", "Crafts and fonts", "Licences", ("licence",),
          _each("licence_name", Kind.FONT), Chart("bars", "count")),
)  # fmt: skip
"""The tables that count items by what they have."""


class Tallied(Part):
    """The part of the report that a tally is: it counts items and bytes."""

    def __init__(self, tally: Tally, sources: ReportSources) -> None:
        super().__init__(sources)
        self.tally = tally
        self._sums: dict[tuple[Cell, ...], list[int]] = defaultdict(lambda: [0, 0])

    def see(self, item: Item) -> None:
        """Add an item for each of its values."""
        for key in self.tally.keys(item):
            self._sums[key][0] += 1
            self._sums[key][1] += item.size

    def tables(self) -> Iterator[ReportTable]:
        """Yield the one table, but for one that knows nothing."""
        tally = self.tally
        if any(key[0] != NOT_KNOWN for key in self._sums):
            order = (lambda pair: (-pair[1][1], pair[0])) if tally.largest else _by_key
            rows = [(*key, *sums) for key, sums in sorted(self._sums.items(), key=order)]
            columns = (*tally.by, "count", "size")
            yield ReportTable(tally.name, tally.section, tally.title, columns, rows, tally.chart, tally.note)


def _by_key(pair: tuple[tuple[Cell, ...], list[int]]) -> tuple[object, ...]:
    """Order by the number that a key begins with, what is not known last."""
    first = str(pair[0][0]).removeprefix("over ").removeprefix("up to ")
    digits = "".join(c for c in first.split(" ")[0] if c.isdecimal())
    return first == NOT_KNOWN, int(digits or 0), str(pair[0][0]).startswith("over"), pair[0]
