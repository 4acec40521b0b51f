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
from lazy_magpie.change.disk import Disk
from lazy_magpie.change.engine import Area
from lazy_magpie.change.journal import Run
from lazy_magpie.change.own_areas import HELD, OWN, Areas, missing_folders
from lazy_magpie.change.world import MANIFEST, held_path
from lazy_magpie.model import Do, Seen, Step
from lazy_magpie.paths import above, join, parent, read_back, written

_HELD_PATH = re.compile(rf"(?P<top>.*?/)?{re.escape(OWN)}/{HELD}/\d{{6,}}/\d+(?:-\d+)?/.+", re.DOTALL)
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
    seen: Seen
    top: str = ""


def held(area: Area) -> list[Held]:
    """Return what the holding areas on all drives of a root have, oldest first."""
    disk, areas = area.disk, Areas(area.disk)
    tops = areas.tops()
    numbers = {int(name) for top in tops for name in _names(disk, join(top, f"{OWN}/{HELD}")) if name.isdecimal()}
    found = [one for number in sorted(numbers & set(area.changes())) for one in _of_change(area, number, tops)]
    return sorted(found, key=lambda one: (one.since, one.path))


def _names(disk: Disk, folder: str) -> list[str]:
    status = disk.status(folder)
    return disk.names(folder) if status is not None and status.is_folder else []


def _of_change(area: Area, number: int, tops: list[str]) -> Iterator[Held]:
    """Yield what is there of all that a change has ever held, by its journal."""
    told = journal.read(area.disk, area.journal(number))
    said = {path: told_of for top in tops for path, told_of in _manifest(area.disk, top, number)}
    seen: set[str] = set()
    for run_number, run in enumerate(told.runs, start=1):
        for origin, recorded in _held_in(run):
            found = _where(area.disk, number, run_number, origin, recorded, tops)
            status = area.disk.status(found[1]) if found else None
            if found is None or status is None or found[1] in seen:
                continue
            top, path = found
            seen.add(path)
            why, since = said.get(written(recorded), ("taken away", run.at))
            rest = origin[len(_top_in(origin, recorded) or "") :].lstrip("/")
            yield Held(path, join(top, rest), why, since, number, _size(area.disk, path), status.seen, top)


def _held_in(run: Run) -> Iterator[tuple[str, str]]:
    """Yield where things were that a run has held, each with where it says that they are."""
    for number, info in run.done.items():
        step = run.steps.get(number)
        where = info.get("held") or info.get("away") or info.get("moved", {}).get("held")
        if step is not None and where:
            origin = step.target if step.do in (Do.REPLACE, Do.HARDLINK) else step.source
            if step.do is Do.RESTORE:
                origin = read_back(str(step.data["instead"]))
            yield origin, read_back(str(where))
    yield from run.kept


def _top_in(origin: str, recorded: str) -> str | None:
    """Return the topmost folder of the drive on which something was held, None where the path is no held one."""
    match = _HELD_PATH.fullmatch(recorded)
    if match is None:
        return None
    top = str(match["top"] or "").rstrip("/")
    return top if not top or top in above(origin) else None


def _where(disk: Disk, change: int, run: int, origin: str, recorded: str, tops: list[str]) -> tuple[str, str] | None:
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


def _manifest(disk: Disk, top: str, change: int) -> Iterator[tuple[str, tuple[str, str]]]:
    """Yield what a manifest says of each held path: why, and since when; a line that can't be read is passed over."""
    path = join(top, f"{OWN}/{HELD}/{change:06}/{MANIFEST}")
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


def _size(disk: Disk, path: str) -> int:
    status = disk.status(path)
    if status is None:
        return 0
    if status.is_folder:
        return sum(_size(disk, join(path, name)) for name in disk.names(path))
    return status.size


def older_than(ones: Iterable[Held], days: float, now: datetime.datetime) -> list[Held]:
    """Return those that have been held for more than `days`."""
    limit = now.timestamp() - days * 86_400
    return [one for one in ones if datetime.datetime.fromisoformat(one.since).timestamp() < limit]


def restoring(disk: Disk, ones: Iterable[Held]) -> list[Step]:
    """Return the steps that bring held things back to where they were, with the folders they need."""
    steps: list[Step] = []
    made: set[str] = set()
    for one in ones:
        for folder in missing_folders(disk, parent(one.origin)):
            if folder in made:
                continue
            made.add(folder)
            steps.append(Step(len(steps) + 1, Do.MAKE, "", folder, "it was there"))
        why = f"held since {one.since[:10]}: {one.why}"
        steps.append(Step(len(steps) + 1, Do.MOVE, one.path, one.origin, why, "held", seen=one.seen))
    return steps


def is_held(path: str) -> bool:
    """Say whether a path, as our own journals have it, lies in a holding area."""
    return _HELD_PATH.fullmatch(path) is not None


def delete(disk: Disk, one: Held) -> None:
    """Delete what is held, for good. Nothing else in magpie deletes a file of the person's.

    Raises OSError where a link or a mounted drive is in the way.
    """
    if not is_held(one.path) or ".." in one.path.split("/"):
        raise ValueError(f"{one.path} is not in a holding area")
    disk.delete(one.path, one.top)
    home = join(one.top, f"{OWN}/{HELD}")
    folder = parent(one.path)
    while len(folder) > len(home):
        if set(disk.names(folder)) <= {MANIFEST} and parent(folder) == home:
            disk.delete(join(folder, MANIFEST), one.top)
        if disk.names(folder):
            break
        disk.drop_folder(folder)
        folder = parent(folder)
