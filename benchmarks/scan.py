"""Scan and tidy of many empty files: `python -m benchmarks.scan [--files 100000] [--runs 5] [--no-tidy]`.

Prints the time of walking and storing as a multiple of `find -printf` on the same tree, warm, medians of the runs, and
the peak memory of scan and tidy.
"""

from __future__ import annotations

import argparse
import json
import os
import random
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from benchmarks.corpus.words import ADJECTIVES, FIRST, NAMES, NOUNS

CONFIG = """[collection]
unplayable = "file"
[shelf.films]
kind = "movie"
folder = "Films"
[shelf.series]
kind = "episode"
folder = "Series"
"""


def make_tree(root: Path, files: int) -> None:
    """Make `files` empty files: of ten eight are episodes, a hundred to a season's folder, one a film, one a song."""
    chance = random.Random(7)
    titles = [f"{adjective} {noun}" for adjective in ADJECTIVES for noun in NOUNS]
    folder = root
    for number in range(files):
        batch, at = divmod(number, 100)
        title = chance.choice(titles)
        dotted = title.lower().replace(" ", ".")
        if batch % 10 == 8:
            name, home = f"{title} ({chance.randrange(1920, 2020)}) 720p.mkv", root / "Heap" / "Films" / str(batch)
        elif batch % 10 == 9:
            artist = f"{FIRST[batch % len(FIRST)]} {NAMES[batch // 10 % len(NAMES)]}"
            name, home = f"{at % 12 + 1:02} - {title}.mp3", root / "Music" / artist / f"{title} {batch}-{at // 12}"
            home = folder if at % 12 else home
        else:
            show, season = titles[batch // 5 % len(titles)], batch % 5 + 1
            again = batch // 5 // len(titles)
            show = f"{show} {again + 1}" if again else show
            name = f"{show.lower().replace(' ', '.')}.s{season:02}e{at + 1:03}.{dotted}.720p.web.mkv"
            home = root / "Heap" / show / f"Season {season}"
        if home != folder:
            home.mkdir(parents=True, exist_ok=True)
            folder = home
        os.close(os.open(folder / name, os.O_CREAT | os.O_WRONLY))
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
    parser.add_argument("--runs", type=int, default=5)
    parser.add_argument("--no-tidy", action="store_true")
    args = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder)
        make_tree(root, args.files)
        seconds_of_find(root)
        ratios, memory, again, whole = [], 0.0, [], []
        for _ in range(args.runs):
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
