"""Finds copies: files and whole things that hold the same, by reading as little as proves it."""

from __future__ import annotations

from lazy_magpie.copies.archived import Inside, Packed, Wrapped, find_wrapped, top_of, unpacked_beside
from lazy_magpie.copies.exact import SURE, Copies, DuplicateReport, Elsewhere, find_copies, find_elsewhere
from lazy_magpie.copies.keep_rules import DEFAULT, FORMS, Rule, parse_rules
from lazy_magpie.copies.similar import AlikeSearch
from lazy_magpie.copies.versions import OTHER_VERSION, other_versions

__all__ = [
    "DEFAULT",
    "FORMS",
    "OTHER_VERSION",
    "SURE",
    "AlikeSearch",
    "Copies",
    "DuplicateReport",
    "Elsewhere",
    "Inside",
    "Packed",
    "Rule",
    "Wrapped",
    "find_copies",
    "find_elsewhere",
    "find_wrapped",
    "other_versions",
    "parse_rules",
    "top_of",
    "unpacked_beside",
]
