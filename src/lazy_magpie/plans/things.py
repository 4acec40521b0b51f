"""Where a thing that was brought in as a whole goes when its naming changes: all of it, as it lies in its folder."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from lazy_magpie.catalogue import Placement
from lazy_magpie.config import Config
from lazy_magpie.model import Item, Kind, Value
from lazy_magpie.paths import is_below
from lazy_magpie.plans.homes import Homes
from lazy_magpie.plans.names import Names
from lazy_magpie.plans.placed import Placed, by_rule
from lazy_magpie.plans.places import Wish


class Things:
    """The new folders of things, each worked out once."""

    def __init__(self, placed: Placed, config: Config, names: Names) -> None:
        self.placed = placed
        self._homes = Homes(config, names)
        self._known: dict[str, tuple[str, dict[str, Any]]] = {}

    def wishes(self, one: Placement, item: Item) -> tuple[list[Wish], dict[str, Any]]:
        """Return where the files of an item go with the thing that they belong to, and by which rule.

        None go anywhere where it was placed for itself, where a person has said what it is, or no shelf is for it.
        """
        shelf = self.placed.shelf_of(one)
        if one.thing is None or shelf is None or not self.placed.is_as_answered(one, item):
            return [], {}
        home, rule = self._home(one, self.placed.marks_of(one, item))
        if not home:
            return [], {}
        bare = replace(item, fields={}, facts={}, own={})
        found = [
            Wish(replace(bare, path=file.path, files=(file,)), home + file.path[len(one.path) :], shelf, home, item.id)
            for file in item.files
            if is_below(file.path, one.path)
        ]
        return found, rule

    def _home(self, one: Placement, marks: dict[str, Value]) -> tuple[str, dict[str, Any]]:
        if one.path not in self._known:
            shelf, thing = self.placed.shelf_of(one), dict(one.thing or {})
            assert shelf is not None
            kind = Kind(one.kind)
            about = (str(thing["maker"]), str(thing["title"]), int(thing["arrived"]), thing.get("number"))
            home, thing["number"] = self._homes.home(shelf, kind, *about, one.path, marks)
            thing["marks"] = marks
            self._known[one.path] = home, by_rule(shelf, kind, home, thing)
        return self._known[one.path]
