"""Plans a folder for work to come: its name from a template with the date and a number, its subfolders."""

from __future__ import annotations

import re
from collections.abc import Mapping

from lazy_magpie.config import NewFolder
from lazy_magpie.errors import UsageError
from lazy_magpie.model import Plan
from lazy_magpie.model.steps import MakeFolder, renumbered
from lazy_magpie.naming import MissingField
from lazy_magpie.naming.safe import safe_part, safe_value
from lazy_magpie.naming.template import Field, Optional, Template, Text
from lazy_magpie.paths import above, join, written
from lazy_magpie.planners.directory_index import Listing, Names

_NUMBER = "number"


def new_folder(new: NewFolder, values: Mapping[str, str], listing: Listing, *, everywhere: bool) -> tuple[str, Plan]:
    """Return the path of the new folder, and the plan that makes it; where it is there, only what is missing in it.

    A `{number}` goes on from the largest that is there. Raises UsageError where a field has no value.
    """
    names = Names(listing)
    safe: dict[str, object] = {key: safe_value(value, everywhere=everywhere) for key, value in values.items()}
    path = new.home
    for level in new.path.folders():
        if _NUMBER in level.fields() and _NUMBER not in safe:
            safe[_NUMBER] = str(_largest(level, names.in_folder(path)) + 1)
        try:
            part = safe_part(level.render(safe), everywhere=everywhere)
        except MissingField as missing:
            raise UsageError(
                f"[new.{new.name}] needs {missing.field.replace('_', ' ')}; say it with --set {missing.field}=…"
            ) from None
        if not part:
            raise UsageError(f"“{new.path.text}” gives a folder without a name; say another title.")
        path = join(path, part)
    path = names.as_spelled(path)
    path = names.existing(path) or path
    wanted = [path, *(join(path, folder) for folder in new.folders)]
    missing_ones: dict[str, None] = {}
    for folder in wanted:
        for one in reversed([folder, *above(folder)]):
            if not names.existing(one):
                missing_ones[one] = None
    steps = renumbered(MakeFolder(target=one, why="new folder", group=path) for one in missing_ones)
    return path, Plan("new", steps)


def _largest(level: Template, names: frozenset[str]) -> int:
    """Return the largest number that any name has where the template has its number, 0 for none."""
    pattern = re.compile(_pattern(level))
    numbers = [int(match["number"]) for name in names if (match := pattern.fullmatch(name)) and match["number"]]
    return max(numbers, default=0)


def _pattern(level: Template) -> str:
    """Return a regular expression for the names that a template gives, with the group `number`."""
    seen = False

    def part(one: Text | Field | Optional) -> str:
        nonlocal seen
        if isinstance(one, Text):
            return re.escape(written(one.text))
        if isinstance(one, Optional):
            return f"(?:{''.join(map(part, one.parts))})?"
        if one.name == _NUMBER and not seen:
            seen = True
            return r"(?P<number>\d{1,9})"
        return ".*"

    return "".join(map(part, level.parts))
