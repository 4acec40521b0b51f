"""Fits what decides the slots of words: `python -m benchmarks.slots [FILE.jsonl …] [--write]`.

The trees are those of `benchmarks.trees`. Each word of a path gets its slot from the truth: those that spell the
artist, the maker or the show are the owner's, those that spell the title the name's, and so on. The roles of the
folders are those that weights give which never saw the file. How likely each reading is right is fitted on readings of
files that were left out of the rest. Prints how many paths have all their slots right on files that are left out of
the fit, and writes the weights.
"""

from __future__ import annotations

import argparse
import datetime
from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from concurrent.futures import ProcessPoolExecutor
from functools import partial
from pathlib import Path
from typing import NamedTuple

import numpy as np
import numpy.typing as npt
from scipy.optimize import minimize
from scipy.sparse import csr_matrix

from benchmarks.roles import PENALTY as ROLES_PENALTY
from benchmarks.roles import fitted_on, labelled, listing_of
from benchmarks.trees import TREES, Row, as_item, read_trees
from benchmarks.trees import is_right as trees_right
from lazy_magpie.config import Config
from lazy_magpie.identify import Context, certainty, siblings_of
from lazy_magpie.identify.folder_reader import FolderReader
from lazy_magpie.identify.roles import model, read_tree
from lazy_magpie.identify.slots import chain
from lazy_magpie.identify.slots.chain import JOINTS, Weights
from lazy_magpie.identify.slots.evidence import Beside, PathEvidence, folders_above, spelled
from lazy_magpie.identify.slots.kinds import KINDS, READ_BY_SLOTS, SLOTS, sort_of, stem_of
from lazy_magpie.identify.slots.reading import joints_above, joints_in
from lazy_magpie.identify.slots.words import Name, name_of_words
from lazy_magpie.model import Kind
from lazy_magpie.paths import name_of, parent
from lazy_magpie.scan.folder_unit import Knowledge, read_by_roles

PENALTY = 12.0
"""How much large weights cost in the fit."""
OWN_COST = 0.5
"""How much dearer it is for a kind to differ from what all have in common than for that to differ from nothing."""
JOINTS_COST = 0.5
"""How much less a large weight of a joint costs: they are few."""
CERTAINTY_PENALTY = 15.0
MAIN_PENALTY = 1.0
MAIN_SIGNS = ("always", "clear", "not clear", "odds", "odds, agree", "agree", "agree, clear")
"""The signs that say most of a reading: they may weigh much, all others little."""
MOST = 8
"""So many files of one folder are learned from."""
Array = npt.NDArray[np.float64]


class Labelled(NamedTuple):
    """A path as features and joints of its words, with the slots that the truth leaves for each, and its weight."""

    path: str
    rows: list[list[str]]
    joints: list[int]
    allowed: list[frozenset[str]]
    weight: float


def key_of(value: object) -> str:
    """Return a value as the words of names are compared."""
    return "".join(word.key for word in name_of_words(str(value)).words)


