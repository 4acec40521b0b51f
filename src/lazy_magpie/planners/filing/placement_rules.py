"""What changes have placed by a naming stays there until the naming, or a person's answer, says otherwise.

So what brings things in and what tidies never disagree: each step that places something says by which rule.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Collection as Collection_

from lazy_magpie.catalogue import Catalogue, Placement
from lazy_magpie.config import Config, IntakeConfig, Shelf
from lazy_magpie.model import Answer, Item, Kind, State, Value
from lazy_magpie.model.steps import FilingRule, FolderValues
from lazy_magpie.paths import above
from lazy_magpie.planners.custom_fields import values_of
from lazy_magpie.step_codec.parts import encode_answer


def rule_of(shelf: Shelf) -> str:
    """Return what stands for a shelf's folder and naming: another one places things otherwise."""
    naming = shelf.naming
    templates = sorted((key, template.text) for key, template in naming.templates.items())
    rule = (shelf.folder, shelf.kind.value, templates, naming.specials, sorted(naming.sections.items()))
    return hashlib.blake2b(repr(rule).encode(), digest_size=8).hexdigest()


def by_rule(shelf: Shelf, kind: Kind, home: str = "", values: FolderValues | None = None) -> FilingRule:
    """Return the rule by which a file, or the whole thing at `home`, is placed on a shelf."""
    return FilingRule(rule_of(shelf), kind.value, home, values if home else None)


def archive_rule(settings: IntakeConfig) -> FilingRule:
    """Return the rule by which an archive is put where the configuration wants archives."""
    return FilingRule(_archives_rule(settings), Kind.ARCHIVE.value)


BY_HAND = FilingRule("by hand", Kind.UNKNOWN.value)
"""The rule of what a person has named or placed by hand: it is kept until it is freed."""


IN_INBOX = FilingRule("in the inbox", Kind.UNKNOWN.value)
"""The rule of what a person has put into the inbox: it stays there until it is settled, or freed."""


def is_by_hand(one: Placement) -> bool:
    """Say whether a person has named or placed something by hand."""
    return one.rule in (BY_HAND.rule, IN_INBOX.rule)


def _archives_rule(settings: IntakeConfig) -> str:
    return f"{settings.archives} {settings.aside if settings.archives == 'aside' else ''}".strip()


class Placed:
    """The placements that are in effect; `in_effect` are the numbers of the changes that are."""

    def __init__(self, catalogue: Catalogue, config: Config, in_effect: Collection_[int]) -> None:
        self.config = config
        self.in_effect = in_effect
        newest = {one.path: one for one in catalogue.placements.all() if one.change in in_effect}
        self._known = {path: one for path, one in newest.items() if one.rule}
        self._answer = catalogue.items.answer_of

    def at(self, path: str) -> Placement | None:
        """Return how a file was placed: itself, or with the thing whose folder it lies in; None where it was not."""
        if not self._known:
            return None
        return next((one for place in (path, *above(path)) if (one := self._known.get(place))), None)

    def is_kept(self, path: str) -> bool:
        """Say whether a person has named or placed a file by hand."""
        one = self.at(path)
        return one is not None and is_by_hand(one)

    def shelf_of(self, one: Placement) -> Shelf | None:
        """Return the shelf that something was placed on, or that its kind goes to now."""
        kind = Kind(one.kind)
        shelf = self.config.shelf_of(one.path)
        return shelf if shelf is not None and shelf.kind is kind else self.config.shelf_for(kind)

    def holds(self, one: Placement, item: Item) -> bool:
        """Say whether what was placed stays: its rule is today's, and no person has answered otherwise since."""
        if is_by_hand(one):
            return one.rule == BY_HAND.rule or self.is_as_answered(one, item)
        if one.kind == Kind.ARCHIVE:
            return one.rule == _archives_rule(self.config.intake)
        shelf = self.shelf_of(one)
        if shelf is None or rule_of(shelf) != one.rule or not self.is_as_answered(one, item):
            return False
        custom = self.custom_values(one, item)
        return custom == one.values.custom if one.values is not None else not custom

    def custom_values(self, one: Placement, item: Item) -> dict[str, Value]:
        """Return the values of custom fields that an item has now, those that its naming may use."""
        shelf = self.shelf_of(one)
        template = shelf.naming.templates.get(one.kind) if shelf else None
        used = template.fields() & self.config.fields.keys() if template else ()
        values = values_of(item, self.config.fields) if used else {}
        return {name: values[name] for name in used if name in values}

    def is_as_answered(self, one: Placement, item: Item) -> bool:
        """Say whether a person has said nothing else of an item than when it was placed."""
        return item.state is not State.SETTLED or answer_text(self._answer(item.id)) == one.answer


def answer_text(answer: Answer | None) -> str:
    return json.dumps(encode_answer(answer), sort_keys=True)
