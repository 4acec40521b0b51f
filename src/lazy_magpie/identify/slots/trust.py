"""How far a reading by slots is to be trusted, beside what the patterns of its kind say of the same name."""

from __future__ import annotations

import math

from lazy_magpie.identify.slots import chain

TRUSTED = 0.95
"""So likely right is at the least what is called clear."""


def signs(chance: float, *, agree: bool, was_clear: bool) -> tuple[float, ...]:
    """Return what speaks for a reading: its own chance as log odds, and whether the other reading agrees or is clear."""
    edge = 0.005
    chance = min(max(chance, edge), 1 - edge)
    odds = math.log(chance / (1 - chance))
    return (1.0, odds, float(agree), float(was_clear), float(agree and was_clear), odds * agree)


def trusted(kind: str, chance: float, *, agree: bool, was_clear: bool) -> float:
    """Return the probability that a reading is right, by weights that were fitted on trees that it had not seen."""
    weights = chain.fitted().trust[kind]
    sum_ = sum(w * sign for w, sign in zip(weights, signs(chance, agree=agree, was_clear=was_clear), strict=True))
    return 1 / (1 + math.exp(-max(-30.0, min(30.0, sum_))))
