"""Copies a file, a link or a whole folder to a new name, and is sure of it: synced, read back, compared."""

from __future__ import annotations

import hashlib
import stat
from collections.abc import Iterator
from typing import BinaryIO

from lazy_magpie.change.crash import point
from lazy_magpie.change.disk import Status
from lazy_magpie.change.world import Skip, World
from lazy_magpie.model import Step
from lazy_magpie.paths import join, parent, written

_CHUNK = 1 << 20


def copy(world: World, source: str, temporary: str) -> None:
    """Copy what is at `source` to the new name `temporary`, with its marks, synced and compared.

    Raises Skip where the copy differs from what was read, or the source changed while it was read; what was
    written of the copy is then taken away again by the caller.
    """
    status = world.disk.status(source)
    if status is None:
        raise Skip("it is no longer there")
    _copy(world, source, temporary, status)


def _copy(world: World, source: str, target: str, status: Status) -> None:
    disk = world.disk
    if status.is_link:
        disk.soft_link(disk.link_text(source), target)
    elif status.is_folder:
        disk.make_folder(target, status.mode | stat.S_IRWXU)
        for name in sorted(disk.names(source)):
            inner = disk.status(join(source, name))
            if inner is None:
                raise Skip(f"“{name}” in it vanished while it was copied")
            _copy(world, join(source, name), join(target, name), inner)
        disk.copy_marks(source, target)
        disk.sync_folder(target)
    else:
        _copy_file(world, source, target, status)


def _copy_file(world: World, source: str, target: str, status: Status) -> None:
    from blake3 import blake3

    disk = world.disk
    read, size = blake3(), 0
    with disk.open_old(source) as original, disk.open_new(target) as copied:
        point("copy-begun")
        while chunk := original.read(_CHUNK):
            read.update(chunk)
            copied.write(chunk)
            size += len(chunk)
            point("copy-half")
        disk.sync_file(copied)
    point("copy-written")
    again = disk.status(source)
    if again is None or again.seen != status.seen or size != status.size:
        raise Skip("it changed while it was copied")
    with disk.open_old(target) as copied:
        if digest(copied) != read.digest():
            raise Skip("its copy, read back, differs: the destination drive may be failing")
    disk.copy_marks(source, target)
    point("copy-compared")


def digest(file: BinaryIO) -> bytes:
    """Return the BLAKE3 digest of what an open file holds from here on."""
    from blake3 import blake3

    hasher = blake3()
    while chunk := file.read(_CHUNK):
        hasher.update(chunk)
    return bytes(hasher.digest())


def tree_digest(world: World, folder: str) -> str:
    """Return what tells a folder from one in which any file is new, changed or gone: names, sizes and times."""
    rows = sorted(_rows(world, folder, ""))
    return hashlib.blake2b(repr(rows).encode("utf-8", "surrogateescape"), digest_size=16).hexdigest()


def _rows(world: World, folder: str, inside: str) -> Iterator[tuple[str, int, int]]:
    for name in world.disk.names(folder):
        path, below = join(folder, name), join(inside, name)
        status = world.disk.status(path)
        if status is not None and status.is_folder and not status.is_link:
            yield below, -1, 0
            yield from _rows(world, path, below)
        elif status is not None:
            yield below, status.size, status.mtime


def equal(world: World, one: str, other: str) -> bool:
    """Say whether two files, links or folders hold the same, compared byte for byte, and are not one and the same."""
    disk = world.disk
    first, second = disk.status(one), disk.status(other)
    if first is None or second is None or (first.is_folder, first.is_link) != (second.is_folder, second.is_link):
        return False
    if first.is_link:
        return disk.link_text(one) == disk.link_text(other)
    if first.is_folder:
        names = sorted(disk.names(one))
        return (
            first.file_id != second.file_id
            and names == sorted(disk.names(other))
            and all(equal(world, join(one, name), join(other, name)) for name in names)
        )
    if first.size != second.size:
        return False
    with disk.open_old(one) as left, disk.open_old(other) as right:
        if disk.identity(left) == disk.identity(right):
            return False
        while chunk := left.read(_CHUNK):
            if chunk != right.read(len(chunk)):
                return False
        return not right.read(1)


def take_away(world: World, path: str) -> None:
    """Take what this very step has made in our own folder away again, if it is there."""
    status = world.disk.status(path)
    if status is None:
        return
    world.touched.add(parent(path))
    if status.is_folder:
        for name in world.disk.names(path):
            take_away(world, join(path, name))
        world.disk.drop_folder(path)
    else:
        world.drop_file(path)


def clear_work(world: World, step: Step, *, is_elsewhere: bool) -> None:
    """After a crash: take away what a step had made in our own folder, if its source `is_elsewhere`, unchanged.

    Else it may be the only one there is, and is brought into the holding area. Raises Skip then, which says so.
    """
    made = world.work_path(step)
    status = world.disk.status(made)
    if status is None:
        return
    if is_elsewhere or (status.size == 0 and not status.is_link):
        take_away(world, made)
        return
    held = world.keep_work(made, step)
    raise Skip(f"what it was made of is not there unchanged; what was made is kept at “{written(held)}”")
