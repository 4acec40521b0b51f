"""Finds out before the first byte whether the drives have room for what a plan copies to them."""

from __future__ import annotations

from collections.abc import Sequence

from lazy_magpie.change.disk import Disk
from lazy_magpie.errors import MagpieError
from lazy_magpie.model import Do, Step
from lazy_magpie.paths import join, parent, written
from lazy_magpie.units import size_text

_SPARE = 1 << 20
"""Bytes left free on each drive, for folders and the journal."""


def check_room(disk: Disk, steps: Sequence[Step]) -> None:
    """Raise MagpieError where a drive has no room for the copies, and the moves from other drives, of `steps`.

    A move within a drive needs none. Archives need what the plan says that they unpack to.
    """
    devices = _Devices(disk)
    needed: dict[int, int] = {}
    places: dict[int, str] = {}
    for step in steps:
        if step.do is Do.COPY or (step.do is Do.MOVE and devices.of(step.source) != devices.of(step.target)):
            drive = devices.of(step.target)
            needed[drive] = needed.get(drive, 0) + _size(disk, step.source)
            places.setdefault(drive, devices.nearest(parent(step.target)))
        elif step.do is Do.UNPACK:
            drive = devices.of(step.target)
            needed[drive] = needed.get(drive, 0) + int(step.data.get("bytes", 0))
            places.setdefault(drive, devices.nearest(parent(step.target)))
    for drive, size in needed.items():
        free = disk.free(places[drive])
        if size + _SPARE > free:
            raise MagpieError(
                f"The drive of “{written(places[drive]) or '.'}” has {size_text(free)} free, and the plan copies "
                f"{size_text(size)} to it: {size_text(size + _SPARE - free)} are missing. Make room, or apply a part "
                "of the plan with --only. Nothing was changed."
            )


class _Devices:
    """The drives that folders lie on, each looked up once."""

    def __init__(self, disk: Disk) -> None:
        self._disk = disk
        self._known: dict[str, tuple[int, str]] = {}

    def of(self, path: str) -> int:
        """Return the drive of the folder that `path` lies in, or will lie in."""
        return self._look(parent(path))[0]

    def nearest(self, folder: str) -> str:
        """Return `folder`, or the nearest one above it that is there."""
        return self._look(folder)[1]

    def _look(self, folder: str) -> tuple[int, str]:
        if folder not in self._known:
            status = self._disk.status(folder)
            if status is None and folder:
                self._known[folder] = self._look(parent(folder))
            else:
                self._known[folder] = (status.device if status else 0, folder)
        return self._known[folder]


def _size(disk: Disk, path: str) -> int:
    status = disk.status(path)
    if status is None:
        return 0
    if status.is_folder and not status.is_link:
        return sum(_size(disk, join(path, name)) for name in disk.names(path))
    return status.size
