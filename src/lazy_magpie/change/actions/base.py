"""What an action is, by which steps of one type are done, recovered and taken back, and what the actions share."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Generic, TypeVar

from lazy_magpie.change import verified_copy
from lazy_magpie.change.codec import placing_record
from lazy_magpie.change.failpoints import failpoint
from lazy_magpie.change.journal_state import StepResult
from lazy_magpie.change.run_context import RunContext, Skip
from lazy_magpie.model import FileStamp, Step
from lazy_magpie.paths import parent

StepT = TypeVar("StepT", bound=Step)


@dataclass(frozen=True, slots=True)
class Action(Generic[StepT]):
    """How steps of one type are done, recovered and taken back.

    `act` does the step and returns what taking it back needs to know; `recover` looks at the disk after a crash,
    finishes what was half done or cleans it up, and says whether the step is done (what `act` would have returned) or
    not (None); `inverse` gives the one step that takes it back, None where there is nothing to take back. It is one
    step, so that it is done whole or not at all.
    """

    act: Callable[[RunContext, StepT], StepResult]
    recover: Callable[[RunContext, StepT], StepResult | None]
    inverse: Callable[[StepT, StepResult], Step | None]


def unchanged_file(stamp: FileStamp | None) -> FileStamp | None:
    """Return how a thing must look when a step is taken back: a folder may have been made anew meanwhile."""
    return None if stamp is None or stamp.is_folder else stamp


def put_in_place(context: RunContext, step: Step, make: Callable[[str], None]) -> StepResult:
    """Make something in our own folder, then give it its name; return how it looks.

    What `make` has made is taken away again where anything goes wrong, and nothing is ever replaced. The journal knows
    how it looks before it has its name.
    """
    if context.disk.status(step.target):
        raise Skip("something of that name is there now")
    made = context.new_work_path(step)
    try:
        make(made)
        result = made_result(context, made)
        context.note(placing_record(step.number, result))
        failpoint("placing")
        context.rename(made, step.target)
    except BaseException:
        verified_copy.remove_made(context, made)
        raise
    context.touched.add(parent(made))
    return result


def copy_into_place(context: RunContext, step: Step) -> StepResult:
    """Copy a step's source to its destination, compared; its name lasts once the context is synced."""
    result = put_in_place(context, step, lambda made: verified_copy.copy_verified(context, step.source, made))
    failpoint("copy-in-place")
    return result


def made_result(context: RunContext, path: str) -> StepResult:
    """Return how what was just made looks; of a folder also all that is in it."""
    status = context.disk.status(path)
    if status is None:
        raise Skip("it vanished as soon as it was made")
    is_tree = status.is_folder and not status.is_link
    return StepResult(made=status.stamp, tree=verified_copy.tree_digest(context, path) if is_tree else None)
