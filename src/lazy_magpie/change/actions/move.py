"""Moving: within a drive by a rename, to another drive by a compared copy."""

from __future__ import annotations

import dataclasses
import errno
from collections.abc import Mapping

from lazy_magpie.change import verified_copy
from lazy_magpie.change.actions.base import Action, copy_into_place, made_result, unchanged_file
from lazy_magpie.change.failpoints import failpoint
from lazy_magpie.change.journal_state import DONE, StepResult
from lazy_magpie.change.run_context import RunContext, Skip, Stuck, differs_in_case_only
from lazy_magpie.model import Step
from lazy_magpie.model.steps import Move, Restore
from lazy_magpie.paths import name_of, parent, same_name, written


def move(context: RunContext, step: Step) -> StepResult:
    """Move a file or folder; what is not what the plan saw stays."""
    found = context.checked(step.source, step.stamp)
    failpoint("step-checked")
    try:
        context.rename(step.source, step.target)
    except FileExistsError:
        return _rename_in_case(context, step)
    except OSError as error:
        if error.errno != errno.EXDEV:
            raise
        return _move_between(context, step)
    return StepResult(is_folder=found.is_folder)


def _rename_in_case(context: RunContext, step: Step) -> StepResult:
    """Rename where only case or accents differ and the disk takes both for one name: by our own folder."""
    source = context.disk.status(step.source)
    if not differs_in_case_only(step) or len(_spellings(context, step)) != 1:
        raise Skip("something of that name is there now")
    aside = context.new_work_path(step)
    context.rename(step.source, aside)
    failpoint("aside")
    context.rename_or_back(aside, step.target, aside, step.source)
    return StepResult(is_folder=source is not None and source.is_folder)


def _spellings(context: RunContext, step: Step) -> list[str]:
    """Return the names in a folder that differ in case and accents alone from that of a step's destination.

    A drive that ignores case finds one file under all of its spellings, but lists only one of them.
    """
    key = same_name(name_of(step.target))
    return [name for name in context.disk.names(parent(step.target)) if same_name(name) == key]


def _move_between(context: RunContext, step: Step) -> StepResult:
    """Move to another drive: a compared copy put into place, then the source held."""
    context.check_holdable(step.source)
    copied = copy_into_place(context, step)
    context.sync()  # also the folders above, which may be new: the copy must last before its source goes
    try:
        held = context.hold(step.source, "moved to another drive")
    except (OSError, Skip):
        _withdraw_copy(context, step)
        raise
    failpoint("source-held")
    return dataclasses.replace(copied, held=held)


def _withdraw_copy(context: RunContext, step: Step) -> None:
    """Take the copy away again whose source could not be held. Raises Stuck where it is not a copy any more."""
    made = context.new_work_path(step)
    context.back_or_stuck(step.target, made)
    if not verified_copy.contents_equal(context, made, step.source):
        context.back_or_stuck(made, step.target)
        raise Stuck(f"“{written(step.target)}” is a copy of “{written(step.source)}” that has changed since")
    verified_copy.remove_made(context, made)


def recover_move(context: RunContext, step: Step) -> StepResult | None:
    """After a crash: finish a move, or take back what was done of it."""
    if differs_in_case_only(step) and (is_done := _recover_case_change(context, step)) is not None:
        return DONE if is_done else None
    source, is_source = context.disk.status(step.source), context.is_there(step.source, step.stamp)
    verified_copy.clear_work(context, step, is_elsewhere=is_source)
    if source is None or not is_source:
        return _without_source(context, step)
    target = context.disk.status(step.target)
    if target is None:
        return None
    if source.file_id == target.file_id:  # linked, not yet unlinked: the old name goes
        if not source.is_folder and source.links > 1 and not differs_in_case_only(step):
            context.drop_second_name(step.source, step, step.target)
            return DONE
        return None
    if source.device != target.device and verified_copy.contents_equal(context, step.source, step.target):
        held = context.hold(step.source, "moved to another drive")
        return dataclasses.replace(made_result(context, step.target), held=held)
    return None


def _recover_case_change(context: RunContext, step: Step) -> bool | None:
    """Recover a move in which only case differs: say whether it is done, None for a move like any other.

    The file itself may lie in our own folder, whatever its time is read as now: it gets the name that it was to have,
    or its old one, or is held.
    """
    aside = context.work_path(step)
    if context.disk.status(aside) is None:
        if context.disk.status(step.source) and context.disk.status(step.target):
            spellings = _spellings(context, step)
            if len(spellings) == 1:  # one file under both names
                return spellings == [name_of(step.target)]
        return None
    for name in (step.target, step.source):
        if context.disk.status(name) is None:
            context.rename(aside, name)
            return name == step.target
    held = context.keep_work(aside, step)
    raise Skip(f"both names were taken meanwhile; it is kept at “{written(held)}”")


def _without_source(context: RunContext, step: Step) -> StepResult | None:
    """Say whether what is not in its old place any more was moved; bring it back where the move did not last."""
    target, held = context.disk.status(step.target), context.found_held(step.source)
    status = context.held_status(step.source)
    if status is None or not context.matches(status, step.stamp):
        if target and context.matches(target, step.stamp):
            return StepResult(is_folder=target.is_folder)
        return None
    if target and verified_copy.contents_equal(context, held, step.target):
        return dataclasses.replace(made_result(context, step.target), held=held)
    context.make_folders(parent(step.source))  # the copy did not last: what was held comes back
    context.rename(held, step.source)
    return None


def inverse_of_move(step: Step, result: StepResult) -> Step:
    """Return the step that takes a move back."""
    stamp = unchanged_file(step.stamp)
    if not result.held:
        return Move(source=step.target, target=step.source, stamp=stamp)
    assert result.made is not None
    return Restore(
        source=result.held, target=step.source, stamp=stamp, instead=step.target, made=result.made, tree=result.tree
    )


ACTIONS: Mapping[type[Step], object] = {Move: Action(move, recover_move, inverse_of_move)}
