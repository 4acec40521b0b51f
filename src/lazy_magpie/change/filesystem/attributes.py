"""Reads and sets what a folder has besides the names in it: mode, owner, time, extended attributes (xattr(7))."""

from __future__ import annotations

import errno
import os
import shutil
import stat
from collections.abc import Iterator
from contextlib import contextmanager, suppress

from lazy_magpie.model import FolderAttributes

WITHOUT_MODES = (errno.ENOSYS, errno.ENOTSUP)
"""Errors of drives that know nothing of permissions: some drivers in user space say so, others just do nothing."""


@contextmanager
def ignored(*errors: int) -> Iterator[None]:
    """Let errors of the disk with these numbers pass."""
    try:
        yield
    except OSError as error:
        if error.errno not in errors:
            raise


def copy_times_and_modes(source: str, target: str) -> None:
    """Give a copy the mode, extended attributes and times of its original, as far as its drive has them."""
    try:
        shutil.copystat(source, target, follow_symlinks=False)
    except OSError as error:
        if error.errno not in WITHOUT_MODES:
            raise
        status = os.lstat(source)
        os.utime(target, ns=(status.st_atime_ns, status.st_mtime_ns), follow_symlinks=False)


def attributes_of(folder: str) -> FolderAttributes:
    """Return the attributes of a folder; its owner only where that is not this user."""
    status = os.lstat(folder)
    is_ours = not hasattr(os, "getuid") or (status.st_uid, status.st_gid) == (os.getuid(), os.getgid())
    xattrs: dict[str, bytes] = {}
    if hasattr(os, "listxattr"):
        with suppress(OSError):
            names = os.listxattr(folder, follow_symlinks=False)
            xattrs = {name: os.getxattr(folder, name, follow_symlinks=False) for name in names}
    owner = None if is_ours else (status.st_uid, status.st_gid)
    return FolderAttributes(stat.S_IMODE(status.st_mode), owner, status.st_mtime_ns, xattrs)


def set_attributes(folder: str, wanted: FolderAttributes) -> str:
    """Give a folder its attributes, the time last; return what could not be given, in words, "" for nothing."""
    lost = []
    if wanted.owner is not None:
        try:
            os.chown(folder, *wanted.owner, follow_symlinks=False)
        except (OSError, AttributeError):
            lost.append("owner")
    if wanted.mode is not None:
        try:
            os.chmod(folder, wanted.mode)
        except OSError:
            lost.append("permissions")
    for name, value in wanted.xattrs.items():
        try:
            os.setxattr(folder, name, value, follow_symlinks=False)
        except (OSError, AttributeError):
            lost.append(f"attribute {name}")
    if wanted.mtime is not None:
        try:
            os.utime(folder, ns=(wanted.mtime, wanted.mtime), follow_symlinks=False)
        except OSError:
            lost.append("time")
    return ", ".join(lost)


def copy_owner(source: str, target: str) -> None:
    """Give a copy the owner of its original, where this user may."""
    if hasattr(os, "chown"):
        status, now = os.lstat(source), os.lstat(target)
        if (status.st_uid, status.st_gid) != (now.st_uid, now.st_gid):
            with suppress(OSError):
                os.chown(target, status.st_uid, status.st_gid, follow_symlinks=False)
