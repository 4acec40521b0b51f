"""The roles of folders as one scorer with fitted weights: a folder's own features, and what may stand below what."""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cache
from importlib import resources
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt

from lazy_magpie.identify.roles.features import MATTERS, TreeFeatures, TreeFolder, main_matter, tree_of
from lazy_magpie.identify.roles.inference import marginals
from lazy_magpie.identify.roles.place import CATEGORY, ROLES, is_of_pictures

_FORBIDDEN = -30.0
Array = npt.NDArray[np.float64]
Columns = Mapping[str, int]


@dataclass
class Encoded:
    """A tree as numbers: the folder above each, what each holds most of, and its features."""

    above: list[int]
    matters: npt.NDArray[np.int64]
    features: list[dict[str, float]]
    rows: npt.NDArray[np.int64] = field(default_factory=lambda: np.zeros(0, dtype=np.int64))
    places: npt.NDArray[np.int64] = field(default_factory=lambda: np.zeros(0, dtype=np.int64))
    values: Array = field(default_factory=lambda: np.zeros(0))
    width: int = 0

    def bind(self, columns: Columns) -> None:
        """Give each feature its column; those that no fit has seen are passed over."""
        found = [
            (row, columns[name], value)
            for row, features in enumerate(self.features)
            for name, value in features.items()
            if value and name in columns
        ]
        self.rows = np.array([row for row, _, _ in found], dtype=np.int64)
        self.places = np.array([place for _, place, _ in found], dtype=np.int64)
        self.values = np.array([value for _, _, value in found])
        self.width = len(columns)


class Weights(NamedTuple):
    """Of a folder `own` (features × roles), `own_of` (matters × features × roles); of pairs `below`, `below_of`."""

    own: Array
    own_of: Array
    below: Array
    below_of: Array


Shape = tuple[int, int, int]


def encode(folders: Sequence[TreeFolder]) -> Encoded:
    """Return a tree as numbers, its features still by name."""
    features = TreeFeatures(folders)
    matters = np.array([MATTERS.index(main_matter(folder)) for folder in folders])
    return Encoded([folder.above for folder in folders], matters, [features.of(at) for at in range(len(folders))])


def columns_of(trees: Iterable[Encoded]) -> dict[str, int]:
    """Return a column for each feature that any folder of some trees has."""
    names = sorted({name for tree in trees for features in tree.features for name in features})
    return {name: at for at, name in enumerate(names)}


def shape_of(tree: Encoded) -> Shape:
    """Return how many features, matters and roles there are."""
    return tree.width, len(MATTERS), len(ROLES)


def size_of(shape: Shape) -> int:
    """Return how many weights there are."""
    features, matters, roles = shape
    return (1 + matters) * (features * roles + roles * roles)


def unpacked(flat: Array, shape: Shape) -> Weights:
    """Return weights by what they are for."""
    features, matters, roles = shape
    sizes = [features * roles, matters * features * roles, roles * roles, matters * roles * roles]
    own, own_of, below, below_of = np.split(flat, np.cumsum(sizes)[:-1])
    return Weights(
        own.reshape(features, roles),
        own_of.reshape(matters, features, roles),
        below.reshape(roles, roles),
        below_of.reshape(matters, roles, roles),
    )


def marginals_of(
    tree: Encoded, weights: Weights, known: npt.NDArray[np.int64] | None = None
) -> tuple[Array, Array, float]:
    """Return the probability of each role of each folder, of pairs, and the log partition; `known` are given roles."""
    count, roles = len(tree.above), weights.own.shape[1]
    single = np.zeros((count, roles))
    combined = weights.own[tree.places] + weights.own_of[tree.matters[tree.rows], tree.places]
    np.add.at(single, tree.rows, combined * tree.values[:, None])
    if known is not None:
        given = known >= 0
        forbidden = np.full((count, roles), _FORBIDDEN)
        forbidden[np.arange(count)[given], known[given]] = 0.0
        single[given] += forbidden[given]
    pair = weights.below[None] + weights.below_of[tree.matters]
    return marginals(tree.above, single, pair)


class WeighedTree(NamedTuple):
    """A tree by the weights in use: its folders, itself as numbers, and the probability of each role of each folder."""

    folders: Sequence[TreeFolder]
    encoded: Encoded
    chances: Array


def weighed_tree(listing: Mapping[str, Sequence[str]], told: Mapping[str, str]) -> WeighedTree:
    """Return a tree by the weights in use; `listing` has the files of each folder, `told` roles that are given."""
    folders = tree_of(listing)
    weights, columns = fitted()
    tree = encode(folders)
    tree.bind(columns)
    given = {
        **{folder.path: CATEGORY for folder in folders if is_of_pictures(folder.path, main_matter(folder))},
        **told,
    }
    known = np.array([ROLES.index(given[folder.path]) if folder.path in given else -1 for folder in folders])
    return WeighedTree(folders, tree, marginals_of(tree, weights, known if given else None)[0])


def gradient(tree: Encoded, single: Array, pairs: Array, shape: Shape) -> Array:
    """Return the sum of features, each times what is expected of a role."""
    features, matters, roles = shape
    own = np.zeros((features, roles))
    own_of = np.zeros((matters, features, roles))
    parts = single[tree.rows] * tree.values[:, None]
    np.add.at(own, tree.places, parts)
    np.add.at(own_of, (tree.matters[tree.rows], tree.places), parts)
    below_of = np.zeros((matters, roles, roles))
    np.add.at(below_of, tree.matters, pairs)
    return np.concatenate([own.ravel(), own_of.ravel(), pairs.sum(axis=0).ravel(), below_of.ravel()])


def write(weights: Weights, columns: Columns, record: Mapping[str, Any]) -> None:
    """Write weights beside this module, with the record of the fit."""
    rounded = {name: np.round(array, 3).tolist() for name, array in weights._asdict().items()}
    data = {"record": dict(record), "features": list(columns), **rounded}
    Path(__file__).with_name("weights.json").write_text(json.dumps(data, separators=(",", ":")) + "\n")


_GIVEN: list[tuple[Weights, Columns]] = []


def use(weights: Weights, columns: Columns) -> None:
    """Use other weights than those that are stored, in this process."""
    _GIVEN[:] = [(weights, columns)]


def fitted() -> tuple[Weights, Columns]:
    """Return the weights in use, and the column of each feature."""
    return _GIVEN[0] if _GIVEN else _stored()


@cache
def _stored() -> tuple[Weights, Columns]:
    data = json.loads(resources.files(__package__).joinpath("weights.json").read_text())
    weights = Weights(*(np.array(data[name]) for name in Weights._fields))
    return weights, {name: at for at, name in enumerate(data["features"])}
