"""Taking back what took something's place: what was held comes back to its name, what stands for it goes, in one step.

This is how a move to another drive, a replacement and a hard link in place of a copy are taken back, and done again.
Either all of it is done or nothing: what was held stands in its place before anything is taken away, or, where both
have one name, the other comes back at once if it can't.
"""

from __future__ import annotations

import dataclasses
from collections.abc import Mapping

from lazy_magpie.change import verified_copy
from lazy_magpie.change.actions.base import Action, unchanged_file
from lazy_magpie.change.actions.move import inverse_of_move, move, recover_move
from lazy_magpie.change.failpoints import failpoint
from lazy_magpie.change.journal_state import StepResult
from lazy_magpie.change.run_context import RunContext, Skip
from lazy_magpie.model import FileStatus, Step
from lazy_magpie.model.steps import Hardlink, Move, Restore
from lazy_magpie.paths import written

_WHY = "taken back"


def _move_home(step: Restore) -> Move:
    """Return the step that moves back what had been moved, for when nothing is held any more."""
    stamp = unchanged_file(step.made)
    return Move(number=step.number, source=step.instead, target=step.target, why=step.why, item=step.item, stamp=stamp)


def _restore(context: RunContext, step: Restore) -> StepResult:
    instead, to = step.instead, step.to
    if context.disk.status(step.source) is None:
        if instead == step.target:
            raise Skip("what stood here before is not held any more")
        return StepResult(moved=move(context, _move_home(step)))
    old = context.checked(step.source, step.stamp)
    _check_instead(context, step, instead)
    if instead != step.target and context.disk.status(step.target):
        raise Skip("something of that name is there now")
    if to and context.disk.status(to):
        raise Skip(f"“{written(to)}” is there now")
    if not to and not step.link:
        context.check_holdable(instead)
    away = _exchanged(context, step, instead, to) if instead == step.target else _returned(context, step, instead)
    return StepResult(away=away, made=old.stamp)


def _check_instead(context: RunContext, step: Restore, instead: str) -> None:
    """Raise Skip where what took the place is not what it was."""
    now = context.checked(instead, unchanged_file(step.made))
    if now.is_folder and step.tree is not None and verified_copy.tree_digest(context, instead) != step.tree:
        raise Skip("something in it is new, changed or gone")


def _returned(context: RunContext, step: Restore, instead: str) -> str:
    """Bring what was held back to its own place, then hold what was made of it on another drive."""
    context.rename(step.source, step.target)
    failpoint("restore-returned")
    try:
        return context.hold(instead, _WHY)
    except (OSError, Skip):
        context.back_or_stuck(step.target, step.source)
        raise


def _exchanged(context: RunContext, step: Restore, instead: str, to: str) -> str:
    """Exchange what was held and what has its name."""
    if step.link:
        away = context.new_work_path(step)
        context.rename(instead, away)
    elif to:
        away = to
        context.rename(instead, to)
    else:
        away = context.hold(instead, _WHY)
    failpoint("restore-away")
    context.rename_or_back(step.source, step.target, away, instead)
    failpoint("restore-returned")
    return _disposed(context, step, away)


def _disposed(context: RunContext, step: Restore, away: str) -> str:
    """Take a link, now out of the way, away for good, if it is not the last name of its file; return where it is."""
    if not step.link:
        return away
    status = context.disk.status(away)
    if status is not None and status.links > 1:
        context.drop_file(away)
        return ""
    return context.keep_work(away, step) if status is not None else ""


def _recover_restore(context: RunContext, step: Restore) -> StepResult | None:
    instead, to = step.instead, step.to
    held, place = context.disk.status(step.source), context.disk.status(step.target)
    if held is not None and place is not None and held.file_id == place.file_id and held.links > 1:
        context.drop_second_name(step.source, step, step.target)  # linked, not yet unlinked
        held = None
    if instead == step.target:
        if step.link or to:
            away = to or context.work_path(step)
            return _recover_exchange(context, step, away, context.disk.status(away))
        return _recover_exchange(context, step, context.found_held(instead), context.held_status(instead))
    is_back = held is None and place is not None and context.matches(place, step.stamp)
    if is_back and place is not None:
        if context.disk.status(instead) is not None:
            context.hold(instead, _WHY)
        return StepResult(away=context.found_held(instead), made=place.stamp)
    if held is None:
        moved = recover_move(context, _move_home(step))
        return None if moved is None else StepResult(moved=moved)
    return None


def _recover_exchange(context: RunContext, step: Restore, away: str, other: FileStatus | None) -> StepResult | None:
    """Finish a change of places, or take back what was done of it; `other` is what is at `away` now."""
    held, place = context.disk.status(step.source), context.disk.status(step.target)
    if other is not None and place is not None and other.file_id == place.file_id and not step.link:
        context.drop_second_name(away, step, step.target)  # linked, not yet unlinked: it had only begun
        return None
    if held is not None and place is None:
        context.rename(step.source, step.target)
        held, place = None, context.disk.status(step.target)
    elif held is None and place is None and other is not None:
        context.rename(away, step.target)
        return None
    if held is None and place is not None and (other is not None or step.link):
        return StepResult(away=_disposed(context, step, away), made=place.stamp)
    return None


def _inverse_of_restore(step: Restore, result: StepResult) -> Step:
    """Return the step that does again what was taken back."""
    if result.moved is not None:
        return inverse_of_move(_move_home(step), result.moved)
    assert result.made is not None
    if step.link:
        return Hardlink(source=step.link, target=step.target, replaces=result.made)
    again = Restore(
        source=result.away,
        target=step.instead,
        stamp=unchanged_file(step.made),
        instead=step.target,
        made=result.made,
        to=step.source if step.loose else "",
        loose=bool(step.to),
    )
    if step.tree is None:
        return again
    return dataclasses.replace(again, tree=step.tree if result.made.is_folder else "")


ACTIONS: Mapping[type[Step], object] = {Restore: Action(_restore, _recover_restore, _inverse_of_restore)}
