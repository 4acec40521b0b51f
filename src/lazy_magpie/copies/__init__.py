"""Finds copies: files and whole things that hold the same, by reading as little as proves it."""

from __future__ import annotations

from lazy_magpie.copies.rules import DEFAULT, RULES, Rule, parse_rules
from lazy_magpie.copies.same import Copies, Found, find_copies

__all__ = ["DEFAULT", "RULES", "Copies", "Found", "Rule", "find_copies", "parse_rules"]
