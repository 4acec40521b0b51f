"""Placing something new: a copy, a link, what an archive holds, a small text."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from lazy_magpie.change import transfer, unpacking
from lazy_magpie.change.crash import point
from lazy_magpie.change.journal import Record
from lazy_magpie.change.sort import Inverse, Sort, copy_into_place, made_at, put_in_place, seen_in, seen_of, step_of
from lazy_magpie.change.world import Skip, World
from lazy_magpie.model import Do, Seen, Step
from lazy_magpie.paths import parent, read_back, written


def _copy(world: World, step: Step) -> Record:
    world.checked(step.source, step.seen)
    return copy_into_place(world, step)


def _mend_copy(world: World, step: Step) -> Record | None:
    transfer.clear_work(world, step, is_elsewhere=world.is_there(step.source, step.seen))
    if world.disk.status(step.target) and transfer.equal(world, step.source, step.target):
        return made_at(world, step.target)
    return None


def _uncopy(step: Step, info: Record) -> Inverse:
    """A copy goes only while what it was copied from is there."""
    needs = [[written(step.source), *step.seen]] if step.seen else []
    return _hold_made(step, info, needs)


def _hold_made(step: Step, info: Record, needs: list[list[Any]]) -> Inverse:
    data: dict[str, object] = {"needs": needs} if needs else {}
    if "tree" in info:
        data["tree"] = info["tree"]
    return step_of(Do.HOLD, step.target, "", seen_of(info), data)


def _hardlink(world: World, step: Step) -> Record:
    found = world.checked(step.source, step.seen)
    if "instead_of" in step.data:
        return _link_instead(world, step)
    world.disk.link(step.source, step.target)
    world.touched.add(parent(step.target))
    return {"made": list(found.seen)}


def _link_instead(world: World, step: Step) -> Record:
    """Put a hard link in the place of a copy, which is held: compared before, and both or neither."""
    world.checked(step.target, seen_in(step.data, "instead_of"))
    if not transfer.equal(world, step.source, step.target):
        raise Skip(f"it no longer equals “{written(step.source)}”, or is the same file")
    world.check_holdable(step.target)
    link = world.new_work_path(step)
    world.disk.link(step.source, link)
    try:
        held = world.hold(step.target, step.why or "a link in its place")
        point("link-held")
        world.rename_or_back(link, step.target, held, step.target)
    except (OSError, Skip):
        transfer.take_away(world, link)
        raise
    return {"made": list(made_at(world, step.target)["made"]), "held": written(held)}


def _mend_hardlink(world: World, step: Step) -> Record | None:
    source, target = world.disk.status(step.source), world.disk.status(step.target)
    is_linked = source is not None and target is not None and source.file_id == target.file_id
    if "instead_of" not in step.data:
        return {"made": list(target.seen)} if target and is_linked else None
    link, held = world.work_path(step), world.found_held(step.target)
    old = world.held_status(step.target)
    if old is not None and target is not None and old.file_id == target.file_id:
        world.drop_second_name(held, step, step.target)  # linked, not yet unlinked: it had only begun
        old = None
    if old is not None and target is None:
        is_link = world.disk.status(link) is not None
        world.rename(link if is_link else held, step.target)
        is_linked = is_link
    status = world.disk.status(link)
    if status is not None and status.links > 1:
        world.drop_file(link)
    target = world.disk.status(step.target)
    return {"made": list(target.seen), "held": written(held)} if old and target and is_linked else None


def _softlink(world: World, step: Step) -> Record:
    world.disk.soft_link(str(step.data["text"]), step.target)
    world.touched.add(parent(step.target))
    return made_at(world, step.target)


def _mend_softlink(world: World, step: Step) -> Record | None:
    target = world.disk.status(step.target)
    if target and target.is_link and world.disk.link_text(step.target) == step.data["text"]:
        return {"made": list(target.seen)}
    return None


def _unlink(step: Step, info: Record) -> Inverse:
    if "held" in info:
        instead = {"instead": written(step.target), "made": info["made"], "link": written(step.source)}
        return step_of(Do.RESTORE, read_back(info["held"]), step.target, seen_in(step.data, "instead_of"), instead)
    data: dict[str, object] = {"link": step.source if step.do is Do.HARDLINK else ""}
    if step.do is Do.SOFTLINK:
        data["text"] = step.data["text"]
    return step_of(Do.DROP, step.target, "", None if "text" in data else seen_of(info), data)


def _unpack(world: World, step: Step) -> Record:
    """Unpack an archive, or the parts that a step names, into a new folder."""
    world.checked(step.source, step.seen)
    for path, *seen in _archives(step):
        world.checked(read_back(path), Seen(*seen))
    return put_in_place(world, step, lambda made: unpacking.unpack(world.disk, _parts(step), made))


def _parts(step: Step) -> list[unpacking.Part]:
    """Return the archives that a step unpacks, each with its layout: members (written form) and where they go."""
    if "parts" not in step.data:
        return [unpacking.Part(step.source)]
    return [
        unpacking.Part(
            read_back(part["archive"]), {read_back(member): read_back(to) for member, to in part["layout"].items()}
        )
        for part in step.data["parts"]
    ]


def _mend_unpack(world: World, step: Step) -> Record | None:
    is_elsewhere = all(world.is_there(read_back(path), Seen(*seen)) for path, *seen in _archives(step))
    transfer.clear_work(world, step, is_elsewhere=is_elsewhere)
    target = world.disk.status(step.target)
    if target and target.is_folder and unpacking.holds(world.disk, _parts(step), step.target):
        return made_at(world, step.target)
    return None


def _ununpack(step: Step, info: Record) -> Inverse:
    """What was unpacked goes only while the archives that it came from are there."""
    return _hold_made(step, info, _archives(step))


def _archives(step: Step) -> list[list[Any]]:
    """Return the archives that a step unpacks, with all their volumes: path (written form), size, mtime, inode."""
    found = []
    for part in step.data.get("parts", ()):
        found += [[part["archive"], *part["seen"]], *part.get("volumes", ())]
    return found or ([[written(step.source), *step.seen]] if step.seen else [])


def _write(world: World, step: Step) -> Record:
    def write(made: str) -> None:
        with world.disk.open_new(made) as file:
            file.write(str(step.data["text"]).encode("utf-8", "surrogateescape"))
            world.disk.sync_file(file)
        world.disk.set_mode(made, 0o644)

    return put_in_place(world, step, write)


def _mend_write(world: World, step: Step) -> Record | None:
    transfer.clear_work(world, step, is_elsewhere=True)  # the journal has the text
    status = world.disk.status(step.target)
    if status is None or status.is_folder or status.is_link:
        return None
    with world.disk.open_old(step.target) as file:
        written_whole = file.read() == str(step.data["text"]).encode("utf-8", "surrogateescape")
    return {"made": list(status.seen)} if written_whole else None


SORTS: Mapping[Do, Sort] = {
    Do.COPY: Sort(_copy, _mend_copy, _uncopy),
    Do.HARDLINK: Sort(_hardlink, _mend_hardlink, _unlink),
    Do.SOFTLINK: Sort(_softlink, _mend_softlink, _unlink),
    Do.UNPACK: Sort(_unpack, _mend_unpack, _ununpack),
    Do.WRITE: Sort(_write, _mend_write, lambda step, info: _hold_made(step, info, [])),
}
