"""The JSON shapes that several commands share."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from typing import TYPE_CHECKING, Any

from lazy_magpie.model import File, Identity, Item, Value, id_text
from lazy_magpie.paths import written

if TYPE_CHECKING:  # what only plans need is not loaded for a list
    from lazy_magpie.change import Outcome
    from lazy_magpie.model import Plan, Step


def item_shape(item: Item, away: Collection[str] = ()) -> dict[str, Any]:
    """Return an item as `find --json` prints it; `away` are the roots that are not there."""
    return {
        "id": id_text(item.id),
        "kind": item.kind.value,
        "state": item.state.value,
        "path": written(item.path),
        "fields": values_shape(item.fields),
        "facts": values_shape(item.facts),
        "tags": list(item.tags),
        "own": values_shape(item.custom),
        "files": [_file_shape(file) for file in item.files],
        "root": item.root,
        "away": item.root in away,
        "missing": item.missing,
    }


def _file_shape(file: File) -> dict[str, Any]:
    part = {"part": file.part} if file.part else {}
    return {"path": written(file.path), "size": max(file.size, 0), "role": file.role, **part}


def values_shape(values: Mapping[str, Value]) -> dict[str, Value]:
    """Return fields or facts with their texts in the written form."""
    return {key: written(value) if isinstance(value, str) else value for key, value in values.items()}


def why_shape(identity: Identity) -> list[dict[str, Value]]:
    """Return the evidence for an identity."""
    return [
        {
            "field": evidence.field,
            "value": written(evidence.value) if isinstance(evidence.value, str) else evidence.value,
            "source": evidence.source,
            "text": written(evidence.text),
        }
        for evidence in identity.why
    ]


def identity_shape(path: str, identity: Identity) -> dict[str, Any]:
    """Return an identity as `explain --json` prints it: what the name claims stands among the fields."""
    return {
        "path": written(path),
        "kind": identity.kind.value,
        "state": identity.state.value,
        "confidence": identity.confidence,
        "fields": values_shape({**identity.facts, **identity.fields}),
        "why": why_shape(identity),
        "doubts": [written(doubt) for doubt in identity.doubts],
    }


def step_shape(step: Step) -> dict[str, Any]:
    """Return a step as a plan's JSON has it."""
    return {
        "step": step.number,
        "do": step.kind.value,
        "from": written(step.source),
        "to": written(step.target),
        "why": step.why,
        "group": written(step.group),
    }


def plan_shape(plan: Plan) -> dict[str, Any]:
    """Return a plan as every proposing command prints it; its lists are made only as they are printed."""
    return {
        "plan": plan.number or None,
        "steps": map(step_shape, plan.steps),
        "conflicts": (
            {"to": written(c.target), "items": [written(item) for item in c.items], "why": c.why}
            for c in plan.conflicts
        ),
        "left": ({"path": written(left.path), "why": left.why} for left in plan.unmoved),
        "passed": dict(plan.passed),
    }


def outcome_shape(outcome: Outcome) -> Mapping[str, Any]:
    """Return what `apply`, `undo` and `redo` print."""
    return {
        "change": outcome.change,
        "done": outcome.done,
        "skipped": [{"from": path, "why": why} for path, why in outcome.skipped],
        "failed": [{"from": path, "why": why} for path, why in outcome.failed],
        "unrestored": [{"path": path, "what": what} for path, what in outcome.unrestored],
        "not_reached": outcome.not_reached,
    }
