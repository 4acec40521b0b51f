"""Mirrors: a collection held against its backup, by names, sizes and times, or by all that files hold."""

from __future__ import annotations

from lazy_magpie.mirrors.compare import Contents, Difference, Entry, MirrorState, compare
from lazy_magpie.mirrors.contents import Side, WasRead, read_sides
from lazy_magpie.mirrors.walk import entries_below

__all__ = [
    "Contents",
    "Difference",
    "Entry",
    "MirrorState",
    "Side",
    "WasRead",
    "compare",
    "entries_below",
    "read_sides",
]
