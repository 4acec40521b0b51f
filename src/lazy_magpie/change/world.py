"""What a step needs to be done: the disk, where held things go, and the names of our own temporary files."""

from __future__ import annotations

import datetime
import itertools
import json
from dataclasses import dataclass, field

from lazy_magpie.change.disk import Disk, Status
from lazy_magpie.change.journal import Record
from lazy_magpie.model import Do, Seen, Step
from lazy_magpie.paths import above, join, parent, written

OWN = ".magpie"
HELD = "held"
_READING = (Do.COPY, Do.UNPACK)
MANIFEST = "manifest.jsonl"
TEMPORARY = ".magpie-part"
"""The ending of a temporary file beside its destination; one that is left over is recognised by it."""


class Skip(Exception):
    """A step is not done, and nothing of it was; the message says why."""


@dataclass
class World:
    """The surroundings of one run of a change."""

    disk: Disk
    change: int
    run: int
    folders: dict[str, tuple[int, int]] = field(default_factory=dict)
    touched: set[str] = field(default_factory=set)
    inside: set[str] = field(default_factory=set)

    def temporary(self, step: Step) -> str:
        """Return the name of a step's temporary file or folder, beside its destination."""
        return join(parent(step.target), f".{self.change}-{self.run}-{step.number}{TEMPORARY}")

    def top(self, path: str) -> str:
        """Return the topmost folder of the root on the drive that `path` lies on, or lay: its folders may be gone."""
        there = [(place, status) for place in (path, *above(path), "") if (status := self.disk.status(place))]
        device = there[0][1].device
        folders = [place for place, _ in itertools.takewhile(lambda each: each[1].device == device, there)]
        return folders[-1] if folders[-1] != path else parent(path)

    def held_path(self, path: str) -> str:
        """Return where `path` is held when this run takes it away: below the same drive's top, under its own path."""
        top = self.top(path)
        rest = path[len(top) + 1 :] if top else path
        return join(join(top, f"{OWN}/{HELD}/{self.change:06}/{self.run}"), rest)

    def hold(self, path: str, why: str) -> str:
        """Move `path` into the holding area, note it in the manifest there, and return where it is now."""
        held = self.held_path(path)
        self.make_folders(parent(held))
        self._note(path, held, why)
        self.disk.rename(path, held)
        self.touched |= {parent(path), parent(held)}
        return held

    def _note(self, path: str, held: str, why: str) -> None:
        """Write a line into the holding area's manifest, which is understood without magpie."""
        home = held[: held.index(f"{OWN}/{HELD}/")] + f"{OWN}/{HELD}/{self.change:06}"
        record: Record = {
            "held": written(held),
            "from": written(path),
            "why": why,
            "since": datetime.datetime.now(datetime.UTC).isoformat(timespec="seconds"),
            "change": self.change,
        }
        with self.disk.append(join(home, MANIFEST)) as file:
            file.write(json.dumps(record, ensure_ascii=False).encode() + b"\n")
        self.touched.add(home)

    def make_folders(self, folder: str) -> None:
        """Make a folder and those above it, where they are missing."""
        missing = []
        while folder and self.disk.status(folder) is None:
            missing.append(folder)
            folder = parent(folder)
        for path in reversed(missing):
            self.disk.make_folder(path)
            self.touched.add(parent(path))

    def sync(self) -> None:
        """Make all that was done to names since the last call last."""
        for folder in sorted(self.touched):
            self.disk.sync_folder(folder)
        self.touched.clear()
        self.inside.clear()

    def check_inside(self, step: Step) -> None:
        """Raise Skip where a link leads from the folder of one of a step's names to outside the root.

        What only reads may read outside, where its plan says so: that is what a person named for it.
        """
        paths = (step.target,) if step.do in _READING and step.data.get("outside") else (step.source, step.target)
        for folder in {parent(path) for path in paths if path} - self.inside:
            if not self.disk.is_inside(folder):
                raise Skip(f"a link leads from “{written(folder)}” to outside the collection")
            self.inside.add(folder)

    def is_seen(self, status: Status, seen: Seen | None) -> bool:
        """Say whether what is there is what was seen, by all that its drive keeps of a file."""
        if seen is None or same(status, seen):
            return True
        return same(status, seen, by_inode=False) and not self.disk.keeps_inodes(status.device)

    def checked(self, path: str, seen: Seen | None) -> Status:
        """Return what is at `path`, if it is still what the plan saw. Raises Skip where it is not."""
        status = self.disk.status(path)
        if status is None:
            raise Skip("it is no longer there")
        if seen is not None and not self.is_seen(status, seen):
            raise Skip("it has changed since the plan was made")
        return status


def same(status: Status, seen: Seen, *, by_inode: bool = True) -> bool:
    """Say whether a file or folder is still the one that was seen: of a folder only the inode counts.

    Without `by_inode`, for drives that number their files anew at every mount, size and time decide.
    """
    if seen.is_folder or status.is_folder:
        return seen.is_folder and status.is_folder and (status.inode == seen.inode or not by_inode)
    return status.size == seen.size and status.mtime == seen.mtime and (status.inode == seen.inode or not by_inode)
