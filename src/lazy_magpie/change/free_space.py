"""Finds out before the first byte whether the drives have room for what a plan copies to them."""

from __future__ import annotations

from collections.abc import Sequence

from lazy_magpie.change.filesystem.access import Filesystem
from lazy_magpie.errors import MagpieError
from lazy_magpie.formatting import size_text
from lazy_magpie.model import Step
from lazy_magpie.model.sends import Extract, Send
from lazy_magpie.model.steps import Convert, Copy, Move, Pack, Unpack
from lazy_magpie.paths import join, parent, written

_SPARE = 1 << 20
"""Bytes left free on each drive, for folders and the journal."""


def check_free_space(disk: Filesystem, steps: Sequence[Step]) -> None:
    """Raise MagpieError where a drive has no room for the copies, and the moves from other drives, of `steps`.

    A move within a drive needs none. Archives need what the plan says that they unpack to.
    """
    devices = _Devices(disk)
    needed: dict[int, int] = {}
    places: dict[int, str] = {}
    for planned in steps:
        step = planned.by if isinstance(planned, Send) else planned
        if isinstance(step, Copy) or (isinstance(step, Move) and devices.of(step.source) != devices.of(step.target)):
            drive = devices.of(step.target)
            needed[drive] = needed.get(drive, 0) + size_of(disk, step.source)
            places.setdefault(drive, devices.nearest(parent(step.target)))
        elif isinstance(step, Unpack | Pack | Convert | Extract):
            drive = devices.of(step.target)
            needed[drive] = needed.get(drive, 0) + _made_size(step)
            places.setdefault(drive, devices.nearest(parent(step.target)))
    for drive, size in needed.items():
        free = disk.free(places[drive])
        if size + _SPARE > free:
            raise MagpieError(
                f"The drive of “{written(places[drive]) or '.'}” has {size_text(free)} free, and the plan copies "
                f"{size_text(size)} to it: {size_text(size + _SPARE - free)} are missing. Make room, or apply a part "
                "of the plan with --only. Nothing was changed."
            )


def _made_size(step: Unpack | Pack | Convert | Extract) -> int:
    """Return how many bytes a step may make: what it unpacks to, or as many as it is made from."""
    if isinstance(step, Unpack):
        return step.bytes
    if isinstance(step, Extract):  # at the least: its archive is as large
        return step.stamp.size if step.stamp else 0
    stamps = [one.stamp for one in (step.members if isinstance(step, Pack) else step.inputs)]
    return sum(stamp.size for stamp in stamps or [step.stamp] if stamp)


class _Devices:
    """The drives that folders lie on, each looked up once."""

    def __init__(self, disk: Filesystem) -> None:
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


def size_of(disk: Filesystem, path: str) -> int:
    """Return the bytes of a file, or of all files in a folder; 0 where nothing is there."""
    status = disk.status(path)
    if status is None:
        return 0
    if status.is_folder and not status.is_link:
        return sum(size_of(disk, join(path, name)) for name in disk.names(path))
    return status.size
