"""Taking away, into the holding area, once what stays instead is proved."""

from __future__ import annotations

from collections.abc import Mapping

from lazy_magpie.change import verified_copy
from lazy_magpie.change.actions.base import Action, unchanged_file
from lazy_magpie.change.archives import extract
from lazy_magpie.change.filesystem.access import Filesystem
from lazy_magpie.change.journal_state import StepResult
from lazy_magpie.change.run_context import RunContext, Skip
from lazy_magpie.model import FileStamp, Step
from lazy_magpie.model.proofs import Alike, Converted, InArchive, Proof, Repacked, SameBytes, Spread, Unpacked
from lazy_magpie.model.steps import Hold, Move
from lazy_magpie.paths import written


def _hold(context: RunContext, step: Hold) -> StepResult:
    found = context.checked(step.source, step.stamp)
    if found.is_folder and step.tree is not None and verified_copy.tree_digest(context, step.source) != step.tree:
        raise Skip("something in it is new, changed or gone")
    for needed in step.needs:
        _check_there(context, *needed, "it came from")
    keepers = {path: context.disk.status(path) for path in [_proved(context, step, proof) for proof in step.proofs]}
    if any(keeper is None or keeper.file_id == found.file_id for keeper in keepers.values()):
        raise Skip("what would stay is the same file under another name")

    def still() -> bool:
        return all(status and context.is_there(path, status.stamp) for path, status in keepers.items())

    return StepResult(held=context.hold(step.source, step.why or "taken away", still))


def _proved(context: RunContext, step: Hold, proof: Proof) -> str:
    """Return what stays instead of what a step takes away, proved in this moment to be what the plan says of it.

    Raises Skip where it is not: a copy that is compared, something alike that is as the plan saw it, a folder or an
    archive that holds all that is in an archive.
    """
    disk = context.disk
    if isinstance(proof, InArchive | Spread | Converted | Repacked):
        return _proved_packed(disk, step, proof)
    match proof:
        case SameBytes(keeper):
            if keeper == step.source or disk.status(keeper) is None:
                raise Skip(f"the copy that would stay, “{written(keeper)}”, is no longer there")
            if not verified_copy.contents_equal(context, keeper, step.source):
                raise Skip(f"it no longer equals the copy that would stay, “{written(keeper)}”")
            return keeper
        case Alike(keeper, stamp):
            _check_there(context, keeper, stamp, "would stay")
            return keeper
        case Unpacked(folder, layout, names):
            if not extract.is_in_folder(disk, extract.Part(step.source, layout, names), folder):
                raise Skip(f"“{written(folder)}” no longer holds all that it holds")
            return folder


def _proved_packed(disk: Filesystem, step: Hold, proof: InArchive | Spread | Converted | Repacked) -> str:
    """Return the archive, or what an outside program has made, that stays. Raises Skip where it is not right."""
    match proof:
        case InArchive(archive, member):
            with disk.open_old(step.source) as file:
                if not extract.has_member(disk, archive, member, file):
                    raise Skip(f"“{written(archive)}” does not hold the same under “{written(member)}”")
            return archive
        case Spread(places):
            if not places or not extract.is_spread(disk, step.source, places):
                raise Skip("not all that it holds is elsewhere")
            return next(path for path, _ in places.values())
        case Converted(path):
            status = disk.status(path)
            if status is None or status.is_folder or not status.size:
                raise Skip(f"what it was turned into, “{written(path)}”, is not there")
            return path
        case Repacked(other):
            if other == step.source or disk.status(other) is None:
                raise Skip(f"the archive that would stay, “{written(other)}”, is no longer there")
            if not extract.is_in_archive(disk, step.source, other):
                raise Skip(f"“{written(other)}” does not hold all that it holds")
            return other


def _check_there(context: RunContext, path: str, stamp: FileStamp, what: str) -> None:
    """Raise Skip where what something came from, or what would stay instead of it, is gone or not what it was."""
    try:
        context.checked(path, unchanged_file(stamp))
    except Skip as skip:
        raise Skip(f"what {what}, “{written(path)}”, is not what it was: {skip}") from None


def _recover_hold(context: RunContext, step: Hold) -> StepResult | None:
    held = context.found_held(step.source)
    source, target = context.disk.status(step.source), context.held_status(step.source)
    if target is None:
        return None
    if source and source.file_id == target.file_id and source.links > 1:
        context.drop_second_name(step.source, step, held)  # linked, not yet unlinked
        source = None
    return StepResult(held=held) if source is None else None


def _inverse_of_hold(step: Hold, result: StepResult) -> Step:
    return Move(source=result.held, target=step.source, stamp=unchanged_file(step.stamp))


ACTIONS: Mapping[type[Step], object] = {Hold: Action(_hold, _recover_hold, _inverse_of_hold)}
