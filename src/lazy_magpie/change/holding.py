"""The holding area: what changes took away, where it came from, and the one way to delete it for good."""

from __future__ import annotations

import datetime
import json
from collections.abc import Iterable, Iterator
from typing import NamedTuple

from lazy_magpie.change.disk import Disk
from lazy_magpie.change.world import HELD, MANIFEST, OWN
from lazy_magpie.model import Do, Seen, Step
from lazy_magpie.paths import join, parent, read_back


class Held(NamedTuple):
    """A file or folder in the holding area: where it is, where it was, why it went, since when (ISO 8601), size."""

    path: str
    origin: str
    why: str
    since: str
    change: int
    size: int
    seen: Seen


def held(disk: Disk, tops: Iterable[str] = ("",)) -> list[Held]:
    """Return what the holding areas at the tops of drives (folders of the root) have, oldest first."""
    found = [one for top in tops for one in _in_area(disk, join(join(top, OWN), HELD))]
    return sorted(found, key=lambda one: (one.since, one.path))


def _in_area(disk: Disk, area: str) -> Iterator[Held]:
    if disk.status(area) is None:
        return
    for change in sorted(disk.names(area)):
        known: dict[str, Held] = {}
        for record in _manifest(disk, join(join(area, change), MANIFEST)):
            path = read_back(str(record["held"]))
            status = disk.status(path)
            if status is not None:
                origin, why, since = read_back(str(record["from"])), str(record["why"]), str(record["since"])
                number = int(str(record["change"]))
                known[path] = Held(path, origin, why, since, number, _size(disk, path), status.seen)
        yield from known.values()


def _manifest(disk: Disk, path: str) -> Iterator[dict[str, object]]:
    """Yield the lines of a manifest; a line that a crash cut off is passed over."""
    if disk.status(path) is None:
        return
    with disk.open_old(path) as file:
        for line in file:
            try:
                record = json.loads(line)
            except ValueError:
                continue
            if isinstance(record, dict) and {"held", "from", "why", "since", "change"} <= record.keys():
                yield record


def _size(disk: Disk, path: str) -> int:
    status = disk.status(path)
    if status is None:
        return 0
    if status.is_folder:
        return sum(_size(disk, join(path, name)) for name in disk.names(path))
    return status.size


def tops_of_drives(disk: Disk, folders: Iterable[str]) -> list[str]:
    """Return the folders of the root that have a holding area: the root, and where other drives are mounted in it."""
    return ["", *(folder for folder in folders if folder and disk.status(join(folder, f"{OWN}/{HELD}")))]


def older_than(ones: Iterable[Held], days: float, now: datetime.datetime) -> list[Held]:
    """Return those that have been held for more than `days`."""
    limit = now - datetime.timedelta(days=days)
    return [one for one in ones if datetime.datetime.fromisoformat(one.since) < limit]


def restoring(disk: Disk, ones: Iterable[Held]) -> list[Step]:
    """Return the steps that bring held things back to where they were, with the folders they need."""
    steps: list[Step] = []
    made: set[str] = set()
    for one in ones:
        missing = []
        folder = parent(one.origin)
        while folder and folder not in made and disk.status(folder) is None:
            missing.append(folder)
            folder = parent(folder)
        for folder in reversed(missing):
            made.add(folder)
            steps.append(Step(len(steps) + 1, Do.MAKE, "", folder, "it was there"))
        why = f"held since {one.since[:10]}: {one.why}"
        steps.append(Step(len(steps) + 1, Do.MOVE, one.path, one.origin, why, "held", seen=one.seen))
    return steps


def is_held(path: str) -> bool:
    """Say whether a path lies in a holding area."""
    return f"{OWN}/{HELD}/" in path


def delete(disk: Disk, one: Held) -> None:
    """Delete what is held, for good. Nothing else in magpie deletes a file of the person's."""
    if not is_held(one.path):
        raise ValueError(f"{one.path} is not in a holding area")
    _delete(disk, one.path)
    folder = parent(one.path)
    while f"{OWN}/{HELD}/" in folder and set(disk.names(folder)) <= {MANIFEST}:
        if disk.status(join(folder, MANIFEST)):
            disk.drop_file(join(folder, MANIFEST))
        disk.drop_folder(folder)
        folder = parent(folder)


def _delete(disk: Disk, path: str) -> None:
    status = disk.status(path)
    if status is None:
        return
    if status.is_folder:
        for name in disk.names(path):
            _delete(disk, join(path, name))
        disk.drop_folder(path)
    else:
        disk.drop_file(path)
