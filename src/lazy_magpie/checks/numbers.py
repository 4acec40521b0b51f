"""Rules of numbers: an episode missing in the middle, a part or disc that is not there, one title twice."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator

from lazy_magpie.checks.findings import Check, Finding, Rule, Sight, each
from lazy_magpie.identify.title_text import match_key
from lazy_magpie.model import Item, Kind
from lazy_magpie.paths import parent, written

_SHOWN = 6


class _Episodes(Check):
    """Episodes that are missing between those of a season that are there."""

    def __init__(self, sight: Sight) -> None:
        super().__init__(sight)
        self._seasons: dict[tuple[str, object, int], dict[int, str]] = defaultdict(dict)

    def see(self, item: Item) -> Iterable[Finding]:
        """Note an episode, or several in one file."""
        season, episode = item.fields.get("season"), item.fields.get("episode")
        if item.kind is Kind.EPISODE and isinstance(season, int) and isinstance(episode, int) and season:
            last = item.fields.get("last_episode")
            key = (match_key(str(item.fields.get("show", ""))), item.fields.get("show_year"), season)
            for number in range(episode, (last if isinstance(last, int) else episode) + 1):
                self._seasons[key].setdefault(number, item.path)
        return ()

    def end(self) -> Iterable[Finding]:
        """Return the seasons in which some are missing."""
        for (_, _, season), found in self._seasons.items():
            missing = [number for number in range(min(found), max(found)) if number not in found]
            if missing:
                names = ", ".join(f"S{season:02}E{number:02}" for number in missing[:_SHOWN])
                more = f" and {len(missing) - _SHOWN:,} more" if len(missing) > _SHOWN else ""
                yield Finding("missing-episode", found[min(found)], f"not there: {names}{more}")


def _parts(item: Item, sight: Sight) -> Iterator[Finding]:
    parts = {file.part for file in item.files if file.role == "main" and file.part}
    what = "disc" if item.kind is Kind.GAME else "part"
    for number in sorted(set(range(1, max(parts, default=0))) - parts):
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
