"""What a run did, step by step, for those who hear of it: the catalogue, the person."""

from __future__ import annotations

from dataclasses import dataclass, field

from lazy_magpie.change.journal_state import StepResult
from lazy_magpie.model import FileStamp, Step
from lazy_magpie.model.sends import Retract, Send
from lazy_magpie.model.steps import (
    Convert,
    Copy,
    Hardlink,
    Hold,
    LeaveFindings,
    Move,
    Pack,
    Replace,
    Restore,
    RewriteKeywords,
    RewriteTags,
    RewriteText,
    SetField,
    SetTags,
    Settle,
    SettleFolder,
    Unpack,
    Write,
    filing_of,
)
from lazy_magpie.paths import written

_NOTES = (SetTags, SetField, Settle, SettleFolder, LeaveFindings)
_MAKING = (Write, Replace, RewriteText, RewriteKeywords, RewriteTags, Copy, Unpack, Pack, Convert)

Relocation = tuple[str, str, bool]
"""From, to, and whether it is a folder."""


@dataclass
class Outcome:
    """What a run did.

    `moves` are the files and folders that now have another name, `notes` the answers and tags, `held` what was taken
    away, `made` the files and folders that are new or have other contents, `unrestored` what an undo brought back
    without all that it had: a time, an owner; `placed` are steps that placed things by a naming, `sent` what was put on
    targets and taken off, with how it looks there; `damaged` those whose archives are damaged, with the reason. `stuck`
    says that a step is half done: recovery goes on with it.
    """

    change: int
    done: int = 0
    skipped: list[tuple[str, str]] = field(default_factory=list)
    failed: list[tuple[str, str]] = field(default_factory=list)
    moves: list[Relocation] = field(default_factory=list)
    notes: list[Step] = field(default_factory=list)
    held: list[str] = field(default_factory=list)
    made: list[str] = field(default_factory=list)
    unrestored: list[tuple[str, str]] = field(default_factory=list)
    placed: list[Step] = field(default_factory=list)
    sent: list[tuple[Send | Retract, FileStamp | None]] = field(default_factory=list)
    damaged: list[tuple[Unpack, str]] = field(default_factory=list)
    not_reached: int = 0
    why_stopped: str = ""
    stuck: bool = False


def report_step(outcome: Outcome, step: Step, result: StepResult) -> None:
    """Add what a step that was done has changed to what the catalogue will hear of."""
    if isinstance(step, Move):
        outcome.moves.append((step.source, step.target, result.is_folder))
    elif isinstance(step, Restore):
        _report_restored(outcome, step)
    elif isinstance(step, Hold):
        outcome.held.append(step.source)
    elif isinstance(step, _NOTES):
        outcome.notes.append(step)
    elif isinstance(step, Send | Retract):
        outcome.sent.append((step, result.made))
    elif isinstance(step, _MAKING) or (isinstance(step, Hardlink) and step.replaces is not None):
        outcome.made.append(step.target)
    if filing_of(step) is not None:
        outcome.placed.append(step)
    if result.lost:
        outcome.unrestored.append((written(step.target), result.lost))


def _report_restored(outcome: Outcome, step: Restore) -> None:
    if step.instead != step.target:
        outcome.moves.append((step.instead, step.target, step.made.is_folder))
        return
    outcome.made.append(step.target)
    if step.to:
        outcome.made.append(step.to)


def state_after(kind: str, outcome: Outcome, *, stopped: bool) -> str:
    """Return the state of a change after a run of this kind."""
    if stopped:
        return "stopped"
    if kind != "undo":
        return "done"
    return "part undone" if outcome.skipped or outcome.failed else "undone"
