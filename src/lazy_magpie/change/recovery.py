"""After a crash: what was half done is finished or cleaned up, by looking at the disk, and the change is closed."""

from __future__ import annotations

from dataclasses import dataclass

from lazy_magpie.change import journal
from lazy_magpie.change.crash import point
from lazy_magpie.change.disk import Disk
from lazy_magpie.change.engine import Area, Move, Outcome, close
from lazy_magpie.change.history import Change, history
from lazy_magpie.change.journal import Run, Told, Writer
from lazy_magpie.change.sorts import SORTS
from lazy_magpie.change.world import Skip, World
from lazy_magpie.model import Do, Step
from lazy_magpie.paths import written


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
    if not told.head:
        return None
    if not told.runs or not (told.runs[-1].ready or told.runs[-1].begun):
        _void(area, path, told)
        return None
    return mend(area, number, told)


def mend(area: Area, number: int, told: Told) -> Recovered:
    """Look up on the disk what became of the steps that the journal does not tell of, and close the run."""
    run = told.runs[-1]
    world = World(area.disk, number, len(told.runs), run.folders)
    outcome = Outcome(number, done=len(run.done))
    writer = Writer(area.disk, area.journal(number))
    point("recovery-begun")
    done: list[object] = []
    unclear = []
    try:
        for step in told.open_steps:
            try:
                info = SORTS[step.do].mend(world, step)
            except (OSError, Skip) as error:
                unclear.append((written(step.source or step.target), str(error)))
                continue
            point("recovery-step")
            if info is not None:
                done.append([step.number, info])
                outcome.done += 1
        world.sync()
        writer.write({"r": "did", "done": done})
        outcome.left = len(run.steps) - outcome.done
        close(world, writer, outcome, run.sort, stopped=outcome.left > 0, looked=bool(told.damaged))
    finally:
        writer.close()
    doubled = {number for number, _ in (entry for entry in done if isinstance(entry, list))} | set(run.done)
    return Recovered(
        number,
        str(told.head.get("command", "")),
        int(told.head.get("plan", 0)),
        run.sort,
        outcome.done,
        outcome.left,
        tuple(unclear),
        _moves(area.disk, run, doubled),
        tuple(run.steps[k] for k in sorted(doubled & run.steps.keys()) if run.steps[k].do in (Do.SETTLE, Do.TAG)),
        told.damaged,
    )


def _moves(disk: Disk, run: Run, done: set[int]) -> tuple[Move, ...]:
    steps = (run.steps[number] for number in sorted(done & run.steps.keys()))
    moved = ((step.source, step.target) for step in steps if step.do is Do.MOVE)
    return tuple((source, target, _is_folder(disk, target)) for source, target in moved)


def _is_folder(disk: Disk, path: str) -> bool:
    status = disk.status(path)
    return status is not None and status.is_folder


def _void(area: Area, path: str, told: Told) -> None:
    """Close a run that had not begun: nothing was done, so it counts for nothing."""
    writer = Writer(area.disk, path)
    state = "void" if len(told.runs) < 2 else "stopped"
    writer.write({"r": "end", "at": told.head.get("made", ""), "state": state, "done": 0})
    writer.sync()
    writer.close()
