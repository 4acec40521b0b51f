"""Does the steps of a run, batch by batch: announced in the journal, done, synced, noted."""

from __future__ import annotations

import datetime
import errno
import getpass
import socket
from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from dataclasses import dataclass, field

from lazy_magpie import __version__
from lazy_magpie.change import journal
from lazy_magpie.change.batches import batches, names_of
from lazy_magpie.change.crash import point
from lazy_magpie.change.disk import Disk
from lazy_magpie.change.journal import Record, Writer
from lazy_magpie.change.marks import Marks
from lazy_magpie.change.own_areas import OWN, WORK
from lazy_magpie.change.sorts import SORTS
from lazy_magpie.change.world import Skip, Stuck, World
from lazy_magpie.errors import MagpieError
from lazy_magpie.model import Do, Seen, Step
from lazy_magpie.paths import join, parent, read_back, written

BATCH = 512
"""The most steps between two syncs."""
_MAKING = (Do.WRITE, Do.REPLACE, Do.COPY, Do.UNPACK)
_HOPELESS = (errno.ENOSPC, errno.EDQUOT, errno.EROFS)
"""Errors after which no further step can succeed either."""


Move = tuple[str, str, bool]
"""From, to, and whether it is a folder."""


@dataclass
class Outcome:
    """What a run did.

    `moves` are the files and folders that now have another name, `notes` the answers and tags, `held` what was taken
    away, `made` the files and folders that are new or have other contents, `unrestored` what an undo brought back
    without all that it had: a time, an owner; `placed` are steps that placed things by a naming, `refused` those whose
    archives could not be unpacked, with the reason. `stuck` says that a step is half done: recovery goes on with it.
    """

    change: int
    done: int = 0
    skipped: list[tuple[str, str]] = field(default_factory=list)
    failed: list[tuple[str, str]] = field(default_factory=list)
    moves: list[Move] = field(default_factory=list)
    notes: list[Step] = field(default_factory=list)
    held: list[str] = field(default_factory=list)
    made: list[str] = field(default_factory=list)
    unrestored: list[tuple[str, str]] = field(default_factory=list)
    placed: list[Step] = field(default_factory=list)
    refused: list[tuple[Step, str]] = field(default_factory=list)
    left: int = 0
    why_stopped: str = ""
    stuck: bool = False


@dataclass(frozen=True)
class Area:
    """Where a collection's changes are kept, and the disk that they work on."""

    disk: Disk

    def journal(self, change: int) -> str:
        """Return the file of a change's journal."""
        return f"{journal.FOLDER}/{change:06}.log"

    def head(self, change: int) -> Record:
        """Return the record that says what a change is, {} where no whole one is left."""
        return journal.ends(self.disk, self.journal(change))[0]

    def changes(self) -> list[int]:
        """Return the numbers of all changes, oldest first."""
        if self.disk.status(journal.FOLDER) is None:
            return []
        names = self.disk.names(journal.FOLDER)
        return sorted(int(name[:-4]) for name in names if name.endswith(".log") and name[:-4].isdecimal())


@dataclass(frozen=True)
class Watch:
    """What the caller wants to hear of a run, and how it stops it between two steps."""

    progress: Callable[[int], None] = lambda done: None
    stop: Callable[[], bool] = lambda: False


SILENT = Watch()


def new_change(area: Area, command: str, plan: int) -> int:
    """Begin a journal for a new change and return its number."""
    number = max([0, *area.changes()]) + 1
    head = {
        "r": "change",
        "change": number,
        "command": command,
        "plan": plan,
        "made": now(),
        "who": f"{getpass.getuser()}@{socket.gethostname()}",
        "version": __version__,
    }
    try:
        writer = Writer(area.disk, area.journal(number))
        for _ in range(2):  # so that one damage does not hide what it is
            writer.write(head)
        writer.close()
    except OSError as error:
        raise _unwritable(area, error) from error
    return number


def run(
    area: Area,
    change: int,
    sort: str,
    run_number: int,
    steps: Sequence[Step],
    watch: Watch,
    drives: Mapping[str, str] | None = None,
) -> Outcome:
    """Do `steps` in order as one run of `change` and return what became of them.

    `drives` are those that were mounted when the steps were planned, None where that is not known. Raises MagpieError
    where the journal itself can't be written; nothing has then been done that it does not tell.
    """
    outcome = Outcome(change, left=len(steps))
    try:
        writer = Writer(area.disk, area.journal(change))
        try:
            world = World(area.disk, change, run_number, *_folders(area.disk, steps), planned=drives, note=writer.note)
            journal.write_steps(writer, sort, now(), world.areas.drives, steps)
            writer.write(
                {
                    "r": "folders",
                    "were": {written(path): were for path, were in world.folders.items()},
                    "marks": {written(path): marks for path, marks in world.marks.items()},
                }
            )
            writer.write({"r": "ready", "run": sort, "steps": len(steps)})
            point("steps-written")
            stopped = _batches(world, writer, steps, outcome, watch)
            if not outcome.stuck:
                close(world, writer, area.head(change), outcome, sort, stopped=stopped)
        finally:
            writer.close()
    except OSError as error:
        raise _unwritable(area, error) from error
    return outcome


