"""Making folders, and dropping empty ones and links that an earlier step made."""

from __future__ import annotations

import errno
from collections.abc import Mapping

from lazy_magpie.change.disk import Status
from lazy_magpie.change.journal import Record
from lazy_magpie.change.sort import Inverse, Sort, step_of
from lazy_magpie.change.world import Skip, World
from lazy_magpie.model import Do, Step
from lazy_magpie.paths import parent


def _make(world: World, step: Step) -> Record:
    found = world.disk.status(step.target)
    if found and found.is_folder:
        return {"there": 1}
    if found:
        raise Skip("a file of that name is there")
    world.disk.make_folder(step.target)
    world.touched.add(parent(step.target))
    if (marks := step.data.get("marks")) and (lost := world.disk.put_marks(step.target, marks)):
        return {"lost": lost}
    return {}


def _mend_make(world: World, step: Step) -> Record | None:
    found = world.disk.status(step.target)
    return {} if found and found.is_folder and step.target not in world.folders else None


def _unmake(step: Step, info: Record) -> Inverse:
    return None if "there" in info else step_of(Do.DROP, step.target, "", None)


def _drop(world: World, step: Step) -> Record:
    found = world.checked(step.source, step.seen)
    if "link" in step.data:
        return _drop_link(world, step, found)
    if not found.is_folder:
        raise Skip("it is no folder")
    marks = world.marks.get(step.source) or world.disk.marks(step.source)
    try:
        world.disk.drop_folder(step.source)
    except OSError as error:
        if error.errno in (errno.ENOTEMPTY, errno.EEXIST):
            raise Skip("it is not empty") from error
        raise
    world.touched.add(parent(step.source))
    return {"marks": marks}


def _drop_link(world: World, step: Step, found: Status) -> Record:
    """Take away a link that an earlier step made, if it is still that link and not the last name of a file."""
    if "text" in step.data:  # known by what it says, since it may have been taken out and put back meanwhile
        if not found.is_link or world.disk.link_text(step.source) != step.data["text"]:
            raise Skip("it is not that link any more")
        world.drop_file(step.source)
    elif found.is_folder:
        raise Skip("a folder is in the place of the link")
    else:
        world.drop_second_name(step.source, step)
    return {}


def _mend_drop(world: World, step: Step) -> Record | None:
    aside = world.work_path(step)
    if (status := world.disk.status(aside)) is not None:  # a link on its way out
        if status.links < 2:
            world.rename(aside, step.source)
            return None
        world.drop_file(aside)
    if world.disk.status(step.source):
        return None
    marks = world.marks.get(step.source)
    return {"marks": marks} if marks else {}


def _undrop(step: Step, info: Record) -> Inverse:
    if "text" in step.data:
        return step_of(Do.SOFTLINK, "", step.source, None, {"text": step.data["text"]})
    if "link" in step.data:
        return step_of(Do.HARDLINK, str(step.data["link"]), step.source, None)
    return step_of(Do.MAKE, "", step.source, None, {"marks": info["marks"]} if "marks" in info else None)


SORTS: Mapping[Do, Sort] = {
    Do.MAKE: Sort(_make, _mend_make, _unmake),
    Do.DROP: Sort(_drop, _mend_drop, _undrop),
}
