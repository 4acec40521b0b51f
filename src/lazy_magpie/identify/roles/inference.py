"""Exact marginals of the roles of all folders of a tree: once up, once down, level by level."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]


def levels_of(above: Sequence[int]) -> list[list[int]]:
    """Return the folders of each depth, the top first; `above` has the folder above each, -1 for the top."""
    depth: list[int] = []
    levels: list[list[int]] = []
    for at, up in enumerate(above):
        depth.append(0 if up < 0 else depth[up] + 1)
        if depth[at] == len(levels):
            levels.append([])
        levels[depth[at]].append(at)
    return levels


def marginals(above: Sequence[int], single: Array, pair: Array) -> tuple[Array, Array, float]:
    """Return the probability of each role of each folder, of each pair with the one above it, and the log partition.

    `single` (folders × roles) and `pair` (folders × roles above × roles) are scores; the top is a folder like others,
    whose pair is passed over.
    """
    ups = np.asarray(above)
    levels = [np.asarray(level) for level in levels_of(above)]
    inward = single.copy()  # a folder's own score, with all that its folders say
    upward = np.zeros_like(single)  # what a folder says to the one above it
    for level in reversed(levels[1:]):
        scores = pair[level] + inward[level][:, None, :]
        most = scores.max(axis=2)
        upward[level] = most + np.log(np.exp(scores - most[:, :, None]).sum(axis=2))
        np.add.at(inward, ups[level], upward[level])
    downward = np.zeros_like(single)
    whole = inward + downward
    pairs = np.zeros_like(pair)
    top = inward[levels[0]]
    partition = float((top.max(axis=1) + np.log(np.exp(top - top.max(axis=1, keepdims=True)).sum(axis=1))).sum())
    for level in levels[1:]:
        outside = whole[ups[level]] - upward[level]
        joint = outside[:, :, None] + pair[level] + inward[level][:, None, :]
        flat = joint.reshape(len(level), -1)
        flat = np.exp(flat - flat.max(axis=1, keepdims=True))
        flat /= flat.sum(axis=1, keepdims=True)
        pairs[level] = flat.reshape(joint.shape)
        scores = outside[:, :, None] + pair[level]
        most = scores.max(axis=1)
        downward[level] = most + np.log(np.exp(scores - most[:, None, :]).sum(axis=1))
        whole[level] = inward[level] + downward[level]
    single_probability = np.exp(whole - whole.max(axis=1, keepdims=True))
    single_probability /= single_probability.sum(axis=1, keepdims=True)
    return single_probability, pairs, partition
