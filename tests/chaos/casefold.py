"""A drive that ignores case, as many outside drives do: `python -m tests.chaos.casefold BACKING MOUNT`.

A file system in user space (FUSE) over a folder. It keeps the case in which a name was made and finds it in any; it has
no hard links, and no rename that never replaces: one that is asked for that replaces all the same, as the drivers do
that do not look at the flag.
"""

from __future__ import annotations

import errno
import os
import sys
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from lazy_magpie.paths import same_name


@contextmanager
def mounted(backing: Path, folder: Path) -> Iterator[bool]:
    """Mount such a drive at `folder`, with its files in `backing`; yield whether that can be done here."""
    with served(["tests.chaos.casefold", str(backing), str(folder)], folder) as is_mounted:
        yield is_mounted


@contextmanager
def served(words: Sequence[str], folder: Path) -> Iterator[bool]:
    """Run a module (with its arguments) that serves a drive at `folder`; yield whether it came to be mounted there."""
    import subprocess
    import time

    command = [sys.executable, "-m", *words]
    server = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    deadline = time.monotonic() + 20
    while server.poll() is None and not os.path.ismount(folder) and time.monotonic() < deadline:
        time.sleep(0.02)
    try:
        yield os.path.ismount(folder)
    finally:
        subprocess.run(["umount", "-l", str(folder)], check=False, capture_output=True)
        server.kill()
        server.wait()


def attributes(path: str) -> dict[str, Any]:
    """Return the attributes of what lies at a path as a drive answers with them, times in nanoseconds."""
    status = os.lstat(path)
    keys = ("st_mode", "st_size", "st_nlink", "st_uid", "st_gid", "st_ino")
    times = {f"st_{one}time": getattr(status, f"st_{one}time_ns") for one in "amc"}
    return {key: getattr(status, key) for key in keys} | times


def is_possible() -> bool:
    """Say whether such a drive can be mounted here: FUSE is in the kernel, its library installed, this user is root."""
    try:
        import mfusepy  # noqa: F401
    except (ImportError, OSError):
        return False
    return os.path.exists("/dev/fuse") and os.geteuid() == 0


def _operations(backing: str) -> Any:
    import mfusepy

    class Drive(mfusepy.Operations):  # type: ignore[misc]
        """The calls of a file system, passed on to the folder `backing` under the name that is really there."""

        use_ns = True

        def _at(self, path: str) -> str:
            here = backing
            for part in filter(None, path.split("/")):
                names = os.listdir(here) if os.path.isdir(here) else []
                here = os.path.join(here, next((name for name in names if same_name(name) == same_name(part)), part))
            return here

        def getattr(self, path: str, fh: Any = None) -> dict[str, Any]:
            return attributes(self._at(path))

        def readdir(self, path: str, fh: Any) -> list[str]:
            return [".", "..", *os.listdir(self._at(path))]

        def rename(self, old: str, new: str) -> int:
            source, target = self._at(old), self._at(new)
            if source == target:  # only its case changes
                target = os.path.join(os.path.dirname(target), os.path.basename(new))
            os.rename(source, target)
            return 0

        def create(self, path: str, mode: int, fi: Any = None) -> int:
            return os.open(self._at(path), os.O_RDWR | os.O_CREAT | os.O_EXCL, mode)

        def open(self, path: str, flags: int) -> int:
            return os.open(self._at(path), flags & ~(os.O_CREAT | os.O_EXCL))

        def read(self, path: str, size: int, offset: int, fh: int) -> bytes:
            return os.pread(fh, size, offset)

        def write(self, path: str, data: bytes, offset: int, fh: int) -> int:
            return os.pwrite(fh, data, offset)

        def truncate(self, path: str, length: int, fh: Any = None) -> int:
            os.truncate(self._at(path), length)
            return 0

        def release(self, path: str, fh: int) -> int:
            os.close(fh)
            return 0

        def fsync(self, path: str, datasync: int, fh: int) -> int:
            return 0

        def fsyncdir(self, path: str, datasync: int, fh: int) -> int:
            return 0

        def flush(self, path: str, fh: int) -> int:
            return 0

        def mkdir(self, path: str, mode: int) -> int:
            os.mkdir(self._at(path), mode)
            return 0

        def rmdir(self, path: str) -> int:
            os.rmdir(self._at(path))
            return 0

        def unlink(self, path: str) -> int:
            os.unlink(self._at(path))
            return 0

        def symlink(self, target: str, source: str) -> int:
            os.symlink(source, self._at(target))
            return 0

        def readlink(self, path: str) -> str:
            return os.readlink(self._at(path))

        def link(self, target: str, source: str) -> int:
            raise OSError(errno.EPERM, "no hard links here")

        def chmod(self, path: str, mode: int) -> int:
            os.chmod(self._at(path), mode)
            return 0

        def chown(self, path: str, uid: int, gid: int) -> int:
            return 0

        def utimens(self, path: str, times: Any = None) -> int:
            os.utime(self._at(path), ns=times, follow_symlinks=False)
            return 0

        def statfs(self, path: str) -> dict[str, int]:
            found = os.statvfs(backing)
            return {
                "f_bsize": found.f_bsize,
                "f_frsize": found.f_frsize,
                "f_blocks": found.f_blocks,
                "f_bfree": found.f_bfree,
                "f_bavail": found.f_bavail,
                "f_namemax": 255,
            }

    return Drive()


def main(backing: str, folder: str) -> None:
    """Serve until it is unmounted."""
    import mfusepy

    mfusepy.FUSE(_operations(backing), folder, foreground=True, nothreads=True, fsname="casefold", attr_timeout=0)


if __name__ == "__main__":
    main(*sys.argv[1:])
