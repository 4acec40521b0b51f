"""What goes along where not all fits: whole tiers first, and of the tier that does not fit whole the best that does.

Of things that count alike the most fit when the smallest go: that is the best there is. Where they count for more or
less it is a knapsack: SciPy's mixed-integer solver (HiGHS) finds the best, or says how far from it what it found may
be.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

SECONDS = 5.0
"""How long the solver may look at the most."""
_CORE = 400
"""Of so many things the solver finds the best; of more, those are open that are in question."""
_NEAR = 1e-5
"""So near the best, as a share of it, a plain choice need not be looked at again."""


@dataclass(frozen=True, slots=True)
class Candidate:
    """A thing that may go along: what it takes of the space, in units, and what it counts for."""

    size: int
    value: float = 1.0


@dataclass(frozen=True)
class Fit:
    """Which candidates go (their places), by tiers, and how far from the best that may be, as a share of it."""

    chosen: frozenset[int]
    gap: float = 0.0


def fit(tiers: Sequence[Sequence[tuple[int, Candidate]]], space: int, *, in_order: Sequence[bool] = ()) -> Fit:
    """Choose from tiers of (place, candidate) what goes into `space` units.

    A tier that fits goes whole. Of the first that does not the best goes that fits, and of those behind it nothing.
    Where `in_order` says so of a tier, its candidates go one after the other as they stand, as far as they fit.
    """
    chosen: set[int] = set()
    left = space
    for number, tier in enumerate(tiers):
        needed = sum(candidate.size for _, candidate in tier)
        if needed <= left:
            chosen.update(place for place, _ in tier)
            left -= needed
            continue
        if number < len(in_order) and in_order[number]:
            found, gap = _in_order([candidate for _, candidate in tier], left), 0.0
        else:
            found, gap = best([candidate for _, candidate in tier], left)
        chosen.update(tier[at][0] for at in found)
        return Fit(frozenset(chosen), gap)
    return Fit(frozenset(chosen))


def best(candidates: Sequence[Candidate], space: int) -> tuple[list[int], float]:
    """Return the places of candidates that fit and together count the most, and the gap to the best there may be."""
    free = [at for at, one in enumerate(candidates) if one.size <= 0 and one.value >= 0]
    open_ = [at for at, one in enumerate(candidates) if 0 < one.size <= space and one.value > 0]
    if len({candidates[at].value for at in open_}) <= 1:
        return sorted([*free, *_smallest(candidates, open_, space)]), 0.0
    found, gap = _solved([candidates[at] for at in open_], space)
    return sorted([*free, *(open_[at] for at in found)]), gap


def _in_order(candidates: Sequence[Candidate], space: int) -> list[int]:
    found = []
    for at, one in enumerate(candidates):
        if one.size <= space:
            found.append(at)
            space -= one.size
    return found


def _smallest(candidates: Sequence[Candidate], places: Sequence[int], space: int) -> list[int]:
    by_size = sorted(places, key=lambda at: candidates[at].size)
    return [by_size[at] for at in _in_order([candidates[at] for at in by_size], space)]


def _solved(candidates: Sequence[Candidate], space: int) -> tuple[list[int], float]:
    """Solve the knapsack: of many things only the core is open, those about as dense as the first that does not fit.

    What counts far more for its size goes, what counts far less stays. What is found is filled up where there is room.
    """
    if sum(one.size for one in candidates) <= space:
        return list(range(len(candidates))), 0.0
    bound = _bound(candidates, space)
    order = sorted(range(len(candidates)), key=lambda at: -candidates[at].value / candidates[at].size)
    plain = [order[at] for at in _in_order([candidates[at] for at in order], space)]
    if len(candidates) > _CORE and _gap(candidates, plain, bound) <= _NEAR:
        return plain, _gap(candidates, plain, bound)
    left, broken = space, 0
    while candidates[order[broken]].size <= left:
        left -= candidates[order[broken]].size
        broken += 1
    first = max(0, min(broken - _CORE // 2, len(order) - _CORE))
    sure, core = order[:first], order[first : first + _CORE]
    room = space - sum(candidates[at].size for at in sure)
    inside = [core[at] for at in _by_solver([candidates[at] for at in core], room)]
    found = _filled_up(candidates, [*sure, *inside], space)
    found = max(found, plain, key=lambda some: _worth(candidates, some))
    whole = len(core) == len(candidates)
    return found, 0.0 if whole else _gap(candidates, found, bound)


def _by_solver(candidates: Sequence[Candidate], space: int) -> list[int]:
    """Return the best of a few candidates; none where the solver finds nothing in its time."""
    import numpy as np
    from scipy.optimize import Bounds, LinearConstraint, milp

    sizes = np.array([one.size for one in candidates], dtype=float)
    answer = milp(
        [-one.value for one in candidates],
        integrality=np.ones(len(candidates)),
        bounds=Bounds(0, 1),
        constraints=LinearConstraint(sizes[np.newaxis, :], -np.inf, space),
        options={"time_limit": SECONDS, "mip_rel_gap": 0.0},
    )
    found = [at for at, part in enumerate(answer.x) if part > 0.5] if answer.x is not None else []
    return found if sum(candidates[at].size for at in found) <= space else []  # it counts in floating point


def _worth(candidates: Sequence[Candidate], some: Sequence[int]) -> float:
    return sum(candidates[at].value for at in some)


def _gap(candidates: Sequence[Candidate], some: Sequence[int], bound: float) -> float:
    return max(0.0, (bound - _worth(candidates, some)) / bound) if bound > 0 else 0.0


def _filled_up(candidates: Sequence[Candidate], found: Sequence[int], space: int) -> list[int]:
    left = space - sum(candidates[at].size for at in found)
    more = sorted(set(range(len(candidates))) - set(found), key=lambda at: -candidates[at].value)
    return [*found, *(more[at] for at in _in_order([candidates[at] for at in more], left))]


def _bound(candidates: Sequence[Candidate], space: int) -> float:
    """Return what is never exceeded: the best where things could be cut."""
    total = 0.0
    for one in sorted(candidates, key=lambda one: -one.value / one.size):
        if one.size >= space:
            return total + one.value * space / one.size
        total += one.value
        space -= one.size
    return total
