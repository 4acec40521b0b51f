"""How alike two files are, as a second look says it."""

from __future__ import annotations

from enum import IntEnum


class Likeness(IntEnum):
    """Not alike, perhaps, or beyond doubt: only what is alike beyond doubt is ever offered to go."""

    NOT = 0
    PERHAPS = 1
    SURELY = 2


def surely(alike: object) -> Likeness:
    """Return what a look says that knows no doubt."""
    return Likeness.SURELY if alike else Likeness.NOT
