"""Does the steps of a run, batch by batch: announced in the journal, done, synced, noted."""

from __future__ import annotations

import datetime
import errno
import getpass
import socket
from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from typing import NamedTuple

from lazy_magpie import __version__
from lazy_magpie.change.actions import convert
from lazy_magpie.change.actions.registry import action_for
from lazy_magpie.change.batches import batches, names_of
from lazy_magpie.change.codec import did_record, folders_record, go_record, ready_record, run_record, step_record
from lazy_magpie.change.failpoints import failpoint
from lazy_magpie.change.filesystem.access import Filesystem
from lazy_magpie.change.journal import Writer
from lazy_magpie.change.journal_state import StepResult
from lazy_magpie.change.journal_store import JOURNALS, JournalStore
from lazy_magpie.change.outcome import Outcome, report_step, state_after
from lazy_magpie.change.records import ChangeHead, RunEnd, end_record, head_record
from lazy_magpie.change.run_context import DamagedArchive, RunContext, Skip, Stuck
from lazy_magpie.change.state_folders import STATE_DIR, WORK
from lazy_magpie.errors import MagpieError
from lazy_magpie.model import FolderAttributes, Step
from lazy_magpie.model.steps import (
    Convert,
    DropFolder,
    Unpack,
)
from lazy_magpie.paths import join, parent, written

BATCH = 512
"""The most steps between two syncs."""
_HOPELESS = (errno.ENOSPC, errno.EDQUOT, errno.EROFS)
"""Errors after which no further step can succeed either."""


@dataclass(frozen=True)
class RunControl:
    """What the caller wants to hear of a run, and how it stops it between two steps.

    `noted` hears what was done so far, all of which the disk and the journal will keep.
    """

    progress: Callable[[int], None] = lambda done: None
    stop: Callable[[], bool] = lambda: False
    noted: Callable[[Outcome], None] = lambda outcome: None


SILENT = RunControl()


def new_change(store: JournalStore, command: str, plan: int) -> int:
    """Begin a journal for a new change and return its number."""
    number = max([0, *store.changes()]) + 1
    who = f"{getpass.getuser()}@{socket.gethostname()}"
    head = ChangeHead(number, command, plan, now(), who, __version__)
    try:
        writer = Writer(store.disk, store.journal(number))
        for _ in range(2):  # so that one damage does not hide what it is
            writer.write(head_record(head))
        writer.close()
    except OSError as error:
        raise _unwritable(store, error) from error
    return number


class NewRun(NamedTuple):
    """A run to be done: apply, undo or redo; its number in its change, from 1.

    `drives` are those that were mounted when the steps were planned ({folder: id}), None where that is not known.
    """

    kind: str
    number: int
    drives: Mapping[str, str] | None = None


def run_steps(
    store: JournalStore,
    change: int,
    run: NewRun,
    steps: Sequence[Step],
    control: RunControl,
) -> Outcome:
    """Do `steps` in order as one run of `change` and return what became of them.

    Raises MagpieError where the journal itself can't be written; nothing has then been done that it does not tell.
    """
    outcome = Outcome(change, not_reached=len(steps))
    try:
        writer = Writer(store.disk, store.journal(change))
        try:
            context = RunContext(
                store.disk,
                change,
                run.number,
                *_folders(store.disk, steps),
                planned=run.drives,
                note=writer.note,
                stop=control.stop,
            )
            writer.write(run_record(run.kind, now(), context.areas.drives))
            for step in steps:
                writer.write(step_record(step))
            writer.write(folders_record(context.folders, context.attributes))
            writer.write(ready_record(run.kind, len(steps)))
            failpoint("steps-written")
            stopped = _batches(context, writer, steps, outcome, control)
            if not outcome.stuck:
                end_run(context, writer, store.head(change), outcome, state_after(run.kind, outcome, stopped=stopped))
        finally:
            writer.close()
    except OSError as error:
        raise _unwritable(store, error) from error
    return outcome


def _batches(context: RunContext, writer: Writer, steps: Sequence[Step], outcome: Outcome, control: RunControl) -> bool:
    """Go through the steps in batches; say whether the run was stopped before its end."""
    lost = _LostSets()
    reached = 0
    for batch in batches(steps, BATCH):
        if control.stop():
            return True
        reached += len(batch)
        writer.write(go_record(batch[0].number, batch[-1].number))
        writer.sync()
        failpoint("batch-announced")
        done: list[tuple[int, StepResult]] = []
        stopped = False
        convert.start(context, batch)
        for step in batch:
            stopped = control.stop() or bool(outcome.why_stopped)
            if stopped:
                break
            if (result := _do_step(context, step, outcome, lost)) is not None:
                done.append((step.number, result))
            failpoint("step-done")
            if isinstance(step, Convert):  # which takes long
                control.progress(outcome.done + len(outcome.skipped) + len(outcome.failed))
        convert.abandon(context)
        context.sync()
        failpoint("batch-done")
        if outcome.stuck:  # the batch stays open: recovery looks at each of its steps
            return True
        writer.write(did_record(done))
        failpoint("batch-noted")
        control.noted(outcome)
        outcome.not_reached = len(steps) - reached
        control.progress(outcome.done + len(outcome.skipped) + len(outcome.failed))
        if stopped or outcome.why_stopped:
            outcome.not_reached = len(steps) - outcome.done - len(outcome.skipped) - len(outcome.failed)
            return True
    return False


