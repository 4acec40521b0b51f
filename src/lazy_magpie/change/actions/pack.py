"""Packing files, or what another archive holds, into a new zip, which is read back and compared before it counts."""

from __future__ import annotations

import os
from collections.abc import Iterator, Mapping
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
from lazy_magpie.paths import join


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
    """Yield what goes into the archive: files, or the members of another archive."""
    if step.members:
        for one in step.members:
            yield one.name, partial(disk.open_old, one.path) if one.path else None
        return
    packed = files.enter_context(open_archive(disk, step.source))
    members = list(check_members(packed))
    stage = f"{made}.members"
    if isinstance(packed, AtOnce):
        disk.make_folder(stage)
        files.callback(_drop, disk, stage)
        packed.extract([member for member in members if member.size >= 0], disk.path(stage))
    for member in members:
        if member.size < 0:
            yield f"{member.path}/", None
        else:
            yield member.path, partial(_member, disk, packed, member, stage)


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
            if member is None or (member.size < 0) != (not one.path):
                return False
            if one.path:
                with disk.open_old(one.path) as file:
                    if file.seek(0, os.SEEK_END) != member.size:
                        return False
                    file.seek(0)
                    if not packed.is_same(member, file):
                        return False
        return not there


def _recover(context: RunContext, step: Pack) -> StepResult | None:
    is_elsewhere = all(context.is_there(*one) for one in _inputs(step))
    verified_copy.clear_work(context, step, is_elsewhere=is_elsewhere)
    stage = f"{context.work_path(step)}.members"
    if context.disk.status(stage) is not None:
        _drop(context.disk, stage)
    return context.was_placed(step)


def _inverse(step: Pack, result: StepResult) -> Step:
    """What was packed goes only while what it was packed from is there."""
    return Hold(source=step.target, stamp=unchanged_file(result.made), needs=_inputs(step))


ACTIONS: Mapping[type[Step], object] = {Pack: Action(_pack, _recover, _inverse)}