class Truth:
    """The slots that the truth leaves open for each word of a name."""

    def __init__(self, name: Name, fields: Mapping[str, object], kind: str, is_file: bool) -> None:
        self.name, self.fields, self.shape, self.is_file = name, fields, KINDS[kind], is_file
        self.found: list[frozenset[str] | None] = [None] * len(name.words)
        for slot in ("name", "division", "owner", "work") if is_file else ("work", "owner", "division", "name"):
            self._spell(slot)
        for slot in ("number", "division", "year") if is_file else ("division", "number", "year"):
            self._count(slot)
        self._leave_open(kind)

    def _values(self, slot: str) -> list[object]:
        return [self.fields[field] for field in self.shape.all_of(slot) if field in self.fields]

    def _take(self, places: Iterable[int], slot: str) -> None:
        for at in places:
            self.found[at] = frozenset([slot])

    def _spell(self, slot: str) -> None:
        for value in self._values(slot):
            runs = list(spelled(self.name.words, key_of(value))) if isinstance(value, str) else []
            for run in runs:
                if all(self.found[at] is None for at in run):
                    self._take(run, slot)

    def _count(self, slot: str) -> None:
        for value in self._values(slot):
            same = [at for at, word in enumerate(self.name.words)
                    if self.found[at] is None and str(value) in (word.key.lstrip("0"), str(word.year))]  # fmt: skip
            self._take(same if slot == "year" else same[:1], slot)
        if slot == "number" and "disc" in self.fields and self.is_file:  # one word for both: "101"
            both = [100 * int(str(self.fields["disc"])) + int(str(value)) for value in self._values(slot)]
            self._take([at for at, word in enumerate(self.name.words) if word.key in map(str, both)], slot)

    def _leave_open(self, kind: str) -> None:
        """Leave what is not told either way to what the truth says nothing of."""
        values = [*self._values("owner"), *self._values("work")]
        shorts = ["".join(word.key[:1] for word in name_of_words(str(value)).words) for value in values]
        left = {"rest"} | {slot for slot in ("year", "division", "number", "work")
                           if self.shape.all_of(slot) and not self._values(slot)}  # fmt: skip
        if self.shape.all_of("name") and not self._values("name") and self.is_file:
            left |= {"name", "number", "year"}
        if self.shape.all_of("owner") and not self._values("owner") and kind != "track":
            left.add("owner")
        for at, word in enumerate(self.name.words):
            if self.found[at] is None:
                short = len(word.key) > 1 and any(short.startswith(word.key) for short in shorts)
                digits = set() if word.key.isdecimal() or word.year else {"number", "year"}
                self.found[at] = frozenset(["short"]) if short else frozenset(left - digits)

    @property
    def allowed(self) -> list[frozenset[str]]:
        """The slots that are left open for each word."""
        return [slots for slots in self.found if slots is not None]


def paths_of(rows: Sequence[Row], kinds: Iterable[str]) -> Iterator[tuple[str, Labelled]]:
    """Yield the kind and the labelled words of each path of a tree."""
    listing = listing_of(row["path"] for row in rows)
    roles = read_tree(listing)
    groups: dict[tuple[str, str, str], list[Row]] = defaultdict(list)
    for row in rows:
        if row["kind"] in kinds:
            groups[row["kind"], parent(row["path"]), sort_of(name_of(row["path"]))].append(row)
    for (kind, folder, sort), some in groups.items():
        beside = Beside.of(stem_of(name) for name in listing[folder] if sort_of(name) == sort)
        above = folders_above(folder, roles)
        evidence = PathEvidence(above, beside)
        of_folders = evidence.of_folders()
        for row in some[:MOST]:
            name = name_of_words(stem_of(name_of(row["path"])))
            allowed = [slots for one in above for slots in Truth(one.name, row["fields"], kind, False).allowed]
            allowed += Truth(name, row["fields"], kind, True).allowed
            features = [words for one in of_folders for words in one] + evidence.of_file(name)
            yield (
                kind,
                Labelled(
                    row["path"], features, joints_above(above) + joints_in(name), allowed, min(len(some), MOST) ** -0.6
                ),
            )


