"""What lies in a folder that is to be a collection, by the endings of its files: before anything is scanned."""

from __future__ import annotations

import os
from collections import Counter
from collections.abc import Mapping

from lazy_magpie.identify.file_types import BY_ENDING, DRAWINGS
from lazy_magpie.model import Kind
from lazy_magpie.paths import split_ending
from lazy_magpie.words import is_junk

_MOST = 200_000
"""Files that are counted at the most: it is a first look."""


def counts_of(root: str) -> Mapping[str, Counter[str]]:
    """Return how many files of each kind each folder in `root` seems to hold, by its name; "" is `root` itself.

    A folder that can't be read counts as empty.
    """
    counts: dict[str, Counter[str]] = {}
    left = _MOST
    for top, folders, names in os.walk(root):
        folders[:] = [name for name in folders if not name.startswith(".")]
        below = os.path.relpath(top, root).split(os.sep)[0]
        kinds = counts.setdefault("" if below == os.curdir else below, Counter())
        kinds.update(kind for name in names if (kind := _kind(name)))
        left -= len(names)
        if left <= 0:
            break
    return counts


def _kind(name: str) -> str:
    ending = split_ending(name)[1].lower()
    kind = Kind.PICTURE if ending in DRAWINGS else BY_ENDING.get(ending)
    return "" if kind is None or is_junk(name) else kind.value