@dataclass
class _LostSets:
    """The items and bundles that had a step which was not done: their other steps are skipped too."""

    items: set[int] = field(default_factory=set)
    bundles: set[int] = field(default_factory=set)

    def add(self, step: Step) -> None:
        """Note that a step was not done."""
        if step.item:
            self.items.add(step.item)
        if step.bundle:
            self.bundles.add(step.bundle)

    def has(self, step: Step) -> bool:
        """Say whether a step belongs to what was not done."""
        return step.item in self.items or step.bundle in self.bundles


def _do_step(context: RunContext, step: Step, outcome: Outcome, lost: _LostSets) -> StepResult | None:
    """Do one step; return what undo needs, None where it was not done: then the rest of its item is skipped as well."""
    try:
        if lost.has(step):
            raise Skip("what it belongs to stays too")
        context.check_place(step)
        result = action_for(step).act(context, step)
    except Skip as skip:
        why = str(skip)
        if isinstance(skip, DamagedArchive) and isinstance(step, Unpack):
            outcome.damaged.append((step, why))
    except FileExistsError:
        why = "something of that name is there now"
    except FileNotFoundError:
        why = "it, or the folder it goes to, is no longer there"
    except Stuck as stuck:
        outcome.failed.append((written(step.source or step.target), str(stuck)))
        outcome.why_stopped, outcome.stuck = f"{stuck}; the next command tries to put that right", True
        return None
    except OSError as error:
        outcome.failed.append((written(step.source or step.target), (error.strerror or str(error)).lower()))
        if error.errno in _HOPELESS:
            outcome.why_stopped = f"{error.strerror}: {written(step.target or step.source)}"
        lost.add(step)
        return None
    else:
        outcome.done += 1
        report_step(outcome, step, result)
        return result
    outcome.skipped.append((written(step.source or step.target), why))
    lost.add(step)
    return None


def end_run(
    context: RunContext,
    writer: Writer,
    head: ChangeHead | None,
    outcome: Outcome,
    state: str,
    *,
    looked: bool = False,
) -> None:
    """Write a run's end: the `state` of the change, the counts, how the touched folders look now, the `head`.

    `looked` says that what damaged records would have told was looked up on the disk.
    """
    clear_own(context)
    after = {}
    for folder in context.folders:
        status = context.disk.status(folder)
        if status:
            after[folder] = status.mtime
    end = RunEnd(now(), state, outcome.done, len(outcome.skipped), len(outcome.failed))
    writer.write(end_record(end, head, outcome.not_reached, after, looked=looked))
    writer.sync()
    failpoint("run-ended")


def clear_own(context: RunContext) -> None:
    """Take our folder for unfinished things away from every drive where it is empty."""
    for top in context.areas.tops():
        with suppress(OSError):
            context.disk.drop_folder(join(top, f"{STATE_DIR}/{WORK}"))


def _folders(disk: Filesystem, steps: Sequence[Step]) -> tuple[dict[str, tuple[int, int]], dict[str, FolderAttributes]]:
    """Return (mtime, mode) of the folders whose names the steps change, and the attributes of those dropped."""
    folders = {parent(path) for step in steps for path in names_of(step)}
    folders = {folder for folder in folders if not folder.startswith("..")}  # what is only read, outside
    dropped = {step.source for step in steps if isinstance(step, DropFolder)}
    found, attributes = {}, {}
    for folder in sorted(folders | dropped):
        status = disk.status(folder)
        if status and status.is_folder:
            found[folder] = (status.mtime, status.mode)
            if folder in dropped:
                attributes[folder] = disk.attributes(folder)
    return found, attributes


def now() -> str:
    """Return the time as it stands in journals: ISO 8601 with microseconds, UTC."""
    return datetime.datetime.now(datetime.UTC).isoformat(timespec="microseconds")


def _unwritable(store: JournalStore, error: OSError) -> MagpieError:
    return MagpieError(
        f"The journal in {JOURNALS} can't be written: {error.strerror}. Nothing was changed beyond what it "
        f"tells; make room or check the permissions of {store.disk.path(STATE_DIR)}, then try again."
    )
