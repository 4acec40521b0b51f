"""Scans of a drive whose every call takes a millisecond, as on a network share: `python -m benchmarks.slow_drive`.

A file system in user space (FUSE) over a folder, for reading alone, that sleeps before it answers; calls may overlap.
Prints how many calls a folder or file walking waited for. The second scan asks what every file is like now; the first
one looks up its name, too, which FUSE passes on one after the other in each folder. Needs FUSE and root.
"""

from __future__ import annotations

import argparse
import json
import os
import stat
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from typing import Any

from tests.chaos.casefold import attributes, served

from benchmarks.shapes import SHAPES, make_tree
from lazy_magpie.scan.listing import AT_ONCE


def serve(backing: str, folder: str, delay: float) -> None:
    """Serve until it is unmounted."""
    import mfusepy

    class Drive(mfusepy.Operations):  # type: ignore[misc]
        use_ns = True

        def getattr(self, path: str, fh: Any = None) -> dict[str, Any]:
            time.sleep(delay)
            return attributes(backing + path)

        def readdir(self, path: str, fh: Any) -> list[Any]:
            time.sleep(delay)
            with os.scandir(backing + path) as entries:  # what each is stands in the list, as shares have it
                modes = [(one.name, stat.S_IFDIR if one.is_dir() else stat.S_IFREG) for one in entries]
            return [".", "..", *((name, {"st_mode": mode}, 0) for name, mode in modes)]

    kept = {"entry_timeout": 600, "attr_timeout": 0}  # names are kept, as by a share's client, but nothing else
    mfusepy.FUSE(Drive(), folder, foreground=True, fsname="slow", ro=True, max_threads=64, **kept)


def walk_seconds(root: Path) -> float:
    """Scan, and return how long walking took."""
    command = [sys.executable, "-m", "lazy_magpie", "-C", str(root), "scan", "--json"]
    done = subprocess.run(command, capture_output=True, text=True, check=True)
    return float(json.loads(done.stdout)["seconds"]["walk"])


def measure(shape: str, files: int, delay: float) -> str:
    """Return how long the scans of a shape wait, as a line to print."""
    with tempfile.TemporaryDirectory() as folder:
        backing, root = Path(folder) / "files", Path(folder) / "collection"
        drive = root / "Drive"
        drive.mkdir(parents=True)
        backing.mkdir()
        make_tree(backing, shape, files)
        os.rename(backing / "magpie.toml", root / "magpie.toml")
        count = sum(len(folders) + len(names) for _, folders, names in os.walk(backing))
        words = ["benchmarks.slow_drive", "--delay", str(delay), "--serve", str(backing), str(drive)]
        with served(words, drive):
            first, second = (walk_seconds(root) / delay * AT_ONCE / count for _ in range(2))
    return f"{shape:<9} {count:>7,} files and folders: first scan {first:.2f}, second {second:.2f} calls each"


def main() -> None:
    """Measure and print, or serve."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--files", type=int, default=3_000)
    parser.add_argument("--delay", type=float, default=0.001)
    parser.add_argument("--shapes", default=",".join(SHAPES))
    parser.add_argument("--serve", nargs=2, metavar=("BACKING", "FOLDER"))
    args = parser.parse_args()
    if args.serve:
        serve(*args.serve, args.delay)
        return
    for shape in args.shapes.split(","):
        print(measure(shape, args.files, args.delay))
    print(f"calls that were waited for one behind the other, times the {AT_ONCE} that may wait together")


if __name__ == "__main__":
    main()
