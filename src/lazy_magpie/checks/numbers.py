"""Rules of numbers: an episode missing in the middle, a part or disc that is not there, one title twice."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from typing import NamedTuple

from lazy_magpie.checks.findings import Check, Finding, Rule, Sight, each
from lazy_magpie.identify.title_text import match_key
from lazy_magpie.model import Item, Kind
from lazy_magpie.paths import parent, written

_SHOWN = 6


class Season(NamedTuple):
    """The episodes of a season that are there, by number with their paths; `missing` are those between them."""

    show: str
    number: int
    there: Mapping[int, str]

    @property
    def missing(self) -> list[int]:
        """The numbers that are not there, between the first and the last."""
        return [number for number in range(min(self.there), max(self.there)) if number not in self.there]

    def names(self, most: int) -> str:
        """Return what is missing, in words, `most` episodes at the most by name."""
        missing = self.missing
        names = ", ".join(f"S{self.number:02}E{number:02}" for number in missing[:most])
        return names + (f" and {len(missing) - most:,} more" if len(missing) > most else "")


class Seasons:
    """The seasons of shows, of the episodes seen so far."""

    def __init__(self) -> None:
        self._found: dict[tuple[str, object, int], tuple[str, dict[int, str]]] = {}

    def see(self, item: Item) -> None:
        """Note an episode, or several in one file; what is none is passed by."""
        season, episode = item.fields.get("season"), item.fields.get("episode")
        if item.kind is Kind.EPISODE and isinstance(season, int) and isinstance(episode, int) and season:
            last = item.fields.get("last_episode")
            show = str(item.fields.get("show", ""))
            key = (match_key(show), item.fields.get("show_year"), season)
            _, there = self._found.setdefault(key, (show, {}))
            for number in range(episode, (last if isinstance(last, int) else episode) + 1):
                there.setdefault(number, item.path)

    def all(self) -> Iterator[Season]:
        """Yield the seasons."""
        for (_, _, number), (show, there) in self._found.items():
            yield Season(show, number, there)


class _Episodes(Check):
    """Episodes that are missing between those of a season that are there."""

    def __init__(self, sight: Sight) -> None:
        super().__init__(sight)
        self._seasons = Seasons()

    def see(self, item: Item) -> Iterable[Finding]:
        """Note an episode."""
        self._seasons.see(item)
        return ()

    def end(self) -> Iterable[Finding]:
        """Return the seasons in which some are missing."""
        for season in self._seasons.all():
            if season.missing:
                path = season.there[min(season.there)]
                yield Finding("missing-episode", path, f"not there: {season.names(_SHOWN)}")


def missing_parts(item: Item) -> list[int]:
    """Return the parts or discs of an item that are not there, before the last that is."""
    parts = {file.part for file in item.files if file.role == "main" and file.part}
    return sorted(set(range(1, max(parts, default=0))) - parts)


def _parts(item: Item, sight: Sight) -> Iterator[Finding]:
    what = "disc" if item.kind is Kind.GAME else "part"
    for number in missing_parts(item):
        yield Finding("missing-part", item.path, f"{what} {number} is not there")


class _Twice(Check):
    """Films of one title and year in two folders: in one they are mostly a film and what belongs to it."""

    def __init__(self, sight: Sight) -> None:
        super().__init__(sight)
        self._films: dict[tuple[str, object, object], str] = {}

    def see(self, item: Item) -> Iterable[Finding]:
        """Look whether a film was seen already."""
        if item.kind is Kind.MOVIE and item.fields.get("year") and not self.sight.config.is_left(item.path):
            title, year, edition = (item.fields.get(name) for name in ("title", "year", "edition"))
            other = self._films.setdefault((match_key(str(title)), year, edition), item.path)
            if parent(other) != parent(item.path):
                yield Finding("title-twice", item.path, f"is the same film as {written(other)}")


RULES = (
    Rule("missing-part", "a part or a disc is missing", each(_parts)),
    Rule("missing-episode", "episodes are missing in the middle", _Episodes),
    Rule("title-twice", "one film twice", _Twice),
)
