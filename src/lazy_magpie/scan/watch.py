"""Watches folders: says where something has changed, once it has been quiet for a moment."""

from __future__ import annotations

import os
import queue
import time
from collections.abc import Callable, Iterator, Sequence
from typing import TYPE_CHECKING

from lazy_magpie.collection import STATE_DIR_NAME
from lazy_magpie.errors import MagpieError
from lazy_magpie.paths import above, parent

if TYPE_CHECKING:
    from watchdog.events import FileSystemEvent

QUIET = 1.0
"""Seconds without a change after which what has changed is told."""
_LONGEST = 30.0
"""Seconds after which it is told although it never was quiet."""
_LOOKS = frozenset(["opened", "closed_no_write"])
"""Events that change nothing."""


def changes(
    tops: Sequence[str], stopped: Callable[[], bool], quiet: float = QUIET, longest: float = _LONGEST
) -> Iterator[list[str]]:
    """Yield the folders at and below `tops` in which something has changed, as often as it does, until `stopped`.

    The first time all of `tops`, since nobody knows what changed before they were watched. It is told after `quiet`
    seconds without a change, or `longest` after the first. Paths are whole. Raises MagpieError where the system watches
    no more folders.
    """
    from watchdog.events import FileSystemEventHandler
    from watchdog.observers import Observer

    seen: queue.SimpleQueue[str] = queue.SimpleQueue()

    class Handler(FileSystemEventHandler):
        """Puts the folders that an event concerns into the queue."""

        def on_any_event(self, event: FileSystemEvent) -> None:
            if event.event_type not in _LOOKS:
                for path in _folders(event):
                    seen.put(path)

    observer = Observer()
    try:
        for top in tops:
            observer.schedule(Handler(), top, recursive=True)
        observer.start()
    except OSError as error:
        raise MagpieError(
            f"The folders can't be watched: {error.strerror}. The system may allow too few watches (Linux: "
            "fs.inotify.max_user_watches); without them, “magpie scan” now and then does the same."
        ) from error
    try:
        yield list(tops)
        while not stopped():
            if folders := _gathered(seen, stopped, quiet, longest):
                yield folders
    finally:
        observer.stop()
        observer.join()


def _folders(event: FileSystemEvent) -> Iterator[str]:
    """Yield the folders that an event concerns: those that things lie in, and a folder that is new or moved itself."""
    for path in (event.src_path, event.dest_path):
        text = os.fsdecode(path)
        if not text or f"/{STATE_DIR_NAME}/" in f"{text}/":
            continue
        if not (event.is_directory and event.event_type == "modified"):
            yield parent(text)
        if event.is_directory:
            yield text


def _gathered(seen: queue.SimpleQueue[str], stopped: Callable[[], bool], quiet: float, longest: float) -> list[str]:
    """Wait for changes, then for quiet; return the outermost folders that are still there."""
    found: set[str] = set()
    last = first = 0.0
    while not stopped():
        now = time.monotonic()
        if found and (now - last >= quiet or now - first >= longest):
            break
        try:
            path = seen.get(timeout=min(quiet, QUIET) / 4)
        except queue.Empty:
            continue
        last = time.monotonic()
        first = first or last
        found.add(path)
    there = {folder for folder in map(_nearest, found) if folder}
    return sorted(folder for folder in there if not any(parent_of in there for parent_of in above(folder)))


def _nearest(folder: str) -> str:
    """Return the nearest folder at or above one that is there."""
    while folder and not os.path.isdir(folder):
        folder = parent(folder)
    return folder
