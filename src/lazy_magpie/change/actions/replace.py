"""Replacing a file by another, or by itself with another text, other keywords or fields inside; the old one is held."""

from __future__ import annotations

from collections.abc import Mapping

from lazy_magpie.change import verified_copy
from lazy_magpie.change.actions.base import Action, unchanged_file
from lazy_magpie.change.failpoints import failpoint
from lazy_magpie.change.journal_state import StepResult
from lazy_magpie.change.run_context import RunContext, Skip
from lazy_magpie.model import Step
from lazy_magpie.model.steps import Replace, Restore, RewriteKeywords, RewriteTags, RewriteText
from lazy_magpie.paths import name_of, split_ending, written

AnyReplace = Replace | RewriteText | RewriteKeywords | RewriteTags


def _replace(context: RunContext, step: AnyReplace) -> StepResult:
    """Put the file prepared at the source, or the file itself with something else inside, in the target's place."""
    context.checked(step.target, step.stamp)
    if step.source and context.disk.status(step.source) is None:
        raise Skip("the file that was to take its place is not there")
    context.check_holdable(step.target)
    source = step.source or _rewritten(context, step)
    try:
        new = context.disk.status(source)
        held = context.hold(step.target, step.why or "replaced")
        failpoint("replace-held")
        context.rename_or_back(source, step.target, held, step.target)
    except (OSError, Skip):
        if not step.source:
            verified_copy.remove_made(context, source)
        raise
    assert new is not None
    return StepResult(held=held, made=new.stamp, origin=step.source)


def _text_for(context: RunContext, step: RewriteText) -> str:
    """Return the text that a file gets. Raises Skip where nothing that it was to name is there, or it has changed."""
    missing = [one for one in step.edits if context.disk.status(one.needs) is None]
    if not missing:
        return step.text
    if len(missing) == len(step.edits):
        raise Skip("what it was to name did not go where it was to")
    with context.disk.open_old(step.target) as file:
        data = file.read()
    for one in reversed(step.edits):
        old, new = (text.encode("utf-8", "surrogateescape") for text in (one.old, one.new))
        if data[one.start : one.start + len(old)] != old:
            raise Skip("it has changed since the plan was made")
        if one not in missing:
            data = data[: one.start] + new + data[one.start + len(old) :]
    return data.decode("utf-8", "surrogateescape")


def _rewritten(context: RunContext, step: AnyReplace) -> str:
    """Make a copy of a file in our own folder, with what a step gives it inside; return where."""
    made = context.new_work_path(step)
    status = context.disk.status(step.target)
    try:
        if status is None:
            raise Skip("it is no longer there")
        verified_copy.copy_verified(context, step.target, made)
        if isinstance(step, RewriteText):
            _put_text(context, made, _text_for(context, step))
        elif isinstance(step, RewriteKeywords):
            _put_keywords(context, step, made)
        elif isinstance(step, RewriteTags):
            _put_tags(context, step, made)
        context.disk.set_times(made, status.mtime)
        with context.disk.open_old(made) as file:
            context.disk.sync_file(file)
    except BaseException as error:
        verified_copy.remove_made(context, made)
        if isinstance(error, Skip | OSError) or not isinstance(error, Exception):
            raise
        raise Skip(f"nothing can be written into it: {error}") from None
    return made


def _put_text(context: RunContext, made: str, text: str) -> None:
    context.disk.truncate(made, 0)
    with context.disk.append(made) as file:
        file.write(text.encode("utf-8", "surrogateescape"))


def _put_keywords(context: RunContext, step: RewriteKeywords, made: str) -> None:
    old, new = set(step.old), set(step.new)
    inside = context.disk.keywords(step.target)
    words = [word for word in inside if word in new or word not in old]
    words += sorted(new - old - set(words))
    if words == inside:
        raise Skip("its keywords are so already")
    context.disk.put_keywords(made, split_ending(name_of(step.target))[1], words)


def _put_tags(context: RunContext, step: RewriteTags, made: str) -> None:
    cover = b""
    if step.cover:
        if context.disk.status(step.cover) is None:
            raise Skip("the picture that was to go into it is not there")
        with context.disk.open_old(step.cover) as file:
            cover = file.read()
    context.disk.put_inner_tags(made, split_ending(name_of(step.target))[1], step.tags, cover)


def _recover_replace(context: RunContext, step: AnyReplace) -> StepResult | None:
    held, made = context.found_held(step.target), context.work_path(step)
    source = step.source or made
    new, target, old = context.disk.status(source), context.disk.status(step.target), context.held_status(step.target)
    if old is not None and target is not None and old.file_id == target.file_id:
        context.drop_second_name(held, step, step.target)  # linked, not yet unlinked: it had only begun
        old = None
    if old is None:
        if not step.source:  # what was made of the file, which is still there
            verified_copy.clear_work(context, step, is_elsewhere=target is not None)
        return None
    if target is None:
        context.rename(source if new is not None else held, step.target)
        if new is None:
            return None
        target = context.disk.status(step.target)
    elif new is not None:
        raise Skip(f"another file has its name now; what it was is held at “{written(held)}”")
    assert target is not None
    return StepResult(held=held, made=target.stamp, origin=step.source)


def _inverse_of_replace(step: AnyReplace, result: StepResult) -> Step:
    assert result.made is not None
    return Restore(
        source=result.held,
        target=step.target,
        stamp=unchanged_file(step.stamp),
        instead=step.target,
        made=result.made,
        to=result.origin,
    )


ACTIONS: Mapping[type[Step], object] = {
    step_type: Action(_replace, _recover_replace, _inverse_of_replace)
    for step_type in (Replace, RewriteText, RewriteKeywords, RewriteTags)
}
