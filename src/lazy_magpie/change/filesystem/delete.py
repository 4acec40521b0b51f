"""Deletes for good, folder by folder through open descriptors, so that no link and no mount leads anywhere else."""

from __future__ import annotations

import errno
import os
import stat

_FOLDER = os.O_RDONLY | getattr(os, "O_DIRECTORY", 0) | getattr(os, "O_NOFOLLOW", 0)


def delete(top: str, path: str) -> None:
    """Delete what is at `path` below the folder `top`, with all in it.

    Raises OSError where a folder on the way is a link (ELOOP, ENOTDIR) or lies on another drive than `top` (EXDEV);
    what was reached by then is deleted.
    """
    *folders, name = path.split("/")
    if any(part in ("", ".", "..") or "\0" in part for part in (*folders, name)):
        raise ValueError(f"no plain path: {path!r}")
    here = os.open(top, os.O_RDONLY | getattr(os, "O_DIRECTORY", 0))
    try:
        drive = _drive_of(here)
        for folder in folders:
            below = _opened(here, folder, drive)
            os.close(here)
            here = below
        _delete(here, name, drive)
    finally:
        os.close(here)


def _drive_of(handle: int) -> tuple[int, str]:
    """Return what an open folder has in common with all on the same mount: its device, and where Linux tells, its id.

    Two folders mounted over each other can have one device (mount(8), --bind), but not one id (proc(5), fdinfo).
    """
    try:
        with open(f"/proc/self/fdinfo/{handle}", encoding="ascii") as file:
            mount = next((line for line in file if line.startswith("mnt_id:")), "")
    except OSError:
        mount = ""
    return os.fstat(handle).st_dev, mount


def _opened(here: int, folder: str, drive: tuple[int, str]) -> int:
    below = os.open(folder, _FOLDER, dir_fd=here)
    if _drive_of(below) != drive:
        os.close(below)
        raise OSError(errno.EXDEV, "another drive is mounted there", folder)
    return below


def _delete(here: int, name: str, drive: tuple[int, str]) -> None:
    status = os.stat(name, dir_fd=here, follow_symlinks=False)
    if not stat.S_ISDIR(status.st_mode):
        os.unlink(name, dir_fd=here)
        return
    below = _opened(here, name, drive)
    try:
        for inner in os.listdir(below):
            _delete(below, inner, drive)
    finally:
        os.close(below)
    os.rmdir(name, dir_fd=here)
