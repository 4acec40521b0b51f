"""Where new things that makers sell go: the folder by the naming of their shelf, with its date or running number."""

from __future__ import annotations

import re
from collections.abc import Mapping

from lazy_magpie.config import Config, Shelf
from lazy_magpie.model import Kind, Value
from lazy_magpie.naming import MissingField, UnusableName, path_for
from lazy_magpie.paths import join, parent
from lazy_magpie.plans.names import Names
from lazy_magpie.units import day_text


class Homes:
    """Names the folders of new things; `names` are those on the disk, `marks` the values that what is new has."""

    def __init__(self, config: Config, names: Names) -> None:
        self.config = config
        self.names = names
        tags = [config.intake.tag]
        self.marks = {name: mark for name, own in config.fields.items() if (mark := own.derived(tags))}
        self._numbers: dict[str, int] = {}

    def home(
        self,
        shelf: Shelf,
        kind: Kind,
        maker: str,
        title: str,
        arrived: int,
        number: int | None = None,
        old: str = "",
        marks: Mapping[str, Value] | None = None,
    ) -> tuple[str, int | None]:
        """Return the folder of a thing on its shelf, "" where the naming gives none, and its running number.

        `arrived` is in nanoseconds. A thing that has a number already keeps it; the spelling of the folder `old` that
        it leaves does not count. `marks` are the values of fields of one's own, else those of what is new.
        """
        values: dict[str, Value] = {"family" if kind is Kind.FONT else "title": title, "name": title}
        values["arrived"] = day_text(arrived)
        if maker:
            values["maker"] = maker
        values |= self.marks if marks is None else marks
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
