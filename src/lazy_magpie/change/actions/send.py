"""Putting files on a target, by other steps; taking off again what was put there, once it is sure to be here."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from lazy_magpie.change import verified_copy
from lazy_magpie.change.actions import convert, create, pack
from lazy_magpie.change.actions.base import Action, put_in_place
from lazy_magpie.change.archives import extract
from lazy_magpie.change.failpoints import failpoint
from lazy_magpie.change.journal_state import DONE, StepResult
from lazy_magpie.change.run_context import RunContext, Skip
from lazy_magpie.model import PathStamp, Step
from lazy_magpie.model.sends import Extract, Retract, Send
from lazy_magpie.model.steps import Convert, Copy, Pack, Write
from lazy_magpie.paths import join, name_of, written


def _extract(context: RunContext, step: Extract) -> StepResult:
    context.checked(step.source, step.stamp)

    def make(made: str) -> None:
        folder = f"{made}.member"
        try:
            extract.unpack(context.disk, [extract.Part(step.source, {step.member: name_of(step.target)})], folder)
            context.rename(join(folder, name_of(step.target)), made)
        finally:
            verified_copy.remove_made(context, folder)

    return put_in_place(context, step, make)


def _recover_extract(context: RunContext, step: Extract) -> StepResult | None:
    verified_copy.remove_made(context, f"{context.work_path(step)}.member")
    verified_copy.clear_work(context, step, is_elsewhere=context.is_there(step.source, step.stamp))
    return context.was_placed(step)


_EXTRACT: Action[Extract] = Action(_extract, _recover_extract, lambda step, result: None)
_WAYS: Mapping[type[Step], object] = {
    Extract: _EXTRACT,
    **{way: create.ACTIONS[way] for way in (Copy, Write)},
    **pack.ACTIONS,
    **convert.ACTIONS,
}
"""The steps by which something can be put on a target."""


def _way(step: Send) -> tuple[Action[Step], Step]:
    """Return the action by which a step is done, and the step of its own that it is done as."""
    way = _WAYS[type(step.by)]
    assert isinstance(way, Action)
    return way, replace(step.by, number=step.number, target=step.target)


def _send(context: RunContext, step: Send) -> StepResult:
    way, by = _way(step)
    return way.act(context, by)


def _recover_send(context: RunContext, step: Send) -> StepResult | None:
    way, by = _way(step)
    return way.recover(context, by)


def _inverse_of_send(step: Send, result: StepResult) -> Step:
    return Retract(source=step.target, stamp=result.made, again=step)


def _retract(context: RunContext, step: Retract) -> StepResult:
    """Take a file (a link, a disc that is a folder) off: it is moved aside, held against what is here, and deleted.

    What can be compared with what it came from need not look as it did: it may have been put there anew meanwhile.
    """
    by_contents = isinstance(step.again.by, Copy | Extract | Write)
    found = context.checked(step.source, None if by_contents else step.stamp)
    if (found.is_folder or found.is_link) and not isinstance(step.again.by, Copy):
        raise Skip("it is no file any more")
    aside = context.new_work_path(step)
    context.rename(step.source, aside)
    try:
        _check_here(context, step.again.by, aside)
        failpoint("retract-checked")
    except BaseException:
        context.back_or_stuck(aside, step.source)
        raise
    verified_copy.remove_made(context, aside)
    return DONE


def _check_here(context: RunContext, by: Step, path: str) -> None:
    """Raise Skip where what lies at a path is not what a step would put there anew."""
    match by:
        case Copy(source=source):
            if not verified_copy.contents_equal(context, source, path):
                raise Skip(f"it is not what “{written(source)}” holds: it stays")
        case Extract(source=archive, member=member):
            with context.disk.open_old(path) as file:
                if not extract.has_member(context.disk, archive, member, file):
                    raise Skip(f"it is not what “{written(archive)}” holds: it stays")
        case Write(text=text):
            with context.disk.open_old(path) as file:
                if file.read() != text.encode("utf-8", "surrogateescape"):
                    raise Skip("it was changed there: it stays")
        case _:
            for source, stamp in _made_from(by):
                if not context.is_there(source, stamp):
                    raise Skip(f"what it was made from, “{written(source)}”, is not what it was: it stays")


def _made_from(by: Step) -> list[PathStamp]:
    """Return the files that something was made from."""
    if isinstance(by, Convert):
        return list(by.inputs)
    if isinstance(by, Pack) and by.members:
        return [PathStamp(one.path, one.stamp) for one in by.members if one.path and one.stamp]
    return [PathStamp(by.source, by.stamp)] if by.stamp else []


def _recover_retract(context: RunContext, step: Retract) -> StepResult | None:
    aside = context.work_path(step)
    if context.disk.status(aside):
        context.rename(aside, step.source)
        return None
    return None if context.disk.status(step.source) else DONE


def _inverse_of_retract(step: Retract, result: StepResult) -> Step:
    return step.again


ACTIONS: Mapping[type[Step], object] = {
    Send: Action(_send, _recover_send, _inverse_of_send),
    Retract: Action(_retract, _recover_retract, _inverse_of_retract),
}
