"""What a report says of a collection, as tables: the numbers behind every chart, made in one look at all items."""

from __future__ import annotations

import datetime
from collections import defaultdict
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from functools import partial

from lazy_magpie.checks.numbers import Seasons, missing_parts
from lazy_magpie.columns import value_of
from lazy_magpie.fields import shown
from lazy_magpie.formatting import size_text
from lazy_magpie.lists.matched import MatchState
from lazy_magpie.model import Item, State
from lazy_magpie.paths import above
from lazy_magpie.report.report_table import NOT_KNOWN, Cell, Chart, Part, ReportSources, ReportTable
from lazy_magpie.report.tallies import TALLIES, Tallied
from lazy_magpie.report.totals import ALL, NO_SHELF, Sums, weight_of

_DAY = 86_400


def report_tables(items: Iterable[Item], sources: ReportSources) -> list[ReportTable]:
    """Return the tables of the report that have rows, in the order of the page."""
    parts = [part(sources) for part in _PARTS]
    for item in items:
        for part in parts:
            part.see(item)
    return [table for part in parts for table in part.tables() if table.rows]


# --- what there is ---------------------------------------------------------------------------------------------------


class _Totals(Part):
    """Items, bytes and length by kind, shelf, system and maker."""

    _TITLES: Mapping[str, str] = {
        ALL: "All", "kind": "Kinds", "shelf": "Shelves", "maker": "Makers and artists", "system": "Systems"
    }  # fmt: skip

    def __init__(self, sources: ReportSources) -> None:
        super().__init__(sources)
        self._sums = Sums(sources.shelf_of)

    def see(self, item: Item) -> None:
        """Add an item."""
        self._sums.add(weight_of(item))

    def tables(self) -> Iterator[ReportTable]:
        """Yield a table a group, the largest first."""
        found = self._sums.all()
        for by, title in self._TITLES.items():
            rows = [(one.name or "everything", one.count, one.size, round(one.length)) for one in found if one.by == by]
            chart = None if by == ALL else Chart("bars", "size")
            yield ReportTable(f"by-{by}", "What there is", title, (by, "count", "size", "length"), rows, chart)


class _Space(Part):
    """The space as a map: shelves, and in them makers, shows or systems."""

    def __init__(self, sources: ReportSources) -> None:
        super().__init__(sources)
        self._sizes: dict[tuple[str, str], int] = defaultdict(int)

    def see(self, item: Item) -> None:
        """Add an item."""
        fields = item.fields
        inner = next((str(fields[key]) for key in ("show", "maker", "artist", "system", "family") if key in fields), "")
        shelf = self.sources.shelf_of(item.path, item.root) or NO_SHELF
        self._sizes[shelf, inner or item.kind.value] += item.size

    def tables(self) -> Iterator[ReportTable]:
        """Yield the one table."""
        rows: list[tuple[Cell, ...]] = [
            (*key, size) for key, size in sorted(self._sizes.items(), key=lambda pair: -pair[1]) if size
        ]
        yield ReportTable("space", "Space", "Where the space is", ("shelf", "what", "size"), rows,
                          Chart("treemap", "size"))  # fmt: skip


class _Growth(Part):
    """Arrivals by month, and all that was there by then."""

    def __init__(self, sources: ReportSources) -> None:
        super().__init__(sources)
        self._months: dict[str, list[int]] = defaultdict(lambda: [0, 0])

    def see(self, item: Item) -> None:
        """Add an item."""
        if day := arrival_of(item, self.sources):
            month = self._months[day[:7]]
            month[0] += 1
            month[1] += item.size

    def tables(self) -> Iterator[ReportTable]:
        """Yield the one table."""
        rows: list[tuple[Cell, ...]] = []
        so_far = 0
        for month, (count, size) in sorted(self._months.items()):
            so_far += size
            rows.append((month, count, size, so_far))
        note = "By the change that brought things in, else by the day of their files."
        yield ReportTable("growth", "Growth", "How it grew", ("month", "count", "size", "so far"), rows,
                          Chart("growth", "so far"), note)  # fmt: skip


