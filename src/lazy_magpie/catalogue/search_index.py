"""What the index has of an item: the words that it is found by, and its values, as numbers and folded texts."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from typing import NamedTuple

from lazy_magpie.catalogue.query import folded_text, pair_of, words_of
from lazy_magpie.formatting import day_text
from lazy_magpie.model import Value
from lazy_magpie.paths import endings_of, name_of

Row = tuple[str, float, str]
"""A value: the field, a number, a folded text. A number has no text, a text the number 0."""

_LINES = re.compile(r"(\d+)p$")


class Filed(NamedTuple):
    """What an item has from its files: all bytes, the day it came (ISO), the endings of its main files."""

    size: int
    arrived: str
    endings: tuple[str, ...]

    def text(self) -> str:
        """Return it as the catalogue keeps it."""
        return " ".join((str(self.size), self.arrived, *self.endings))


def filed_of(size: int, mtime: int, names: Iterable[str]) -> Filed:
    """Return what an item has from its files: `names` are those of its main files, `mtime` nanoseconds."""
    return Filed(size, day_text(mtime), endings_of(names))


def filed_from(text: str) -> Filed:
    """Return what `Filed.text` wrote."""
    size, arrived, *endings = text.split(" ")
    return Filed(int(size), arrived, tuple(endings))


def rows_of(fields: Mapping[str, Value], facts: Mapping[str, Value], filed: Filed) -> list[Row]:
    """Return every value that an item is found by; of a list each one, of a resolution its lines besides."""
    values: dict[str, Value] = {**facts, **fields}
    if "height" not in values and (lines := _LINES.match(str(values.get("resolution", "")))):
        values["height"] = int(lines[1])
    rows: list[Row] = []
    for name, value in values.items():
        if isinstance(value, list):
            rows += [(name, *pair_of(one)) for one in value]
        else:
            rows.append((name, *pair_of(value)))
    rows.append(("size", float(filed.size), ""))
    rows.append(("arrived", 0.0, filed.arrived))
    rows += [("ending", 0.0, folded_text(ending)) for ending in filed.endings]
    return rows


def search_words(paths: Iterable[str], *values: Mapping[str, Value]) -> str:
    """Return the words that an item is found by, folded: those of its texts, of its path, of its other files' names.

    The first path is the item's own; paths are in the program's inner form.
    """
    first, *others = paths
    texts = [value for fields in values for value in fields.values() if isinstance(value, str)]
    texts.append(first)
    texts += map(name_of, others)
    return " ".join(dict.fromkeys(words_of(" ".join(texts))))
