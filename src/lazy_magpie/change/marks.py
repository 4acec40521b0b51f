"""What a folder has besides the names in it: mode, owner, time of last change, extended attributes (xattr(7))."""

from __future__ import annotations

import base64
import os
import stat
from contextlib import suppress
from typing import Any

Marks = dict[str, Any]
"""As JSON: `mode` (permission bits), `owner` ([user, group]), `mtime` (nanoseconds), `xattrs` ({name: base64})."""


def marks_of(folder: str) -> Marks:
    """Return the marks of a folder."""
    status = os.lstat(folder)
    found: Marks = {"mode": stat.S_IMODE(status.st_mode), "mtime": status.st_mtime_ns}
    if hasattr(os, "getuid") and (status.st_uid, status.st_gid) != (os.getuid(), os.getgid()):
        found["owner"] = [status.st_uid, status.st_gid]
    if hasattr(os, "listxattr"):
        with suppress(OSError):
            names = os.listxattr(folder, follow_symlinks=False)
            if names:
                found["xattrs"] = {
                    name: base64.b64encode(os.getxattr(folder, name, follow_symlinks=False)).decode() for name in names
                }
    return found


def put_marks(folder: str, wanted: Marks) -> str:
    """Give a folder its marks, the time last; return what could not be given, in words, "" for nothing."""
    lost = []
    if owner := wanted.get("owner"):
        try:
            os.chown(folder, *owner, follow_symlinks=False)
        except (OSError, AttributeError):
            lost.append("owner")
    if "mode" in wanted:
        try:
            os.chmod(folder, int(wanted["mode"]))
        except OSError:
            lost.append("permissions")
    for name, value in (wanted.get("xattrs") or {}).items():
        try:
            os.setxattr(folder, name, base64.b64decode(value), follow_symlinks=False)
        except (OSError, AttributeError):
            lost.append(f"attribute {name}")
    if "mtime" in wanted:
        try:
            os.utime(folder, ns=(int(wanted["mtime"]),) * 2, follow_symlinks=False)
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
