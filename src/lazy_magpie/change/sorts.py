"""The sorts of step: how each is done, how it is put right after a crash, and what takes it back.

A sort is a row of `SORTS`. `act` does the step and returns what taking it back needs to know; `mend` looks at the
disk after a crash, finishes what was half done or cleans it up, and says whether the step is done (what `act` would
have returned) or not (None); `inverse` gives the steps that take it back.
"""

from __future__ import annotations

import errno
from collections.abc import Callable, Mapping
from dataclasses import dataclass

from lazy_magpie.change import transfer
from lazy_magpie.change.crash import point
from lazy_magpie.change.disk import Status
from lazy_magpie.change.journal import Record
from lazy_magpie.change.world import Skip, World, same
from lazy_magpie.model import Do, Seen, Step
from lazy_magpie.paths import parent, read_back, same_name, written

Inverse = list[Step]


@dataclass(frozen=True, slots=True)
class Sort:
    """How steps of one sort are done, mended and taken back."""

    act: Callable[[World, Step], Record]
    mend: Callable[[World, Step], Record | None]
    inverse: Callable[[Step, Record], Inverse]


def _step(do: Do, source: str, target: str, seen: Seen | None, data: Mapping[str, object] | None = None) -> Step:
    return Step(0, do, source, target, "", seen=seen, data=dict(data or {}))


def _seen(info: Record, key: str = "made") -> Seen | None:
    return Seen(*info[key]) if key in info else None


# --- move ---------------------------------------------------------------------------------------------------------


def _move(world: World, step: Step) -> Record:
    world.checked(step.source, step.seen)
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
    return {}


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
    if world.disk.status(step.target):
        raise Skip("something of that name is there now")
    made = _copy_into_place(world, step)
    held = world.hold(step.source, "moved to another drive")
    point("source-held")
    return {"held": written(held), "made": list(made)}


def _copy_into_place(world: World, step: Step) -> Seen:
    temporary = world.temporary(step)
    try:
        transfer.copy(world, step.source, temporary)
        world.disk.rename(temporary, step.target)
    except BaseException:
        transfer.take_away(world, temporary)
        raise
    world.touched.add(parent(step.target))
    world.disk.sync_folder(parent(step.target))
    point("copy-in-place")
    return _made(world, step.target)


def _made(world: World, path: str) -> Seen:
    status = world.disk.status(path)
    if status is None:
        raise Skip("it vanished as soon as it was made")
    return status.seen


def _mend_move(world: World, step: Step) -> Record | None:
    temporary = world.temporary(step)
    source, target, aside = map(world.disk.status, (step.source, step.target, temporary))
    is_source = source is not None and _is_seen(source, step.seen)
    if aside and step.seen and same(aside, step.seen) and not is_source:  # renamed aside, not yet back
        world.disk.rename(temporary, step.target)
        return {}
    transfer.take_away(world, temporary)
    if not is_source:
        if target and _is_seen(target, step.seen):
            return {}
        held = world.held_path(step.source)
        status = world.disk.status(held)
        if target and status and _is_seen(status, step.seen):
            return {"held": written(held), "made": list(target.seen)}
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


def _is_seen(status: Status, seen: Seen | None) -> bool:
    return seen is None or same(status, seen)


def _unmove(step: Step, info: Record) -> Inverse:
    if "held" in info:
        back = _step(Do.MOVE, read_back(info["held"]), step.source, step.seen)
        return [_step(Do.HOLD, step.target, "", _seen(info)), back]
    return [_step(Do.MOVE, step.target, step.source, step.seen)]


# --- copy and links -----------------------------------------------------------------------------------------------


def _copy(world: World, step: Step) -> Record:
    world.checked(step.source, step.seen)
    if world.disk.status(step.target):
        raise Skip("something of that name is there now")
    return {"made": list(_copy_into_place(world, step))}


def _mend_copy(world: World, step: Step) -> Record | None:
    transfer.take_away(world, world.temporary(step))
    target = world.disk.status(step.target)
    if target and transfer.equal(world, step.source, step.target):
        return {"made": list(target.seen)}
    return None


