"""Walks a side of a mirror: every file and link below a folder, with how it looks, and what could not be looked at."""

from __future__ import annotations

import os
from collections.abc import Callable, Collection

from lazy_magpie.collection import STATE_DIR_NAME
from lazy_magpie.mirrors.compare import Entry


def entries_below(
    top: str, apart: Collection[str] = (), tick: Callable[[int], None] = lambda count: None
) -> tuple[dict[str, Entry], list[tuple[str, str]]]:
    """Return files and links by path, and (path, why) of folders that can't be read; folders `apart` are passed by.

    Magpie's own folder is, at the top.
    """
    found: dict[str, Entry] = {}
    unread: list[tuple[str, str]] = []
    waiting = [""]
    passed = {*apart, STATE_DIR_NAME}
    while waiting:
        folder = waiting.pop()
        prefix = f"{folder}/" if folder else ""
        try:
            with os.scandir(f"{top}/{folder}" if folder else top) as entries:
                for entry in entries:
                    path = prefix + entry.name
                    if entry.is_dir(follow_symlinks=False):
                        if path not in passed:
                            waiting.append(path)
                        continue
                    status = entry.stat(follow_symlinks=False)
                    link = os.readlink(entry.path) if entry.is_symlink() else None
                    if link is not None or entry.is_file(follow_symlinks=False):
                        found[path] = Entry(status.st_size, status.st_mtime_ns, status.st_ino, link)
        except OSError as error:
            unread.append((folder, (error.strerror or str(error)).lower()))
        tick(len(found))
    return found, unread
