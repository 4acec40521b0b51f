"""Slots along a path: a chain with fitted weights, its exact marginals, and samples of whole readings."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from functools import cache
from importlib import resources
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]

OWNER, WORK, NAME, NUMBER, DIVISION, YEAR, SHORT, REST = SLOTS = (
    "owner", "work", "name", "number", "division", "year", "short", "rest"
)  # fmt: skip
"""Who made it; the work it belongs to; its own name; its number; the number of a division of the work (a disc, a
season); a year; letters that stand for an owner or a work; and what says nothing of these."""
JOINTS = tuple(
    f"{place} {gap}"
    for place in ("folder", "file")
    for gap in (
        "join",
        "space",
        "under",
        "dot",
        "hyphen",
        "tight",
        "dash",
        "open",
        "close",
        "comma",
        "and",
        "other",
        "start",
    )
)
"""What may stand between two words; at the start of a name it is the name before that it joins."""


class Weights(NamedTuple):
    """Of a kind: `own` (features × slots), `joint` (joints × slots before × slots); the column of each feature."""

    own: Array
    joint: Array
    columns: Mapping[str, int]


def joint(place: str, gap: str) -> int:
    """Return the number of a joint."""
    return JOINTS.index(f"{place} {gap}")


def scores(rows: Sequence[Sequence[str]], weights: Weights) -> Array:
    """Return the score of each slot for each word, from its features by name (words × slots)."""
    found = np.zeros((len(rows), len(SLOTS)))
    columns, own = weights.columns, weights.own
    for at, row in enumerate(rows):
        known = [columns[name] for name in row if name in columns]
        if known:
            found[at] = own[known].sum(axis=0)
    return found


def _log_sum(values: Array, axis: int) -> Array:
    most = values.max(axis=axis, keepdims=True)
    return np.squeeze(most, axis) + np.log(np.exp(values - most).sum(axis=axis))


def forward(own: Array, between: Array) -> Array:
    """Return the log sums of all that stands before each word, with its own score (words × slots)."""
    found = own.copy()
    for at in range(1, len(own)):
        found[at] += _log_sum(found[at - 1][:, None] + between[at], 0)
    return found


def best(own: Array, between: Array) -> list[int]:
    """Return the slots of the best reading."""
    most = own.copy()
    back = np.zeros(own.shape, dtype=np.int64)
    for at in range(1, len(own)):
        ways = most[at - 1][:, None] + between[at]
        back[at] = ways.argmax(axis=0)
        most[at] += ways.max(axis=0)
    found = [int(most[-1].argmax())]
    for at in range(len(own) - 1, 0, -1):
        found.append(int(back[at, found[-1]]))
    return found[::-1]


def samples(own: Array, between: Array, count: int, seed: int = 0) -> npt.NDArray[np.int64]:
    """Return readings drawn by their probability (count × words); the same for the same scores."""
    inward = forward(own, between)
    draws = np.random.default_rng(seed).random((len(own), count))
    found = np.zeros((count, len(own)), dtype=np.int64)
    chances = np.exp(inward[-1] - inward[-1].max())
    found[:, -1] = np.searchsorted(np.cumsum(chances) / chances.sum(), draws[-1])
    for at in range(len(own) - 2, -1, -1):
        ways = inward[at][:, None] + between[at + 1]
        shares = np.exp(ways - ways.max(axis=0))
        sums = np.cumsum(shares, axis=0) / shares.sum(axis=0)
        found[:, at] = (sums[:, found[:, at + 1]] < draws[at]).sum(axis=0)
    return np.minimum(found, len(SLOTS) - 1)


class Fitted(NamedTuple):
    """All that was fitted: for each kind the weights of its slots, and how far its readings are to be trusted."""

    kinds: Mapping[str, Weights]
    trust: Mapping[str, Sequence[float]]


_GIVEN: list[Fitted] = []


def use(fitted: Fitted) -> None:
    """Use other weights than those that are stored, in this process."""
    _GIVEN[:] = [fitted]


def fitted() -> Fitted:
    """Return the weights in use."""
    return _GIVEN[0] if _GIVEN else _stored()


@cache
def _stored() -> Fitted:
    data = json.loads(resources.files(__package__).joinpath("weights.json").read_text())
    columns = {name: at for at, name in enumerate(data["features"])}
    kinds = {
        kind: Weights(np.array(some["own"]), np.array(some["joint"]), columns) for kind, some in data["kinds"].items()
    }
    return Fitted(kinds, data["trust"])


def write(fitted: Fitted, record: Mapping[str, Any]) -> None:
    """Write weights beside this module, with the record of the fit."""
    kinds = {
        kind: {"own": np.round(some.own, 2).tolist(), "joint": np.round(some.joint, 2).tolist()}
        for kind, some in fitted.kinds.items()
    }
    columns = list(next(iter(fitted.kinds.values())).columns)
    trust = {kind: [round(weight, 3) for weight in some] for kind, some in fitted.trust.items()}
    data = {"record": dict(record), "features": columns, "trust": trust, "kinds": kinds}
    Path(__file__).with_name("weights.json").write_text(json.dumps(data, separators=(",", ":")) + "\n")