class _Since(Part):
    """What came, and what was changed, since a day."""

    def __init__(self, sources: ReportSources) -> None:
        super().__init__(sources)
        self._kinds: dict[str, list[int]] = defaultdict(lambda: [0, 0])

    def see(self, item: Item) -> None:
        """Add an item that came since."""
        if self.sources.since and arrival_of(item, self.sources) >= self.sources.since:
            found = self._kinds[item.kind.value]
            found[0] += 1
            found[1] += item.size

    def tables(self) -> Iterator[ReportTable]:
        """Yield what came, and the changes."""
        if not self.sources.since:
            return
        section = f"Since {self.sources.since}"
        found = sorted(self._kinds.items(), key=lambda pair: -pair[1][1])
        rows: list[tuple[Cell, ...]] = [(kind, *sums) for kind, sums in found]
        yield ReportTable("arrived", section, "What came", ("kind", "count", "size"), rows, Chart("bars", "size"))
        columns = ("change", "command", "when", "state", "steps")
        changes: list[tuple[Cell, ...]] = [
            (str(number), command, when, state, steps) for number, command, when, state, steps in self.sources.changes
        ]
        yield ReportTable("changes", section, "Changes", columns, changes)


def arrival_lookup(days: Mapping[str, str]) -> Callable[[str], str]:
    """Return what names the day on which a path came, by days of paths and of the folders above them."""

    def arrived(path: str) -> str:
        return next((days[top] for top in (path, *above(path)) if top in days), "") if days else ""

    return arrived


def arrival_of(item: Item, sources: ReportSources) -> str:
    """Return the day on which an item came: that of the change that brought it, else that of its main file."""
    return sources.arrived(item.path) * (not item.root) or str(value_of(item, "arrived"))


# --- quality, completeness, what needs a person ----------------------------------------------------------------------


class _Standards(Part):
    """Things held against the standards of magpie.toml."""

    def __init__(self, sources: ReportSources) -> None:
        super().__init__(sources)
        self._counts: dict[tuple[str, str], dict[str, int]] = {}

    def see(self, item: Item) -> None:
        """Compare an item with the standard of its kind."""
        standard = self.sources.standards.get(item.kind.value)
        if standard is None:
            return
        for fact, least in (("height", standard.lines), ("bitrate", standard.bitrate)):
            if least and not (fact == "bitrate" and item.facts.get("lossless")):
                counts = self._counts.setdefault((item.kind.value, fact), dict.fromkeys(("met", "below", NOT_KNOWN), 0))
                value = item.facts.get(fact)
                known = isinstance(value, int | float)
                counts[NOT_KNOWN if not known else "met" if float(str(value)) >= least else "below"] += 1

    def tables(self) -> Iterator[ReportTable]:
        """Yield the one table."""
        rows: list[tuple[Cell, ...]] = []
        for (kind, fact), counts in sorted(self._counts.items()):
            standard = self.sources.standards[kind]
            said = f"{standard.lines} lines" if fact == "height" else shown("bitrate", standard.bitrate)
            rows += [(f"{kind}, {said}", how, count) for how, count in counts.items()]
        yield ReportTable("standards", "Quality", "Against the standards", ("standard", "how", "count"), rows,
                          Chart("stacked", "count"))  # fmt: skip


class _Shows(Part):
    """Seasons of shows, and which episodes are missing in them."""

    def __init__(self, sources: ReportSources) -> None:
        super().__init__(sources)
        self._seasons = Seasons()

    def see(self, item: Item) -> None:
        """Note an episode."""
        self._seasons.see(item)

    def tables(self) -> Iterator[ReportTable]:
        """Yield the one table: those with something missing first."""
        rows: list[tuple[Cell, ...]] = []
        for season in self._seasons.all():
            rows.append((season.show, season.number, len(season.there), len(season.missing), season.names(20)))
        rows.sort(key=lambda row: (row[3] == 0, str(row[0]).casefold(), row[1]))
        yield ReportTable("shows", "Completeness", "Episodes of shows", ("show", "season", "there", "missing", "which"),
                          rows, note="Missing are those between the first and the last that are there.")  # fmt: skip


