"""Rules of songs: what the tags inside them say against their names, and against each other in one album."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator

from lazy_magpie.checks.findings import Check, Finding, Rule, Sight
from lazy_magpie.identify.title_text import match_key
from lazy_magpie.model import Item, Kind, Value
from lazy_magpie.paths import name_of, parent, written

TAGS_DISAGREE = "tags disagree"
"""How the doubt begins that a song's tags and its name say different things."""
_NUMBER = re.compile(r"[0-9]{1,6}")
_ALBUM_WIDE = ("album_artist", "year")
"""What the songs of one album have in common."""


class _Tags(Check):
    """Songs whose tags contradict their names, or those of the other songs of their album."""

    def __init__(self, sight: Sight) -> None:
        super().__init__(sight)
        self._said: dict[tuple[str, str], dict[str, list[tuple[str, Value]]]] = defaultdict(lambda: defaultdict(list))
        self._numbers: dict[tuple[str, str, object, object], str] = {}

    def see(self, item: Item) -> Iterable[Finding]:
        """Look at a song's own doubts, and note what its album would have in common."""
        if item.kind is not Kind.TRACK:
            return
        for doubt in item.doubts:
            if doubt.startswith(TAGS_DISAGREE):
                yield Finding("song-tags", item.path, doubt.partition(": ")[2])
        fields = item.fields
        if not fields.get("album"):
            return
        album = (parent(item.path), match_key(str(fields["album"])))
        for field in _ALBUM_WIDE:
            if value := fields.get(field):
                self._said[album][field].append((item.path, value))
        if track := fields.get("track"):
            other = self._numbers.setdefault((*album, fields.get("disc"), track), item.path)
            if other != item.path and not _is_another_form(other, item) and not _are_called(track, other, item.path):
                yield Finding("song-tags", item.path, f"is number {track} of its album, as {written(name_of(other))}")

    def end(self) -> Iterable[Finding]:
        """Return the songs that say otherwise than most of their album."""
        for album in self._said.values():
            for field, said in album.items():
                yield from _odd_ones(field, said)


def _odd_ones(field: str, said: list[tuple[str, Value]]) -> Iterator[Finding]:
    counts = Counter(match_key(str(value)) for _, value in said)
    usual, most = counts.most_common(1)[0]
    if 2 * most <= len(said):
        return  # a sampler, or no usual one
    shown = next(value for _, value in said if match_key(str(value)) == usual)
    for path, value in said:
        if match_key(str(value)) != usual:
            name = field.replace("_", " ")
            yield Finding("song-tags", path, f"says {name} “{value}”; its album is of “{shown}”")


def _is_another_form(other: str, item: Item) -> bool:
    """Say whether two files are one song in two forms: they are called alike but for the ending."""
    return other.rpartition(".")[0] == item.path.rpartition(".")[0]


def _are_called(track: Value, *paths: str) -> bool:
    """Say whether songs have a number in their names: one on each side, or in each part, and no tag contradicts it."""
    return all(str(track) in map(str, map(int, _NUMBER.findall(name_of(path)))) for path in paths)


RULES = (Rule("song-tags", "tags that contradict the name, or the album", _Tags),)
