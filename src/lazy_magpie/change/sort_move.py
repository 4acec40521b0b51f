"""Moving: within a drive by a rename, to another drive by a compared copy."""

from __future__ import annotations

import errno
from collections.abc import Mapping

from lazy_magpie.change import transfer
from lazy_magpie.change.crash import point
from lazy_magpie.change.journal import Record
from lazy_magpie.change.sort import Inverse, Sort, again, copy_into_place, made_at, step_of
from lazy_magpie.change.world import Skip, Stuck, World, is_in_case_only
from lazy_magpie.model import Do, Step
from lazy_magpie.paths import name_of, parent, read_back, same_name, written


def move(world: World, step: Step) -> Record:
    """Move a file or folder; what is not what the plan saw stays."""
    found = world.checked(step.source, step.seen)
    point("step-checked")
    try:
        world.rename(step.source, step.target)
    except FileExistsError:
        return _rename_in_case(world, step)
    except OSError as error:
        if error.errno != errno.EXDEV:
            raise
        return _move_between(world, step)
    return {"folder": 1} if found.is_folder else {}


def _rename_in_case(world: World, step: Step) -> Record:
    """Rename where only case or accents differ and the disk takes both for one name: by our own folder."""
    source = world.disk.status(step.source)
    if not is_in_case_only(step) or len(_spellings(world, step)) != 1:
        raise Skip("something of that name is there now")
    aside = world.new_work_path(step)
    world.rename(step.source, aside)
    point("aside")
    world.rename_or_back(aside, step.target, aside, step.source)
    return {"folder": 1} if source is not None and source.is_folder else {}


def _spellings(world: World, step: Step) -> list[str]:
    """Return the names in a folder that differ in case and accents alone from that of a step's destination.

    A drive that ignores case finds one file under all of its spellings, but lists only one of them.
    """
    key = same_name(name_of(step.target))
    return [name for name in world.disk.names(parent(step.target)) if same_name(name) == key]


def _move_between(world: World, step: Step) -> Record:
    """Move to another drive: a compared copy put into place, then the source held."""
    world.check_holdable(step.source)
    info = copy_into_place(world, step)
    try:
        held = world.hold(step.source, "moved to another drive")
    except (OSError, Skip):
        _withdraw_copy(world, step)
        raise
    point("source-held")
    return {"held": written(held), **info}


def _withdraw_copy(world: World, step: Step) -> None:
    """Take the copy away again whose source could not be held. Raises Stuck where it is not a copy any more."""
    made = world.new_work_path(step)
    world.back_or_stuck(step.target, made)
    if not transfer.equal(world, made, step.source):
        world.back_or_stuck(made, step.target)
        raise Stuck(f"“{written(step.target)}” is a copy of “{written(step.source)}” that has changed since")
    transfer.take_away(world, made)


def mend_move(world: World, step: Step) -> Record | None:
    """After a crash: finish a move, or take back what was done of it."""
    if is_in_case_only(step) and (found := _mend_in_case(world, step)) is not None:
        return found or None
    source, is_source = world.disk.status(step.source), world.is_there(step.source, step.seen)
    transfer.clear_work(world, step, is_elsewhere=is_source)
    if source is None or not is_source:
        return _without_source(world, step)
    target = world.disk.status(step.target)
    if target is None:
        return None
    if source.file_id == target.file_id:  # linked, not yet unlinked: the old name goes
        if not source.is_folder and source.links > 1 and not is_in_case_only(step):
            world.drop_second_name(step.source, step, step.target)
            return {}
        return None
    if source.device != target.device and transfer.equal(world, step.source, step.target):
        held = world.hold(step.source, "moved to another drive")
        return {"held": written(held), **made_at(world, step.target)}
    return None


def _mend_in_case(world: World, step: Step) -> Record | None:
    """Mend a move in which only case differs: {"in case": 1} done, {} not done, None for a move like any other.

    The file itself may lie in our own folder, whatever its time is read as now: it gets the name that it was to have,
    or its old one, or is held.
    """
    aside = world.work_path(step)
    if world.disk.status(aside) is None:
        if world.disk.status(step.source) and world.disk.status(step.target):
            spellings = _spellings(world, step)
            if len(spellings) == 1:  # one file under both names
                return {"in case": 1} if spellings == [name_of(step.target)] else {}
        return None
    for name in (step.target, step.source):
        if world.disk.status(name) is None:
            world.rename(aside, name)
            return {"in case": 1} if name == step.target else {}
    held = world.keep_work(aside, step)
    raise Skip(f"both names were taken meanwhile; it is kept at “{written(held)}”")


def _without_source(world: World, step: Step) -> Record | None:
    """Say whether what is not in its old place any more was moved; bring it back where the move did not last."""
    target, held = world.disk.status(step.target), world.found_held(step.source)
    status = world.held_status(step.source)
    if status is None or not world.is_seen(status, step.seen):
        if target and world.is_seen(target, step.seen):
            return {"folder": 1} if target.is_folder else {}
        return None
    if target and transfer.equal(world, held, step.target):
        return {"held": written(held), **made_at(world, step.target)}
    world.make_folders(parent(step.source))  # the copy did not last: what was held comes back
    world.rename(held, step.source)
    return None


def unmove(step: Step, info: Record) -> Inverse:
    """Return the step that takes a move back."""
    if "held" not in info:
        return step_of(Do.MOVE, step.target, step.source, again(step.seen))
    data = {"instead": written(step.target), "made": info["made"]}
    return step_of(Do.RESTORE, read_back(info["held"]), step.source, again(step.seen), _with_tree(data, info))


def _with_tree(data: Record, info: Record) -> Record:
    return {**data, "tree": info["tree"]} if "tree" in info else data


SORTS: Mapping[Do, Sort] = {
    Do.MOVE: Sort(move, mend_move, unmove),
}
