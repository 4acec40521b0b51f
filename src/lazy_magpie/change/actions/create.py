"""Making something new: a copy, a link, what an archive holds, a small text."""

from __future__ import annotations

from collections.abc import Mapping

from lazy_magpie.change import verified_copy
from lazy_magpie.change.actions.base import Action, copy_into_place, made_result, put_in_place, unchanged_file
from lazy_magpie.change.archives import extract
from lazy_magpie.change.failpoints import failpoint
from lazy_magpie.change.journal_state import StepResult
from lazy_magpie.change.run_context import RunContext, Skip
from lazy_magpie.model import PathStamp, Step
from lazy_magpie.model.steps import Copy, DropLink, Hardlink, Hold, Restore, Softlink, Unpack, Write
from lazy_magpie.paths import parent, written


def _copy(context: RunContext, step: Step) -> StepResult:
    context.checked(step.source, step.stamp)
    return copy_into_place(context, step)


def _recover_copy(context: RunContext, step: Step) -> StepResult | None:
    verified_copy.clear_work(context, step, is_elsewhere=context.is_there(step.source, step.stamp))
    if context.disk.status(step.target) and verified_copy.contents_equal(context, step.source, step.target):
        return made_result(context, step.target)
    return None


def _inverse_of_copy(step: Copy, result: StepResult) -> Step:
    """A copy goes only while what it was copied from is there."""
    return _hold_made(step, result, (PathStamp(step.source, step.stamp),) if step.stamp else ())


def _hold_made(step: Step, result: StepResult, needs: tuple[PathStamp, ...] = ()) -> Step:
    return Hold(source=step.target, stamp=unchanged_file(result.made), needs=needs, tree=result.tree)


def _hardlink(context: RunContext, step: Hardlink) -> StepResult:
    found = context.checked(step.source, step.stamp)
    if step.replaces is not None:
        return _link_instead(context, step)
    context.disk.link(step.source, step.target)
    context.touched.add(parent(step.target))
    return StepResult(made=found.stamp)


def _link_instead(context: RunContext, step: Hardlink) -> StepResult:
    """Put a hard link in the place of a copy, which is held: compared before, and both or neither."""
    context.checked(step.target, step.replaces)
    if not verified_copy.contents_equal(context, step.source, step.target):
        raise Skip(f"it no longer equals “{written(step.source)}”, or is the same file")
    context.check_holdable(step.target)
    link = context.new_work_path(step)
    context.disk.link(step.source, link)
    try:
        held = context.hold(step.target, step.why or "a link in its place")
        failpoint("link-held")
        context.rename_or_back(link, step.target, held, step.target)
    except (OSError, Skip):
        verified_copy.remove_made(context, link)
        raise
    return StepResult(made=made_result(context, step.target).made, held=held)


def _recover_hardlink(context: RunContext, step: Hardlink) -> StepResult | None:
    source, target = context.disk.status(step.source), context.disk.status(step.target)
    is_linked = source is not None and target is not None and source.file_id == target.file_id
    if step.replaces is None:
        return StepResult(made=target.stamp) if target and is_linked else None
    link, held = context.work_path(step), context.found_held(step.target)
    old = context.held_status(step.target)
    if old is not None and target is not None and old.file_id == target.file_id:
        context.drop_second_name(held, step, step.target)  # linked, not yet unlinked: it had only begun
        old = None
    if old is not None and target is None:
        is_link = context.disk.status(link) is not None
        context.rename(link if is_link else held, step.target)
        is_linked = is_link
    status = context.disk.status(link)
    if status is not None and status.links > 1:
        context.drop_file(link)
    target = context.disk.status(step.target)
    return StepResult(made=target.stamp, held=held) if old and target and is_linked else None


def _softlink(context: RunContext, step: Softlink) -> StepResult:
    context.disk.soft_link(step.text, step.target)
    context.touched.add(parent(step.target))
    return made_result(context, step.target)


def _recover_softlink(context: RunContext, step: Softlink) -> StepResult | None:
    target = context.disk.status(step.target)
    if target and target.is_link and context.disk.link_text(step.target) == step.text:
        return StepResult(made=target.stamp)
    return None


def _inverse_of_hardlink(step: Hardlink, result: StepResult) -> Step:
    if not result.held:
        return DropLink(source=step.target, stamp=unchanged_file(result.made), file=step.source)
    assert result.made is not None
    return Restore(
        source=result.held,
        target=step.target,
        stamp=step.replaces,
        instead=step.target,
        made=result.made,
        link=step.source,
    )


def _inverse_of_softlink(step: Softlink, result: StepResult) -> Step:
    return DropLink(source=step.target, text=step.text)


def _unpack(context: RunContext, step: Unpack) -> StepResult:
    """Unpack an archive, or the parts that a step names, into a new folder."""
    context.checked(step.source, step.stamp)
    for archive in _archives(step):
        context.checked(*archive)
    return put_in_place(context, step, lambda made: extract.unpack(context.disk, _parts(step), made))


def _parts(step: Unpack) -> list[extract.Part]:
    """Return the archives that a step unpacks, each with where its members go."""
    if not step.parts:
        return [extract.Part(step.source)]
    return [extract.Part(part.archive, part.layout, part.names) for part in step.parts]


def _recover_unpack(context: RunContext, step: Unpack) -> StepResult | None:
    is_elsewhere = all(context.is_there(*archive) for archive in _archives(step))
    verified_copy.clear_work(context, step, is_elsewhere=is_elsewhere)
    target = context.disk.status(step.target)
    if target and target.is_folder and extract.holds(context.disk, _parts(step), step.target):
        return made_result(context, step.target)
    return None


def _inverse_of_unpack(step: Unpack, result: StepResult) -> Step:
    """What was unpacked goes only while the archives that it came from are there."""
    return _hold_made(step, result, _archives(step))


def _archives(step: Unpack) -> tuple[PathStamp, ...]:
    """Return the archives that a step unpacks, with all their volumes."""
    if step.parts:
        return tuple(one for part in step.parts for one in (PathStamp(part.archive, part.stamp), *part.volumes))
    return (PathStamp(step.source, step.stamp),) if step.stamp else ()


def _write(context: RunContext, step: Write) -> StepResult:
    def write(made: str) -> None:
        with context.disk.open_new(made) as file:
            file.write(step.text.encode("utf-8", "surrogateescape"))
            context.disk.sync_file(file)
        context.disk.set_mode(made, 0o644)

    return put_in_place(context, step, write)


def _recover_write(context: RunContext, step: Write) -> StepResult | None:
    verified_copy.clear_work(context, step, is_elsewhere=True)  # the journal has the text
    status = context.disk.status(step.target)
    if status is None or status.is_folder or status.is_link:
        return None
    with context.disk.open_old(step.target) as file:
        written_whole = file.read() == step.text.encode("utf-8", "surrogateescape")
    return StepResult(made=status.stamp) if written_whole else None


ACTIONS: Mapping[type[Step], object] = {
    Copy: Action(_copy, _recover_copy, _inverse_of_copy),
    Hardlink: Action(_hardlink, _recover_hardlink, _inverse_of_hardlink),
    Softlink: Action(_softlink, _recover_softlink, _inverse_of_softlink),
    Unpack: Action(_unpack, _recover_unpack, _inverse_of_unpack),
    Write: Action(_write, _recover_write, _hold_made),
}
