"""A folder tree as it will be once the moves of a plan are done: where things are then, and what is in a folder."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import replace

from lazy_magpie.model import Item, Plan, Step
from lazy_magpie.model.steps import Hold, Move
from lazy_magpie.paths import above, is_below, join, name_of, parent
from lazy_magpie.planners.directory_index import Listing
from lazy_magpie.planners.step_order import ordered_steps, without_directories


class AfterMoves:
    """What will be where, once steps are done; `listing` has what is there now."""

    def __init__(self, steps: Iterable[Step], listing: Listing) -> None:
        self._listing = listing
        came: dict[str, str] = {}  # where something will be: where it was
        self._gone: dict[str, set[str]] = defaultdict(set)
        for step in steps:
            if isinstance(step, Move):
                if step.stamp is not None and step.stamp.is_folder:
                    came = {_moved(path, step): was for path, was in came.items()}
                came[step.target] = came.pop(step.source, step.source)
            elif isinstance(step, Hold):
                self._gone[parent(step.source)].add(name_of(step.source))
        self._will_be = {was: path for path, was in came.items()}
        self._was = came
        self._came: dict[str, set[str]] = defaultdict(set)
        for path, was in came.items():
            self._gone[parent(was)].add(name_of(was))
            self._came[parent(path)].add(name_of(path))

    def path(self, path: str) -> str:
        """Return where what is at a path now will be."""
        return _carried(path, self._will_be)

    def was(self, path: str) -> str:
        """Return where what will be at a path is now."""
        return _carried(path, self._was)

    def listing(self, folder: str) -> frozenset[str]:
        """Return the names that will be in a folder."""
        was = self.was(folder)
        return (self._listing(was) - self._gone.get(was, set())) | self._came.get(folder, set())

    def item(self, item: Item) -> Item:
        """Return an item as it will lie."""
        files = tuple(replace(file, path=self.path(file.path)) for file in item.files)
        return replace(item, path=self.path(item.path), files=files)


def _moved(path: str, step: Step) -> str:
    return step.target + path[len(step.source) :] if is_below(path, step.source) else path


def _carried(path: str, moves: dict[str, str]) -> str:
    """Return a path once it, or the innermost folder above it that moves, has moved."""
    for top in (path, *above(path)):
        if top in moves:
            return join(moves[top], path[len(top) + 1 :]) if top != path else moves[top]
    return path


def joined(plan: Plan, more: Plan, listing: Listing, keep: Iterable[str]) -> Plan:
    """Return a plan with the steps of another that was made for what is there after it; `keep` stays where empty."""
    steps = without_directories(plan.steps)
    coming = {step.target: number for number, step in enumerate(steps) if isinstance(step, Move)}
    for step in without_directories(more.steps):
        at = coming.get(step.source) if isinstance(step, Move) else None
        if at is None:
            steps.append(step)
        else:
            steps[at] = replace(steps[at], target=step.target)
    return replace(plan, steps=ordered_steps(steps, listing, keep), unmoved=(*plan.unmoved, *more.unmoved))
