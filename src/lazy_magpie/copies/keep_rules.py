"""The rules that choose which copy stays, in words, in the order in which they are asked.

folder:PATH   what lies in this folder
shelf:NAME    what lies on this shelf
shelved       what lies on a shelf of its kind
better        more lines, a higher bit rate, lossless
complete      more files that belong to it, more tags
older, newer  by the time of the main file
shorter       the shorter path
drive         what lies on the drive of the collection's own root, not on one that is mounted below it
drive:NAME    what lies on that root; it speaks where copies are looked for on other roots, too
unpacked      what was unpacked from an archive, not the archive
tagged        what has more tags
alike         says that what is only alike may go as well; it chooses nothing by itself
"""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable, Sequence
from functools import partial
from typing import Any, NamedTuple

from lazy_magpie.config import Config
from lazy_magpie.errors import UsageError
from lazy_magpie.model import Item
from lazy_magpie.paths import is_below, same_name
from lazy_magpie.suggest import nearest

DEFAULT = ("shelved", "better", "complete")
"""The rules where none are configured."""
Merit = Callable[[Item, str, Config], Any]
"""Says how much speaks for an item by a rule, given what stands behind the rule's colon: the largest stays."""


def _shelved(item: Item, text: str, config: Config) -> bool:
    shelf = config.shelf_of(item.path, item.root)
    return shelf is not None and shelf.kind is item.kind


def _better(item: Item, text: str, config: Config) -> tuple[bool, float, float]:
    facts = item.facts
    return bool(facts.get("lossless")), float(str(facts.get("height", 0))), float(str(facts.get("bitrate", 0)))


def _on_shelf(item: Item, text: str, config: Config) -> bool:
    shelf = config.shelf_of(item.path, item.root)
    return shelf is not None and shelf.name == text


def _on_drive(root: str, item: Item, text: str, config: Config) -> bool:
    if text:
        return item.root == text
    try:
        return os.lstat(os.path.join(root, item.path)).st_dev == os.stat(root).st_dev
    except OSError:
        return False


RULES: dict[str, Merit] = {
    "folder": lambda item, text, config: is_below(same_name(item.path), same_name(text.strip("/"))),
    "shelf": _on_shelf,
    "shelved": _shelved,
    "better": _better,
    "complete": lambda item, text, config: len(item.files) + len(item.tags),
    "older": lambda item, text, config: -item.files[0].mtime,
    "newer": lambda item, text, config: item.files[0].mtime,
    "shorter": lambda item, text, config: -len(item.path),
    "drive": partial(_on_drive, os.curdir),
    "tagged": lambda item, text, config: len(item.tags),
    "unpacked": lambda item, text, config: 0,  # it speaks for a folder, which is no item
    "alike": lambda item, text, config: 0,  # it allows, and does not choose
}
_FORMS = {"folder": ("folder:PATH",), "shelf": ("shelf:NAME",), "drive": ("drive", "drive:NAME")}
"""How the rules are written that have, or may have, something behind a colon."""
FORMS = tuple(form for name in RULES for form in _FORMS.get(name, (name,)))
"""How each rule is written."""


class Rule(NamedTuple):
    """A rule as it was written, and what it asks."""

    text: str
    merit: Merit
    behind: str


def parse_rules(words: Iterable[str], root: str) -> list[Rule]:
    """Return the rules that words stand for, for items below `root`.

    Raises UsageError, saying which rules there are.
    """
    rules: dict[str, Merit] = {**RULES, "drive": partial(_on_drive, root)}
    found = []
    for word in (part.strip() for part in words if part.strip()):
        name, colon, behind = word.partition(":")
        if name not in RULES:
            there_are = f"; there are {', '.join(RULES)}."
            raise UsageError(f"There is no rule “{name}”{nearest(name, RULES, there_are)}")
        forms = _FORMS.get(name, (name,))
        if bool(colon) != bool(behind) or all((":" in form) != bool(colon) for form in forms):
            raise UsageError(f"The rule “{word}” is written {' or '.join(forms)}.")
        found.append(Rule(word, rules[name], behind))
    return found


def copy_to_keep(items: Sequence[Item], rules: Sequence[Rule], config: Config) -> tuple[Item | None, str]:
    """Return the item that stays and the rule that decided it; None and why where the rules leave it open."""
    left = list(items)
    for rule in rules:
        merits = [rule.merit(item, rule.behind, config) for item in left]
        most = max(merits)
        left = [item for item, merit in zip(left, merits, strict=True) if merit == most]
        if len(left) == 1:
            return left[0], rule.text
    return None, "no rule chooses one"