class Problem:
    """Labelled paths of one kind, padded to one length, and the likelihood of weights."""

    def __init__(self, paths: Sequence[Labelled], penalty: float, shared: Weights | None = None) -> None:
        self.penalty = penalty
        paths = sorted(paths, key=lambda path: -len(path.rows))
        counts = Counter(name for path in paths for row in path.rows for name in set(row))
        names = sorted(name for name, count in counts.items() if count > 4)
        self.columns = shared.columns if shared else {name: at for at, name in enumerate(names)}
        self.count, self.longest = len(paths), max(len(path.rows) for path in paths)
        self.lengths = np.array([len(path.rows) for path in paths])
        rows, columns, self.joints = [], [], np.zeros((self.count, self.longest), dtype=np.int64)
        self.open = np.zeros((self.count, self.longest, len(SLOTS)))
        for at, path in enumerate(paths):
            for place, (names, slots) in enumerate(zip(path.rows, path.allowed, strict=True)):
                self.joints[at, place] = path.joints[place]
                self.open[at, place] = [0.0 if slot in slots else -30.0 for slot in SLOTS]
                known = [self.columns[name] for name in names if name in self.columns]
                rows += [at * self.longest + place] * len(known)
                columns += known
        self.features = csr_matrix(
            (np.ones(len(rows)), (rows, columns)), (self.count * self.longest, len(self.columns))
        )
        self.so_long = [int((self.lengths > at).sum()) for at in range(self.longest)]
        self.of_joints = [
            csr_matrix((np.ones(count), (self.joints[:count, at], np.arange(count))), (len(JOINTS), count))
            for at, count in enumerate(self.so_long)
        ]
        self.weight = np.array([path.weight for path in paths])
        sizes = len(self.columns) * len(SLOTS), len(JOINTS) * len(SLOTS) ** 2
        self.penalties = np.repeat([penalty, penalty * JOINTS_COST], sizes)
        self.start = np.concatenate([shared.own.ravel(), shared.joint.ravel()]) if shared else np.zeros(sum(sizes))
        self.there = np.arange(self.longest)[None, :] < self.lengths[:, None]

    def _pass(self, own: Array, between: Array) -> tuple[Array, Array, Array]:
        """Return log partitions, the marginals of words, and the sums of those of pairs by joint.

        `own` (paths × words × slots) are scores, `between` (joints × slots × slots) their exponentials.
        """
        most = own.max(axis=2, keepdims=True)
        chances = np.exp(own - most)
        total = (most[:, :, 0] * self.there).sum(axis=1)
        inward, outward = np.zeros_like(own), np.ones_like(own)
        ways = [between[self.joints[: self.so_long[at], at]] for at in range(self.longest)]
        for at, count in enumerate(self.so_long):
            before = (inward[:count, at - 1, None] @ ways[at])[:, 0] if at else 1.0
            step = before * chances[:count, at]
            scale = step.sum(axis=1)
            total[:count] += np.log(scale)
            inward[:count, at] = step / scale[:, None]
        pairs = np.zeros((len(JOINTS), len(SLOTS) ** 2))
        for at in range(self.longest - 1, 0, -1):
            count = self.so_long[at]
            behind = chances[:count, at] * outward[:count, at]
            step = (ways[at] @ behind[:, :, None])[:, :, 0]
            outward[:count, at - 1] = step / step.max(axis=1, keepdims=True)
            both = inward[:count, at - 1, :, None] * ways[at] * behind[:, None, :]
            both *= (self.weight[:count] / both.sum(axis=(1, 2)))[:, None, None]
            pairs += self.of_joints[at] @ both.reshape(count, -1)
        single = inward * outward
        single *= (self.there * self.weight[:, None] / np.maximum(single.sum(axis=2), 1e-300))[:, :, None]
        return total, single, pairs.reshape(-1, len(SLOTS), len(SLOTS))

    def loss(self, flat: Array) -> tuple[float, Array]:
        """Return the penalised negative log likelihood, and its gradient."""
        weights = self.unpacked(flat)
        own = (self.features @ weights.own).reshape(self.count, self.longest, len(SLOTS))
        between = np.exp(weights.joint)
        total, single, pairs = self._pass(own, between)
        tied, tied_single, tied_pairs = self._pass(own + self.open, between)
        loss = 0.5 * float(self.penalties @ (flat - self.start) ** 2) + float(((total - tied) * self.weight).sum())
        of_own = self.features.T @ (single - tied_single).reshape(-1, len(SLOTS))
        return loss, self.penalties * (flat - self.start) + np.concatenate(
            [of_own.ravel(), (pairs - tied_pairs).ravel()]
        )

    def unpacked(self, flat: Array) -> Weights:
        """Return weights by what they are for."""
        cut = len(self.columns) * len(SLOTS)
        joint = flat[cut:].reshape(len(JOINTS), len(SLOTS), len(SLOTS))
        return Weights(flat[:cut].reshape(-1, len(SLOTS)), joint, self.columns)

    def fit(self) -> Weights:
        """Return the weights that fit best."""
        found = minimize(self.loss, self.start, jac=True, method="L-BFGS-B", options={"maxiter": 120})
        return self.unpacked(found.x)


