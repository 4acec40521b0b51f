"""Leaves out of a plan, as it is shown, names that only pass: under which things lie until their own are free."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import replace

from lazy_magpie.collection import PICTURES_DIR
from lazy_magpie.model import Step
from lazy_magpie.model.steps import Copy, Move, Pack, Replace, Unpack, Write
from lazy_magpie.paths import above, is_below, name_of, on_target

_PASSING = (".magpie-list-", ".magpie-unpack-")


def without_passing(steps: Iterable[Step]) -> Iterator[Step]:
    """Yield steps as a person thinks of them: from where something comes to where it is in the end."""
    made: dict[str, Step] = {}
    waiting = [_as_named(step) for step in steps]
    finished = {step.source for step in waiting if isinstance(step, Move | Replace)}
    ends = finished.union(*(above(path) for path in finished if _passes(path)))
    for step in waiting:
        if isinstance(step, Pack | Copy | Unpack) and _passes(step.target) and step.target in ends:
            made[step.target] = step
            continue
        if isinstance(step, Move) and is_below(step.source, PICTURES_DIR):
            yield Write(target=step.target, why=step.why, group=step.group, text="")
            continue
        maker = _maker(step, made)
        if isinstance(maker, Unpack):
            yield Unpack(source=maker.source, target=step.target, why=step.why, group=step.group, bundle=step.bundle)
        elif maker is not None:
            why = step.why if isinstance(step, Replace) else maker.why
            yield replace(maker, target=step.target, why=why)
        else:
            yield step


def _as_named(step: Step) -> Step:
    """Return a step with the paths on targets as a person names them: card:Games/one.gb."""
    source, target = named_on_target(step.source), named_on_target(step.target)
    return step if (source, target) == (step.source, step.target) else replace(step, source=source, target=target)


def named_on_target(path: str) -> str:
    """Return a path as a person names it, also where it is one on a target."""
    there = on_target(path)
    return f"{there[0]}:{there[1]}" if there else path


def _maker(step: Step, made: dict[str, Step]) -> Step | None:
    """Return the step that made what this one gives its name."""
    if not made or not isinstance(step, Move | Replace):
        return None
    return made.get(step.source) or next((made[folder] for folder in above(step.source) if folder in made), None)


def _passes(path: str) -> bool:
    return any(name_of(part).startswith(_PASSING) for part in (path, *above(path)))
