"""What goes along where not all fits: whole tiers first, and of the tier that does not fit whole the best that does.

Of things that count alike the most fit when the smallest go: that is the best there is. Where they count for more or
less it is a knapsack: SciPy's mixed-integer solver (HiGHS) finds the best, or says how far from it what it found may
be.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import NamedTuple

SECONDS = 5.0
"""How long the solver may look at the most."""
_CORE = 400
"""Of so many things the solver finds the best; of more, those are open that are in question."""
_NEAR = 1e-5
"""So near the best, as a share of it, a plain choice need not be looked at again."""


@dataclass(frozen=True, slots=True)
class Candidate:
    """A thing that may go along: what it takes of the space, in units, and what it counts for.

    `names` are the files and folders that it is there: some drives have room for so many and no more.
    """

    size: int
    value: float = 1.0
    names: int = 0


class Room(NamedTuple):
    """Units that are free, and how many files and folders more there may be."""

    units: int
    names: float = math.inf

    def takes(self, one: Candidate) -> bool:
        """Say whether a candidate fits."""
        return one.size <= self.units and one.names <= self.names

    def less(self, one: Candidate) -> Room:
        """Return what is left once a candidate is in."""
        return Room(self.units - one.size, self.names - one.names)


@dataclass(frozen=True)
class Fit:
    """Which candidates go (their places), by tiers, and how far from the best that may be, as a share of it."""

    chosen: frozenset[int]
    gap: float = 0.0


def fit(tiers: Sequence[Sequence[tuple[int, Candidate]]], room: Room, *, in_order: Sequence[bool] = ()) -> Fit:
    """Choose from tiers of (place, candidate) what goes into the room.

    A tier that fits goes whole. Of the first that does not the best goes that fits, and of those behind it nothing.
    Where `in_order` says so of a tier, its candidates go one after the other as they stand, as far as they fit.
    """
    chosen: set[int] = set()
    for number, tier in enumerate(tiers):
        candidates = [candidate for _, candidate in tier]
        whole = _together(candidates)
        if room.takes(whole):
            chosen.update(place for place, _ in tier)
            room = room.less(whole)
            continue
        if number < len(in_order) and in_order[number]:
            found, gap = _one_by_one(candidates, range(len(tier)), room), 0.0
        else:
            found, gap = best(candidates, room)
        chosen.update(tier[at][0] for at in found)
        return Fit(frozenset(chosen), gap)
    return Fit(frozenset(chosen))


def best(candidates: Sequence[Candidate], room: Room) -> tuple[list[int], float]:
    """Return the places of candidates that fit and together count the most, and the gap to the best there may be."""
    free = [at for at, one in enumerate(candidates) if one.size <= 0 and not one.names and one.value >= 0]
    others = set(range(len(candidates))).difference(free)
    some = sorted(at for at in others if room.takes(candidates[at]) and candidates[at].value > 0)
    are_alike = len({candidates[at].value for at in some}) <= 1
    if are_alike and (math.isinf(room.names) or len({candidates[at].names for at in some}) <= 1):
        by_size = sorted(some, key=lambda at: candidates[at].size)
        return sorted([*free, *_one_by_one(candidates, by_size, room)]), 0.0
    found, gap = _solved([candidates[at] for at in some], room)
    return sorted([*free, *(some[at] for at in found)]), gap


def _together(candidates: Iterable[Candidate]) -> Candidate:
    many = list(candidates)
    return Candidate(sum(one.size for one in many), names=sum(one.names for one in many))


def _one_by_one(candidates: Sequence[Candidate], order: Iterable[int], room: Room) -> list[int]:
    """Return the places, in an order, of the candidates that still fit when it is their turn."""
    found = []
    for at in order:
        if room.takes(candidates[at]):
            found.append(at)
            room = room.less(candidates[at])
    return found


def _solved(candidates: Sequence[Candidate], room: Room) -> tuple[list[int], float]:
    """Solve the knapsack: of many things only the core is open, those about as dense as the first that does not fit.

    What counts far more for what it takes goes, what counts far less stays. What is found is filled up where there is
    room.
    """
    if room.takes(_together(candidates)):
        return list(range(len(candidates))), 0.0
    bound = _bound(candidates, room.units)
    order = sorted(range(len(candidates)), key=lambda at: -_density(candidates[at], room))
    plain = _one_by_one(candidates, order, room)
    if len(candidates) > _CORE and _gap(candidates, plain, bound) <= _NEAR:
        return plain, _gap(candidates, plain, bound)
    left, broken = room, 0
    while left.takes(candidates[order[broken]]):
        left = left.less(candidates[order[broken]])
        broken += 1
    first = max(0, min(broken - _CORE // 2, len(order) - _CORE))
    sure, core = order[:first], order[first : first + _CORE]
    inside = room.less(_together(candidates[at] for at in sure))
    solved = [core[at] for at in _by_solver([candidates[at] for at in core], inside)]
    found = max(_filled_up(candidates, [*sure, *solved], room), plain, key=lambda some: _worth(candidates, some))
    return found, 0.0 if len(core) == len(candidates) else _gap(candidates, found, bound)


def _density(one: Candidate, room: Room) -> float:
    """Return what a candidate counts for, for the share that it takes of what there is."""
    share = one.size / max(1, room.units) + (0.0 if math.isinf(room.names) else one.names / max(1.0, room.names))
    return one.value / share if share else math.inf


def _by_solver(candidates: Sequence[Candidate], room: Room) -> list[int]:
    """Return the best of a few candidates; none where the solver finds nothing in its time."""
    import numpy as np
    from scipy.optimize import Bounds, LinearConstraint, milp

    taken, limits = [[float(one.size) for one in candidates]], [float(room.units)]
    if not math.isinf(room.names):
        taken.append([float(one.names) for one in candidates])
        limits.append(room.names)
    answer = milp(
        [-one.value for one in candidates],
        integrality=np.ones(len(candidates)),
        bounds=Bounds(0, 1),
        constraints=LinearConstraint(np.array(taken), -np.inf, limits),
        options={"time_limit": SECONDS, "mip_rel_gap": 0.0},
    )
    found = [at for at, part in enumerate(answer.x) if part > 0.5] if answer.x is not None else []
    fits = room.takes(_together(candidates[at] for at in found))  # the solver counts in floating point
    return found if fits else []


def _worth(candidates: Sequence[Candidate], some: Sequence[int]) -> float:
    return sum(candidates[at].value for at in some)


def _gap(candidates: Sequence[Candidate], some: Sequence[int], bound: float) -> float:
    return max(0.0, (bound - _worth(candidates, some)) / bound) if bound > 0 else 0.0


def _filled_up(candidates: Sequence[Candidate], found: Sequence[int], room: Room) -> list[int]:
    more = sorted(set(range(len(candidates))) - set(found), key=lambda at: -candidates[at].value)
    left = room.less(_together(candidates[at] for at in found))
    return [*found, *_one_by_one(candidates, more, left)]


def _bound(candidates: Sequence[Candidate], space: int) -> float:
    """Return what is never exceeded: the best where things could be cut."""
    total = 0.0
    for one in sorted(candidates, key=lambda one: -one.value / max(one.size, 1e-9)):
        if one.size >= space:
            return total + one.value * space / one.size
        total += one.value
        space -= one.size
    return total
