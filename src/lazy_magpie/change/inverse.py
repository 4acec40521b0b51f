"""The steps that turn a change round: undo what of it is in effect, redo what is not."""

from __future__ import annotations

import dataclasses
from collections.abc import Iterable

from lazy_magpie.change.actions.registry import action_for
from lazy_magpie.change.effects import Effect
from lazy_magpie.model import Step
from lazy_magpie.model.steps import MakeFolder


def undo_steps(found: dict[int, Effect]) -> list[Step]:
    """Return the steps that take back all that is in effect, last first."""
    return _numbered((effect.planned, _inverse_of(effect)) for effect in reversed(found.values()) if effect.forward)


def redo_steps(found: dict[int, Effect]) -> list[Step]:
    """Return the steps that do again what was taken back, and do what was never done."""
    return _numbered(
        (effect.planned, effect.planned if effect.last is None else _inverse_of(effect))
        for effect in found.values()
        if not effect.forward
    )


def _inverse_of(effect: Effect) -> Step | None:
    """Return the step that turns round what was last done for a planned step, None where there is nothing to turn."""
    if effect.last is None:
        return None
    step, result = effect.last
    return action_for(step).inverse(step, result)


def _numbered(steps: Iterable[tuple[Step, Step | None]]) -> list[Step]:
    """Return steps numbered from 1, each with the item, bundle and number of the planned step that it turns.

    A folder that one of them makes anew is not the one that a later one has seen.
    """
    found: list[Step] = []
    made: set[str] = set()
    for planned, step in steps:
        if step is None:
            continue
        stamp = step.stamp
        if isinstance(step, MakeFolder):
            made.add(step.target)
        elif stamp and stamp.is_folder and step.source in made:
            stamp = None
        found.append(
            dataclasses.replace(
                step,
                number=len(found) + 1,
                item=planned.item,
                bundle=planned.bundle,
                turns=planned.number,
                stamp=stamp,
            )
        )
    return found
