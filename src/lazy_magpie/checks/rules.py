"""All rules, in the order of how much they matter, and how they see every item once."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from lazy_magpie.checks import beside, names, numbers, papers, places, player, quality, songs, versions
from lazy_magpie.checks.findings import Finding, Rule, Sight
from lazy_magpie.model import Item

_QUALITY = {rule.name: rule for rule in quality.RULES}
RULES: tuple[Rule, ...] = (
    _QUALITY["rotten"],
    _QUALITY["unreadable"],
    *player.RULES,
    *numbers.RULES[:1],
    *beside.RULES[:1],
    *places.RULES[:2],
    _QUALITY["wrong-ending"],
    *numbers.RULES[1:],
    *songs.RULES,
    *places.RULES[2:],
    _QUALITY["empty"],
    *names.RULES,
    _QUALITY["below-standard"],
    _QUALITY["subtitle-language"],
    *versions.RULES,
    *papers.RULES,
    *beside.RULES[1:],
)
"""Every rule, the worst first."""
OF_PLACES = frozenset(rule.name for rule in places.RULES)
"""The rules that look at where things would be filed."""


def run(rules: Iterable[Rule], items: Iterable[Item], sight: Sight) -> Iterator[Finding]:
    """Yield what rules find among items, each finding once."""
    checks = [rule.check(sight) for rule in rules]
    for item in items:
        for check in checks:
            yield from check.see(item)
    for check in checks:
        yield from check.end()
