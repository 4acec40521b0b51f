"""The folders that are empty once a plan's steps have taken away what is in them."""

from __future__ import annotations

from collections.abc import Iterable

from lazy_magpie.model.steps import DropFolder, MakeFolder
from lazy_magpie.paths import above, is_below, join
from lazy_magpie.planners.disk_view import DiskView


def drop_emptied(
    disk: DiskView, gone: Iterable[str], coming: Iterable[str], below: str, group: str = ""
) -> list[DropFolder]:
    """Return the steps that drop the folders below `below` which hold nothing but what is `gone`, the deepest first."""
    away, come = set(gone), set(coming)
    folders = {folder for path in away for folder in above(path) if is_below(folder, below) and folder != below}
    dropped = []
    for folder in sorted(folders, key=lambda folder: -folder.count("/")):
        left = {join(folder, name) for name in disk.names(folder)} - away
        if not left and not any(is_below(path, folder) for path in come) and not disk.is_mounted(folder):
            dropped.append(DropFolder(source=folder, why="left empty", group=group))
            away.add(folder)
    return dropped


def make_missing(
    disk: DiskView, targets: Iterable[str], group: str = "", known: Iterable[str] = ()
) -> list[MakeFolder]:
    """Return the steps that make the folders of `targets` that are not there, each after the one it lies in."""
    missing: dict[str, None] = {}
    there = set(known)
    for target in targets:
        for folder in above(target):
            if folder not in missing and folder not in there and disk.status(folder) is None:
                missing[folder] = None
    return [
        MakeFolder(target=folder, why="new folder", group=group)
        for folder in sorted(missing, key=lambda f: f.count("/"))
    ]
