"""Two versions of one film that both stay: what tells them apart in their names."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from lazy_magpie.catalogue import AnyOf, Below, Catalogue
from lazy_magpie.fields import shown
from lazy_magpie.model import Conflict, Item, Kind

_TELLING = ("resolution", "source", "picture_codec", "sound_codec", "languages", "audio_languages")
"""What may tell two versions apart, the first that does."""


def versions_of(catalogue: Catalogue, conflicts: Iterable[Conflict]) -> dict[str, str]:
    """Return by their paths what tells the films of conflicts apart; none of those that nothing does."""
    found: dict[str, str] = {}
    for conflict in conflicts:
        condition = AnyOf(tuple(Below(path, 0) for path in conflict.items))
        items = {item.path: item for item in catalogue.items.ask(condition) if item.kind is Kind.MOVIE}
        if len(items) == len(conflict.items):
            found |= _told_apart(items)
    return found


def _told_apart(items: Mapping[str, Item]) -> dict[str, str]:
    """Return a word or two for each film, no two the same; nothing where there are none."""
    for count in (1, 2):
        for at in range(len(_TELLING) - count + 1):
            words = {path: _words(item, _TELLING[at : at + count]) for path, item in items.items()}
            if all(words.values()) and len(set(words.values())) == len(words):
                return words
    return {}


def _words(item: Item, fields: Iterable[str]) -> str:
    said = (shown(field, item.facts.get(field) or item.fields.get(field)) for field in fields)
    return " ".join(word for word in said if word)
