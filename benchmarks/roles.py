"""Fits what decides the roles of folders: `python -m benchmarks.roles [FILE.jsonl …] [--write]`.

The trees are those of `benchmarks.trees`. A folder's role is worked out from the truth of the files below it: it is an
owner where it is called as their artist, maker or system, a work where it is called as their album, show, film, kit or
family, and so on. Prints how many folders get their role on files that are left out of the fit, and writes the weights.
"""

from __future__ import annotations

import argparse
import datetime
import re
from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping, Sequence
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt
from scipy.optimize import minimize

from benchmarks.trees import TREES, Row, read_trees
from lazy_magpie.identify.roles import model
from lazy_magpie.identify.roles.features import (
    STITCHES,
    TreeFolder,
    matter_of,
    tree_of,
)
from lazy_magpie.identify.roles.model import ROLES, Encoded, encode
from lazy_magpie.paths import is_below, name_of, parent
from lazy_magpie.words import folded, meaning

PENALTY = 1.0
"""How much large weights cost in the fit."""
OWNERS = ("artist", "album_artist", "maker", "system")
WORKS: Mapping[str, tuple[str, ...]] = {
    "track": ("album",), "episode": ("show",), "movie": ("title",), "kit": ("title",), "font": ("family",),
    "design": ("title",), "game": ("title",), "companion": ("of",), "extra": ("of",),
}  # fmt: skip
DIVISIONS = re.compile(r"(?:season|disc|side|volume|part|special)$|section\.|format\.word|hoop|size\.|font\.")
_BRACKETS = re.compile(r"\([^)]*\)|\[[^\]]*\]")
_RELEASED = re.compile(r"(?<!\w)(?:(?:19|20)\d\d|s\d\d|\d{3,4}p)(?!\w)")
BESIDE = frozenset(["companion", "extra", "junk"])
"""Kinds of files that say of the folders above them only that there is something beside."""


def vote(folder: TreeFolder, row: Row) -> str:
    """Return the role that one file below a folder speaks for, "" for none."""
    fields, kind = row["fields"], row["kind"]
    owners = {folded(str(fields[name])) for name in OWNERS if name in fields}
    works = {folded(str(fields[name])) for name in WORKS.get(kind, ()) if name in fields}
    name = name_of(folder.path)
    if _undated(folder.key) & owners:
        return "owner"
    if _undated(folder.key) & works:
        return "work"
    if any(DIVISIONS.match(concept) for concept in meaning(name)) and fields:
        return "division"
    if any(_is_called(name, work, owners) or likeness(folder.key, work) > 0.6 for work in works):
        return "work"
    if _apart(name) in owners:
        return "owner"
    if kind in ("companion", "extra"):
        return "beside"
    at_top = "/" not in folder.path
    says_all = bool(works) and (bool(owners) or kind in ("movie", "episode", "font"))
    return "category" if says_all or (at_top and (owners or works)) else ""


def _apart(name: str) -> str:
    """Return what stands in front of the last dash of a folder's name, folded, if all behind it is a known phrase."""
    front, dash, behind = _BRACKETS.sub(" ", name).rpartition(" - ")
    words = [word for word in behind.split() if not word.isdecimal() and not _is_release(word)]
    return folded(front) if dash and meaning(" ".join(words)) else ""


def _is_release(word: str) -> bool:
    return any(concept.startswith(("release.", "container")) for concept in meaning(word))


def _undated(key: str) -> set[str]:
    """Return a folded name, and the same without a year."""
    return {key, " ".join(word for word in key.split() if not (word.isdecimal() and len(word) == 4))}


def _is_called(name: str, work: str, owners: Iterable[str]) -> bool:
    """Say whether a folder is called by a work: alone, with its owner, or as a release of it."""
    bare = folded(_BRACKETS.sub(" ", name))
    if not work or not bare:
        return False
    if bare.startswith(f"{work} ") and _RELEASED.search(bare[len(work) :]):
        return True
    rest = {word for word in bare.split() if not word.isdecimal()}
    for owner in owners:
        rest -= set(owner.split())
    return bare == work or rest == {word for word in work.split() if not word.isdecimal()}


def likeness(key: str, name: str) -> float:
    """Return which share of the words of two folded names the one has of the other, years and numbers apart."""
    ones, others = ({word for word in text.split() if not word.isdecimal()} for text in (key, name))
    if key.isascii() and ones and others:
        return len(ones & others) / min(len(ones), len(others)) if len(others) > 1 or ones == others else 0.0
    return float(len(name) > 2 and name in key)


def truth_of(folders: Sequence[TreeFolder], rows: Sequence[Row]) -> list[int]:
    """Return the role of each folder as the truth has it, -1 where it says nothing."""
    found: list[int] = []
    for folder in folders:
        below = [row for row in rows if folder.path and is_below(row["path"], folder.path)]
        votes = Counter(vote(folder, row) for row in below)
        del votes[""]
        mains = Counter({role: count for role, count in votes.items() if role != "beside"})
        if not any(row["kind"] not in BESIDE for row in below):
            mains = mains or votes
        role = max(mains, key=lambda name: mains[name]) if mains else ""
        above = found[folder.above] if folder.above > 0 else -1
        holds = any(matter_of(name) == STITCHES for name in folder.files)
        if role == "category" and holds and above == ROLES.index("owner"):
            role = "work"  # a set of designs
        if role == "category" and above >= 0 and ROLES[above] in ("work", "division"):
            role = "division"
        if not folder.path:
            role = "category"
        found.append(ROLES.index(role) if role else -1)
    return found


