"""Items added up by what they are and where they are: the one place that counts, for lists and for the report."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass
from typing import NamedTuple

from lazy_magpie.model import Item, Value

ALL = "all"
GROUPS = ("kind", "shelf", "maker", "system", ALL)
"""What is added up by, in the order of the lists."""
_FIELDS = (("maker", "maker"), ("maker", "artist"), ("system", "system"))
NO_SHELF = "(none)"


class Weight(NamedTuple):
    """What counts of an item: its kind, root and path, its fields, bytes, and length in seconds (0 for none)."""

    kind: str
    root: str
    path: str
    fields: Mapping[str, Value]
    size: int
    length: float


@dataclass
class Total:
    """So many items, their bytes, and their length in seconds. `by` is one of `GROUPS`."""

    by: str
    name: str
    count: int = 0
    size: int = 0
    length: float = 0.0

    def shape(self) -> dict[str, object]:
        """Return it as JSON has it."""
        return {"by": self.by, "name": self.name, "count": self.count, "size": self.size, "length": round(self.length)}


def weight_of(item: Item) -> Weight:
    """Return what counts of an item."""
    length = item.facts.get("length")
    seconds = float(length) if isinstance(length, int | float) else 0.0
    return Weight(item.kind.value, item.root, item.path, item.fields, item.size, seconds)


class Sums:
    """Adds up by kind, shelf, maker and system. `shelf_of` names the shelf of a path on a root, "" for none."""

    def __init__(self, shelf_of: Callable[[str, str], str]) -> None:
        self.shelf_of = shelf_of
        self._found: dict[tuple[str, str], Total] = {}

    def add(self, weight: Weight) -> None:
        """Count an item."""
        for group in dict.fromkeys(_groups(weight, self.shelf_of)):
            total = self._found.setdefault(group, Total(*group))
            total.count += 1
            total.size += weight.size
            total.length += weight.length

    def all(self) -> list[Total]:
        """Return the totals, group by group, the largest first; that of all comes last."""
        return sorted(self._found.values(), key=lambda total: (GROUPS.index(total.by), -total.size, total.name))


def totals(weights: Iterable[Weight], shelf_of: Callable[[str, str], str]) -> list[Total]:
    """Return the totals of items."""
    sums = Sums(shelf_of)
    for weight in weights:
        sums.add(weight)
    return sums.all()


def _groups(weight: Weight, shelf_of: Callable[[str, str], str]) -> Iterator[tuple[str, str]]:
    yield ALL, ""
    yield "kind", weight.kind
    yield "shelf", shelf_of(weight.path, weight.root) or NO_SHELF
    for by, key in _FIELDS:
        if key in weight.fields:
            yield by, str(weight.fields[key])
