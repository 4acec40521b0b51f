"""What a planner may ask of the disk: it looks, and never changes anything."""

from __future__ import annotations

from collections.abc import Iterator
from typing import BinaryIO, Protocol

from lazy_magpie.model import FileStatus
from lazy_magpie.paths import join


class DiskView(Protocol):
    """The disk below a collection's root, to be looked at; paths are relative to the root."""

    def status(self, path: str) -> FileStatus | None:
        """Return what is there under `path`, None if nothing is. Links are not followed."""

    def names(self, path: str) -> list[str]:
        """Return the names in a folder."""

    def is_mounted(self, path: str) -> bool:
        """Say whether something is mounted at a folder, which therefore stays where it is."""

    def link_text(self, path: str) -> str:
        """Return what a symbolic link says."""

    def open_old(self, path: str) -> BinaryIO:
        """Open a file for reading, without following a link."""

    def tags(self, path: str) -> tuple[str, ...] | None:
        """Return the tags that a file carries, None where its drive has no room for them."""


def tree_below(disk: DiskView, folder: str) -> Iterator[tuple[str, FileStatus]]:
    """Yield all that lies below a folder as it is now, files, links and folders; links are not followed."""
    waiting = [folder]
    while waiting:
        here = waiting.pop()
        for name in sorted(disk.names(here)):
            path = join(here, name)
            status = disk.status(path)
            if status is None:
                continue
            if status.is_folder and not status.is_link:
                waiting.append(path)
            yield path, status
