"""Finds the picture of a thing among pictures that lie elsewhere, by what their names say; what is in doubt is told.

Names are compared as titles are: without brackets, case, accents, articles and punctuation. One that is the same
counts; one that is only near is a question, and so is a title that several pictures, or several things, have.
"""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Callable, Iterable
from typing import NamedTuple

from lazy_magpie.model import Item, Kind
from lazy_magpie.paths import name_of, split_ending

_BRACKETS = re.compile(r"\([^()]*\)|\[[^\[\]]*\]")
_ROLE = re.compile(r"(?i)[ ._-]+(?:cover(?: art)?|front|poster|box ?art|backdrop|thumb(?:nail)?|screen(?:shot)?)$")
_NEAR = 90.0
"""How like two keys are, of 100, to be worth a question."""


_OFFERED = 6
"""How many pictures are offered for a thing at the most."""


class FoundPicture(NamedTuple):
    """A picture for an item: its path; `is_sure` says that its name is that of the item alone.

    `others` are those that it may be as well.
    """

    path: str
    is_sure: bool
    others: tuple[str, ...] = ()


class PictureMatcher:
    """Pictures by what they are called; `key` gives what the spellings of one title share."""

    def __init__(self, paths: Iterable[str], key: Callable[[str], str]) -> None:
        self._key_of = key
        self._whole: dict[str, list[str]] = defaultdict(list)
        self._by_key: dict[str, list[str]] = defaultdict(list)
        for path in sorted(paths):
            stem = split_ending(name_of(path))[0]
            self._whole[key(stem)].append(path)
            self._by_key[self._bare(stem)].append(path)

    def find(self, item: Item, *, is_alone: bool) -> FoundPicture | None:
        """Return the picture of an item, None for none; `is_alone` says that no other item has its title."""
        stem = split_ending(name_of(item.path))[0]
        whole = self._whole.get(self._key_of(stem), [])
        if len(whole) == 1:
            return FoundPicture(whole[0], True)
        for said in self._said(item):
            if found := self._by_key.get(said, []):
                best = _of_year(found, item) if len(found) > 1 else found
                return FoundPicture(best[0], len(best) == 1 and is_alone, tuple(best[1:_OFFERED]))
        return self._near(item)

    def title_of(self, item: Item) -> str:
        """Return what things of one title share."""
        return next(iter(self._said(item)), "")

    def _near(self, item: Item) -> FoundPicture | None:
        from rapidfuzz import fuzz, process

        for said in self._said(item):
            found = process.extract(said, self._by_key.keys(), scorer=fuzz.ratio, score_cutoff=_NEAR, limit=_OFFERED)
            if found:
                path, *others = [path for key, _, _ in found for path in self._by_key[key]]
                return FoundPicture(path, False, tuple(others[: _OFFERED - 1]))
        return None

    def _said(self, item: Item) -> list[str]:
        """Return the keys of what an item may be called."""
        fields = item.fields
        names = [fields.get("title"), fields.get("family"), fields.get("album")]
        if item.kind is Kind.EPISODE:
            names = [fields.get("show")]
        said = [self._key_of(str(name)) for name in names if name]
        return list(dict.fromkeys([*said, self._bare(split_ending(name_of(item.path))[0])]))

    def _bare(self, stem: str) -> str:
        """Return the key of a name without what stands in brackets, and without the word for a picture's role."""
        bare = _BRACKETS.sub(" ", stem).strip() or stem
        return self._key_of(_ROLE.sub("", bare).replace("_", " ").replace(".", " "))


def _of_year(paths: list[str], item: Item) -> list[str]:
    """Return the pictures that say the item's year, or its region; all where none does."""
    said = [str(item.fields.get("year", ""))]
    regions = item.fields.get("regions")
    said += map(str, regions) if isinstance(regions, list) else []
    found = [path for path in paths if any(word and word.lower() in name_of(path).lower() for word in said)]
    return found or paths
