"""What of a change is in effect now, told from its journal, and the steps that would turn it round."""

from __future__ import annotations

import dataclasses
from collections.abc import Iterable, Iterator

from lazy_magpie.change.actions.registry import action_for
from lazy_magpie.change.journal_state import JournalState, StepResult
from lazy_magpie.model import Step
from lazy_magpie.model.steps import LeaveFindings, MakeFolder, SetField, SetTags, Settle, SettleFolder


@dataclasses.dataclass
class Effect:
    """One step of a change as it was planned, what was last done for it, and whether it is in effect."""

    planned: Step
    last: tuple[Step, StepResult] | None = None
    forward: bool = False


def effects(state: JournalState) -> dict[int, Effect]:
    """Return the effect of each planned step by its number, in the order of the plan."""
    if not state.runs:
        return {}
    found = {number: Effect(step) for number, step in state.runs[0].steps.items()}
    for index, run in enumerate(state.runs):
        for number, result in run.done.items():
            step = run.steps.get(number)
            of = number if index == 0 or step is None else step.turns
            effect = found.get(of)
            if step is None or effect is None:  # its record was damaged
                continue
            effect.last = (step, result)
            effect.forward = run.kind != "undo"
    return found


def notes(state: JournalState) -> Iterator[Step]:
    """Yield the answers and tags of a change as they are in effect now: taken back ones with old and new turned."""
    for effect in effects(state).values():
        if isinstance(effect.planned, SetTags | SetField | Settle | SettleFolder | LeaveFindings) and effect.last:
            yield dataclasses.replace(effect.last[0], item=effect.planned.item)


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
