"""Whole folders that are copies: shown as one line, not as a thousand."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace

from lazy_magpie.model import Item
from lazy_magpie.paths import above, join, name_of, parent
from lazy_magpie.planners.copies import Choice, Verdict

Twins = dict[str, str]
"""For each folder that goes as a whole, the one that holds the same under the same names."""


def collapse_folders(verdicts: Sequence[Verdict], files_in: Mapping[str, int]) -> tuple[list[Choice], list[Verdict]]:
    """Return one summary for each folder that fully duplicates another, and the remaining verdicts.

    `files_in` says how many files lie in each folder itself.
    """
    going = {
        file.path: twin.path
        for verdict in verdicts
        for item in verdict.others
        for file in item.files
        if (twin := verdict.twin(file))
    }
    twins = _outermost(_twins(going, files_in))
    inside: dict[str, list[tuple[Item, str]]] = defaultdict(list)
    for verdict in verdicts:
        for item in verdict.others if not verdict.is_alike else ():
            if folder := next((up for up in above(item.path) if up in twins), ""):
                inside[folder].append((item, verdict.why))
    several = {folder: parts for folder, parts in inside.items() if len(parts) > 1}
    shown = {item.id for parts in several.values() for item, _ in parts}
    left = []
    for verdict in verdicts:
        if others := tuple(item for item in verdict.others if item.id not in shown or verdict.is_alike):
            left.append(replace(verdict, others=others))
    return [_line(folder, twins[folder], parts) for folder, parts in several.items()], left


def _line(folder: str, stays: str, inside: Sequence[tuple[Item, str]]) -> Choice:
    whys = ", ".join(dict.fromkeys(why for _, why in inside))
    size = sum(item.size for item, _ in inside)
    return Choice("bytes", stays, (folder,), size, f"the whole folder: {whys}", len(inside))


def _twins(going: Mapping[str, str], files_in: Mapping[str, int]) -> Twins:
    """Return the folders whose files are all copies of the files of the same names in one other folder."""
    inside: dict[tuple[str, str], int] = defaultdict(int)
    for path, twin in going.items():
        here, there = path, twin
        while here and there and name_of(here) == name_of(there):
            here, there = parent(here), parent(there)
            if not here or not there or here == there:
                break
            inside[here, there] += 1
    total: dict[str, int] = defaultdict(int)
    wanted = {here for here, _ in inside}
    for folder, count in files_in.items():
        for up in _self_and_above(folder):
            if up in wanted:
                total[up] += count
    return {here: there for (here, there), count in inside.items() if count == total[here] > 1}


def _self_and_above(folder: str) -> Iterator[str]:
    yield folder
    yield from above(folder)


def _outermost(twins: Twins) -> Twins:
    """Leave out the folders that lie in another one whose twin holds theirs."""

    def is_within(folder: str) -> bool:
        ups = (up for up in above(folder) if up in twins)
        return any(join(twins[up], folder[len(up) + 1 :]) == twins[folder] for up in ups)

    return {folder: twin for folder, twin in twins.items() if not is_within(folder)}
