"""What of a change is in effect now, told from its journal."""

from __future__ import annotations

import dataclasses
from collections.abc import Iterator

from lazy_magpie.change.journal_state import JournalState, StepResult
from lazy_magpie.model import Step
from lazy_magpie.model.steps import LeaveFindings, SetField, SetTags, Settle, SettleFolder


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
