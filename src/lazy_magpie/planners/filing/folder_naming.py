"""Where new things that makers sell go: the folder by the naming of their shelf, with its date or running number."""

from __future__ import annotations

import re

from lazy_magpie.config import Config, Shelf
from lazy_magpie.formatting import day_text
from lazy_magpie.model import Kind, Value
from lazy_magpie.model.steps import FolderValues
from lazy_magpie.naming import MissingField, UnusableName, path_for
from lazy_magpie.paths import join, parent
from lazy_magpie.planners.directory_index import Names


class FolderNaming:
    """Names the folders of new things; `names` are those on the disk, `custom` the values that what is new has."""

    def __init__(self, config: Config, names: Names) -> None:
        self.config = config
        self.names = names
        tags = [config.intake.tag]
        self.custom = {name: value for name, own in config.fields.items() if (value := own.derived(tags))}
        self._numbers: dict[str, int] = {}

    def home(
        self,
        shelf: Shelf,
        kind: Kind,
        about: FolderValues,
        old: str = "",
    ) -> tuple[str, int | None]:
        """Return the folder of a thing on its shelf, "" where the naming gives none, and its running number.

        A thing that has a number already keeps it; the spelling of the folder `old` that it leaves does not count.
        """
        values: dict[str, Value] = {"family" if kind is Kind.FONT else "title": about.title, "name": about.title}
        values["arrived"] = day_text(about.arrived)
        if about.maker:
            values["maker"] = about.maker
        values |= about.custom
        number = about.number
        template = shelf.naming.templates.get(kind.value)
        if template and "number" in template.fields():
            number = number if number is not None else self._next_number(shelf.folder)
            values["number"] = number
        try:
            below = path_for(shelf.naming, kind, values, everywhere=self.config.everywhere)
        except (MissingField, UnusableName):
            return "", number
        folder = below if kind is Kind.KIT else parent(below)
        return (self.names.as_spelled(join(shelf.folder, folder), old) if folder else ""), number

    def _next_number(self, folder: str) -> int:
        """Return the running number behind the largest that a folder of a shelf begins with."""
        if folder not in self._numbers:
            there = (match for name in self.names.in_folder(folder) if (match := re.match(r"\d{1,6}", name)))
            self._numbers[folder] = max((int(match.group()) for match in there), default=0)
        self._numbers[folder] += 1
        return self._numbers[folder]
