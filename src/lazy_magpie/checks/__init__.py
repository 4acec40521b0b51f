"""Checks: what a player would not see, and what else is wrong. A rule is a row; a family of rules is a file.

`run` lets every rule see every item once, and yields what they find.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from lazy_magpie.on_demand import on_demand

if TYPE_CHECKING:
    from lazy_magpie.checks.findings import Finding, Mend, Rule, Sight
    from lazy_magpie.checks.rules import OF_PLACES, RULES, run

__all__ = ["OF_PLACES", "RULES", "Finding", "Mend", "Rule", "Sight", "run"]

__getattr__ = on_demand(__name__, {"findings": "Finding Mend Rule Sight", "rules": "OF_PLACES RULES run"})
