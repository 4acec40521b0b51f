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
    last: list[tuple[Step, Record]] = dataclasses.field(default_factory=list)
    forward: bool = False


def effects(told: Told) -> dict[int, Effect]:
    """Return the effect of each planned step by its number, in the order of the plan."""
    if not told.runs:
        return {}
    found = {number: Effect(step) for number, step in told.runs[0].steps.items()}
    for index, run in enumerate(told.runs):
        forward = run.sort != "undo"
        acted: set[int] = set()
        for number, info in run.done.items():
            step = run.steps.get(number)
            of = number if index == 0 or step is None else int(step.data["of"])
            effect = found.get(of)
            if step is None or effect is None:  # its record was damaged
                continue
            if of not in acted:
                acted.add(of)
                effect.last = []
                effect.forward = forward
            effect.last.append((step, info))
    return found


def notes(told: Told) -> Iterator[Step]:
    """Yield the answers and tags of a change as they are in effect now: taken back ones with old and new turned."""
    for effect in effects(told).values():
        if effect.planned.do in (Do.SETTLE, Do.TAG) and effect.last:
            yield dataclasses.replace(effect.last[-1][0], item=effect.planned.item)


def turned(effect: Effect) -> Iterator[Step]:
    """Yield the steps that turn round what was last done for a planned step."""
    of, item = effect.planned.number, effect.planned.item
    for step, info in reversed(effect.last):
        for inverse in SORTS[step.do].inverse(step, info):
            data = {**inverse.data, "of": of} if inverse.data else {"of": of}
            yield Step(0, inverse.do, inverse.source, inverse.target, "", "", item, inverse.seen, data)


def backwards(found: dict[int, Effect]) -> list[Step]:
    """Return the steps that take back all that is in effect, last first."""
    return _numbered(step for effect in reversed(found.values()) if effect.forward for step in turned(effect))


def forwards(found: dict[int, Effect]) -> list[Step]:
    """Return the steps that do again what was taken back, and do what was never done."""
    return _numbered(step for effect in found.values() if not effect.forward for step in _again(effect))


def _again(effect: Effect) -> Iterator[Step]:
    if effect.last:
        yield from turned(effect)
    else:
        planned = effect.planned
        yield dataclasses.replace(planned, data={**planned.data, "of": planned.number})


def _numbered(steps: Iterable[Step]) -> list[Step]:
    """Return steps numbered from 1; a folder that one of them makes anew is not the one that a later one has seen."""
    found: list[Step] = []
    made: set[str] = set()
    for number, step in enumerate(steps, start=1):
        if step.do is Do.MAKE:
            made.add(step.target)
        elif step.seen and step.seen.is_folder and step.source in made:
            step = dataclasses.replace(step, seen=None)
        found.append(step.numbered(number))
    return found