Roles = tuple[model.Weights, model.Columns]
Files = Mapping[str, Mapping[str, Sequence[Labelled]]]


def labelled_paths(files: Sequence[Path], roles: Mapping[str, Roles]) -> Files:
    """Return the labelled paths of each file, by kind, with the roles that weights give which never saw it."""
    found: dict[str, dict[str, list[Labelled]]] = {}
    for name, rows in read_trees(files).items():
        file = name.split()[0]
        model.use(*roles[file])
        for kind, path in paths_of(rows, KINDS):
            found.setdefault(file, {}).setdefault(kind, []).append(path)
    return found


def fitted(files: Files, left_out: str, penalty: float = PENALTY) -> dict[str, Weights]:
    """Return the weights of each kind that is read by slots, fitted on all files but one."""
    some = {kind: [p for name, of in files.items() if name != left_out for p in of.get(kind, ())] for kind in KINDS}
    shared = Problem([path for paths in some.values() for path in paths], penalty).fit()
    return {kind: Problem(some[kind], penalty * OWN_COST, shared).fit() for kind in sorted(READ_BY_SLOTS)}


class Judged(NamedTuple):
    """A reading with the evidence for it, and whether it is right."""

    kind: str
    evidence: Mapping[str, float]
    right: bool
    weight: float


def judged(rows: Sequence[Row]) -> Iterator[Judged]:
    """Yield how each file of a tree is read by the weights in use."""
    listing = listing_of(row["path"] for row in rows)
    roles = read_tree(listing)
    knowledge = Knowledge.of(Config())
    by_folder: dict[str, list[Row]] = defaultdict(list)
    for row in rows:
        by_folder[parent(row["path"])].append(row)
    for folder, some in by_folder.items():
        reader = FolderReader(folder, roles, listing[folder])
        around = Context(siblings_of(listing[folder]), {}, frozenset(), knowledge.systems)
        for row in some:
            weighed = reader.weighed(row["path"], partial(read_by_roles, around, None))
            if weighed.evidence is not None:
                one = weighed.identity
                _, exact = trees_right(row, as_item(one))
                yield Judged(one.kind.value, weighed.evidence, exact, min(len(some), MOST) / len(some))


def certainty_in(some: Sequence[Judged]) -> dict[str, dict[str, float]]:
    """Return for each kind the weights of the signs, fitted on readings whose weights had not seen them.

    What all kinds have in common is fitted first, and each kind held to that.
    """
    counts = Counter(sign for one in some for sign in one.evidence)
    columns = {sign: at for at, sign in enumerate(sorted(sign for sign, count in counts.items() if count > 7))}

    penalties = np.array([MAIN_PENALTY if sign in MAIN_SIGNS else CERTAINTY_PENALTY for sign in columns])

    def fit(of: Sequence[Judged], start: Array) -> Array:
        places = [(row, columns[sign], value) for row, one in enumerate(of) for sign, value in one.evidence.items()
                  if sign in columns]  # fmt: skip
        rows, signs, values = zip(*places, strict=True)
        matrix = csr_matrix((values, (rows, signs)), (len(of), len(columns)))
        right = np.array([one.right for one in of], dtype=float)
        weight = np.array([one.weight for one in of])

        def loss(flat: Array) -> tuple[float, Array]:
            odds = matrix @ flat
            value = float((weight * (np.logaddexp(0, odds) - right * odds)).sum())
            gradient = matrix.T @ (weight * (1 / (1 + np.exp(-odds)) - right))
            apart = flat - start
            return value + 0.5 * float(penalties @ apart**2), gradient + penalties * apart

        return np.asarray(minimize(loss, start, jac=True, method="L-BFGS-B").x)

    shared = fit(some, np.zeros(len(columns)))
    kinds = sorted({one.kind for one in some})
    return {
        kind: dict(zip(columns, fit([one for one in some if one.kind == kind], shared).tolist(),
                       strict=True))
        for kind in kinds
    }  # fmt: skip


