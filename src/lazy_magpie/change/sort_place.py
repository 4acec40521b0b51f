"""Placing something new: a copy, a link, what an archive holds, a small text."""

from __future__ import annotations

from collections.abc import Mapping

from lazy_magpie.change import transfer, unpacking
from lazy_magpie.change.journal import Record
from lazy_magpie.change.sort import Inverse, Sort, copy_into_place, made_at, put_in_place, seen_of, step_of
from lazy_magpie.change.world import World
from lazy_magpie.model import Do, Seen, Step
from lazy_magpie.paths import parent, read_back


def _copy(world: World, step: Step) -> Record:
    world.checked(step.source, step.seen)
    return {"made": list(copy_into_place(world, step))}


def _mend_copy(world: World, step: Step) -> Record | None:
    transfer.take_away(world, world.temporary(step))
    target = world.disk.status(step.target)
    if target and transfer.equal(world, step.source, step.target):
        return {"made": list(target.seen)}
    return None


def _hold_made(step: Step, info: Record) -> Inverse:
    return [step_of(Do.HOLD, step.target, "", seen_of(info))]


def _hardlink(world: World, step: Step) -> Record:
    world.checked(step.source, step.seen)
    world.disk.link(step.source, step.target)
    world.touched.add(parent(step.target))
    return {"made": list(made_at(world, step.target))}


def _mend_hardlink(world: World, step: Step) -> Record | None:
    source, target = world.disk.status(step.source), world.disk.status(step.target)
    linked = source and target and (source.device, source.inode) == (target.device, target.inode)
    return {"made": list(target.seen)} if target and linked else None


def _softlink(world: World, step: Step) -> Record:
    world.disk.soft_link(str(step.data["text"]), step.target)
    world.touched.add(parent(step.target))
    return {"made": list(made_at(world, step.target))}


def _mend_softlink(world: World, step: Step) -> Record | None:
    target = world.disk.status(step.target)
    if target and target.is_link and world.disk.link_text(step.target) == step.data["text"]:
        return {"made": list(target.seen)}
    return None


def _unlink(step: Step, info: Record) -> Inverse:
    data: dict[str, object] = {"link": step.source if step.do is Do.HARDLINK else ""}
    if step.do is Do.SOFTLINK:
        data["text"] = step.data["text"]
    return [step_of(Do.DROP, step.target, "", seen_of(info), data)]


def _unpack(world: World, step: Step) -> Record:
    """Unpack an archive, or the parts that a step names, into a new folder."""
    world.checked(step.source, step.seen)
    for part in step.data.get("parts", ()):
        world.checked(read_back(part["archive"]), Seen(*part["seen"]))
        for path, *seen in part.get("volumes", ()):
            world.checked(read_back(path), Seen(*seen))
    made = put_in_place(world, step, lambda temporary: unpacking.unpack(world.disk, _parts(step), temporary))
    return {"made": list(made)}


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
    transfer.take_away(world, world.temporary(step))
    target = world.disk.status(step.target)
    if target and target.is_folder and unpacking.holds(world.disk, _parts(step), step.target):
        return {"made": list(target.seen)}
    return None


def _write(world: World, step: Step) -> Record:
    def write(temporary: str) -> None:
        with world.disk.open_new(temporary) as file:
            file.write(str(step.data["text"]).encode("utf-8", "surrogateescape"))
            world.disk.sync_file(file)
        world.disk.set_mode(temporary, 0o644)

    return {"made": list(put_in_place(world, step, write))}


def _mend_write(world: World, step: Step) -> Record | None:
    transfer.take_away(world, world.temporary(step))
    status = world.disk.status(step.target)
    if status is None or status.is_folder or status.is_link:
        return None
    with world.disk.open_old(step.target) as file:
        written_whole = file.read() == str(step.data["text"]).encode("utf-8", "surrogateescape")
    return {"made": list(status.seen)} if written_whole else None


SORTS: Mapping[Do, Sort] = {
    Do.COPY: Sort(_copy, _mend_copy, _hold_made),
    Do.HARDLINK: Sort(_hardlink, _mend_hardlink, _unlink),
    Do.SOFTLINK: Sort(_softlink, _mend_softlink, _unlink),
    Do.UNPACK: Sort(_unpack, _mend_unpack, _hold_made),
    Do.WRITE: Sort(_write, _mend_write, _hold_made),
}
