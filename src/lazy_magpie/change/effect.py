"""What of a change is in effect now, told from its journal, and the steps that would turn it round."""

from __future__ import annotations

import dataclasses
from collections.abc import Iterator

from lazy_magpie.change.journal import Record, Told
from lazy_magpie.change.sorts import SORTS
from lazy_magpie.model import Step


@dataclasses.dataclass
class Effect:
    """One step of a change as it was planned, what was last done for it, and whether it is in effect."""

    planned: Step
    last: list[tuple[Step, Record]] = dataclasses.field(default_factory=list)
    forward: bool = False


def effects(told: Told) -> dict[int, Effect]:
    """Return the effect of each planned step by its number, in the order of the plan."""
    if not told.runs:
        return {}
    found = {number: Effect(step) for number, step in told.runs[0].steps.items()}
    for index, run in enumerate(told.runs):
        acted: dict[int, list[tuple[Step, Record]]] = {}
        for number, info in run.done.items():
            step = run.steps[number]
            of = number if index == 0 else int(step.data["of"])
            acted.setdefault(of, []).append((step, info))
        for of, last in acted.items():
            found[of].last = last
            found[of].forward = run.sort != "undo"
    return found


def turned(effect: Effect) -> Iterator[Step]:
    """Yield the steps that turn round what was last done for a planned step."""
    of = effect.planned.number
    for step, info in reversed(effect.last):
        for inverse in SORTS[step.do].inverse(step, info):
            yield dataclasses.replace(inverse, item=effect.planned.item, data={**inverse.data, "of": of})


def backwards(found: dict[int, Effect]) -> list[Step]:
    """Return the steps that take back all that is in effect, last first."""
    steps = [step for effect in reversed(found.values()) if effect.forward for step in turned(effect)]
    return _numbered(steps)


def forwards(found: dict[int, Effect]) -> list[Step]:
    """Return the steps that do again what was taken back, and do what was never done."""
    steps: list[Step] = []
    for effect in found.values():
        if effect.forward:
            continue
        if effect.last:
            steps += turned(effect)
        else:
            planned = effect.planned
            steps.append(dataclasses.replace(planned, data={**planned.data, "of": planned.number}))
    return _numbered(steps)


def _numbered(steps: list[Step]) -> list[Step]:
    return [dataclasses.replace(step, number=number) for number, step in enumerate(steps, start=1)]
