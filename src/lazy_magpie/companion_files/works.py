"""Shows and albums as wholes: what data about all of one says, and the folder that is its own."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from lazy_magpie.model import Item, Kind, Value
from lazy_magpie.paths import above, name_of
from lazy_magpie.words import folded


class WorkKind(StrEnum):
    """What things are gathered in; the values are the fields that name it."""

    SHOW = "show"
    ALBUM = "album"


_WORKS = {Kind.EPISODE: WorkKind.SHOW, Kind.TRACK: WorkKind.ALBUM}
_ORDER = ("disc", "season", "track", "episode", "running", "air_date")
_OWN = frozenset(["season", "episode", "episode_title", "running", "air_date", "disc", "track", "title"])
"""Fields that are those of one thing in a show or an album, even where all say the same."""


@dataclass(frozen=True)
class Work:
    """A show or an album: its folder, and the things of it that lie there, in their order."""

    kind: WorkKind
    folder: str
    title: str
    things: Sequence[Item]

    @property
    def fields(self) -> dict[str, Value]:
        """What all of its things say alike, and its own title."""
        first, *others = self.things
        alike = {
            field: value
            for field, value in first.fields.items()
            if field not in _OWN and all(one.fields.get(field) == value for one in others)
        }
        return {**alike, "title": self.title}

    @property
    def tags(self) -> list[str]:
        """The tags that all of its things carry."""
        return sorted(set.intersection(*(set(one.tags) for one in self.things)))


def work_of(item: Item) -> tuple[WorkKind, str] | None:
    """Return which show or album an item is of, by its title; None if it is of none."""
    kind = _WORKS.get(item.kind)
    title = item.fields.get(kind) if kind else None
    return (kind, str(title)) if kind and title else None


def folder_of(path: str, title: str) -> str:
    """Return the innermost folder above a path that is called as a title, "" if there is none."""
    words = folded(title)
    called = (folder for folder in above(path) if f" {words} " in f" {folded(name_of(folder))} ")
    return next(called, "") if words else ""


def works_in(things: Iterable[Item]) -> Iterator[Work]:
    """Yield the shows and albums that things are of, each where it has a folder of its own."""
    gathered: dict[tuple[WorkKind, str, str], list[Item]] = defaultdict(list)
    for item in things:
        if (work := work_of(item)) and (folder := folder_of(item.path, work[1])):
            gathered[*work, folder].append(item)
    for (kind, title, folder), found in gathered.items():
        yield Work(kind, folder, title, sorted(found, key=_place))


def _place(item: Item) -> tuple[str, ...]:
    return (*(f"{item.fields.get(field, ''):>9}" for field in _ORDER), item.path)


def numbers_of(work: Work) -> Mapping[int, int]:
    """Return how many episodes of a show there are, by seasons."""
    counted: dict[int, int] = defaultdict(int)
    for item in work.things:
        season, first = item.fields.get("season"), item.fields.get("episode")
        last = item.fields.get("last_episode", first)
        if isinstance(season, int):
            counted[season] += last - first + 1 if isinstance(first, int) and isinstance(last, int) else 1
    return dict(sorted(counted.items()))
