"""Why a folder is taken for what it is: the probability of each role, and the signs that weigh most."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from typing import NamedTuple

from lazy_magpie.identify.roles.place import ROLES, FolderReading, by_words
from lazy_magpie.paths import name_of

MOST = 8
"""So many signs are told."""


class Sign(NamedTuple):
    """A sign by its name, and how much it speaks for the role rather than for the next best; below 0 against it."""

    name: str
    weight: float


class Explanation(NamedTuple):
    """What a folder is taken for, the probability of each role, and the signs, the weightiest first."""

    reading: FolderReading
    roles: Mapping[str, float]
    signs: Sequence[Sign]


_WORDS: tuple[tuple[str, str], ...] = (
    (r"words:(.*)", r"words in its name: \1"),
    (r"media:(.*)", r"films, songs, images, designs and fonts in it: \1"),
    (r"folders:(.*)", r"folders in it: \1"),
    (r"height:(.*)", r"levels of folders below it: \1"),
    (r"beside:(.*)", r"folders beside it: \1"),
    (r"folders known", "folders in it are called by known words"),
    (r"no media below", "no films, songs, images, designs or fonts below it"),
    (r"shape (.*)", r"how its name looks: \1"),
    (r"word unknown", "its name is no known word"),
    (r"word (\S+) (?:strong|weak)", r"its name is a word of the group “\1”"),
    (r"inside (.*)", r"in its name is a word of the group “\1”"),
    (r"files begin so", "files in it begin with its name"),
    (r"folders begin so", "folders in it begin with its name"),
    (r"beside unknown", "the folders beside it are called by no known words"),
    (r"beside divide", "the folders beside it are numbered parts"),
    (r"begins as above", "its name begins as that of the folder above"),
    (r"again, .*", "a folder of this name lies elsewhere, too"),
    (r"front elsewhere", "names elsewhere begin with its name"),
    (r"top", "it lies at the top"),
    (r"fronts (.*)", r"what stands in front of the dash in its files: \1"),
)


def in_words(sign: str) -> str:
    """Return a sign as a person would say it."""
    for pattern, said in _WORDS:
        if match := re.fullmatch(pattern, sign):
            return match.expand(said)
    return sign


def explained(path: str, listing: Mapping[str, Sequence[str]], told: Mapping[str, str] | None = None) -> Explanation:
    """Return why the folder at `path` is taken for what it is; for `listing` and `told` see `read_tree`."""
    from lazy_magpie.identify.roles.features import main_matter
    from lazy_magpie.identify.roles.model import fitted, weighed_tree
    from lazy_magpie.identify.roles.place import reading_of

    told = told or {}
    folders, tree, all_chances = weighed_tree({path: (), **listing}, told)
    at = next(number for number, folder in enumerate(folders) if folder.path == path)
    chances = all_chances[at].tolist()
    reading = reading_of(chances, ROLES, main_matter(folders[at]))
    weights, columns = fitted()
    best, other = ROLES.index(reading.role), ROLES.index(reading.other)
    of_all = weights.own + weights.own_of[tree.matters[at]]
    apart = of_all[:, best] - of_all[:, other]
    features = ((name, value) for name, value in tree.features[at].items() if value and name != "always")
    signs = [Sign(name, float(apart[columns[name]] * value)) for name, value in features if name in columns]
    signs.sort(key=lambda sign: -abs(sign.weight))
    if path in told:
        reading = reading.as_told(told[path])
    return Explanation(by_words(name_of(path), reading), dict(zip(ROLES, chances, strict=True)), signs[:MOST])
