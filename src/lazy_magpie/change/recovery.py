"""After a crash: what was half done is finished or cleaned up, by looking at the disk, and the change is closed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from lazy_magpie.change import journal
from lazy_magpie.change.crash import point
from lazy_magpie.change.disk import Status
from lazy_magpie.change.engine import Area, Move, Outcome, close, tell
from lazy_magpie.change.history import Change, history
from lazy_magpie.change.journal import Claim, Record, Run, Told, Writer
from lazy_magpie.change.sorts import SORTS
from lazy_magpie.change.world import Skip, Stuck, World
from lazy_magpie.model import Step
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
    left: int
    unclear: tuple[tuple[str, str], ...]
    moves: tuple[Move, ...]
    notes: tuple[Step, ...]
    placed: tuple[Step, ...] = ()
    damaged: str = ""

    @property
    def text(self) -> str:
        """One or two sentences for the person."""
        doing = {"undo": "taking back ", "redo": "doing again "}.get(self.run, "")
        text = f"{doing}change {self.change} ({self.command}) was interrupted: {self.done:,} steps are done"
        text = text[0].upper() + text[1:]
        if self.left:
            text += f", {self.left:,} are not"
        text += f". “magpie redo {self.change}” does the rest, “magpie undo {self.change}” takes it back."
        if self.damaged:
            text += f" Its journal was damaged ({self.damaged}); what it no longer tells was looked up on the disk."
        for path, why in self.unclear[:10]:
            text += f" Look at “{path}”: {why}."
        return text


def unfinished(area: Area) -> list[Change]:
    """Return the changes that a crash has left unfinished."""
    return [change for change in history(area) if change.state == "unfinished"]


def recover(area: Area) -> list[Recovered]:
    """Put right every change that a crash has left unfinished; harmless where there is none, and when killed itself."""
    return [found for number in area.changes() if (found := _recover(area, number)) is not None]


def _recover(area: Area, number: int) -> Recovered | None:
    path = area.journal(number)
    _, last = journal.ends(area.disk, path)
    if last.get("r") == "end":
        return None
    told = journal.read(area.disk, path)
    if not told.head and not told.runs:
        return None
    if not told.runs or not (told.runs[-1].ready or told.runs[-1].begun):
        _void(area, path, told)
        return None
    return mend(area, number, told)


def mend(area: Area, number: int, told: Told) -> Recovered:
    """Look up on the disk what became of the steps that the journal does not tell of, and close the run.

    It stays open where a step is still half done: what could not be put right now may be the next time.
    """
    run = told.runs[-1]
    writer = Writer(area.disk, area.journal(number))
    world = World(
        area.disk, number, len(told.runs), run.folders, run.marks, run.drives, run.claims, run.was, writer.note
    )
    outcome = Outcome(number, done=len(run.done))
    point("recovery-begun")
    done: dict[int, Record] = {}
    still_open: list[int] = []
    unclear = []
    try:
        _drop_claims(world)
        for step in told.open_steps:
            try:
                info = SORTS[step.do].mend(world, step)
            except (OSError, Skip, Stuck) as error:
                unclear.append((written(step.source or step.target), _text_of(error)))
                if isinstance(error, Stuck) or area.disk.status(world.work_path(step)):
                    still_open.append(step.number)
                continue
            point("recovery-step")
            if info is not None:
                done[step.number] = info
                outcome.done += 1
        world.sync()
        writer.write({"r": "did", "done": [[number, info] for number, info in done.items()], "open": still_open})
        outcome.left = len(run.steps) - outcome.done
        if not still_open:
            stopped = outcome.left > 0
            close(world, writer, told.head, outcome, run.sort, stopped=stopped, looked=bool(told.damaged))
    finally:
        writer.close()
    return _recovered(told, run, outcome, {**run.done, **done}, unclear)


def _text_of(error: OSError | Skip | Stuck) -> str:
    return (error.strerror or str(error)).lower() if isinstance(error, OSError) else str(error)


def _drop_claims(world: World) -> None:
    """Take away the empty files and folders that claim names which nothing has taken: the journal knows them."""
    for path, claim in world.claims.items():
        status = world.disk.status(path)
        if status is None or status.size > 0 or status.is_link or not _is_claim(world, status, claim):
            continue
        try:
            (world.disk.drop_folder if status.is_folder else world.disk.drop_file)(path)
        except OSError:  # something is in the folder by now
            continue
        world.touched.add(parent(path))


def _is_claim(world: World, status: Status, claim: Claim) -> bool:
    """Say whether what is there, and empty, is what claimed the name: by its inode.

    Where a crash came before that was noted, the name was free a moment before, and what is there is as we make it.
    """
    if claim.seen is not None:
        return world.is_seen(status, claim.seen) and status.mtime == claim.seen.mtime
    return status.mtime >= claim.since - _CLOCK and (status.is_folder or status.mode == 0o600)


def _recovered(
    told: Told, run: Run, outcome: Outcome, done: Mapping[int, Record], unclear: Sequence[tuple[str, str]]
) -> Recovered:
    """Return what was found, with what the catalogue has to hear of all the run's steps that are done."""
    heard = Outcome(outcome.change)
    for number in sorted(done.keys() & run.steps.keys()):
        tell(heard, run.steps[number], done[number])
    return Recovered(
        outcome.change,
        str(told.head.get("command", "")),
        int(told.head.get("plan", 0)),
        run.sort,
        outcome.done,
        outcome.left,
        tuple(unclear),
        tuple(heard.moves),
        tuple(heard.notes),
        tuple(heard.placed),
        told.damaged,
    )


def _void(area: Area, path: str, told: Told) -> None:
    """Close a run that had not begun: nothing was done, so it counts for nothing."""
    writer = Writer(area.disk, path)
    state = "void" if len(told.runs) < 2 else "stopped"
    writer.write({"r": "end", "at": told.head.get("made", ""), "state": state, "done": 0, "change": told.head})
    writer.sync()
    writer.close()
