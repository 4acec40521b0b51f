"""Reading facts with one and two workers: `python -m benchmarks.readers [--files 2000]`.

Makes small real media files (copies of the demo’s, under new names), and
prints how much faster `scan --jobs 2` reads them than `scan --jobs 1`, medians of five, the two in turn.
"""

from __future__ import annotations

import argparse
import shutil
import statistics
import tempfile
from pathlib import Path

from benchmarks.scan import run
from lazy_magpie import demo

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


def main() -> None:
    """Measure and print."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--files", type=int, default=2000)
    args = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder)
        (root / "magpie.toml").write_text("")
        make_tree(root, args.files)
        ratios = []
        for _ in range(5):
            seconds = []
            for jobs in ("1", "2"):
                shutil.rmtree(root / ".magpie", ignore_errors=True)
                answer, _ = run(root, "scan", "--jobs", jobs)
                seconds.append(answer["seconds"]["read"])  # type: ignore[index]
            ratios.append(seconds[0] / seconds[1])
        print(f"files                       {args.files:,}")
        print(f"read, --jobs 1 / --jobs 2   {statistics.median(ratios):.2f} ({min(ratios):.2f} to {max(ratios):.2f})")


if __name__ == "__main__":
    main()
