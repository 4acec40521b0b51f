"""Sending to a target: what fits, what things take there, what they are called there."""

from __future__ import annotations

from lazy_magpie.sending.fit import Candidate, Fit, Room, best, fit
from lazy_magpie.sending.places import Names, short_name
from lazy_magpie.sending.space import Space, space_on, taken_by, units_of_folders

__all__ = [
    "Candidate",
    "Fit",
    "Names",
    "Room",
    "Space",
    "best",
    "fit",
    "short_name",
    "space_on",
    "taken_by",
    "units_of_folders",
]