class _Lists(Part):
    """How reference lists stand."""

    def tables(self) -> Iterator[ReportTable]:
        """Yield the one table."""
        rows: list[tuple[Cell, ...]] = []
        for name, counts in self.sources.lists:
            there = counts.games[MatchState.THERE.value]
            rows += [(name, "there", there), (name, "not there, or not right", counts.all_games - there)]
        yield ReportTable("lists", "Completeness", "Reference lists", ("list", "how", "count"), rows,
                          Chart("stacked", "count"))  # fmt: skip


class _Discs(Part):
    """Things of which a part or a disc is missing."""

    def __init__(self, sources: ReportSources) -> None:
        super().__init__(sources)
        self._rows: list[tuple[Cell, ...]] = []

    def see(self, item: Item) -> None:
        """Look which parts are not there."""
        if missing := missing_parts(item):
            there = max(file.part for file in item.files) - len(missing)
            self._rows.append((item.path, there, ", ".join(map(str, missing))))

    def tables(self) -> Iterator[ReportTable]:
        """Yield the one table."""
        yield ReportTable("discs", "Completeness", "Parts and discs that are missing", ("path", "there", "missing"),
                          self._rows)  # fmt: skip


class _Needs(Part):
    """What needs a person: in doubt, below standard, twice, not used yet, missing."""

    def __init__(self, sources: ReportSources) -> None:
        super().__init__(sources)
        self._counts: dict[tuple[str, str], int] = defaultdict(int)

    def see(self, item: Item) -> None:
        """Count an item for what it needs."""
        for what, command, needs in (
            ("in doubt", "magpie settle", item.state is State.DOUBTFUL),
            ("can't be read", "magpie find unreadable known", "unreadable" in item.facts),
            ("tagged “new”", "magpie find tag is new", "new" in item.tags),
        ):
            self._counts[what, command] += needs

    def tables(self) -> Iterator[ReportTable]:
        """Yield the one table."""
        rows = [(what, count, command) for (what, command), count in self._counts.items() if count]
        rows += [(what, count, command) for what, count, command in self.sources.found if count]
        if self.sources.twice[0]:
            rows.append((f"files twice, {size_text(self.sources.twice[1])}", self.sources.twice[0], "magpie copies"))
        rows.sort(key=lambda row: -row[1])
        yield ReportTable("needs", "What needs you", "What needs you", ("what", "count", "see"), rows,
                          Chart("bars", "count"))  # fmt: skip


class _Readings(Part):
    """How long ago files were read whole last."""

    _BANDS = ((30, "in the last 30 days"), (365, "in the last year"), (10**6, "longer ago"))

    def __init__(self, sources: ReportSources) -> None:
        super().__init__(sources)
        self._sums = {name: [0, 0] for _, name in (*self._BANDS, (0, "never"))}
        self._oldest = 0

    def see(self, item: Item) -> None:
        """Add an item's files."""
        for file in item.files if not item.root else ():
            at = self.sources.read_at(file.path)
            days = (self.sources.now - at) / _DAY
            band = next(name for most, name in self._BANDS if days <= most) if at else "never"
            self._sums[band][0] += 1
            self._sums[band][1] += max(file.size, 0)
            self._oldest = min(self._oldest or at, at) if at else self._oldest

    def tables(self) -> Iterator[ReportTable]:
        """Yield the one table."""
        rows: list[tuple[Cell, ...]] = [(name, *sums) for name, sums in self._sums.items() if sums[0]]
        day = datetime.datetime.fromtimestamp(self._oldest, datetime.UTC).date().isoformat() if self._oldest else ""
        note = f"The oldest good reading is of {day}. " if day else ""
        note += "“magpie check --contents” and “magpie mirror DIR --contents” read files whole."
        yield ReportTable("readings", "What needs you", "When files were read whole last", ("read", "files", "size"),
                          rows, Chart("bars", "size"), note)  # fmt: skip


_OF_TALLIES = {tally.name: partial(Tallied, tally) for tally in TALLIES}
_PARTS: Sequence[Callable[[ReportSources], Part]] = (
    _Since, _Totals, _Space, _OF_TALLIES["ages"], _Growth, _Standards,
    *(_OF_TALLIES[name] for name in ("lines", "bitrates", "picture-codecs", "sound-codecs", "decades", "years")),
    _Lists, _Shows, _Discs, _Needs, _Readings, *(_OF_TALLIES[name] for name in ("hoops", "scripts", "licences")),
)  # fmt: skip
