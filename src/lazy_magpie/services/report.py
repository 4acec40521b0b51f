"""Gathers what a report says: items, the changes that brought them, how lists stand, what `check` finds."""

from __future__ import annotations

import datetime
import time
from collections import Counter
from collections.abc import Callable, Iterator, Sequence

from lazy_magpie.catalogue import All, Catalogue, opened
from lazy_magpie.change import Change, history
from lazy_magpie.collection import Collection
from lazy_magpie.errors import BusyError
from lazy_magpie.formatting import time_text
from lazy_magpie.lists.matched import Counts
from lazy_magpie.model import Item
from lazy_magpie.report.collection_tables import arrival_lookup, report_tables
from lazy_magpie.report.report_table import ReportSources, ReportTable
from lazy_magpie.services.check import Asked, check_collection, rules_named, without_left
from lazy_magpie.services.journals import journal_store
from lazy_magpie.services.session import writing

_RULES = (
    "below-standard", "subtitle-language", "wrong-ending", "title-twice", "missing-episode", "missing-part",
    "no-preview", "no-licence", "unfinished", "lone-companion", "lost-reference", "unsafe-name",
)  # fmt: skip
"""Rules of `check` whose findings are counted: those that need no plan of where things belong."""
_BRINGS = ("intake", "sheet", "unpack")


def report_of(
    collection: Collection, since: str, note: Callable[[str], None], tick: Callable[[int], None]
) -> list[ReportTable]:
    """Return the tables of the report. `since` is a day (2026-03-01), "" for none; `tick` is told of items seen."""
    lists = _lists(collection, note)
    changes = history(journal_store(collection))
    with opened(collection) as catalogue:
        readings = {path: one.at for path, one in catalogue.readings.of("").items()}
        sources = ReportSources(
            shelf_of=collection.config.shelf_name,
            arrived=arrival_lookup(_days(catalogue, changes)),
            read_at=lambda path: readings.get(path, 0),
            standards=collection.config.standards,
            lists=lists,
            found=_found(collection, catalogue),
            twice=catalogue.digests.twice(),
            changes=_changes(changes, since),
            since=since,
            now=time.time(),
        )
        return report_tables(_items(catalogue, tick), sources)


def _items(catalogue: Catalogue, tick: Callable[[int], None]) -> Iterator[Item]:
    for number, item in enumerate(catalogue.items.ask(All()), start=1):
        tick(number)
        yield item


def _days(catalogue: Catalogue, changes: Sequence[Change]) -> dict[str, str]:
    """Return the day on which each path was brought in by a change."""
    brought = {one.number: one.ended[:10] for one in changes if one.command.split(" ")[0] in _BRINGS and one.in_effect}
    return {path: brought[change] for path, change in catalogue.placements.first_changes() if change in brought}


def _found(collection: Collection, catalogue: Catalogue) -> list[tuple[str, int, str]]:
    """Return how often each rule finds something, with its words and the command that lists it."""
    rules = rules_named(_RULES)
    asked = Asked(All(), rules, (), whole=False)
    findings = without_left(catalogue, check_collection(catalogue, collection, asked, lambda number: None))
    counts = Counter(one.rule for one in findings)
    return [(rule.says, counts[rule.name], f"magpie check --rule {rule.name}") for rule in rules]


def _lists(collection: Collection, note: Callable[[str], None]) -> list[tuple[str, Counts]]:
    """Return how each reference list stands, as far as another process does not stand in the way."""
    from lazy_magpie.services.match import open_lists

    if not collection.config.lists:
        return []
    try:
        with writing(collection, "report", note) as catalogue:
            matching = open_lists(collection, catalogue)
            counts = matching.known_counts() or matching.counts()
            return [(one.name, counts[one.known.id]) for one in matching.lists]
    except BusyError:
        note("Another command is at work: how the reference lists stand is left out.")
        return []


def _changes(changes: Sequence[Change], since: str) -> list[tuple[int, str, str, str, int]]:
    """Return the changes since a day (in local time) as the report lists them, the newest first."""
    if not since:
        return []
    start = datetime.datetime.fromisoformat(since).astimezone()
    late = [one for one in changes if one.ended and datetime.datetime.fromisoformat(one.ended) >= start]
    return [(one.number, one.command, time_text(one.ended), one.state, one.done) for one in reversed(late)]
