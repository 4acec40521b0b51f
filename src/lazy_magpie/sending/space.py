"""The space on a target: what files and folders really take there, in the units in which its drive gives it out.

A folder takes room for its entries: FAT (the Microsoft specification of 2000) gives a name of more than eight letters
and three one entry of 32 bytes for each thirteen letters, and one more. Other file systems take less for most names;
what is counted here is never too little.
"""

from __future__ import annotations

import os
import shutil
from collections.abc import Iterable
from dataclasses import dataclass

from lazy_magpie.paths import above, name_of, parent

_ENTRY, _LETTERS = 32, 13
_DOTS = 2
"""Entries that each folder has for itself and the one above."""
_SPARE = 4
"""Units that stay free for what a change needs itself: its own folders."""
_SPARE_NAMES = 8
"""Files and folders of magpie's own that a target gets."""
_USUAL_UNIT = 4096


@dataclass(frozen=True, slots=True)
class Space:
    """The space of a target: bytes in a unit, units that are free for sending (below 0 where
    too much is there already), units in all. `names` is how many files and folders more there may be, None for any
    number: some file systems have so many places for them and no more."""

    unit: int
    free: int
    all: int
    names: int | None = None

    def units(self, size: int) -> int:
        """Return the units that a file of so many bytes takes."""
        return -(-size // self.unit)


def space_on(folder: str, *, unit: int = 0, space: int = 0, leave: int = 0) -> Space:
    """Return the space on the target at a folder: as its drive tells, or `space` bytes in all; `leave` stay free.

    Raises OSError where the drive can't be asked.
    """
    unit = unit or _unit_of(folder)
    usage = shutil.disk_usage(folder)
    free, whole = usage.free // unit, usage.total // unit
    if space:
        taken = taken_by(folder, unit)
        whole = space // unit
        free = min(free, whole - taken)
    return Space(unit, free - -(-leave // unit) - _SPARE, whole, _free_names(folder))


def _unit_of(folder: str) -> int:
    if not hasattr(os, "statvfs"):
        return _USUAL_UNIT
    return max(512, os.statvfs(folder).f_frsize)


def _free_names(folder: str) -> int | None:
    if not hasattr(os, "statvfs"):
        return None
    status = os.statvfs(folder)
    return max(0, status.f_favail - _SPARE_NAMES) if status.f_files else None


def taken_by(folder: str, unit: int) -> int:
    """Return the units that all that is in a folder takes, its folders too; what can't be read is left out."""
    taken = 0
    for top, folders, names in os.walk(folder):
        taken += units_of_folder([*folders, *names], unit)
        for name in names:
            try:
                taken += -(-os.lstat(os.path.join(top, name)).st_size // unit)
            except OSError:
                continue
    return taken


def entries_of(name: str) -> int:
    """Return the entries that a name takes in its folder, at the most."""
    return 1 + -(-len(name) // _LETTERS)


def units_of_folder(names: Iterable[str], unit: int) -> int:
    """Return the units that a folder of these names takes."""
    entries = _DOTS + sum(map(entries_of, names))
    return max(1, -(-entries * _ENTRY // unit))


def folders_of(paths: Iterable[str]) -> set[str]:
    """Return all folders above paths."""
    return {folder for path in paths for folder in above(path)}


def units_of_folders(paths: Iterable[str], unit: int) -> int:
    """Return the units that the folders of paths take."""
    inside: dict[str, set[str]] = {}
    for path in paths:
        inside.setdefault(parent(path), set()).add(name_of(path))
        for folder in above(path):
            inside.setdefault(parent(folder), set()).add(name_of(folder))
    return sum(units_of_folder(names, unit) for folder, names in inside.items() if folder)
