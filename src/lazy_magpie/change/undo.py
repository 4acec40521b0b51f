"""Applying a plan, taking a change back, and doing it again: three runs of one engine."""

from __future__ import annotations

from collections.abc import Sequence

from lazy_magpie.change import journal
from lazy_magpie.change.effect import backwards, effects, forwards
from lazy_magpie.change.engine import SILENT, Area, Outcome, Watch, new_change, run
from lazy_magpie.change.history import Change, history
from lazy_magpie.change.journal import Told
from lazy_magpie.change.recovery import mend
from lazy_magpie.change.room import check_room
from lazy_magpie.errors import UsageError
from lazy_magpie.model import Step


def apply(area: Area, steps: Sequence[Step], command: str, plan: int = 0, watch: Watch = SILENT) -> Outcome:
    """Do the steps of a plan as a new change."""
    check_room(area.disk, steps)
    change = new_change(area, command, plan)
    return run(area, change, "apply", 1, steps, watch)


def undo(area: Area, number: int = 0, watch: Watch = SILENT) -> Outcome:
    """Take back change `number` (0: the newest that is in effect). Taking it back twice does nothing the second time.

    Folders get back the times they had, unless other hands changed what is in them since.
    """
    changes = history(area)
    fitting = [change for change in changes if change.in_effect]
    change = _named(changes, number) or max(fitting, key=lambda change: change.number, default=None)
    if change is None:
        raise UsageError("There is no change left to take back; “magpie history” lists all changes.")
    told, unsure = _told(area, change.number)
    steps = backwards(effects(told))
    untouched = _untouched_folders(area, told)
    outcome = run(area, change.number, "undo", len(told.runs) + 1, steps, watch)
    outcome.skipped += unsure
    if not outcome.left:
        _restore_times(area, told, untouched)
    return outcome


def redo(area: Area, number: int = 0, watch: Watch = SILENT) -> Outcome:
    """Do change `number` again (0: the one taken back last), and what a stop left undone of it."""
    changes = history(area)
    fitting = [change for change in changes if not change.complete]
    change = _named(changes, number) or max(fitting, key=lambda change: change.ended, default=None)
    if change is None:
        raise UsageError("There is no change to do again; “magpie history” lists all changes.")
    told, unsure = _told(area, change.number)
    steps = forwards(effects(told))
    check_room(area.disk, steps)
    outcome = run(area, change.number, "redo", len(told.runs) + 1, steps, watch)
    outcome.skipped += unsure
    return outcome


def _told(area: Area, number: int) -> tuple[Told, list[tuple[str, str]]]:
    """Return what a change's journal tells, and what could not be told of a damaged one after looking at the disk."""
    told = journal.read(area.disk, area.journal(number))
    if not told.damaged or not told.runs:
        return told, []
    found = mend(area, number, told)
    unsure = [(area.journal(number), f"{told.damaged}; what it no longer tells was looked up on the disk")]
    return journal.read(area.disk, area.journal(number)), [*unsure, *found.unclear]


def _named(changes: Sequence[Change], number: int) -> Change | None:
    """Return change `number`, None for 0. Raises UsageError where there is no such change."""
    if not number:
        return None
    found = next((change for change in changes if change.number == number), None)
    if found is None:
        raise UsageError(f"There is no change {number}; “magpie history” lists them.")
    return found


def _untouched_folders(area: Area, told: Told) -> set[str]:
    """The folders that look as the last run left them: no other hand has changed what is in them."""
    after = told.runs[-1].after if told.runs else {}
    found = set()
    for folder, mtime in after.items():
        status = area.disk.status(folder)
        if status and status.mtime == mtime:
            found.add(folder)
    return found


def _restore_times(area: Area, told: Told, untouched: set[str]) -> None:
    """Give folders the times they had before the change, those that came back always."""
    if not told.runs:
        return
    first = told.runs[0]
    for folder, (mtime, _) in sorted(first.folders.items(), reverse=True):
        came_back = folder not in told.runs[-1].after
        if (came_back or folder in untouched) and area.disk.status(folder):
            area.disk.set_times(folder, mtime)
