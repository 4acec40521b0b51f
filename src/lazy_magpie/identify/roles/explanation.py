"""Why a folder is taken for what it is: the probability of each role, and the signs that weigh most."""

from __future__ import annotations

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


def explained(path: str, listing: Mapping[str, Sequence[str]], told: Mapping[str, str] | None = None) -> Explanation:
    """Return why the folder at `path` is taken for what it is; for `listing` and `told` see `read_tree`."""
    import numpy as np

    from lazy_magpie.identify.roles.features import main_matter, tree_of
    from lazy_magpie.identify.roles.model import encode, fitted, marginals_of
    from lazy_magpie.identify.roles.place import reading_of

    told = told or {}
    folders = tree_of({path: (), **listing})
    at = next(number for number, folder in enumerate(folders) if folder.path == path)
    weights, columns = fitted()
    tree = encode(folders)
    tree.bind(columns)
    known = np.array([ROLES.index(told[folder.path]) if folder.path in told else -1 for folder in folders])
    chances = marginals_of(tree, weights, known if told else None)[0][at]
    reading = reading_of(chances.tolist(), ROLES, main_matter(folders[at]))
    best, other = ROLES.index(reading.role), ROLES.index(reading.other)
    of_all = weights.own + weights.own_of[tree.matters[at]]
    apart = of_all[:, best] - of_all[:, other]
    signs = [Sign(name, float(apart[columns[name]] * value))
             for name, value in tree.features[at].items() if value and name in columns]  # fmt: skip
    signs.sort(key=lambda sign: -abs(sign.weight))
    if path in told:
        reading = reading._replace(role=told[path], chance=1.0, told=True)
    return Explanation(
        by_words(name_of(path), reading), dict(zip(ROLES, map(float, chances), strict=True)), signs[:MOST]
    )
