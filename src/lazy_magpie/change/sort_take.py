"""Taking away, into the holding area; replacing a file by another; what changes no file at all."""

from __future__ import annotations

from collections.abc import Mapping

from lazy_magpie.change import transfer, unpacking
from lazy_magpie.change.crash import point
from lazy_magpie.change.journal import Record
from lazy_magpie.change.sort import Inverse, Sort, again, step_of
from lazy_magpie.change.world import Skip, World
from lazy_magpie.model import Do, Seen, Step
from lazy_magpie.paths import name_of, parent, read_back, split_ending, written


def _hold(world: World, step: Step) -> Record:
    world.checked(step.source, step.seen)
    if keeper := step.data.get("keeps"):
        if keeper == step.source or world.disk.status(str(keeper)) is None:
            raise Skip(f"the copy that would stay, “{keeper}”, is no longer there")
        if not transfer.equal(world, str(keeper), step.source):
            raise Skip(f"it no longer equals the copy that would stay, “{keeper}”")
    for keeper, *seen in step.data.get("like", ()):
        _still_there(world, str(keeper), Seen(*seen))
    folder = step.data.get("unpacked")
    layout = step.data.get("layout")
    if layout is not None:
        layout = {read_back(member): read_back(to) for member, to in layout.items()}
    if folder is not None and not unpacking.is_in_folder(world.disk, step.source, str(folder), layout):
        raise Skip(f"“{folder}” no longer holds all that it holds")
    if other := step.data.get("repacked"):
        if other == step.source or world.disk.status(str(other)) is None:
            raise Skip(f"the archive that would stay, “{other}”, is no longer there")
        if not unpacking.is_in_archive(world.disk, step.source, str(other)):
            raise Skip(f"“{other}” does not hold all that it holds")
    return {"held": written(world.hold(step.source, step.why or "taken away"))}


def _still_there(world: World, keeper: str, seen: Seen) -> None:
    """Skip where what would stay instead of something that is only alike is gone, or is not what the plan saw."""
    try:
        world.checked(keeper, seen)
    except Skip as skip:
        raise Skip(f"what would stay, “{keeper}”, is not what it was: {skip}") from None


def _mend_hold(world: World, step: Step) -> Record | None:
    held = world.held_path(step.source)
    source, target = world.disk.status(step.source), world.disk.status(held)
    if target is None:
        return None
    if source and (source.device, source.inode) == (target.device, target.inode) and source.links > 1:
        world.disk.drop_file(step.source)  # linked, not yet unlinked
        source = None
    return {"held": written(held)} if source is None else None


def _unhold(step: Step, info: Record) -> Inverse:
    return [step_of(Do.MOVE, read_back(info["held"]), step.source, again(step.seen))]


def _replace(world: World, step: Step) -> Record:
    """Let the file prepared at `source` take the place of the one at `target`, which is held.

    Without a source it is the file itself with other keywords inside.
    """
    world.checked(step.target, step.seen)
    source = step.source or _with_keywords(world, step)
    new = world.disk.status(source)
    if new is None:
        raise Skip("the file that was to take its place is not there")
    held = world.hold(step.target, step.why or "replaced")
    point("replace-held")
    try:
        world.disk.rename(source, step.target)
    except OSError:
        world.disk.rename(held, step.target)
        raise
    world.touched |= {parent(source), parent(step.target)}
    return {"held": written(held), "made": list(new.seen), "from": written(step.source)}


def _with_keywords(world: World, step: Step) -> str:
    """Make a copy of a file with the keywords that a step changes, beside it; return where it is."""
    old, new = (set(step.data.get(when) or ()) for when in ("old", "new"))
    temporary, ending = world.temporary(step), split_ending(name_of(step.target))[1]
    status = world.disk.status(step.target)
    try:
        inside = world.disk.keywords(step.target)
        words = [word for word in inside if word in new or word not in old]
        words += sorted(new - old - set(words))
        if words == inside or status is None:
            raise Skip("its keywords are so already")
        transfer.copy(world, step.target, temporary)
        world.disk.put_keywords(temporary, ending, words)
        world.disk.set_times(temporary, status.mtime)
        with world.disk.open_old(temporary) as file:
            world.disk.sync_file(file)
    except BaseException as error:
        transfer.take_away(world, temporary)
        if isinstance(error, Skip | OSError) or not isinstance(error, Exception):
            raise
        raise Skip(f"no keywords can be written into it: {error}") from None
    return temporary


def _mend_replace(world: World, step: Step) -> Record | None:
    held = world.held_path(step.target)
    source = step.source or world.temporary(step)
    new, target, old = map(world.disk.status, (source, step.target, held))
    if old is None:
        if not step.source:
            transfer.take_away(world, source)
        return None
    if target is None and new is not None:
        world.disk.rename(source, step.target)
        target = world.disk.status(step.target)
    elif target is None:
        world.disk.rename(held, step.target)
        return None
    assert target is not None
    return {"held": written(held), "made": list(target.seen), "from": written(step.source)}


def _unreplace(step: Step, info: Record) -> Inverse:
    new, old = Seen(*info["made"]), read_back(info["held"])
    taken = step_of(Do.MOVE, step.target, read_back(info["from"]), new) if info["from"] else None
    return [
        taken or step_of(Do.HOLD, step.target, "", new),
        step_of(Do.MOVE, old, step.target, step.seen),
    ]


def _note(world: World, step: Step) -> Record:
    """Answers are kept by whoever applies the change; here they only get their place in history."""
    return {}


def _tag(world: World, step: Step) -> Record:
    """Let the file carry the tags that its item gets: others that it carries stay. The catalogue is told elsewhere.

    A file that is not what was seen, or on a drive without attributes, carries none.
    """
    status = world.disk.status(step.source) if step.seen else None
    carried = world.disk.tags(step.source) if status and world.is_seen(status, step.seen) else None
    if carried is not None and "field" not in step.data:
        old, new = (step.data.get(when) or [] for when in ("old", "new"))
        after = [tag for tag in carried if tag in new or tag not in old]
        after += [tag for tag in new if tag not in old and tag not in after]
        if after != list(carried):
            world.disk.put_tags(step.source, after)
    return {}


def _mend_tag(world: World, step: Step) -> Record | None:
    return _tag(world, step)


def _mend_note(world: World, step: Step) -> Record | None:
    return {}


def _unnote(step: Step, info: Record) -> Inverse:
    turned = {**step.data, "old": step.data.get("new"), "new": step.data.get("old")}
    return [step_of(step.do, step.source, step.target, step.seen, turned)]


SORTS: Mapping[Do, Sort] = {
    Do.HOLD: Sort(_hold, _mend_hold, _unhold),
    Do.REPLACE: Sort(_replace, _mend_replace, _unreplace),
    Do.TAG: Sort(_tag, _mend_tag, _unnote),
    Do.SETTLE: Sort(_note, _mend_note, _unnote),
}
