"""Tags, custom fields and answers: they change no file's contents, and the catalogue follows them afterwards."""

from __future__ import annotations

import dataclasses
from collections.abc import Mapping

from lazy_magpie.change.actions.base import Action, StepT
from lazy_magpie.change.codec import was_record
from lazy_magpie.change.journal_state import DONE, StepResult
from lazy_magpie.change.run_context import RunContext
from lazy_magpie.model import Step
from lazy_magpie.model.steps import FreePlace, LeaveFindings, SetField, SetTags, Settle, SettleFolder


def _set_tags(context: RunContext, step: SetTags) -> StepResult:
    """Write the item's tags to the file; tags that were set elsewhere stay.

    A file that is not what was seen, or on a drive without attributes, carries none. Where a step takes another back,
    and the file still carries what that one has put there, it carries what it did before, to the byte.
    """
    status = context.disk.status(step.source) if step.stamp else None
    carried = context.disk.tags(step.source) if status and context.matches(status, step.stamp) else None
    if carried is None or step.untouched:
        return DONE
    before = context.disk.raw_tags(step.source)
    if step.number in context.was:  # a crash may have come between putting them and noting that
        before = context.was[step.number]
    else:
        context.note(was_record(step.number, before))
    if step.raw is not None and before == step.raw[1]:
        context.disk.put_raw_tags(step.source, step.raw[0])
    else:
        after = [tag for tag in carried if tag in step.new or tag not in step.old]
        after += [tag for tag in step.new if tag not in step.old and tag not in after]
        if after != list(carried):
            context.disk.put_tags(step.source, after)
    return StepResult(raw=(before, context.disk.raw_tags(step.source)))


def _inverse_of_tags(step: SetTags, result: StepResult) -> Step:
    """Return the step with old and new exchanged; a file that never got the tags must not lose them."""
    untouched = result.raw is None and not step.untouched
    return dataclasses.replace(_plain(step), old=step.new, new=step.old, untouched=untouched, raw=result.raw)


def _note(context: RunContext, step: SetField | Settle | SettleFolder | LeaveFindings | FreePlace) -> StepResult:
    """Give an answer its place in history; whoever applies the change keeps it."""
    return DONE


def _exchanged(step: SetField | Settle | SettleFolder | LeaveFindings, result: StepResult) -> Step:
    return dataclasses.replace(_plain(step), old=step.new, new=step.old)  # type: ignore[arg-type]


def _inverse_of_free(step: FreePlace, result: StepResult) -> Step:
    return dataclasses.replace(_plain(step), kept=not step.kept)


def _plain(step: StepT) -> StepT:
    """Return a step without its reason and group, as steps that take others back have none."""
    return dataclasses.replace(step, why="", group="", bundle=0)


ACTIONS: Mapping[type[Step], object] = {
    SetTags: Action(_set_tags, _set_tags, _inverse_of_tags),
    **dict.fromkeys((SetField, Settle, SettleFolder, LeaveFindings), Action(_note, _note, _exchanged)),
    FreePlace: Action(_note, _note, _inverse_of_free),
}
