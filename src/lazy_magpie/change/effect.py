"""What of a change is in effect now, told from its journal, and the steps that would turn it round."""

from __future__ import annotations

import dataclasses
from collections.abc import Iterable, Iterator

from lazy_magpie.change.journal import Record, Told
from lazy_magpie.change.sorts import SORTS
from lazy_magpie.model import Do, Step


@dataclasses.dataclass
class Effect:
    """One step of a change as it was planned, what was last done for it, and whether it is in effect."""

    planned: Step
    last: tuple[Step, Record] | None = None
    forward: bool = False


def effects(told: Told) -> dict[int, Effect]:
    """Return the effect of each planned step by its number, in the order of the plan."""
    if not told.runs:
        return {}
    found = {number: Effect(step) for number, step in told.runs[0].steps.items()}
    for index, run in enumerate(told.runs):
        for number, info in run.done.items():
            step = run.steps.get(number)
            of = number if index == 0 or step is None else int(step.data["of"])
            effect = found.get(of)
            if step is None or effect is None:  # its record was damaged
                continue
            effect.last = (step, info)
            effect.forward = run.sort != "undo"
    return found


def notes(told: Told) -> Iterator[Step]:
    """Yield the answers and tags of a change as they are in effect now: taken back ones with old and new turned."""
    for effect in effects(told).values():
        if effect.planned.do in (Do.SETTLE, Do.TAG) and effect.last:
            yield dataclasses.replace(effect.last[0], item=effect.planned.item)


def _turned(effect: Effect) -> Step | None:
    """Return the step that turns round what was last done for a planned step, None where there is nothing to turn."""
    if effect.last is None:
        return None
    step, info = effect.last
    inverse = SORTS[step.do].inverse(step, info)
    if inverse is None:
        return None
    data = {**inverse.data, "of": effect.planned.number}
    return dataclasses.replace(inverse, item=effect.planned.item, data=data)


def backwards(found: dict[int, Effect]) -> list[Step]:
    """Return the steps that take back all that is in effect, last first."""
    return _numbered(_turned(effect) for effect in reversed(found.values()) if effect.forward)


def forwards(found: dict[int, Effect]) -> list[Step]:
    """Return the steps that do again what was taken back, and do what was never done."""
    return _numbered(_again(effect) for effect in found.values() if not effect.forward)


def _again(effect: Effect) -> Step | None:
    if effect.last is not None:
        return _turned(effect)
    planned = effect.planned
    return dataclasses.replace(planned, data={**planned.data, "of": planned.number})


def _numbered(steps: Iterable[Step | None]) -> list[Step]:
    """Return steps numbered from 1; a folder that one of them makes anew is not the one that a later one has seen."""
    found: list[Step] = []
    made: set[str] = set()
    for number, step in enumerate(filter(None, steps), start=1):
        if step.do is Do.MAKE:
            made.add(step.target)
        elif step.seen and step.seen.is_folder and step.source in made:
            step = dataclasses.replace(step, seen=None)
        found.append(step.numbered(number))
    return found
