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

from lazy_magpie.identify.slots.kinds import REST, SLOTS

Array = npt.NDArray[np.float64]

JOINTS = tuple(
    (place, gap)
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
JOINT_AT = {joint: at for at, joint in enumerate(JOINTS)}


class Weights(NamedTuple):
    """Of a kind: `own` (features × slots), `joint` (joints × slots before × slots); the column of each feature."""

    own: Array
    joint: Array
    columns: Mapping[str, int]


def scores(rows: Sequence[Sequence[str]], weights: Weights) -> Array:
    """Return the score of each slot for each word, from its features by name (words × slots)."""
    found = np.zeros((len(rows), len(SLOTS)))
    columns, own = weights.columns, weights.own
    for at, row in enumerate(rows):
        known = [columns[name] for name in row if name in columns]
        if known:
            found[at] = own[known].sum(axis=0)
    return found


def drawn(own: Array, joints: npt.NDArray[np.int64], joint: Array, count: int) -> npt.NDArray[np.int64]:
    """Return readings of several paths, drawn by their probability (paths × count × words).

    `own` (paths × words × slots) are the scores of the words; `joints` (paths × words) what stands in front of each,
    -1 behind the last word of a path; `joint` (joints × slots × slots) the scores of joints. The same scores give the
    same readings, in whatever company.
    """
    paths, words, slots = own.shape
    there = joints >= 0
    rest = np.zeros(slots)
    rest[SLOTS.index(REST)] = 1.0
    chances = np.where(there[:, :, None], np.exp(own - own.max(axis=2, keepdims=True)), rest)
    steps = np.concatenate([np.exp(joint), np.ones((1, slots, slots))])  # the last one for what is not there
    inward = np.empty_like(own)
    for at in range(words):
        inward[:, at] = chances[:, at]
        if at:
            inward[:, at] *= (inward[:, at - 1, None] @ steps[joints[:, at]])[:, 0]
        inward[:, at] /= inward[:, at].sum(axis=1, keepdims=True)
    draws = np.random.default_rng(0).random((words, count))
    found = np.empty((paths, count, words), dtype=np.int64)
    ways = np.repeat(inward[:, None, -1], count, axis=1)
    for at in range(words - 1, -1, -1):
        sums = np.cumsum(ways, axis=2)
        found[:, :, at] = (sums < (draws[at] * sums[:, :, -1])[:, :, None]).sum(axis=2)
        if at:
            behind = steps[joints[:, at]].transpose(0, 2, 1)
            ways = inward[:, None, at - 1] * np.take_along_axis(behind, found[:, :, at, None], axis=1)
    return found


def best(own: Array, joints: npt.NDArray[np.int64], joint: Array) -> npt.NDArray[np.int64]:
    """Return the best reading of each of several paths (paths × words); see `drawn`."""
    paths, words, slots = own.shape
    steps = np.concatenate([joint, np.zeros((1, slots, slots))])
    most = own[:, 0].copy()
    back = np.zeros((paths, words, slots), dtype=np.int64)
    for at in range(1, words):
        ways = most[:, :, None] + steps[joints[:, at]]
        back[:, at] = ways.argmax(axis=1)
        most = own[:, at] * (joints[:, at] >= 0)[:, None] + ways.max(axis=1)
    found = np.empty((paths, words), dtype=np.int64)
    found[:, -1] = most.argmax(axis=1)
    rows = np.arange(paths)
    for at in range(words - 1, 0, -1):
        found[:, at - 1] = back[rows, at, found[:, at]]
    return found


_GIVEN: list[Mapping[str, Weights]] = []


def use(weights: Mapping[str, Weights]) -> None:
    """Use other weights than those that are stored, in this process."""
    _GIVEN[:] = [weights]


def fitted() -> Mapping[str, Weights]:
    """Return the weights of each kind that are in use."""
    return _GIVEN[0] if _GIVEN else _stored()


@cache
def _stored() -> Mapping[str, Weights]:
    data = json.loads(resources.files(__package__).joinpath("weights.json").read_text())
    columns = {name: at for at, name in enumerate(data["features"])}
    return {
        kind: Weights(np.array(some["own"]), np.array(some["joint"]), columns) for kind, some in data["kinds"].items()
    }


def write(weights: Mapping[str, Weights], record: Mapping[str, Any]) -> None:
    """Write weights beside this module, with the record of the fit."""
    kinds = {
        kind: {"own": np.round(some.own, 2).tolist(), "joint": np.round(some.joint, 2).tolist()}
        for kind, some in weights.items()
    }
    columns = list(next(iter(weights.values())).columns)
    data = {"record": dict(record), "features": columns, "kinds": kinds}
    Path(__file__).with_name("weights.json").write_text(json.dumps(data, separators=(",", ":")) + "\n")
