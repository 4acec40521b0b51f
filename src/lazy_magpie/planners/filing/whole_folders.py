"""Where a thing that was brought in as a whole goes when its naming changes: all of it, as it lies in its folder."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from lazy_magpie.catalogue import Placement
from lazy_magpie.config import Config
from lazy_magpie.model import Item, Kind, Value
from lazy_magpie.model.steps import FilingRule, FolderValues
from lazy_magpie.paths import is_below
from lazy_magpie.planners.directory_index import Names
from lazy_magpie.planners.filing.destinations import Destination
from lazy_magpie.planners.filing.folder_naming import FolderNaming
from lazy_magpie.planners.filing.placement_rules import Placed, by_rule


class WholeFolders:
    """The new folders of things, each worked out once."""

    def __init__(self, placed: Placed, config: Config, names: Names) -> None:
        self.placed = placed
        self._homes = FolderNaming(config, names)
        self._known: dict[str, tuple[str, FilingRule]] = {}

    def destinations(self, one: Placement, item: Item) -> tuple[list[Destination], FilingRule | None]:
        """Return where the files of an item go with the thing that they belong to, and by which rule.

        None go anywhere where it was placed for itself, where a person has said what it is, or no shelf is for it.
        """
        shelf = self.placed.shelf_of(one)
        if one.values is None or shelf is None or not self.placed.is_as_answered(one, item):
            return [], None
        home, rule = self._home(one, one.values, self.placed.custom_values(one, item))
        if not home:
            return [], None
        bare = replace(item, fields={}, facts={}, custom={})
        found = [
            Destination(
                replace(bare, path=file.path, files=(file,)), home + file.path[len(one.path) :], shelf, home, item.id
            )
            for file in item.files
            if is_below(file.path, one.path)
        ]
        return found, rule

    def _home(self, one: Placement, values: FolderValues, custom: Mapping[str, Value]) -> tuple[str, FilingRule]:
        if one.path not in self._known:
            shelf = self.placed.shelf_of(one)
            assert shelf is not None
            kind, values = Kind(one.kind), replace(values, custom=custom)
            home, number = self._homes.home(shelf, kind, values, one.path)
            self._known[one.path] = home, by_rule(shelf, kind, home, replace(values, number=number))
        return self._known[one.path]
