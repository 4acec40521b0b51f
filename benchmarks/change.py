"""Applying and undoing many renames, and a large move between drives: `python -m benchmarks.change`.

Renames: `magpie apply` and `magpie undo` as whole processes, as multiples of a bare loop of os.rename over the same
tree that syncs as often (a log and the folders touched, every 512 renames). The move: 1 GiB to another file system,
as a multiple of `cp`, `sync` and `cmp`; root mounts a tmpfs for it.
"""

from __future__ import annotations

import argparse
import os
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path

from benchmarks.scan import make_tree, run
from lazy_magpie.change import Filesystem, JournalStore, apply
from lazy_magpie.model import FileStamp
from lazy_magpie.model.steps import Move

BATCH = 512


def bare_loop(root: Path, moves: Sequence[tuple[str, str]]) -> float:
    """Rename in a bare loop that syncs as often as a change does, and return the seconds."""
    start = time.perf_counter()
    with open(root / "log", "ab") as log:
        for at in range(0, len(moves), BATCH):
            batch = moves[at : at + BATCH]
            log.write(b"x" * 100 * len(batch))
            log.flush()
            os.fsync(log.fileno())
            for source, target in batch:
                os.rename(root / source, root / target)
            for folder in {os.path.dirname(path) for pair in batch for path in pair}:
                handle = os.open(root / folder, os.O_RDONLY)
                os.fsync(handle)
                os.close(handle)
    return time.perf_counter() - start


def measure_renames(files: int) -> None:
    """Print what apply and undo cost against the bare loop."""
    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder)
        make_tree(root, files)
        run(root, "scan")
        plan, _ = run(root, "tidy")
        steps: list[dict[str, str]] = plan["steps"]  # type: ignore[assignment]
        moves = [(step["from"], step["to"]) for step in steps if step["do"] == "move"]
        for step in steps:
            if step["do"] == "make":
                (root / step["to"]).mkdir()
        there = bare_loop(root, moves)
        back = bare_loop(root, [(target, source) for source, target in moves])
        for step in reversed(steps):
            if step["do"] == "make":
                (root / step["to"]).rmdir()
        start = time.perf_counter()
        applied, memory = run(root, "apply")
        middle = time.perf_counter()
        undone, memory_back = run(root, "undo")
        end = time.perf_counter()
        assert applied["done"] == undone["done"] == len(steps), (applied, undone)
    print(f"renames                         {len(moves):,}")
    print(f"magpie apply / bare loop        {(middle - start) / there:.2f} (the loop took {there:.1f} s)")
    print(f"magpie undo / bare loop         {(end - middle) / back:.2f} (the loop took {back:.1f} s)")
    print(f"peak memory, apply and undo     {memory:.0f} and {memory_back:.0f} MiB")


@contextmanager
def drive(root: Path) -> Iterator[Path]:
    """Mount a file system of its own below `root`."""
    folder = root / "two"
    folder.mkdir()
    subprocess.run(["mount", "-t", "tmpfs", "-o", "size=3g", "tmpfs", str(folder)], check=True)
    try:
        yield folder
    finally:
        subprocess.run(["umount", "-l", str(folder)], check=True)


def measure_move(size: int) -> None:
    """Print what a move between drives costs against cp, sync and cmp."""
    with tempfile.TemporaryDirectory() as folder, drive(Path(folder)) as two:
        root = Path(folder)
        (root / ".magpie").mkdir()
        block = os.urandom(1 << 20)
        with open(root / "film.mkv", "wb") as file:
            for _ in range(size >> 20):
                file.write(block)
        ratios = []
        for _ in range(5):
            start = time.perf_counter()
            script = 'cp "$1" "$2" && sync "$2" && cmp "$1" "$2"'
            subprocess.run(["sh", "-c", script, "sh", str(root / "film.mkv"), str(two / "copy.mkv")], check=True)
            yardstick = time.perf_counter() - start
            (two / "copy.mkv").unlink()
            status = os.lstat(root / "film.mkv")
            seen = FileStamp(status.st_size, status.st_mtime_ns, status.st_ino)
            start = time.perf_counter()
            outcome = apply(
                JournalStore(Filesystem(str(root))),
                [Move(number=1, source="film.mkv", target="two/film.mkv", stamp=seen)],
                "move",
            )
            ratios.append((time.perf_counter() - start) / yardstick)
            assert outcome.done == 1
            (held,) = (root / ".magpie" / "held").rglob("film.mkv")
            held.rename(root / "film.mkv")
            shutil.rmtree(root / ".magpie" / "held")
            (two / "film.mkv").unlink()
    print(f"move of {size >> 20:,} MiB / cp + sync + cmp  {sorted(ratios)[2]:.2f}")


def main() -> None:
    """Measure and print."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--files", type=int, default=100_000)
    parser.add_argument("--bytes", type=int, default=1 << 30)
    parser.add_argument("--only", choices=["renames", "move"])
    args = parser.parse_args()
    if args.only != "move":
        measure_renames(args.files)
    if args.only != "renames" and sys.platform == "linux" and os.geteuid() == 0:
        measure_move(args.bytes)


if __name__ == "__main__":
    main()
