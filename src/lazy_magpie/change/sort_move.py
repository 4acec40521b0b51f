"""Moving: within a drive by a rename, to another drive by a compared copy."""

from __future__ import annotations

import errno
from collections.abc import Mapping

from lazy_magpie.change import transfer
from lazy_magpie.change.crash import point
from lazy_magpie.change.journal import Record
from lazy_magpie.change.sort import Inverse, Sort, again, copy_into_place, seen_of, step_of
from lazy_magpie.change.world import Skip, World
from lazy_magpie.model import Do, Step
from lazy_magpie.paths import parent, read_back, same_name, written


def _move(world: World, step: Step) -> Record:
    found = world.checked(step.source, step.seen)
    point("step-checked")
    try:
        world.disk.rename(step.source, step.target)
    except FileExistsError:
        return _rename_in_case(world, step)
    except OSError as error:
        if error.errno != errno.EXDEV:
            raise
        return _move_between(world, step)
    world.touched |= {parent(step.source), parent(step.target)}
    return {"folder": 1} if found.is_folder else {}


def _rename_in_case(world: World, step: Step) -> Record:
    """Rename where only case or accents differ and the disk takes both for one name: by a name beside."""
    source, target = world.disk.status(step.source), world.disk.status(step.target)
    one_file = source and target and (source.device, source.inode) == (target.device, target.inode)
    in_place = parent(step.source) == parent(step.target) and source and source.links == 1
    if not (one_file and in_place and same_name(step.source) == same_name(step.target)):
        raise Skip("something of that name is there now")
    aside = world.temporary(step)
    world.disk.rename(step.source, aside)
    point("aside")
    world.disk.rename(aside, step.target)
    world.touched.add(parent(step.target))
    return {}


def _move_between(world: World, step: Step) -> Record:
    """Move to another drive: a compared copy under a temporary name, renamed into place, then the source held."""
    made = copy_into_place(world, step)
    held = world.hold(step.source, "moved to another drive")
    point("source-held")
    return {"held": written(held), "made": list(made)}


def _mend_move(world: World, step: Step) -> Record | None:
    temporary = world.temporary(step)
    source, target, aside = map(world.disk.status, (step.source, step.target, temporary))
    is_source = source is not None and world.is_seen(source, step.seen)
    if aside and step.seen and world.is_seen(aside, step.seen) and not is_source:  # renamed aside, not yet back
        world.disk.rename(temporary, step.target)
        return {}
    transfer.take_away(world, temporary)
    if not is_source:
        if target and world.is_seen(target, step.seen):
            return {}
        held = world.held_path(step.source)
        status = world.disk.status(held)
        if status is None or not world.is_seen(status, step.seen):
            return None
        if target and transfer.equal(world, held, step.target):
            return {"held": written(held), "made": list(target.seen)}
        world.make_folders(parent(step.source))  # the copy did not last: what was held comes back
        world.disk.rename(held, step.source)
        world.touched |= {parent(held), parent(step.source)}
        return None
    assert source is not None
    if target is None:
        return None
    if (source.device, source.inode) == (target.device, target.inode):  # linked, not yet unlinked
        if not source.is_folder and source.links > 1 and step.source != step.target:
            world.disk.drop_file(step.source)
            return {}
        return None
    if source.device != target.device and transfer.equal(world, step.source, step.target):
        held = world.hold(step.source, "moved to another drive")
        return {"held": written(held), "made": list(target.seen)}
    if target.size == 0 and source.size != 0 and target.mode == 0o600:  # the name was claimed, not yet taken
        world.disk.drop_file(step.target)
    return None


def _unmove(step: Step, info: Record) -> Inverse:
    if "held" in info:
        back = step_of(Do.MOVE, read_back(info["held"]), step.source, again(step.seen))
        return [step_of(Do.HOLD, step.target, "", seen_of(info)), back]
    return [Step(0, Do.MOVE, step.target, step.source, "", seen=again(step.seen))]


SORTS: Mapping[Do, Sort] = {
    Do.MOVE: Sort(_move, _mend_move, _unmove),
}
