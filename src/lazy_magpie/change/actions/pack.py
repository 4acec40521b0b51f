"""Packing files, or what another archive holds, into a new zip, which is read back and compared before it counts."""

from __future__ import annotations

import io
import os
from collections.abc import Iterator, Mapping, Sequence
from contextlib import ExitStack
from functools import partial
from typing import IO

from lazy_magpie.change import verified_copy
from lazy_magpie.change.actions.base import Action, put_in_place, unchanged_file
from lazy_magpie.change.archives import extract
from lazy_magpie.change.archives.contents import check_members, open_archive
from lazy_magpie.change.archives.packed import AtOnce, Member, OneByOne, Packed
from lazy_magpie.change.archives.zip_writer import Entry, write_zip
from lazy_magpie.change.failpoints import failpoint
from lazy_magpie.change.filesystem.access import Filesystem
from lazy_magpie.change.journal_state import StepResult
from lazy_magpie.change.run_context import RunContext, Skip
from lazy_magpie.model import PathStamp, Step
from lazy_magpie.model.steps import Hold, Pack
from lazy_magpie.paths import join, name_of, parent, written


def _pack(context: RunContext, step: Pack) -> StepResult:
    for path, stamp in _inputs(step):
        context.checked(path, stamp)
    return put_in_place(context, step, partial(_write, context.disk, step))


def _inputs(step: Pack) -> tuple[PathStamp, ...]:
    """Return the files that are packed, or the archive that is packed anew."""
    if step.members:
        return tuple(PathStamp(one.path, one.stamp) for one in step.members if one.path and one.stamp)
    return (PathStamp(step.source, step.stamp),) if step.stamp else ()


def _write(disk: Filesystem, step: Pack, made: str) -> None:
    with ExitStack() as files, disk.open_new(made) as file:
        write_zip(file, _entries(disk, step, made, files), store=step.store)
        failpoint("pack-written")
        disk.set_mode(made, 0o644)
        disk.sync_file(file)
    if not _holds_all(disk, step, made):
        raise Skip("what was packed differs from what is there: it has changed meanwhile")


def _entries(disk: Filesystem, step: Pack, made: str, files: ExitStack) -> Iterator[Entry]:
    """Yield what goes into the archive: files, members of other archives, or all that another archive holds."""
    stage = f"{made}.members"
    if not step.members:
        packed = files.enter_context(open_archive(disk, step.source))
        members = list(check_members(packed))
        _unpack_ahead(disk, packed, [member for member in members if member.size >= 0], stage, files)
        for member in members:
            if member.size < 0:
                yield f"{member.path}/", None
            else:
                yield member.path, partial(_member, disk, packed, member, stage)
        return
    archives = {
        path: _Source(disk, path, [one.inside for one in step.members if one.path == path], f"{stage}{number}", files)
        for number, path in enumerate(dict.fromkeys(one.path for one in step.members if one.inside))
    }
    for one in step.members:
        if one.inside:
            yield one.name, partial(archives[one.path].open, one.inside)
        elif one.is_folder:
            yield one.name, None
        else:
            yield one.name, partial(disk.open_old, one.path) if one.path else io.BytesIO


class _Source:
    """An archive from which members go into another."""

    def __init__(self, disk: Filesystem, path: str, wanted: Sequence[str], stage: str, files: ExitStack) -> None:
        self._disk, self._stage = disk, stage
        self._packed = files.enter_context(open_archive(disk, path))
        self._members = {one.path: one for one in check_members(self._packed) if one.path in set(wanted)}
        if missing := set(wanted) - self._members.keys():
            raise Skip(f"“{written(path)}” no longer holds “{written(min(missing))}”")
        _unpack_ahead(disk, self._packed, list(self._members.values()), stage, files)

    def open(self, member: str) -> IO[bytes]:
        """Open a member for reading."""
        return _member(self._disk, self._packed, self._members[member], self._stage)


def _unpack_ahead(disk: Filesystem, packed: Packed, members: Sequence[Member], stage: str, files: ExitStack) -> None:
    """Unpack, into a folder of our own, members of what can't be read one by one."""
    if isinstance(packed, AtOnce):
        disk.make_folder(stage)
        files.callback(_drop, disk, stage)
        packed.extract(members, disk.path(stage))


def _drop(disk: Filesystem, stage: str) -> None:
    """Take away a folder in our own folder that a step has just made."""
    disk.delete(stage, "")


def _member(disk: Filesystem, packed: Packed, member: Member, stage: str) -> IO[bytes]:
    if isinstance(packed, OneByOne):
        return packed.open(member)
    return disk.open_old(join(stage, member.path))


def _holds_all(disk: Filesystem, step: Pack, archive: str) -> bool:
    """Say whether an archive holds all that a step packs, compared byte for byte."""
    if not step.members:
        return extract.is_in_archive(disk, step.source, archive)
    with open_archive(disk, archive) as packed:
        there = {member.path: member for member in packed.members()}
        for one in step.members:
            member = there.pop(one.name.rstrip("/"), None)
            if member is None or (member.size < 0) != one.is_folder:
                return False
            if one.path and not one.inside:
                with disk.open_old(one.path) as file:
                    if file.seek(0, os.SEEK_END) != member.size:
                        return False
                    file.seek(0)
                    if not packed.is_same(member, file):
                        return False
            elif not one.path and member.size > 0:
                return False
    spread = {
        path: {one.inside: (archive, one.name) for one in step.members if one.path == path}
        for path in {one.path for one in step.members if one.inside}
    }
    return not there and all(extract.is_spread(disk, path, places, some=True) for path, places in spread.items())


def _recover(context: RunContext, step: Pack) -> StepResult | None:
    is_elsewhere = all(context.is_there(*one) for one in _inputs(step))
    verified_copy.clear_work(context, step, is_elsewhere=is_elsewhere)
    made = context.work_path(step)
    for name in context.disk.names(parent(made)) if context.disk.status(parent(made)) else ():
        if name.startswith(f"{name_of(made)}.members"):
            _drop(context.disk, join(parent(made), name))
    return context.was_placed(step)


def _inverse(step: Pack, result: StepResult) -> Step:
    """What was packed goes only while what it was packed from is there."""
    return Hold(source=step.target, stamp=unchanged_file(result.made), needs=_inputs(step))


ACTIONS: Mapping[type[Step], object] = {Pack: Action(_pack, _recover, _inverse)}
