"""After a crash: what was half done is finished or cleaned up, by looking at the disk, and the change is closed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from lazy_magpie.change import journal
from lazy_magpie.change.actions.registry import action_for
from lazy_magpie.change.codec import did_record
from lazy_magpie.change.engine import end_run
from lazy_magpie.change.failpoints import failpoint
from lazy_magpie.change.journal import Writer
from lazy_magpie.change.journal_state import Claim, JournalState, Run, StepResult
from lazy_magpie.change.journal_store import JournalStore
from lazy_magpie.change.outcome import Outcome, Relocation, report_step, state_after
from lazy_magpie.change.past_changes import VOID, Change, history
from lazy_magpie.change.records import RunEnd, end_record
from lazy_magpie.change.run_context import RunContext, Skip, Stuck
from lazy_magpie.model import FileStamp, FileStatus, Step
from lazy_magpie.model.sends import Retract, Send
from lazy_magpie.paths import parent, written

_CLOCK = 3_000_000_000
"""Nanoseconds by which the times of a drive may be coarser than the clock."""


@dataclass(frozen=True, slots=True)
class Recovered:
    """What recovery found of one change: how much of it is done, what could not be told, which files moved."""

    change: int
    command: str
    plan: int
    run: str
    done: int
    not_reached: int
    unclear: tuple[tuple[str, str], ...]
    moves: tuple[Relocation, ...]
    notes: tuple[Step, ...]
    placed: tuple[Step, ...] = ()
    sent: tuple[tuple[Send | Retract, FileStamp | None], ...] = ()
    damaged: str = ""

    @property
    def text(self) -> str:
        """One or two sentences for the person."""
        doing = {"undo": "taking back ", "redo": "doing again "}.get(self.run, "")
        text = f"{doing}change {self.change} ({self.command}) was interrupted: {self.done:,} steps are done"
        text = text[0].upper() + text[1:]
        if self.not_reached:
            text += f", {self.not_reached:,} are not"
        text += f". “magpie redo {self.change}” does the rest, “magpie undo {self.change}” takes it back."
        if self.damaged:
            text += f" Its journal was damaged ({self.damaged}); what it no longer tells was looked up on the disk."
        for path, why in self.unclear[:10]:
            text += f" Look at “{path}”: {why}."
        return text


def unfinished(store: JournalStore) -> list[Change]:
    """Return the changes that a crash has left unfinished."""
    return [change for change in history(store) if change.state == "unfinished"]


def recover(store: JournalStore) -> list[Recovered]:
    """Put right every change that a crash has left unfinished; harmless where there is none, and when killed itself."""
    return [found for number in store.changes() if (found := _recover(store, number)) is not None]


def _recover(store: JournalStore, number: int) -> Recovered | None:
    if not store.is_open(number):
        return None
    path = store.journal(number)
    state = journal.read(store.disk, path)
    if state.head is None and not state.runs:
        return None
    if not state.runs or not (state.runs[-1].ready or state.runs[-1].begun):
        _void(store, path, state)
        return None
    return recover_change(store, number, state)


def recover_change(store: JournalStore, number: int, state: JournalState) -> Recovered:
    """Look up on the disk what became of the steps that the journal does not tell of, and close the run.

    It stays open where a step is still half done: what could not be put right now may be the next time.
    """
    run = state.runs[-1]
    writer = Writer(store.disk, store.journal(number))
    context = RunContext(
        store.disk,
        number,
        len(state.runs),
        run.folders,
        run.attributes,
        run.drives,
        run.claims,
        run.was,
        writer.note,
        run.placing,
    )
    outcome = Outcome(number, done=len(run.done))
    failpoint("recovery-begun")
    done: dict[int, StepResult] = {}
    still_open: list[int] = []
    unclear = []
    try:
        _drop_claims(context)
        for step in state.open_steps:
            try:
                result = action_for(step).recover(context, step)
            except (OSError, Skip, Stuck) as error:
                unclear.append((written(step.source or step.target), _text_of(error)))
                if isinstance(error, Stuck) or store.disk.status(context.work_path(step)):
                    still_open.append(step.number)
                continue
            failpoint("recovery-step")
            if result is not None:
                done[step.number] = result
                outcome.done += 1
        context.sync()
        writer.write(did_record(done.items(), still_open))
        outcome.not_reached = len(run.steps) - outcome.done
        if not still_open:
            end = state_after(run.kind, outcome, stopped=outcome.not_reached > 0)
            end_run(context, writer, state.head, outcome, end, looked=bool(state.damaged))
    finally:
        writer.close()
    return _recovered(state, run, outcome, {**run.done, **done}, unclear)


def last_run(store: JournalStore, number: int) -> Recovered | None:
    """Return what the last run of a change did, as its journal tells, None where it tells of none."""
    state = journal.read(store.disk, store.journal(number))
    if not state.runs:
        return None
    run = state.runs[-1]
    return _recovered(state, run, Outcome(number, done=len(run.done)), run.done, ())


def _text_of(error: OSError | Skip | Stuck) -> str:
    return (error.strerror or str(error)).lower() if isinstance(error, OSError) else str(error)


def _drop_claims(context: RunContext) -> None:
    """Take away the empty files and folders that claim names which nothing has taken: the journal knows them."""
    for path, claim in context.claims.items():
        status = context.disk.status(path)
        if status is None or status.size > 0 or status.is_link or not _is_claim(context, status, claim):
            continue
        try:
            (context.disk.drop_folder if status.is_folder else context.disk.drop_file)(path)
        except OSError:  # something is in the folder by now
            continue
        context.touched.add(parent(path))


def _is_claim(context: RunContext, status: FileStatus, claim: Claim) -> bool:
    """Say whether what is there, and empty, is what claimed the name: by its inode.

    Where a crash came before that was noted, the name was free a moment before, and what is there is as we make it.
    """
    if claim.stamp is not None:
        return context.matches(status, claim.stamp) and status.mtime == claim.stamp.mtime
    return status.mtime >= claim.since - _CLOCK and (status.is_folder or status.mode == 0o600)


def _recovered(
    state: JournalState, run: Run, outcome: Outcome, done: Mapping[int, StepResult], unclear: Sequence[tuple[str, str]]
) -> Recovered:
    """Return what was found, with what the catalogue has to hear of all the run's steps that are done."""
    heard = Outcome(outcome.change)
    for number in sorted(done.keys() & run.steps.keys()):
        report_step(heard, run.steps[number], done[number])
    return Recovered(
        outcome.change,
        state.head.command if state.head else "",
        state.head.plan if state.head else 0,
        run.kind,
        outcome.done,
        outcome.not_reached,
        tuple(unclear),
        tuple(heard.moves),
        tuple(heard.notes),
        tuple(heard.placed),
        tuple(heard.sent),
        state.damaged,
    )


def _void(store: JournalStore, path: str, state: JournalState) -> None:
    """Close a run that had not begun: nothing was done, so it counts for nothing."""
    writer = Writer(store.disk, path)
    end = RunEnd(state.head.made if state.head else "", VOID if len(state.runs) < 2 else "stopped")
    writer.write(end_record(end, state.head, 0, {}, looked=False))
    writer.sync()
    writer.close()
