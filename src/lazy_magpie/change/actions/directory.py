"""Making folders, and dropping empty ones and links that an earlier step made."""

from __future__ import annotations

import errno
from collections.abc import Mapping

from lazy_magpie.change.actions.base import Action
from lazy_magpie.change.journal_state import DONE, StepResult
from lazy_magpie.change.run_context import RunContext, Skip
from lazy_magpie.model import Step
from lazy_magpie.model.steps import DropFolder, DropLink, Hardlink, MakeFolder, Softlink
from lazy_magpie.paths import parent


def _make(context: RunContext, step: MakeFolder) -> StepResult:
    found = context.disk.status(step.target)
    if found and found.is_folder:
        return StepResult(was_there=True)
    if found:
        raise Skip("a file of that name is there")
    context.disk.make_folder(step.target)
    context.touched.add(parent(step.target))
    return StepResult(lost=context.disk.set_attributes(step.target, step.attributes)) if step.attributes else DONE


def _recover_make(context: RunContext, step: Step) -> StepResult | None:
    found = context.disk.status(step.target)
    return DONE if found and found.is_folder and step.target not in context.folders else None


def _inverse_of_make(step: MakeFolder, result: StepResult) -> Step | None:
    return None if result.was_there else DropFolder(source=step.target)


def _drop(context: RunContext, step: DropFolder) -> StepResult:
    found = context.checked(step.source, step.stamp)
    if not found.is_folder:
        raise Skip("it is no folder")
    attributes = context.attributes.get(step.source) or context.disk.attributes(step.source)
    try:
        context.disk.drop_folder(step.source)
    except OSError as error:
        if error.errno in (errno.ENOTEMPTY, errno.EEXIST):
            raise Skip("it is not empty") from error
        raise
    context.touched.add(parent(step.source))
    return StepResult(attributes=attributes)


def _drop_link(context: RunContext, step: DropLink) -> StepResult:
    """Take away a link that an earlier step made, if it is still that link and not the last name of a file."""
    found = context.checked(step.source, step.stamp)
    if step.text is not None:  # known by what it says, since it may have been taken out and put back meanwhile
        if not found.is_link or context.disk.link_text(step.source) != step.text:
            raise Skip("it is not that link any more")
        context.drop_file(step.source)
    elif found.is_folder:
        raise Skip("a folder is in the place of the link")
    else:
        context.drop_second_name(step.source, step)
    return DONE


def _recover_drop(context: RunContext, step: Step) -> StepResult | None:
    aside = context.work_path(step)
    if (status := context.disk.status(aside)) is not None:  # a link on its way out
        if status.links < 2:
            context.rename(aside, step.source)
            return None
        context.drop_file(aside)
    if context.disk.status(step.source):
        return None
    return StepResult(attributes=context.attributes.get(step.source))


def _inverse_of_drop(step: DropFolder, result: StepResult) -> Step:
    return MakeFolder(target=step.source, attributes=result.attributes)


def _inverse_of_drop_link(step: DropLink, result: StepResult) -> Step:
    if step.text is not None:
        return Softlink(target=step.source, text=step.text)
    return Hardlink(source=step.file, target=step.source)


ACTIONS: Mapping[type[Step], object] = {
    MakeFolder: Action(_make, _recover_make, _inverse_of_make),
    DropFolder: Action(_drop, _recover_drop, _inverse_of_drop),
    DropLink: Action(_drop_link, _recover_drop, _inverse_of_drop_link),
}
