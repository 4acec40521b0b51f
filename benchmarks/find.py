"""Questions to a large catalogue: `python -m benchmarks.find [--files 100000] [--tree DIR]`.

Prints the time of `magpie find` with two words, as a whole process, as a multiple of the same interpreter on
`-c "import sqlite3, argparse"`, that of `magpie show` of a file as a multiple of it, medians of fifteen in turn, and
what a hundred random questions take inside the process.
`--tree` takes a folder that was made and scanned before, or makes it.
"""

from __future__ import annotations

import argparse
import random
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from benchmarks.corpus.words import ADJECTIVES, FIRST, NAMES, NOUNS
from benchmarks.scan import make_tree, run
from lazy_magpie import find
from lazy_magpie.catalogue import opened
from lazy_magpie.collection import Collection


def seconds_of(command: list[str]) -> float:
    """Return how long a whole process takes; what it shows may wait for a person."""
    start = time.perf_counter()
    code = subprocess.run(command, check=False, stdout=subprocess.DEVNULL).returncode
    assert code in (0, 1), command
    return time.perf_counter() - start


def question(chance: random.Random) -> list[str]:
    """Return a question as a person may ask it."""
    noun, adjective = chance.choice(NOUNS), chance.choice(ADJECTIVES)
    return chance.choice(
        (
            [adjective, noun, f"s0{chance.randrange(1, 6)}e0{chance.randrange(10, 99)}"],
            ["show", "is", f"{adjective} {noun}", "season", "is", str(chance.randrange(1, 6))],
            ["kind", "is", "movie", "title", "is", f"{adjective} {noun}"],
            ["kind", "is", "movie", noun, "year", "is", str(chance.randrange(1920, 2020))],
            ["artist", "is", f"{chance.choice(FIRST)} {chance.choice(NAMES)}", "title", "has", noun],
            ["kind", "is", "track", adjective, noun],
        )
    )


def main() -> None:
    """Measure and print."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--files", type=int, default=100_000)
    parser.add_argument("--tree", type=Path)
    args = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        root = args.tree or Path(folder)
        if not (root / "magpie.toml").exists():
            make_tree(root, args.files)
        if not (root / ".magpie").exists():
            run(root, "scan")
        magpie = [sys.executable, "-m", "lazy_magpie", "-C", str(root)]
        with opened(Collection(root)) as catalogue:
            first = next(iter(catalogue.items.ask(find.parse(["s01e017"])))).path
        bare, asked, shown = [], [], []
        for _ in range(15):
            bare.append(seconds_of([sys.executable, "-c", "import sqlite3, argparse"]))
            asked.append(seconds_of([*magpie, "find", "bitter", "s01e017"]))
            shown.append(seconds_of([*magpie, "show", str(root / first)]))
        ratio = statistics.median(asked) / statistics.median(bare)
        print(f"magpie find, two words / bare interpreter   {ratio:.1f}")
        print(f"magpie show of a file / that find           {statistics.median(shown) / statistics.median(asked):.1f}")
        chance = random.Random(3)
        times, found = [], []
        with opened(Collection(root)) as catalogue:
            for _ in range(100):
                condition = find.parse(question(chance))
                start = time.perf_counter()
                found.append(len(list(catalogue.items.ask(condition))))
                times.append(time.perf_counter() - start)
        times.sort()
        print(f"random questions, median and 95 of 100      {times[50] * 1000:.1f} ms, {times[94] * 1000:.1f} ms")
        print(f"items found, median and most                {statistics.median(found):.0f}, {max(found):,}")


if __name__ == "__main__":
    main()
