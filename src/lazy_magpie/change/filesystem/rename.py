"""Renaming that never replaces: by the system's own call, by a hard link, or by a claimed name."""

from __future__ import annotations

import ctypes
import errno
import os
from collections.abc import Callable
from functools import cache

from lazy_magpie import mounts
from lazy_magpie.change.failpoints import failpoint
from lazy_magpie.model import FOLDER_SIZE, FileStamp

_NO_REPLACE = 1  # RENAME_NOREPLACE, renameat2(2)
_HERE = -100  # AT_FDCWD
_UNSUPPORTED = (errno.EINVAL, errno.ENOSYS, errno.EOPNOTSUPP, errno.EPERM)
Claimed = Callable[[FileStamp | None], None]
"""Hears that a name is about to be claimed (None), then how the empty file or folder looks that claims it."""


def _nobody(claim: FileStamp | None) -> None:
    """Tell nobody of a claim."""


@cache
def _renameat2() -> Callable[[str, str], None] | None:
    """Return the system's own rename that never replaces, where the C library has it."""
    try:
        function = ctypes.CDLL(None, use_errno=True).renameat2
    except (OSError, AttributeError, TypeError):
        return None

    def call(source: str, target: str) -> None:
        if function(_HERE, os.fsencode(source), _HERE, os.fsencode(target), _NO_REPLACE):
            number = ctypes.get_errno()
            raise OSError(number, os.strerror(number), source, None, target)

    return call


def rename_no_replace(source: str, target: str, claimed: Claimed = _nobody) -> None:
    """Rename `source` to `target`; raises FileExistsError where `target` is there.

    With renameat2(2) where kernel and file system have it; else by a hard link and unlinking the old name; else by
    claiming the new name with an empty file or folder of our own, which the rename then takes the place of; `claimed`
    hears of it before, so that whoever is killed in between knows it again.
    """
    for way in _ways(target):
        try:
            if way is by_claim:
                by_claim(source, target, claimed)
            else:
                way(source, target)
        except OSError as error:
            if error.errno not in _UNSUPPORTED or isinstance(error, FileExistsError):
                raise
            last = error
        else:
            return
    raise last


def _ways(target: str) -> tuple[Callable[[str, str], None], ...]:
    """Return the ways to rename without replacing, the best first.

    Drivers in user space (FUSE) are not asked: there are some that do not look at the flag, and replace.
    """
    if os.name == "nt":  # there os.rename never replaces
        return (os.rename,)
    system = _renameat2()
    if system is None or (mounts.any_in_user_space() and mounts.is_in_user_space(os.path.dirname(target))):
        return (by_link, by_claim)
    return (system, by_link, by_claim)


def by_link(source: str, target: str) -> None:
    """Rename a file by giving it the second name and taking the first away."""
    if os.path.isdir(source) and not os.path.islink(source):
        raise OSError(errno.EOPNOTSUPP, os.strerror(errno.EOPNOTSUPP), source)
    os.link(source, target, follow_symlinks=False)
    os.unlink(source)


def by_claim(source: str, target: str, claimed: Claimed = _nobody) -> None:
    """Rename onto an empty file or folder that was made here and now to claim the name."""
    is_folder = os.path.isdir(source) and not os.path.islink(source)
    os.lstat(source)
    if os.path.lexists(target):
        raise FileExistsError(errno.EEXIST, os.strerror(errno.EEXIST), source, None, target)
    claimed(None)
    if is_folder:
        os.mkdir(target)
    else:
        os.close(os.open(target, os.O_CREAT | os.O_EXCL | os.O_WRONLY, 0o600))
    claim = os.lstat(target)
    try:
        claimed(FileStamp(FOLDER_SIZE if is_folder else claim.st_size, claim.st_mtime_ns, claim.st_ino))
        failpoint("name-claimed")
        os.rename(source, target)
    except OSError:
        if is_folder:
            os.rmdir(target)
        elif (now := os.lstat(target)).st_ino == claim.st_ino and not now.st_size:
            os.unlink(target)
        raise
