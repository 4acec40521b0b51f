"""Applying a plan, taking a change back, and doing it again: three runs of one engine."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from lazy_magpie.change import journal
from lazy_magpie.change.effects import effects
from lazy_magpie.change.engine import SILENT, NewRun, RunControl, new_change, run_steps
from lazy_magpie.change.free_space import check_free_space
from lazy_magpie.change.inverse import redo_steps, undo_steps
from lazy_magpie.change.journal_state import JournalState
from lazy_magpie.change.journal_store import JournalStore
from lazy_magpie.change.outcome import Outcome
from lazy_magpie.change.past_changes import DAMAGED, Change, history
from lazy_magpie.change.recovery import recover_change
from lazy_magpie.errors import UsageError
from lazy_magpie.model import Step
from lazy_magpie.paths import written


def apply(
    store: JournalStore,
    steps: Sequence[Step],
    command: str,
    plan: int = 0,
    control: RunControl = SILENT,
    drives: Mapping[str, str] | None = None,
) -> Outcome:
    """Do the steps of a plan as a new change; `drives` are those mounted when it was made, None where not known."""
    check_free_space(store.disk, steps)
    change = new_change(store, command, plan)
    return run_steps(store, change, NewRun("apply", 1, drives), steps, control)


def undo(store: JournalStore, number: int = 0, control: RunControl = SILENT, *, anyway: bool = False) -> Outcome:
    """Take back change `number` (0: the one in effect that was done last). Taking it back twice is harmless.

    Folders get back the times they had, unless other hands changed what is in them since. Raises UsageError where a
    newer change can't be read, unless it is to be passed over `anyway`.
    """
    changes = history(store)
    fitting = [change for change in changes if change.in_effect]
    change = _named(changes, number) or max(fitting, key=lambda change: change.ended, default=None)
    _check_readable(store, changes, change, anyway=anyway)
    if change is None:
        raise UsageError("There is nothing to undo; “magpie history” lists the changes.")
    state, unsure = _read_whole(store, change)
    steps = undo_steps(effects(state))
    untouched = _untouched_folders(store, state)
    outcome = run_steps(store, change.number, _next_run("undo", state), steps, control)
    outcome.skipped += unsure
    if not outcome.not_reached and not outcome.stuck:
        outcome.unrestored += _restore_times(store, state, untouched)
    return outcome


def redo(store: JournalStore, number: int = 0, control: RunControl = SILENT) -> Outcome:
    """Do change `number` again (0: the one taken back last), and what a stop left undone of it."""
    changes = history(store)
    fitting = [change for change in changes if not change.complete and change.state != DAMAGED]
    change = _named(changes, number) or max(fitting, key=lambda change: change.ended, default=None)
    if change is None:
        raise UsageError("There is no change to do again; “magpie history” lists all changes.")
    _check_readable(store, [change], change)
    state, unsure = _read_whole(store, change)
    steps = redo_steps(effects(state))
    check_free_space(store.disk, steps)
    outcome = run_steps(store, change.number, _next_run("redo", state), steps, control)
    outcome.skipped += unsure
    return outcome


def _next_run(kind: str, state: JournalState) -> NewRun:
    return NewRun(kind, len(state.runs) + 1, state.runs[0].drives)


def _check_readable(
    store: JournalStore, changes: Sequence[Change], wanted: Change | None, *, anyway: bool = False
) -> None:
    """Raise UsageError where a change that is to be taken back, or a newer one, can't be read."""
    since = wanted.number if wanted else 0
    damaged = [one.number for one in changes if one.state == DAMAGED and one.number >= since]
    if not damaged:
        return
    if wanted is not None and wanted.number in damaged:
        raise UsageError(
            f"Change {wanted.number} can't be read: {store.journal(wanted.number)} is damaged. What it did stays as it "
            "is; earlier changes can be taken back with --anyway."
        )
    if not anyway:
        raise UsageError(
            f"Change {max(damaged)} can't be read: {store.journal(max(damaged))} is damaged. What it did may be in the "
            "way of taking back an earlier one; “magpie undo --anyway” does that all the same, as far as it can."
        )


def _read_whole(store: JournalStore, change: Change) -> tuple[JournalState, list[tuple[str, str]]]:
    """Return what a change's journal tells, and what could not be told of a damaged one after looking at the disk."""
    path = store.journal(change.number)
    state = journal.read(store.disk, path)
    if not state.runs:
        raise UsageError(f"Change {change.number} can't be read: {path} is damaged. What it did stays as it is.")
    if not state.damaged:
        return state, []
    found = recover_change(store, change.number, state)
    unsure = [(path, f"{state.damaged}; what it no longer tells was looked up on the disk")]
    return journal.read(store.disk, path), [*unsure, *found.unclear]


def _named(changes: Sequence[Change], number: int) -> Change | None:
    """Return change `number`, None for 0. Raises UsageError where there is no such change."""
    if not number:
        return None
    found = next((change for change in changes if change.number == number), None)
    if found is None:
        raise UsageError(f"There is no change {number}; “magpie history” lists them.")
    return found


def _untouched_folders(store: JournalStore, state: JournalState) -> set[str]:
    """The folders that look as the last run left them: no other hand has changed what is in them."""
    after = state.runs[-1].after
    found = set()
    for folder, mtime in after.items():
        status = store.disk.status(folder)
        if status and status.mtime == mtime:
            found.add(folder)
    return found


def _restore_times(store: JournalStore, state: JournalState, untouched: set[str]) -> list[tuple[str, str]]:
    """Give folders their times from before the change, those that came back always; return which could not have it.

    Before means before it was begun since it was last taken back whole: other changes may have come in between.
    """
    whole = [number for number, run in enumerate(state.runs[:-1]) if run.state == "undone"]
    before = state.runs[whole[-1] + 1 if whole else 0]
    lost = []
    for folder, (mtime, _) in sorted(before.folders.items(), reverse=True):
        came_back = folder not in state.runs[-1].after
        if (came_back or folder in untouched) and store.disk.status(folder):
            try:
                store.disk.set_times(folder, mtime)
            except OSError:
                lost.append((written(folder) or ".", "time"))
    return lost
