"""Rules of places: what lies on the wrong shelf or where none is, and what is not named as its shelf names it."""

from __future__ import annotations

from collections.abc import Iterator

from lazy_magpie.checks.findings import Finding, Mend, Rule, Sight, each
from lazy_magpie.checks.songs import TAGS_DISAGREE
from lazy_magpie.model import Item, Kind, State, reason_of
from lazy_magpie.model.kinds import in_prose
from lazy_magpie.paths import parent, written

_PLACED = (Kind.MOVIE, Kind.EPISODE, Kind.TRACK, Kind.GAME, Kind.KIT, Kind.DESIGN, Kind.FONT)


def _place(item: Item, sight: Sight) -> Iterator[Finding]:
    target = sight.filed.get(item.path)
    if target is None:
        return
    shelf, wanted = sight.config.shelf_of(item.path), sight.config.shelf_of(target)
    if shelf is None:
        yield Finding("not-filed", item.path, "lies where no shelf is", Mend.TIDY)
    elif wanted is not None and shelf.name != wanted.name:
        text = f"is {in_prose(item.kind)} on the shelf of “{shelf.name}”"
        yield Finding("wrong-shelf", item.path, text, Mend.TIDY)
    elif parent(target) != parent(item.path):
        yield Finding("wrong-folder", item.path, f"belongs into {written(parent(target))}", Mend.TIDY)
    else:
        yield Finding("wrong-name", item.path, f"is to be called {written(target.rpartition('/')[2])}", Mend.TIDY)


def _of(rule: str) -> type:
    return each(lambda item, sight: (one for one in _place(item, sight) if one.rule == rule))


def _doubt(item: Item, sight: Sight) -> Iterator[Finding]:
    if item.state is State.DOUBTFUL and item.kind in _PLACED and item.doubts:
        if item.doubts[0].startswith(TAGS_DISAGREE):
            return  # a finding of its own
        yield Finding("in-doubt", item.path, reason_of(item.doubts[0]))


RULES = (
    Rule("wrong-shelf", "on the wrong shelf", _of("wrong-shelf")),
    Rule("in-doubt", "in doubt: “magpie settle” asks", each(_doubt)),
    Rule("wrong-folder", "in the wrong folder", _of("wrong-folder")),
    Rule("wrong-name", "not named as its shelf names it", _of("wrong-name")),
    Rule("not-filed", "where no shelf is", _of("not-filed")),
)
