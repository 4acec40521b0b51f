"""Fits what decides the slots of words: `python -m benchmarks.slots [FILE.jsonl …] [--write]`.

The trees are those of `benchmarks.trees`. Each word of a path gets its slot from the truth: those that spell the artist,
the maker or the show are the owner's, those that spell the title the name's, and so on. The roles of the folders are
those that weights give which never saw the file. Prints how many paths have all their slots right on files that are
left out of the fit, and writes the weights.
"""

from __future__ import annotations

import argparse
import datetime
from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from functools import partial
from pathlib import Path
from typing import NamedTuple

import numpy as np
import numpy.typing as npt
from scipy.optimize import minimize
from scipy.sparse import csr_matrix

from benchmarks.roles import PENALTY as ROLES_PENALTY
from benchmarks.roles import fitted_on, labelled, listing_of
from benchmarks.trees import ALSO, TREES, Row, has, read_trees
from lazy_magpie.config import Config
from lazy_magpie.identify import Context, siblings_of
from lazy_magpie.identify.folder_reader import FolderReader, agrees
from lazy_magpie.identify.roles import model, read_tree
from lazy_magpie.identify.slots import chain
from lazy_magpie.identify.slots.chain import JOINTS, SLOTS, Weights
from lazy_magpie.identify.slots.evidence import Beside, PathEvidence, folders_above
from lazy_magpie.identify.slots.reading import KINDS, READ_BY_SLOTS, fields_of, joints_of, sort_of, stem_of
from lazy_magpie.identify.slots.trust import signs
from lazy_magpie.identify.slots.words import Name, name_of_words
from lazy_magpie.model import State
from lazy_magpie.paths import name_of, parent
from lazy_magpie.scan.folder_unit import Knowledge, read_by_roles

PENALTY = 0.7
OWN_COST = 1.0
"""How much dearer it is for a kind to differ from what all have in common than for that to differ from nothing."""
JOINTS_COST = 0.1
"""How much less a large weight of a joint costs: they are few."""
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


def _spelled(name: Name, key: str) -> list[range]:
    """Return where words of a name, run together, spell a key."""
    found = []
    for first in range(len(name.words)):
        rest = key
        for at in range(first, len(name.words)):
            if not rest.startswith(name.words[at].key):
                break
            rest = rest[len(name.words[at].key) :]
            if not rest:
                found.append(range(first, at + 1))
                break
    return found


def slots_of(name: Name, fields: Mapping[str, object], kind: str, is_file: bool) -> list[frozenset[str]]:
    """Return for each word of a name the slots that the truth leaves open for it."""
    shape = KINDS[kind]
    found: list[frozenset[str] | None] = [None] * len(name.words)
    order = ("name", "owner", "work") if is_file else ("work", "owner", "name")
    for slot in order:
        for field in shape.fields.get(slot, ()):
            if field not in fields:
                continue
            for run in _spelled(name, key_of(fields[field])):
                if all(found[at] is None for at in run):
                    for at in run:
                        found[at] = frozenset([slot])
    for slot in ("number", "division", "year") if is_file else ("division", "number", "year"):
        for field in shape.fields.get(slot, ()):
            value = fields.get(field)
            if value is None:
                continue
            for at, word in enumerate(name.words):
                if (
                    found[at] is None
                    and value is not None
                    and word.key.isdecimal()
                    and int(word.key) == int(str(value))
                ):
                    found[at] = frozenset([slot])
                    if slot != "year":
                        break
    if "track" in fields and "disc" in fields and is_file:  # one word for both: "101"
        both = int(str(fields["disc"])) * 100 + int(str(fields["track"]))
        for at, word in enumerate(name.words):
            if found[at] is None and word.key == str(both):
                found[at] = frozenset(["number"])
    owners = [fields[field] for field in shape.fields.get("owner", ()) if field in fields]
    works = [fields[field] for field in shape.fields.get("work", ()) if field in fields]
    shorts = ["".join(word.key[:1] for word in name_of_words(str(value)).words) for value in (*owners, *works)]
    open_slots = {"rest"}
    if not any(field in fields for field in shape.fields.get("name", ())) and shape.fields.get("name"):
        open_slots |= {"name", "number", "year"} if is_file else set()
    for slot in ("year", "division", "number", "work"):
        if not any(field in fields for field in shape.fields.get(slot, ())) and slot in shape.fields:
            open_slots.add(slot)
    if "owner" in shape.fields and not owners and kind not in ("track",):
        open_slots.add("owner")
    for at, word in enumerate(name.words):
        if found[at] is not None:
            continue
        short = len(word.key) > 1 and any(short.startswith(word.key) for short in shorts)
        digits = {"number", "division", "year"}
        left = frozenset(slot for slot in open_slots if word.key.isdecimal() or slot not in digits)
        found[at] = frozenset(["short"]) if short else left
    return [slots for slots in found if slots is not None]


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
            allowed = [slots for one in above for slots in slots_of(one.name, row["fields"], kind, False)]
            allowed += slots_of(name, row["fields"], kind, True)
            features = [words for one in of_folders for words in one] + evidence.of_file(name)
            yield kind, Labelled(row["path"], features, joints_of(above, name), allowed, min(len(some), MOST) ** -0.6)


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
    found: dict[str, dict[str, list[Labelled]]] = defaultdict(lambda: defaultdict(list))
    for name, rows in read_trees(files).items():
        file = name.split()[0]
        model.use(*roles[file])
        for kind, path in paths_of(rows, KINDS):
            found[file][kind].append(path)
    return found


