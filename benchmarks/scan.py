"""Scan and tidy of many empty episode files: `python -m benchmarks.scan [--files 100000] [--no-tidy]`.

Prints the time of walking and storing as a multiple of `find -printf` on the same tree, warm, medians of five, and
the peak memory of scan and tidy.
"""

from __future__ import annotations

import argparse
import json
import os
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

CONFIG = '[shelf.films]\nkind = "movie"\nfolder = "Films"\n[shelf.series]\nkind = "episode"\nfolder = "Series"\n'


def make_tree(root: Path, files: int) -> None:
    """Make `files` empty files: a hundred episodes to a season's folder, five seasons to a show."""
    for number in range(files):
        season, episode = divmod(number, 100)
        show, season = divmod(season, 5)
        folder = root / "Heap" / f"Show {show}" / f"Season {season + 1}"
        if not episode:
            folder.mkdir(parents=True)
        (folder / f"show.{show}.s{season + 1:02}e{episode + 1:03}.the.ferry.720p.mkv").touch()
    (root / "magpie.toml").write_text(CONFIG)


def run(root: Path, *words: str) -> tuple[dict[str, object], float]:
    """Run a command and return its JSON and its peak memory in MiB."""
    command = [sys.executable, "-m", "lazy_magpie", "-C", str(root), *words, "--json"]
    with tempfile.TemporaryFile() as out:
        process = subprocess.Popen(command, stdout=out)
        _, _, usage = os.wait4(process.pid, 0)
        out.seek(0)
        answer: dict[str, object] = json.load(out)
    return answer, usage.ru_maxrss / 1024


def seconds_of_find(root: Path) -> float:
    """Return how long `find` takes to print what scan stores."""
    start = time.perf_counter()
    subprocess.run(
        ["find", str(root), "-type", "f", "-printf", r"%s %T@ %i %p\n"], stdout=subprocess.DEVNULL, check=True
    )
    return time.perf_counter() - start


def main() -> None:
    """Measure and print."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--files", type=int, default=100_000)
    parser.add_argument("--no-tidy", action="store_true")
    args = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder)
        make_tree(root, args.files)
        seconds_of_find(root)
        ratios, memory, again, whole = [], 0.0, [], []
        for _ in range(5):
            shutil.rmtree(root / ".magpie", ignore_errors=True)
            yardstick = seconds_of_find(root)
            answer, peak = run(root, "scan")
            ratios.append(answer["seconds"]["walk"] / yardstick)  # type: ignore[index]
            whole.append(answer["seconds"]["all"] / yardstick)  # type: ignore[index]
            memory = max(memory, peak)
            second, _ = run(root, "scan")
            again.append(second["seconds"]["all"] / yardstick)  # type: ignore[index]
        print(f"files                              {args.files:,}")
        span = f"({min(ratios):.2f} to {max(ratios):.2f})"
        print(f"walk and store / find -printf      {statistics.median(ratios):.2f} {span}")
        print(f"first scan, whole / find -printf   {statistics.median(whole):.1f}")
        print(f"second scan, whole / find -printf  {statistics.median(again):.2f}")
        size = (root / ".magpie" / "catalogue.db").stat().st_size
        print(f"catalogue, bytes a file            {size / args.files:.0f}")
        print(f"scan, peak memory                  {memory:.0f} MiB")
        if not args.no_tidy:
            plan, peak = run(root, "tidy")
            print(f"tidy, steps                        {len(plan['steps']):,}")  # type: ignore[arg-type]
            print(f"tidy, peak memory                  {peak:.0f} MiB")


if __name__ == "__main__":
    main()
