"""The holding area: what changes took away, where it came from, and the one way to delete it for good.

What is held, and where, is told by our own journals alone. The manifest in the holding area is for people; only why and
since when are read from it.
"""

from __future__ import annotations

import datetime
import json
import re
from collections.abc import Iterable, Iterator
from contextlib import suppress
from typing import NamedTuple

from lazy_magpie.change import journal
from lazy_magpie.change.filesystem.access import Filesystem
from lazy_magpie.change.free_space import size_of
from lazy_magpie.change.journal_state import Run
from lazy_magpie.change.journal_store import JournalStore
from lazy_magpie.change.run_context import MANIFEST, held_path
from lazy_magpie.change.state_folders import HELD, STATE_DIR, StateFolders, missing_folders
from lazy_magpie.model import FileStamp, Step
from lazy_magpie.model.steps import Hold, MakeFolder, Move, Restore
from lazy_magpie.paths import above, join, parent, written

_HELD_PATH = re.compile(rf"(?P<top>.*?/)?{re.escape(STATE_DIR)}/{HELD}/\d{{6,}}/\d+(?:-\d+)?/.+", re.DOTALL)
_LEFT = re.compile(r"\.\d+\.left")
_LONGEST_MANIFEST = 256 << 20


class Held(NamedTuple):
    """A file or folder in the holding area: where it is, where it was, why it went, since when (ISO 8601), size.

    `top` is the topmost folder of its drive.
    """

    path: str
    origin: str
    why: str
    since: str
    change: int
    size: int
    stamp: FileStamp
    top: str = ""


def held_things(store: JournalStore) -> list[Held]:
    """Return what the holding areas on all drives of a root have, oldest first."""
    disk, areas = store.disk, StateFolders(store.disk)
    tops = areas.tops()
    numbers = {int(name) for top in tops for name in _names(disk, join(top, f"{STATE_DIR}/{HELD}")) if name.isdecimal()}
    found = [one for number in sorted(numbers & set(store.changes())) for one in _of_change(store, number, tops)]
    return sorted(found, key=lambda one: (one.since, one.path))


def _names(disk: Filesystem, folder: str) -> list[str]:
    status = disk.status(folder)
    return disk.names(folder) if status is not None and status.is_folder else []


def _of_change(store: JournalStore, number: int, tops: list[str]) -> Iterator[Held]:
    """Yield what is there of all that a change has ever held, by its journal."""
    state = journal.read(store.disk, store.journal(number))
    said = {path: told_of for top in tops for path, told_of in _manifest(store.disk, top, number)}
    listed: set[str] = set()
    for run_number, run in enumerate(state.runs, start=1):
        for origin, recorded in _held_in(run):
            found = _where(store.disk, number, run_number, origin, recorded, tops)
            status = store.disk.status(found[1]) if found else None
            if found is None or status is None or found[1] in listed:
                continue
            top, path = found
            listed.add(path)
            why, since = said.get(written(recorded), ("taken away", run.at))
            rest = origin[len(_top_in(origin, recorded) or "") :].lstrip("/")
            yield Held(path, join(top, rest), why, since, number, size_of(store.disk, path), status.stamp, top)


def _held_in(run: Run) -> Iterator[tuple[str, str]]:
    """Yield where things were that a run has held, each with where it says that they are."""
    for number, result in run.done.items():
        step = run.steps.get(number)
        where = result.held or result.away or (result.moved.held if result.moved else "")
        if step is not None and where:
            yield _origin(step), where
    yield from run.kept


def _origin(step: Step) -> str:
    """Return where what a step held was."""
    if isinstance(step, Restore):
        return step.instead
    return step.source if isinstance(step, Hold | Move) else step.target


def _top_in(origin: str, recorded: str) -> str | None:
    """Return the topmost folder of the drive on which something was held, None where the path is no held one."""
    match = _HELD_PATH.fullmatch(recorded)
    if match is None:
        return None
    top = str(match["top"] or "").rstrip("/")
    return top if not top or top in above(origin) else None


def _where(
    disk: Filesystem, change: int, run: int, origin: str, recorded: str, tops: list[str]
) -> tuple[str, str] | None:
    """Return where what a run has held is now: the top of its drive, which may be mounted elsewhere, and its path.

    Both are computed from what we know of the change; None where what is recorded is not the same.
    """
    top = _top_in(origin, recorded)
    if top is None:
        return None
    computed = held_path(top, change, run, origin)
    ending = recorded.removeprefix(computed) if recorded.startswith(computed) else "elsewhere"
    is_as_folder = recorded == held_path(top, change, run, origin, is_folder=True)
    if ending and not is_as_folder and not _LEFT.fullmatch(ending):
        return None
    rest = recorded[len(top) :].lstrip("/")
    for place in sorted(tops, key=lambda place: place != top):
        if disk.status(join(place, rest)):
            return place, join(place, rest)
    return None


def _manifest(disk: Filesystem, top: str, change: int) -> Iterator[tuple[str, tuple[str, str]]]:
    """Yield what a manifest says of each held path: why, and since when; a line that can't be read is passed over."""
    path = join(top, f"{STATE_DIR}/{HELD}/{change:06}/{MANIFEST}")
    status = disk.status(path)
    if status is None or status.is_folder or status.is_link or status.size > _LONGEST_MANIFEST:
        return
    with disk.open_old(path) as file:
        for line in file:
            with suppress(ValueError, KeyError, TypeError, RecursionError):
                record = json.loads(line)
                since = datetime.datetime.fromisoformat(str(record["since"]))
                if since.tzinfo is not None:
                    yield str(record["held"]), (str(record["why"]), since.isoformat(timespec="seconds"))


def older_than(ones: Iterable[Held], days: float, now: datetime.datetime) -> list[Held]:
    """Return those that have been held for more than `days`."""
    limit = now.timestamp() - days * 86_400
    return [one for one in ones if datetime.datetime.fromisoformat(one.since).timestamp() < limit]


def restoring(disk: Filesystem, ones: Iterable[Held]) -> list[Step]:
    """Return the steps that bring held things back to where they were, with the folders they need."""
    steps: list[Step] = []
    made: set[str] = set()
    for one in ones:
        for folder in missing_folders(disk, parent(one.origin)):
            if folder in made:
                continue
            made.add(folder)
            steps.append(MakeFolder(number=len(steps) + 1, target=folder, why="it was there"))
        why = f"held since {one.since[:10]}: {one.why}"
        number = len(steps) + 1
        steps.append(Move(number=number, source=one.path, target=one.origin, why=why, group="held", stamp=one.stamp))
    return steps


def is_held(path: str) -> bool:
    """Say whether a path, as our own journals have it, lies in a holding area."""
    return _HELD_PATH.fullmatch(path) is not None


def delete_held(disk: Filesystem, one: Held) -> None:
    """Delete what is held, for good. Nothing else in magpie deletes a file of the person's.

    Raises OSError where a link or a mounted drive is in the way.
    """
    if not is_held(one.path) or ".." in one.path.split("/"):
        raise ValueError(f"{one.path} is not in a holding area")
    disk.delete(one.path, one.top)
    home = join(one.top, f"{STATE_DIR}/{HELD}")
    folder = parent(one.path)
    while len(folder) > len(home):
        if set(disk.names(folder)) <= {MANIFEST} and parent(folder) == home:
            disk.delete(join(folder, MANIFEST), one.top)
        if disk.names(folder):
            break
        disk.drop_folder(folder)
        folder = parent(folder)
