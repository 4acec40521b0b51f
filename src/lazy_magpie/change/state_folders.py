"""Magpie's own folders inside a root: one at its top and one at the top of each drive mounted inside it.

`.magpie/held/` keeps what changes took away, `.magpie/work/` what is being made and has no name of its own yet. Below
the top of a mounted drive both count as ours only with `.magpie/area.json` in them that carries the id of the root; any
other folder of that name came with something that was downloaded, and is data.
"""

from __future__ import annotations

import errno
import itertools
import json
import os

from lazy_magpie.change.filesystem.access import Filesystem
from lazy_magpie.collection import HELD_NAME, STATE_DIR_NAME
from lazy_magpie.paths import above, join, parent

STATE_DIR = STATE_DIR_NAME
HELD = HELD_NAME
WORK = "work"
ROOT_FILE = "root.json"
AREA_FILE = "area.json"
_MOST = 1 << 12
"""Bytes of such a file that are read: whatever is longer is not one of ours."""


class StateFolders:
    """The drives mounted inside a root, and magpie's own folders on them, looked up once for a run."""

    def __init__(self, disk: Filesystem) -> None:
        self.disk = disk
        self.drives = disk.drives()
        self._ready: set[str] = set()
        self._tops: dict[str, str] = {}

    def top(self, path: str) -> str:
        """Return the topmost folder of the root on the drive that `path` lies on, or lay: its folders may be gone."""
        folder = parent(path)
        if folder not in self._tops:
            self._tops[folder] = self._top(path)
        return self._tops[folder]

    def _top(self, path: str) -> str:
        if self.drives is not None:
            return next((folder for folder in above(path) if folder in self.drives), "")
        there = [(place, status) for place in (*above(path), "") if (status := self.disk.status(place))]
        device = there[0][1].device
        return list(itertools.takewhile(lambda each: each[1].device == device, there))[-1][0]

    def drive_of(self, path: str) -> tuple[str, str]:
        """Return the folder at which the drive of `path` is mounted, "" for the root's own, and the drive's id."""
        top = self.top(path)
        return top, (self.drives or {}).get(top, "")

    def tops(self) -> list[str]:
        """Return the tops of all drives of the root on which an own folder of it is, the root's own first."""
        return ["", *(folder for folder in sorted(self.drives or ()) if self.is_ours(folder))]

    def is_ours(self, top: str) -> bool:
        """Say whether the folder `.magpie` at the top of a drive is one of this root's own."""
        return not top or (bool(id := id_of_root(self.disk)) and _read(self.disk, _area_file(top)).get("root") == id)

    def make_ready(self, top: str, *names: str) -> str:
        """Return a folder of magpie's own at the top of a drive, made with those above it where it is not there yet."""
        folder = join(top, "/".join((STATE_DIR, *names)))
        if folder in self._ready:
            return folder
        if top and not self.is_ours(top):
            self._found(top)
        self.disk.sync_folders(make_folders(self.disk, folder))
        self._ready.add(folder)
        return folder

    def _found(self, top: str) -> None:
        """Make the own folder of a drive. Raises PermissionError where one of that name has anything in it."""
        own, file = join(top, STATE_DIR), _area_file(top)
        if self.disk.status(own):
            if set(self.disk.names(own)) - {AREA_FILE} or _read(self.disk, file):
                raise PermissionError(errno.EACCES, "the drive has a folder .magpie that is another collection's", own)
            if self.disk.status(file):  # cut off when it was made
                self.disk.truncate(file, 0)
        self.disk.sync_folders(make_folders(self.disk, own))
        _write(self.disk, file, {"root": id_of_root(self.disk, make=True)})


def id_of_root(disk: Filesystem, *, make: bool = False) -> str:
    """Return the id that a root carries, "" where it has none; with `make` it is given one then."""
    path = f"{STATE_DIR}/{ROOT_FILE}"
    found = str(_read(disk, path).get("root", ""))
    if not found and make:
        found = os.urandom(8).hex()
        _write(disk, path, {"root": found})
    return found


def make_folders(disk: Filesystem, folder: str) -> list[str]:
    """Make a folder and those above it, where they are missing; return the folders whose names have changed by that."""
    missing = missing_folders(disk, folder)
    for path in missing:
        disk.make_folder(path)
    return [parent(path) for path in missing]


def missing_folders(disk: Filesystem, folder: str) -> list[str]:
    """Return a folder and those above it that are not there, the topmost first."""
    missing = []
    while folder and disk.status(folder) is None:
        missing.append(folder)
        folder = parent(folder)
    return missing[::-1]


def _area_file(top: str) -> str:
    return join(top, f"{STATE_DIR}/{AREA_FILE}")


def _read(disk: Filesystem, path: str) -> dict[str, object]:
    """Return what one of our small files says, {} where it is none, cut off, or nothing that we would write."""
    status = disk.status(path)
    if status is None or status.is_folder or status.is_link or status.size > _MOST:
        return {}
    try:
        with disk.open_old(path) as file:
            found = json.loads(file.read())
    except (OSError, ValueError, RecursionError):
        return {}
    return found if isinstance(found, dict) else {}


def _write(disk: Filesystem, path: str, what: dict[str, str]) -> None:
    with disk.append(path) as file:
        file.write(json.dumps(what).encode() + b"\n")
        disk.sync_file(file)
    disk.sync_folder(parent(path))
