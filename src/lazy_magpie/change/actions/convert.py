"""Turning files into another by an outside program: made in our own folder, proved, then given its name.

Conversions of one batch run side by side, one a core: `start` begins them, each step then waits for its own.
"""

from __future__ import annotations

import os
import shutil
from collections.abc import Mapping, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import suppress

from lazy_magpie.change import verified_copy
from lazy_magpie.change.actions.base import Action, put_in_place, unchanged_file
from lazy_magpie.change.failpoints import failpoint
from lazy_magpie.change.filesystem.access import Filesystem
from lazy_magpie.change.journal_state import StepResult
from lazy_magpie.change.programs import run_program, words_of
from lazy_magpie.change.run_context import RunContext, Skip
from lazy_magpie.model import Step
from lazy_magpie.model.steps import Convert, Hold
from lazy_magpie.paths import join, name_of, split_ending, written
from lazy_magpie.streams import hold_the_same

_SPARE = 1 << 30
_TIMES_LARGER = 20
"""A result may have 20 times the bytes of what it is made from, and a gigabyte."""
_BACK = "back"


def start(context: RunContext, steps: Sequence[Step]) -> None:
    """Begin the conversions among the steps of a batch, as many at a time as there are cores."""
    wanted = [step for step in steps if isinstance(step, Convert)]
    if len(wanted) < 2:
        return
    pool = ThreadPoolExecutor(os.cpu_count() or 1)
    for step in wanted:
        try:
            folder = _folder_for(context, step)
        except (Skip, OSError):  # its step says so, when it comes to it
            continue
        context.begun[step.number] = pool.submit(_prepare, context, step, folder)
    pool.shutdown(wait=False)


def abandon(context: RunContext) -> None:
    """Take away what was begun and is not waited for any more: a person has stopped, or a step went wrong."""
    for begun in context.begun.values():
        with suppress(Skip, OSError):
            _drop(context.disk, begun.result())
    context.begun.clear()


def _convert(context: RunContext, step: Convert) -> StepResult:
    begun: Future[str] | None = context.begun.pop(step.number, None)
    folder = begun.result() if begun else _prepare(context, step, _folder_for(context, step))
    made = join(folder, name_of(step.target))
    try:
        return put_in_place(context, step, lambda work: context.disk.rename(made, work))
    finally:
        _drop(context.disk, folder)


def _folder_for(context: RunContext, step: Convert) -> str:
    """Make the folder of our own in which a program works. Raises Skip where what it is to work on is not as planned.

    This is done by one thread alone: only the programs run side by side.
    """
    for one in step.inputs:
        context.checked(*one)
    context.check_place(step)
    folder = f"{context.new_work_path(step)}.program"
    context.disk.make_folder(folder)
    return folder


def _prepare(context: RunContext, step: Convert, folder: str) -> str:
    """Make and prove the result in a folder; return the folder. Raises Skip, and takes it away, where that fails."""
    disk = context.disk
    try:
        size = sum(one.stamp.size for one in step.inputs if one.stamp)
        most = size * _TIMES_LARGER + _SPARE
        made = join(folder, name_of(step.target))
        sources = [disk.path(one.path) for one in step.inputs]
        values = {"source": disk.path(step.source), "result": disk.path(made)}
        _run(context, step, words_of(step.by.command, values, sources), folder, most)
        failpoint("convert-made")
        status = disk.status(made)
        if status is None or status.is_folder or status.is_link or not status.size:
            raise Skip(f"“{step.by.command[0]}” ended well, and made nothing")
        _prove(context, step, made, folder, most)
        disk.set_mode(made, 0o644)
        with disk.open_old(made) as file:
            disk.sync_file(file)
    except BaseException:
        _drop(disk, folder)
        raise
    return folder


def _run(context: RunContext, step: Convert, command: Sequence[str], folder: str, most: int) -> None:
    run_program(command, context.disk.path(folder), step.by.seconds, most, context.stop)


def _prove(context: RunContext, step: Convert, made: str, folder: str, most: int) -> None:
    """Prove the result by the way back, or by a program that reads it. Raises Skip where it is not right."""
    disk, by = context.disk, step.by
    if by.back:
        home = join(folder, _BACK)
        disk.make_folder(home)
        values = {"source": disk.path(made), "result": disk.path(join(home, name_of(step.source)))}
        _run(context, step, words_of(by.back, values, [values["source"]]), home, most)
        for one in step.inputs:
            again = disk.status(join(home, name_of(one.path)))
            if again is None or again.is_folder or not _is_same(disk, one.path, join(home, name_of(one.path))):
                raise Skip(f"turned back, “{written(name_of(one.path))}” is not what it was: the result is not kept")
    elif by.check:
        values = {"source": disk.path(step.source), "result": disk.path(made)}
        _run(context, step, words_of(by.check, values, [values["source"]]), folder, most)


def _is_same(disk: Filesystem, one: str, other: str) -> bool:
    with disk.open_old(one) as file, disk.open_old(other) as twin:
        return hold_the_same(file, twin)


def _drop(disk: Filesystem, folder: str) -> None:
    shutil.rmtree(disk.path(folder), ignore_errors=True)


def _recover(context: RunContext, step: Convert) -> StepResult | None:
    is_elsewhere = all(context.is_there(*one) for one in step.inputs)
    work = context.work_path(step)
    verified_copy.clear_work(context, step, is_elsewhere=is_elsewhere)
    _drop(context.disk, f"{work}.program")
    return context.was_placed(step)


def _inverse(step: Convert, result: StepResult) -> Step:
    """The result goes only while what it was made from is there."""
    return Hold(source=step.target, stamp=unchanged_file(result.made), needs=step.inputs)


def result_name(source: str, ending: str) -> str:
    """Return what the result of a file is called."""
    return f"{split_ending(source)[0]}.{ending}"


ACTIONS: Mapping[type[Step], object] = {Convert: Action(_convert, _recover, _inverse)}
