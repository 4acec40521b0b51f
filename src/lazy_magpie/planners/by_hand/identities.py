"""What a thing is stays known where a name or place by hand no longer says it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping

from lazy_magpie.identify import identify
from lazy_magpie.model import Answer, Item, Kind, State
from lazy_magpie.model.steps import Settle
from lazy_magpie.paths import name_of, parent

_NAMED = (Kind.MOVIE, Kind.EPISODE, Kind.TRACK, Kind.GAME, Kind.KIT, Kind.DESIGN, Kind.FONT)
"""Kinds that are read from their names and folders."""


def remembered(items: Iterable[Item], places: Mapping[str, str]) -> Iterator[Settle]:
    """Yield the answers by which clear items stay what they are, where their new paths (`places`) don't say it.

    A new name that says all of it, and clearly, by itself counts: that is how people put a title right.
    """
    for item in items:
        target = places.get(item.path)
        if target is None or item.kind not in _NAMED or item.state is not State.CLEAR:
            continue
        read = identify(name_of(target))  # folders and siblings would make an episode of any number
        says_all = read.kind is item.kind and read.state is State.CLEAR and item.fields.keys() <= read.fields.keys()
        if not says_all:
            answer = Answer(item.kind, dict(item.fields))
            why, group = "it stays what it is", parent(target) or "."
            yield Settle(source=target, why=why, group=group, item=item.id, old=None, new=answer)