class Problem:
    """Trees with their truth, and the likelihood of weights."""

    def __init__(self, trees: Sequence[tuple[Encoded, list[int]]], penalty: float) -> None:
        self.trees = trees
        self.penalty = penalty
        self.shape = model.shape_of(trees[0][0])

    def loss(self, flat: npt.NDArray[np.float64]) -> tuple[float, npt.NDArray[np.float64]]:
        """Return the penalised negative log likelihood of what is known of the roles, and its gradient."""
        weights = model.unpacked(flat, self.shape)
        total, gradient = 0.5 * self.penalty * float(flat @ flat), self.penalty * flat
        for tree, truth in self.trees:
            known = np.asarray(truth)
            free, pairs_free, partition = model.marginals_of(tree, weights)
            tied, pairs_tied, tied_partition = model.marginals_of(tree, weights, known)
            total += partition - tied_partition
            gradient = gradient + model.gradient(tree, free - tied, pairs_free - pairs_tied, self.shape)
        return total, gradient

    def fit(self) -> npt.NDArray[np.float64]:
        """Return the weights that fit best."""
        start = np.zeros(model.size_of(self.shape))
        return np.asarray(minimize(self.loss, start, jac=True, method="L-BFGS-B", options={"maxiter": 120}).x)


def listing_of(paths: Iterable[str]) -> dict[str, list[str]]:
    """Return the files of each folder, from paths of files."""
    found: dict[str, list[str]] = defaultdict(list)
    for path in paths:
        found[parent(path)].append(name_of(path))
    return found


class LabelledTree(NamedTuple):
    """The tree of a collector, its folders, and what the truth says of each."""

    encoded: Encoded
    folders: list[TreeFolder]
    truth: list[int]


def labelled(files: Iterable[Path]) -> tuple[dict[str, list[LabelledTree]], dict[str, int]]:
    """Return the trees of each file with what the truth says of their folders, and a column for each feature."""
    trees: dict[str, list[LabelledTree]] = defaultdict(list)
    for name, rows in read_trees(files).items():
        folders = tree_of(listing_of(row["path"] for row in rows))
        trees[name.split()[0]].append(LabelledTree(encode(folders), folders, truth_of(folders, rows)))
    columns = model.columns_of([tree.encoded for some in trees.values() for tree in some])
    for some in trees.values():
        for tree in some:
            tree.encoded.bind(columns)
    return trees, columns


def fitted_on(trees: Iterable[LabelledTree], penalty: float) -> model.Weights:
    """Return the weights that fit some trees best."""
    problem = Problem([(tree.encoded, tree.truth) for tree in trees], penalty)
    return model.unpacked(problem.fit(), problem.shape)


def main() -> None:
    """Fit, print, and write."""
    parser = argparse.ArgumentParser()
    parser.add_argument("files", nargs="*", type=Path, default=TREES)
    parser.add_argument("--penalty", type=float, default=PENALTY)
    parser.add_argument("--write", action="store_true")
    parser.add_argument("--faults", action="store_true")
    args = parser.parse_args()
    trees, columns = labelled(args.files)
    right: Counter[str] = Counter()
    all_of: Counter[str] = Counter()
    confused: Counter[tuple[str, str]] = Counter()
    sure: list[tuple[float, bool]] = []
    for left_out, some in trees.items():
        weights = fitted_on((t for name, others in trees.items() if name != left_out for t in others), args.penalty)
        for tree, folders, truth in some:
            found, _, _ = model.marginals_of(tree, weights)
            for folder, known, chances in zip(folders[1:], truth[1:], found[1:], strict=True):
                if known < 0:
                    continue
                best = int(chances.argmax())
                all_of[left_out] += 1
                right[left_out] += best == known
                sure.append((float(chances.max()), best == known))
                if best != known:
                    confused[ROLES[known], ROLES[best]] += 1
                    if args.faults:
                        print(f"{chances.max():.2f} {ROLES[known]} read as {ROLES[best]}: {folder.path}")
        print(
            f"{left_out}: {right[left_out]} of {all_of[left_out]}, {right[left_out] / all_of[left_out]:.1%}", flush=True
        )
    print(f"all {sum(right.values()) / sum(all_of.values()):.1%} of {sum(all_of.values()):,}")
    for (known_role, read), count in confused.most_common(12):
        print(f"  {known_role} read as {read}: {count}")
    for least in (0.5, 0.7, 0.8, 0.9, 0.95, 0.98, 0.99):
        band = [is_right for chance, is_right in sure if chance >= least]
        print(f"  from {least}: {sum(band) / len(band):.1%} right of {len(band) / len(sure):.1%}")
    if args.write:
        record: dict[str, Any] = {
            "fitted": datetime.date.today().isoformat(),
            "folders": sum(all_of.values()),
            "penalty": args.penalty,
            "right when left out": round(sum(right.values()) / sum(all_of.values()), 4),
        }
        model.write(fitted_on((tree for some in trees.values() for tree in some), args.penalty), columns, record)


if __name__ == "__main__":
    main()
