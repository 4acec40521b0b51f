"""Taking back what took something's place: what was held comes back to its name, what stands for it goes, in one step.

This is how a move to another drive, a replacement and a hard link in place of a copy are taken back, and done again.
A step has the held thing as its source and its old place as its target; its data has

    instead   where that stands which took its place (written form): the target itself, or on another drive
    made      how that looks (size, mtime, inode), and `tree`, if it is a folder, what is in it
    to        where it goes: a path, or the holding area where there is none
    link      it is a hard link to this file, and goes for good
    loose     the source is not held, but lies where it came from before: there it goes when this is taken back

Either all of it is done or nothing: what was held stands in its place before anything is taken away, or, where both
have one name, the other comes back at once if it can't.
"""

from __future__ import annotations

from collections.abc import Mapping

from lazy_magpie.change import transfer
from lazy_magpie.change.crash import point
from lazy_magpie.change.disk import Status
from lazy_magpie.change.journal import Record
from lazy_magpie.change.sort import Inverse, Sort, again, seen_in, seen_of, step_of
from lazy_magpie.change.sort_move import mend_move, move, unmove
from lazy_magpie.change.world import Skip, World
from lazy_magpie.model import Do, Seen, Step
from lazy_magpie.paths import read_back, written

_WHY = "taken back"


def _instead(step: Step) -> str:
    return read_back(str(step.data["instead"]))


def _to(step: Step) -> str:
    return read_back(str(step.data.get("to", "")))


def _home(step: Step) -> Step:
    """Return the step that moves back what had been moved, for when nothing is held any more."""
    seen = seen_of(step.data)
    return Step(step.number, Do.MOVE, _instead(step), step.target, step.why, "", step.item, seen)


def _restore(world: World, step: Step) -> Record:
    instead, to = _instead(step), _to(step)
    if world.disk.status(step.source) is None:
        if instead == step.target:
            raise Skip("what stood here before is not held any more")
        return {"moved": move(world, _home(step))}
    old = world.checked(step.source, step.seen)
    _check_instead(world, step, instead)
    if instead != step.target and world.disk.status(step.target):
        raise Skip("something of that name is there now")
    if to and world.disk.status(to):
        raise Skip(f"“{written(to)}” is there now")
    if not to and "link" not in step.data:
        world.check_holdable(instead)
    away = _exchanged(world, step, instead, to) if instead == step.target else _returned(world, step, instead)
    return {"away": written(away), "made": list(old.seen)}


def _check_instead(world: World, step: Step, instead: str) -> None:
    """Raise Skip where what took the place is not what it was."""
    now = world.checked(instead, seen_of(step.data))
    if now.is_folder and "tree" in step.data and transfer.tree_digest(world, instead) != step.data["tree"]:
        raise Skip("something in it is new, changed or gone")


def _returned(world: World, step: Step, instead: str) -> str:
    """Bring what was held back to its own place, then hold what was made of it on another drive."""
    world.rename(step.source, step.target)
    point("restore-returned")
    try:
        return world.hold(instead, _WHY)
    except (OSError, Skip):
        world.back_or_stuck(step.target, step.source)
        raise


def _exchanged(world: World, step: Step, instead: str, to: str) -> str:
    """Let what was held and what has its name change places."""
    if "link" in step.data:
        away = world.new_work_path(step)
        world.rename(instead, away)
    elif to:
        away = to
        world.rename(instead, to)
    else:
        away = world.hold(instead, _WHY)
    point("restore-away")
    world.rename_or_back(step.source, step.target, away, instead)
    point("restore-returned")
    return _disposed(world, step, away)


def _disposed(world: World, step: Step, away: str) -> str:
    """Take a link, now out of the way, away for good, if it is not the last name of its file; return where it is."""
    if "link" not in step.data:
        return away
    status = world.disk.status(away)
    if status is not None and status.links > 1:
        world.drop_file(away)
        return ""
    return world.keep_work(away, step) if status is not None else ""


def _mend_restore(world: World, step: Step) -> Record | None:
    instead, to = _instead(step), _to(step)
    held, place = world.disk.status(step.source), world.disk.status(step.target)
    if held is not None and place is not None and held.file_id == place.file_id and held.links > 1:
        world.drop_second_name(step.source, step, step.target)  # linked, not yet unlinked
        held = None
    if instead == step.target:
        if "link" in step.data or to:
            away = to or world.work_path(step)
            return _mend_exchanged(world, step, away, world.disk.status(away))
        return _mend_exchanged(world, step, world.found_held(instead), world.held_status(instead))
    is_back = held is None and place is not None and world.is_seen(place, step.seen)
    if is_back and place is not None:
        if world.disk.status(instead) is not None:
            world.hold(instead, _WHY)
        return {"away": written(world.found_held(instead)), "made": list(place.seen)}
    if held is None:
        moved = mend_move(world, _home(step))
        return None if moved is None else {"moved": moved}
    return None


def _mend_exchanged(world: World, step: Step, away: str, other: Status | None) -> Record | None:
    """Finish a change of places, or take back what was done of it; `other` is what is at `away` now."""
    held, place = world.disk.status(step.source), world.disk.status(step.target)
    if other is not None and place is not None and other.file_id == place.file_id and "link" not in step.data:
        world.drop_second_name(away, step, step.target)  # linked, not yet unlinked: it had only begun
        return None
    if held is not None and place is None:
        world.rename(step.source, step.target)
        held, place = None, world.disk.status(step.target)
    elif held is None and place is None and other is not None:
        world.rename(away, step.target)
        return None
    if held is None and place is not None and (other is not None or "link" in step.data):
        return {"away": written(_disposed(world, step, away)), "made": list(place.seen)}
    return None


def _unrestore(step: Step, info: Record) -> Inverse:
    """Return the step that does again what was taken back."""
    instead, made = _instead(step), seen_in(step.data, "made")
    if "moved" in info:
        return unmove(_home(step), info["moved"])
    if "link" in step.data:
        data = {"instead_of": info["made"]}
        return step_of(Do.HARDLINK, read_back(str(step.data["link"])), step.target, None, data)
    data = {"instead": written(step.target), "made": info["made"]}
    if "loose" in step.data:
        data["to"] = written(step.source)
    if step.data.get("to"):
        data["loose"] = 1
    if "tree" in step.data:
        data["tree"] = step.data["tree"] if Seen(*info["made"]).is_folder else ""
    return step_of(Do.RESTORE, read_back(info["away"]), instead, again(made), data)


SORTS: Mapping[Do, Sort] = {
    Do.RESTORE: Sort(_restore, _mend_restore, _unrestore),
}
