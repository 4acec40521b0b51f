"""Copies a file, a link or a whole folder to a new name, and is sure of it: synced, read back, compared."""

from __future__ import annotations

import hashlib
import os
import stat
from collections.abc import Iterator

from lazy_magpie.change.failpoints import failpoint
from lazy_magpie.change.filesystem.access import Filesystem
from lazy_magpie.change.run_context import RunContext, Skip
from lazy_magpie.hashing import digest_of
from lazy_magpie.model import FileStatus, Step
from lazy_magpie.paths import join, parent, written
from lazy_magpie.streams import chunks, hold_the_same

_READ_TWICE = 16 << 20
"""Bytes of a file up to which it is simply read once more to compare its copy; a larger one may be out of memory again
by then, and is compared by its digest."""


def copy_verified(context: RunContext, source: str, temporary: str) -> None:
    """Copy what is at `source` to the new name `temporary`, with its attributes, synced and compared.

    Raises Skip where the copy differs from what was read, or the source changed while it was read; what was
    written of the copy is then taken away again by the caller.
    """
    status = context.disk.status(source)
    if status is None:
        raise Skip("it is no longer there")
    _copy(context, source, temporary, status)


def _copy(context: RunContext, source: str, target: str, status: FileStatus) -> None:
    disk = context.disk
    if status.is_link:
        disk.soft_link(disk.link_text(source), target)
        disk.set_times(target, status.mtime)
    elif status.is_folder:
        disk.make_folder(target, status.mode | stat.S_IRWXU)
        for name in sorted(disk.names(source)):
            inner = disk.status(join(source, name))
            if inner is None:
                raise Skip(f"“{name}” in it vanished while it was copied")
            _copy(context, join(source, name), join(target, name), inner)
        disk.copy_attributes(source, target)
        disk.sync_folder(target)
    else:
        _copy_file(context, source, target, status)


def _copy_file(context: RunContext, source: str, target: str, status: FileStatus) -> None:
    from blake3 import blake3

    disk = context.disk
    read = blake3() if status.size > _READ_TWICE else None
    size = 0
    with disk.open_old(source) as original, disk.open_new(target) as copied:
        failpoint("copy-begun")
        is_sparse = disk.is_sparse(original)
        for chunk in chunks(original):
            if read:
                read.update(chunk)
            if is_sparse and not any(memoryview(chunk)[:64]) and bytes(chunk) == bytes(len(chunk)):
                copied.seek(len(chunk), os.SEEK_CUR)  # a hole stays one
            else:
                copied.write(chunk)
            size += len(chunk)
            failpoint("copy-half")
        if is_sparse:
            copied.truncate(size)
        disk.sync_file(copied)
    failpoint("copy-written")
    again = disk.status(source)
    if again is None or again.stamp != status.stamp or size != status.size:
        raise Skip("it changed while it was copied")
    if not (_digest_at(disk, target) == read.digest() if read else contents_equal(context, source, target)):
        raise Skip("its copy, read back, differs: the destination drive may be failing")
    disk.copy_attributes(source, target)
    failpoint("copy-compared")


def _digest_at(disk: Filesystem, path: str) -> bytes:
    with disk.open_old(path) as file:
        return digest_of(file)


def tree_digest(context: RunContext, folder: str) -> str:
    """Return what tells a folder from one in which any file is new, changed or gone: names, sizes and times."""
    rows = sorted(_rows(context, folder, ""))
    return hashlib.blake2b(repr(rows).encode("utf-8", "surrogateescape"), digest_size=16).hexdigest()


def _rows(context: RunContext, folder: str, inside: str) -> Iterator[tuple[str, int, int]]:
    for name in context.disk.names(folder):
        path, below = join(folder, name), join(inside, name)
        status = context.disk.status(path)
        if status is not None and status.is_folder and not status.is_link:
            yield below, -1, 0
            yield from _rows(context, path, below)
        elif status is not None:
            yield below, status.size, status.mtime


def contents_equal(context: RunContext, one: str, other: str) -> bool:
    """Say whether two files, links or folders hold the same, compared byte for byte, and are not one and the same."""
    disk = context.disk
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
            and all(contents_equal(context, join(one, name), join(other, name)) for name in names)
        )
    if first.size != second.size:
        return False
    with disk.open_old(one) as left, disk.open_old(other) as right:
        if disk.identity(left) == disk.identity(right):
            return False
        return hold_the_same(left, right)


def remove_made(context: RunContext, path: str) -> None:
    """Take what this very step has made in our own folder away again, if it is there."""
    status = context.disk.status(path)
    if status is None:
        return
    context.touched.add(parent(path))
    if status.is_folder:
        for name in context.disk.names(path):
            remove_made(context, join(path, name))
        context.disk.drop_folder(path)
    else:
        context.drop_file(path)


def clear_work(context: RunContext, step: Step, *, is_elsewhere: bool) -> None:
    """After a crash: take away what a step had made in our own folder, if its source `is_elsewhere`, unchanged.

    Else it may be the only one there is, and is brought into the holding area. Raises Skip then, which says so.
    """
    made = context.work_path(step)
    status = context.disk.status(made)
    if status is None:
        return
    if is_elsewhere or (status.size == 0 and not status.is_link):
        remove_made(context, made)
        return
    held = context.keep_work(made, step)
    raise Skip(f"what it was made of is not there unchanged; what was made is kept at “{written(held)}”")