class Fitted(NamedTuple):
    """All weights that were fitted on some trees."""

    roles: Roles
    slots: Mapping[str, Weights]
    certainty: Mapping[str, Mapping[str, float]]

    def use(self) -> None:
        """Use these weights in this process."""
        model.use(*self.roles)
        chain.use(self.slots)
        certainty.use(self.certainty)


def fitted_all(files: Sequence[Path]) -> dict[str, Fitted]:
    """Return for each file the weights that were fitted on all others; "" has those fitted on all."""
    trees, columns = labelled(files)
    lefts = [*trees, ""]
    kept = {left: [tree for name, some in trees.items() if name != left for tree in some] for left in lefts}
    with ProcessPoolExecutor() as pool:
        of_roles = pool.map(partial(fitted_on, penalty=ROLES_PENALTY), kept.values())
        roles = {left: (weights, columns) for left, weights in zip(lefts, of_roles, strict=True)}
        paths = labelled_paths(files, roles)
        slots = dict(zip(lefts, pool.map(partial(fitted, paths), lefts), strict=True))
    seen: dict[str, list[Judged]] = defaultdict(list)
    for name, rows in read_trees(files).items():
        file = name.split()[0]
        Fitted(roles[file], slots[file], {}).use()
        seen[file] += judged(rows)
    return {
        left: Fitted(roles[left], slots[left], certainty_in([o for n, some in seen.items() if n != left for o in some]))
        for left in slots
    }


def is_right(path: Labelled, weights: Weights) -> bool:
    """Say whether each word of a path gets a slot that the truth leaves open."""
    own = chain.scores(path.rows, weights)[None]
    found = chain.best(own, np.array([path.joints]), weights.joint)[0]
    return all(SLOTS[slot] in allowed for slot, allowed in zip(found, path.allowed, strict=True))


BOUNDS = (0.5, 0.7, 0.8, 0.85, 0.9, 0.95)


def print_curve(files: Sequence[Path], weights: Mapping[str, Fitted]) -> None:
    """Print for several bounds how many readings are called clear from there on, and how many of these are right."""
    found: list[tuple[float, bool]] = []
    for name, rows in read_trees(files).items():
        weights[name.split()[0]].use()
        found += [(certainty.chance_of(Kind(one.kind), one.evidence), one.right) for one in judged(rows)]
    for bound in BOUNDS:
        above = [right for chance, right in found if chance >= bound]
        print(
            f"from {bound}: {len(above) / len(found):.1%} of {len(found):,} called, {sum(above) / len(above):.1%} right"
        )


def main() -> None:
    """Fit, print, and write."""
    parser = argparse.ArgumentParser()
    parser.add_argument("files", nargs="*", type=Path, default=TREES)
    parser.add_argument("--write", action="store_true")
    args = parser.parse_args()
    weights = fitted_all(args.files)
    right: dict[str, list[bool]] = defaultdict(list)
    for file, of in labelled_paths(args.files, {file: of.roles for file, of in weights.items()}).items():
        for kind in READ_BY_SLOTS:
            right[kind] += [is_right(path, weights[file].slots[kind]) for path in of.get(kind, ())]
    for kind, some in sorted(right.items()):
        print(f"{kind}: all words right in {sum(some) / len(some):.1%} of {len(some):,}")
    print_curve(args.files, weights)
    if args.write:
        paths = sum(map(len, right.values()))
        record = {"fitted": datetime.date.today().isoformat(), "paths": paths}
        chain.write(weights[""].slots, {**record, "penalty": PENALTY})
        certainty.write(weights[""].certainty, {**record, "penalty": CERTAINTY_PENALTY})


if __name__ == "__main__":
    main()