def _batches(world: World, writer: Writer, steps: Sequence[Step], outcome: Outcome, watch: Watch) -> bool:
    """Go through the steps in batches; say whether the run was stopped before its end."""
    lost: set[int] = set()
    reached = 0
    for batch in batches(steps, BATCH):
        if watch.stop():
            return True
        reached += len(batch)
        writer.write({"r": "go", "first": batch[0].number, "last": batch[-1].number})
        writer.sync()
        point("batch-announced")
        done: list[object] = []
        stopped = False
        for step in batch:
            stopped = watch.stop() or bool(outcome.why_stopped)
            if stopped:
                break
            if (info := _one(world, step, outcome, lost)) is not None:
                done.append([step.number, info] if info else step.number)
            point("step-done")
        world.sync()
        point("batch-done")
        if outcome.stuck:  # the batch stays open: recovery looks at each of its steps
            return True
        writer.write({"r": "did", "done": done})
        point("batch-noted")
        outcome.left = len(steps) - reached
        watch.progress(outcome.done + len(outcome.skipped) + len(outcome.failed))
        if stopped or outcome.why_stopped:
            outcome.left = len(steps) - outcome.done - len(outcome.skipped) - len(outcome.failed)
            return True
    return False


def _one(world: World, step: Step, outcome: Outcome, lost: set[int]) -> Record | None:
    """Do one step; return what undo needs, None where it was not done. What goes with a file left stays with it."""
    try:
        if step.item and step.item in lost:
            raise Skip("what it belongs to stays too")
        world.check_place(step)
        info = SORTS[step.do].act(world, step)
    except Skip as skip:
        why = str(skip)
    except FileExistsError:
        why = "something of that name is there now"
    except FileNotFoundError:
        why = "it, or the folder it goes to, is no longer there"
    except Stuck as stuck:
        outcome.failed.append((written(step.source or step.target), str(stuck)))
        outcome.why_stopped, outcome.stuck = f"{stuck}; the next command tries to put that right", True
        return None
    except OSError as error:
        outcome.failed.append((written(step.source or step.target), (error.strerror or str(error)).lower()))
        if error.errno in _HOPELESS:
            outcome.why_stopped = f"{error.strerror}: {written(step.target or step.source)}"
        lost.update([step.item] if step.item else [])
        return None
    else:
        outcome.done += 1
        tell(outcome, step, info)
        return info
    outcome.skipped.append((written(step.source or step.target), why))
    if step.do is Do.UNPACK:
        outcome.refused.append((step, why))
    lost.update([step.item] if step.item else [])
    return None


def tell(outcome: Outcome, step: Step, info: Record) -> None:
    """Add what a step that was done has changed to what the catalogue will hear of."""
    if step.do is Do.MOVE:
        outcome.moves.append((step.source, step.target, "folder" in info))
    elif step.do is Do.RESTORE:
        _tell_restored(outcome, step, info)
    elif step.do is Do.HOLD:
        outcome.held.append(step.source)
    elif step.do in (Do.SETTLE, Do.TAG):
        outcome.notes.append(step)
    elif step.do in _MAKING or "instead_of" in step.data:
        outcome.made.append(step.target)
    if "placed" in step.data:
        outcome.placed.append(step)
    if "lost" in info:
        outcome.unrestored.append((written(step.target), str(info["lost"])))


def _tell_restored(outcome: Outcome, step: Step, info: Record) -> None:
    instead = read_back(str(step.data["instead"]))
    if instead != step.target:
        is_folder = Seen(*step.data["made"]).is_folder
        outcome.moves.append((instead, step.target, is_folder))
        return
    outcome.made.append(step.target)
    if to := step.data.get("to"):
        outcome.made.append(read_back(str(to)))


def _state(sort: str, outcome: Outcome, stopped: bool) -> str:
    """Return what a change is after a run of this sort."""
    if stopped:
        return "stopped"
    if sort != "undo":
        return "done"
    return "part undone" if outcome.skipped or outcome.failed else "undone"


def close(
    world: World, writer: Writer, head: Record, outcome: Outcome, sort: str, *, stopped: bool, looked: bool = False
) -> None:
    """Write a run's end: the state of the change, the counts, how the touched folders look now, the `head`.

    `looked` says that what damaged records would have told was looked up on the disk.
    """
    clear_own(world)
    after = {}
    for folder in world.folders:
        status = world.disk.status(folder)
        if status:
            after[written(folder)] = status.mtime
    writer.write(
        {
            "r": "end",
            "at": now(),
            "state": _state(sort, outcome, stopped),
            "done": outcome.done,
            "skipped": len(outcome.skipped),
            "failed": len(outcome.failed),
            "left": outcome.left,
            "after": after,
            "looked": looked,
            "change": head,
        }
    )
    writer.sync()
    point("run-ended")


def clear_own(world: World) -> None:
    """Take our folder for unfinished things away from every drive where it is empty."""
    for top in world.areas.tops():
        with suppress(OSError):
            world.disk.drop_folder(join(top, f"{OWN}/{WORK}"))


def _folders(disk: Disk, steps: Sequence[Step]) -> tuple[dict[str, tuple[int, int]], dict[str, Marks]]:
    """Return (mtime, mode) of the folders whose names the steps change, and the marks of those that are dropped."""
    folders = {parent(path) for step in steps for path in names_of(step)}
    folders = {folder for folder in folders if not folder.startswith("..")}  # what is only read, outside
    dropped = {step.source for step in steps if step.do is Do.DROP and "link" not in step.data}
    found, marks = {}, {}
    for folder in sorted(folders | dropped):
        status = disk.status(folder)
        if status and status.is_folder:
            found[folder] = (status.mtime, status.mode)
            if folder in dropped:
                marks[folder] = disk.marks(folder)
    return found, marks


def now() -> str:
    """Return the time as it stands in journals: ISO 8601 with microseconds, UTC."""
    return datetime.datetime.now(datetime.UTC).isoformat(timespec="microseconds")


def _unwritable(area: Area, error: OSError) -> MagpieError:
    return MagpieError(
        f"The journal in {journal.FOLDER} can't be written: {error.strerror}. Nothing was "
        f"changed beyond what it tells; make room or check the permissions of {area.disk.path(OWN)}, then try again."
    )
