"""Reading facts with one and two workers: `python -m benchmarks.readers [--files 2000]`.

Makes small real media files (copies of the demo’s, under new names), and
prints how much faster `scan --jobs 2` reads them than `scan --jobs 1`, medians of five, the two in turn; and the whole
first scan by one process as a multiple of reading alone with identifying alone.
"""

from __future__ import annotations

import argparse
import shutil
import statistics
import tempfile
import time
from contextlib import suppress
from pathlib import Path

from benchmarks.scan import run, seconds_of_names, spread
from lazy_magpie import demo
from lazy_magpie.readers.dispatch import answer

ENDINGS = {".mkv", ".mp4", ".avi", ".mp3", ".flac", ".ogg", ".opus", ".png", ".jpg", ".ttf", ".otf", ".zip", ".pdf"}


def make_tree(root: Path, files: int) -> None:
    """Copy the demo's media until there are `files` of them."""
    with tempfile.TemporaryDirectory() as folder:
        demo.make(Path(folder))
        media = sorted(path for path in Path(folder).rglob("*") if path.suffix in ENDINGS and path.stat().st_size)
        for number in range(files):
            model = media[number % len(media)]
            target = root / f"{number // 200:03}" / f"{number} {model.name}"[-200:]
            target.parent.mkdir(exist_ok=True)
            target.write_bytes(model.read_bytes())


def seconds_of_readers(root: Path) -> float:
    """Return how long reading all files takes in this process, without a guard around it."""
    files = [str(path) for path in root.rglob("*") if path.is_file() and ".magpie" not in path.parts]
    start = time.perf_counter()
    for file in files:
        with suppress(Exception):
            answer(file)
    return time.perf_counter() - start


def main() -> None:
    """Measure and print."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--files", type=int, default=2000)
    args = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder)
        (root / "magpie.toml").write_text("")
        make_tree(root, args.files)
        ratios, wholes = [], []
        for _ in range(5):
            seconds = []
            for jobs in ("1", "2"):
                shutil.rmtree(root / ".magpie", ignore_errors=True)
                answer, _ = run(root, "scan", "--jobs", jobs)
                seconds.append(answer["seconds"]["read"])  # type: ignore[index]
                if jobs == "1":
                    alone = seconds_of_readers(root) + seconds_of_names(root)
                    wholes.append(answer["seconds"]["all"] / alone)  # type: ignore[index]
            ratios.append(seconds[0] / seconds[1])
        print(f"first scan / readers and identify alone   {spread(wholes)}")
        print(f"files                       {args.files:,}")
        print(f"read, --jobs 1 / --jobs 2   {statistics.median(ratios):.2f} ({min(ratios):.2f} to {max(ratios):.2f})")


if __name__ == "__main__":
    main()
