"""Runs that are interrupted at random instants: killed, with the target's drive pulled, or with it full.

Where this may mount (root on Linux), the target is a small drive of its own in half of the runs, which is unmounted or
filled while something is written to it; else a folder that is renamed away.
"""

from __future__ import annotations

import os
import random
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import ExitStack
from dataclasses import dataclass
from pathlib import Path

MAGPIE = Path(sys.executable).with_name("magpie")
_SIZE = 400 << 20
"""Bytes of a drive."""


@dataclass(frozen=True)
class Place:
    """A target's folder; `top` is the folder of the drive that is mounted there, None where it is only a folder."""

    folder: Path
    top: Path | None = None

    def pull(self) -> None:
        """Take it away."""
        if self.top:
            _call("umount", "-l", self.folder)
        else:
            self.folder.rename(self._away)

    def put_back(self) -> Iterator[str]:
        """Put it back; yield what was made where it had been."""
        if any(self.folder.iterdir()) if self.top else self.folder.exists():
            yield f"something was made where the target had been: {sorted(map(str, self.folder.rglob('*')))[:3]}"
        elif self.top:
            _call("mount", "--bind", self.top, self.folder)
        else:
            self._away.rename(self.folder)

    def fill(self) -> Path:
        """Fill its drive, as another program would; return the file that does."""
        assert self.top
        file = self.top.with_name("other program")
        with file.open("wb", buffering=0) as filler:
            try:
                while filler.write(bytes(1 << 16)):
                    pass
            except OSError:
                pass
        return file

    @property
    def _away(self) -> Path:
        return self.folder.with_name("pulled")


class TooLateError(Exception):
    """A run had ended before it could be interrupted."""


def _call(*command: str | Path) -> None:
    subprocess.run(command, check=True, capture_output=True)


def _mounted(home: Path, stack: ExitStack) -> Path:
    """Mount a small drive in `home`, and its folder as the target; return that folder."""
    drive, folder = home / "drive", home / "other"
    drive.mkdir()
    _call("mount", "-t", "tmpfs", "-o", f"size={_SIZE}", "tmpfs", drive)
    stack.callback(subprocess.run, ["umount", "-l", drive], capture_output=True, check=False)
    (drive / "top").mkdir()
    _call("mount", "--bind", drive / "top", folder)
    stack.callback(subprocess.run, ["umount", "-l", folder], capture_output=True, check=False)
    return drive / "top"


def troubled(one: Callable[[Path, Place, random.Random], Iterator[str]], runs: int, seed: int) -> int:
    """Call `one` with an empty folder and a target for each run, and print the faults that it yields; 1 for any.

    Runs that had ended before they were interrupted do not count.
    """
    may_mount = sys.platform == "linux" and os.geteuid() == 0
    wrong = too_late = 0
    for number in range(seed, seed + runs):
        chosen = random.Random(number)
        with tempfile.TemporaryDirectory() as name, ExitStack() as stack:
            home = Path(name)
            (home / "other").mkdir()
            top = _mounted(home, stack) if may_mount and chosen.random() < 0.5 else None
            try:
                for fault in one(home, Place(home / "other", top), chosen):
                    wrong += 1
                    print(f"run {number}: {fault}", flush=True)
            except TooLateError:
                too_late += 1
    print(f"{runs - too_late} runs, {wrong} faults; {too_late} had ended before")
    return 1 if wrong else 0


def run(root: Path, *words: str) -> subprocess.CompletedProcess[str]:
    """Run the program in a collection, and let it end."""
    return subprocess.run([MAGPIE, "-q", *words], cwd=root, capture_output=True, text=True, check=False)


def interrupted(root: Path, words: tuple[str, ...], place: Place, chosen: random.Random) -> Iterator[str]:
    """Run the program and interrupt it at a random instant; put right what was done to it. Yield what is wrong."""
    process = subprocess.Popen([MAGPIE, "-q", *words], cwd=root, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    time.sleep(chosen.uniform(0.1, 0.9))
    if process.poll() is not None:
        raise TooLateError
    how = chosen.choices(("kill", "pull", "fill"), (5, 4, 3 if place.top else 0))[0]
    if how == "kill":
        process.send_signal(signal.SIGKILL)
        process.wait()
    elif how == "pull":
        place.pull()
        process.wait()
        yield from place.put_back()
    else:
        filler = place.fill()
        process.wait()
        filler.unlink()