def _hold_made(step: Step, info: Record) -> Inverse:
    return [_step(Do.HOLD, step.target, "", _seen(info))]


def _hardlink(world: World, step: Step) -> Record:
    world.checked(step.source, step.seen)
    world.disk.link(step.source, step.target)
    world.touched.add(parent(step.target))
    return {"made": list(_made(world, step.target))}


def _mend_hardlink(world: World, step: Step) -> Record | None:
    source, target = world.disk.status(step.source), world.disk.status(step.target)
    linked = source and target and (source.device, source.inode) == (target.device, target.inode)
    return {"made": list(target.seen)} if target and linked else None


def _softlink(world: World, step: Step) -> Record:
    world.disk.soft_link(str(step.data["text"]), step.target)
    world.touched.add(parent(step.target))
    return {"made": list(_made(world, step.target))}


def _mend_softlink(world: World, step: Step) -> Record | None:
    target = world.disk.status(step.target)
    if target and target.is_link and world.disk.link_text(step.target) == step.data["text"]:
        return {"made": list(target.seen)}
    return None


def _unlink(step: Step, info: Record) -> Inverse:
    data: dict[str, object] = {"link": step.source if step.do is Do.HARDLINK else ""}
    if step.do is Do.SOFTLINK:
        data["text"] = step.data["text"]
    return [_step(Do.DROP, step.target, "", _seen(info), data)]


# --- folders ------------------------------------------------------------------------------------------------------


def _make(world: World, step: Step) -> Record:
    found = world.disk.status(step.target)
    if found and found.is_folder:
        return {"there": 1}
    if found:
        raise Skip("a file of that name is there")
    world.disk.make_folder(step.target)
    if mode := step.data.get("mode"):
        world.disk.set_mode(step.target, int(mode))
    world.touched.add(parent(step.target))
    return {}


def _mend_make(world: World, step: Step) -> Record | None:
    found = world.disk.status(step.target)
    return {} if found and found.is_folder and step.target not in world.folders else None


def _unmake(step: Step, info: Record) -> Inverse:
    return [] if "there" in info else [_step(Do.DROP, step.target, "", None)]


def _drop(world: World, step: Step) -> Record:
    found = world.checked(step.source, step.seen)
    if "link" in step.data:
        return _drop_link(world, step, found)
    if not found.is_folder:
        raise Skip("it is no folder")
    try:
        world.disk.drop_folder(step.source)
    except OSError as error:
        if error.errno in (errno.ENOTEMPTY, errno.EEXIST):
            raise Skip("it is not empty") from error
        raise
    world.touched.add(parent(step.source))
    return {"mode": found.mode}


def _drop_link(world: World, step: Step, found: Status) -> Record:
    """Take away a link that an earlier step made, if it is still that link and not the last name of a file."""
    if not found.is_link and found.links < 2:
        raise Skip("it is the file's only name now")
    world.disk.drop_file(step.source)
    world.touched.add(parent(step.source))
    return {}


def _mend_drop(world: World, step: Step) -> Record | None:
    if world.disk.status(step.source):
        return None
    return {"mode": world.folders.get(step.source, (0, 0o755))[1]}


def _undrop(step: Step, info: Record) -> Inverse:
    if "text" in step.data:
        return [_step(Do.SOFTLINK, "", step.source, None, {"text": step.data["text"]})]
    if "link" in step.data:
        return [_step(Do.HARDLINK, str(step.data["link"]), step.source, None)]
    return [_step(Do.MAKE, "", step.source, None, {"mode": info["mode"]} if "mode" in info else None)]


# --- holding, writing, replacing ----------------------------------------------------------------------------------


def _hold(world: World, step: Step) -> Record:
    world.checked(step.source, step.seen)
    if keeper := step.data.get("keeps"):
        if keeper == step.source or world.disk.status(str(keeper)) is None:
            raise Skip(f"the copy that would stay, “{keeper}”, is no longer there")
        if not transfer.equal(world, str(keeper), step.source):
            raise Skip(f"it no longer equals the copy that would stay, “{keeper}”")
    return {"held": written(world.hold(step.source, step.why or "taken away"))}


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
    return [_step(Do.MOVE, read_back(info["held"]), step.source, step.seen)]


