"""Finds copies: files and whole things that hold the same, by reading as little as proves it."""

from __future__ import annotations

from lazy_magpie.copies.alike import find_alike
from lazy_magpie.copies.rules import DEFAULT, RULES, Rule, parse_rules
from lazy_magpie.copies.same import SURE, Copies, Found, find_copies
from lazy_magpie.copies.wrapped import Inside, Packed, Wrapped, find_wrapped, top_of, unpacked_beside

__all__ = [
    "DEFAULT",
    "RULES",
    "SURE",
    "Copies",
    "Found",
    "Inside",
    "Packed",
    "Rule",
    "Wrapped",
    "find_alike",
    "find_copies",
    "find_wrapped",
    "parse_rules",
    "top_of",
    "unpacked_beside",
]