def fitted(files: Files, left_out: str, penalty: float = PENALTY) -> dict[str, Weights]:
    """Return the weights of each kind that is read by slots, fitted on all files but one."""
    some = {kind: [p for name, of in files.items() if name != left_out for p in of.get(kind, ())] for kind in KINDS}
    shared = Problem([path for paths in some.values() for path in paths], penalty).fit()
    return {kind: Problem(some[kind], penalty * OWN_COST, shared).fit() for kind in sorted(READ_BY_SLOTS)}


class Judged(NamedTuple):
    """What speaks for a reading by slots, and whether it is right."""

    kind: str
    signs: tuple[float, ...]
    right: bool
    weight: float


def judged(rows: Sequence[Row]) -> Iterator[Judged]:
    """Yield for the files of a tree how they are read by slots, by the weights in use, beside the other reading."""
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
            by_patterns, slots = reader.both(row["path"], partial(read_by_roles, around, None))
            if slots is None or by_patterns.kind.value != row["kind"]:
                continue
            owned = fields_of(row["kind"])
            agree = agrees(by_patterns, slots)
            right = all(has(slots.fields, field, value) for field, value in row["fields"].items() if field in owned)
            right &= not any(
                field in slots.fields and field not in row["fields"] for field in ALSO.get(row["kind"], ())
            )
            clear = by_patterns.state is State.CLEAR
            yield Judged(
                row["kind"], signs(slots.chance, agree=agree, was_clear=clear), right, min(len(some), MOST) / len(some)
            )


def trust_in(some: Sequence[Judged]) -> dict[str, list[float]]:
    """Return for each kind the weights of the signs, fitted on readings whose weights had not seen them.

    What all kinds have in common is fitted first, and each kind held to that.
    """

    def fit(of: Sequence[Judged], start: Array, penalty: float) -> Array:
        matrix, right = np.array([one.signs for one in of]), np.array([one.right for one in of], dtype=float)
        weight = np.array([one.weight for one in of])

        def loss(flat: Array) -> tuple[float, Array]:
            odds = matrix @ flat
            value = float((weight * (np.logaddexp(0, odds) - right * odds)).sum())
            gradient = matrix.T @ (weight * (1 / (1 + np.exp(-odds)) - right))
            apart = flat - start
            return value + 0.5 * penalty * float(apart @ apart), gradient + penalty * apart

        return np.asarray(minimize(loss, start, jac=True, method="L-BFGS-B").x)

    shared = fit(some, np.zeros(len(some[0].signs)), 1.0)
    return {
        kind: fit([one for one in some if one.kind == kind], shared, 3.0).tolist() for kind in sorted(READ_BY_SLOTS)
    }


def fitted_all(files: Sequence[Path]) -> tuple[dict[str, Roles], dict[str, chain.Fitted]]:
    """Return for each file the weights of roles and of slots that were fitted on all others; "" is fitted on all."""
    trees, columns = labelled(files)
    roles = {
        left: (fitted_on((t for n, some in trees.items() if n != left for t in some), ROLES_PENALTY), columns)
        for left in [*trees, ""]
    }
    paths = labelled_paths(files, roles)
    kinds = {left: fitted(paths, left) for left in [*trees, ""]}
    seen: dict[str, list[Judged]] = defaultdict(list)
    for name, rows in read_trees(files).items():
        file = name.split()[0]
        model.use(*roles[file])
        chain.use(chain.Fitted(kinds[file], {}))
        seen[file] += judged(rows)
    return roles, {
        left: chain.Fitted(kinds[left], trust_in([one for name, some in seen.items() if name != left for one in some]))
        for left in kinds
    }


def is_right(path: Labelled, weights: Weights) -> bool:
    """Say whether each word of a path gets a slot that the truth leaves open."""
    own = chain.scores(path.rows, weights)
    found = chain.best(own, weights.joint[path.joints])
    return all(SLOTS[slot] in allowed for slot, allowed in zip(found, path.allowed, strict=True))


def main() -> None:
    """Fit, print, and write."""
    parser = argparse.ArgumentParser()
    parser.add_argument("files", nargs="*", type=Path, default=TREES)
    parser.add_argument("--write", action="store_true")
    args = parser.parse_args()
    roles, slots = fitted_all(args.files)
    right: dict[str, list[bool]] = defaultdict(list)
    for file, of in labelled_paths(args.files, roles).items():
        for kind in READ_BY_SLOTS:
            right[kind] += [is_right(path, slots[file].kinds[kind]) for path in of.get(kind, ())]
    for kind, some in sorted(right.items()):
        print(f"{kind}: all words right in {sum(some) / len(some):.1%} of {len(some):,}")
    if args.write:
        paths = sum(map(len, right.values()))
        chain.write(slots[""], {"fitted": datetime.date.today().isoformat(), "paths": paths, "penalty": PENALTY})


if __name__ == "__main__":
    main()