def _write(world: World, step: Step) -> Record:
    temporary = world.temporary(step)
    try:
        with world.disk.open_new(temporary) as file:
            file.write(str(step.data["text"]).encode("utf-8", "surrogateescape"))
            world.disk.sync_file(file)
        world.disk.set_mode(temporary, 0o644)
        world.disk.rename(temporary, step.target)
    except BaseException:
        transfer.take_away(world, temporary)
        raise
    world.touched.add(parent(step.target))
    return {"made": list(_made(world, step.target))}


def _mend_write(world: World, step: Step) -> Record | None:
    transfer.take_away(world, world.temporary(step))
    status = world.disk.status(step.target)
    if status is None or status.is_folder or status.is_link:
        return None
    with world.disk.open_old(step.target) as file:
        written_whole = file.read() == str(step.data["text"]).encode("utf-8", "surrogateescape")
    return {"made": list(status.seen)} if written_whole else None


def _replace(world: World, step: Step) -> Record:
    """Let the file prepared at `source` take the place of the one at `target`, which is held."""
    world.checked(step.target, step.seen)
    new = world.disk.status(step.source)
    if new is None:
        raise Skip("the file that was to take its place is not there")
    held = world.hold(step.target, step.why or "replaced")
    point("replace-held")
    try:
        world.disk.rename(step.source, step.target)
    except OSError:
        world.disk.rename(held, step.target)
        raise
    world.touched |= {parent(step.source), parent(step.target)}
    return {"held": written(held), "made": list(new.seen), "from": written(step.source)}


def _mend_replace(world: World, step: Step) -> Record | None:
    held = world.held_path(step.target)
    new, target, old = map(world.disk.status, (step.source, step.target, held))
    if old is None:
        return None
    if target is None and new is not None:
        world.disk.rename(step.source, step.target)
        target = world.disk.status(step.target)
    elif target is None:
        world.disk.rename(held, step.target)
        return None
    assert target is not None
    return {"held": written(held), "made": list(target.seen), "from": written(step.source)}


def _unreplace(step: Step, info: Record) -> Inverse:
    new, old = Seen(*info["made"]), read_back(info["held"])
    return [
        _step(Do.MOVE, step.target, read_back(info["from"]), new),
        _step(Do.MOVE, old, step.target, step.seen),
    ]


# --- what changes no file -----------------------------------------------------------------------------------------


def _note(world: World, step: Step) -> Record:
    """Tags and answers are kept by whoever applies the change; here they only get their place in history."""
    return {}


def _mend_note(world: World, step: Step) -> Record | None:
    return {}


def _unnote(step: Step, info: Record) -> Inverse:
    turned = {**step.data, "old": step.data.get("new"), "new": step.data.get("old")}
    return [_step(step.do, step.source, step.target, None, turned)]


SORTS: Mapping[Do, Sort] = {
    Do.MOVE: Sort(_move, _mend_move, _unmove),
    Do.COPY: Sort(_copy, _mend_copy, _hold_made),
    Do.HARDLINK: Sort(_hardlink, _mend_hardlink, _unlink),
    Do.SOFTLINK: Sort(_softlink, _mend_softlink, _unlink),
    Do.MAKE: Sort(_make, _mend_make, _unmake),
    Do.DROP: Sort(_drop, _mend_drop, _undrop),
    Do.HOLD: Sort(_hold, _mend_hold, _unhold),
    Do.WRITE: Sort(_write, _mend_write, _hold_made),
    Do.REPLACE: Sort(_replace, _mend_replace, _unreplace),
    Do.TAG: Sort(_note, _mend_note, _unnote),
    Do.SETTLE: Sort(_note, _mend_note, _unnote),
}
"""Every sort of step that can be done."""
