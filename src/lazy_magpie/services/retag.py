"""Sets the tags of items: each answer is one change, which stands in the history and can be undone."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from lazy_magpie.catalogue import AnyOf, Below, Catalogue
from lazy_magpie.change import Outcome, RunControl
from lazy_magpie.collection import Collection
from lazy_magpie.model import Item, Kind, Plan, StepKind
from lazy_magpie.model.steps import renumbered
from lazy_magpie.paths import is_below
from lazy_magpie.planners.tagging import checked, set_tags_step, with_carried_tags
from lazy_magpie.services.execute import apply
from lazy_magpie.services.journals import journal_store


def retag(
    collection: Collection,
    catalogue: Catalogue,
    items: Sequence[Item],
    turn: Callable[[set[str]], set[str]],
    command: str,
) -> Outcome | None:
    """Change the tags of items by `turn`, as one change; return None where none changes."""
    wanted = [(item, turn(set(item.tags))) for item in items]
    steps = [set_tags_step(item, new) for item, new in wanted if new != set(item.tags)]
    if not steps:
        return None
    every = with_carried_tags(steps, collection.config, journal_store(collection).disk)
    return apply(collection, catalogue, Plan(command, renumbered(every)), RunControl())


def tag_new(collection: Collection, catalogue: Catalogue, plan: Plan, tag: str) -> Outcome | None:
    """Put a tag on what a plan has brought in, as a change of its own; None where there is nothing to tag."""
    came = {step.target for step in plan.steps if step.kind in (StepKind.UNPACK, StepKind.MOVE, StepKind.COPY)}
    inbox = collection.config.inbox
    conditions = tuple(Below(path) for path in sorted(came) if not is_below(path, inbox))
    if not conditions:
        return None
    archive = (Kind.ARCHIVE, Kind.JUNK, Kind.COMPANION)
    items = [item for item in catalogue.items.ask(AnyOf(conditions)) if item.kind not in archive]
    return retag(collection, catalogue, items, lambda old: old | {checked(tag)}, "tag put")
