"""How the cost of each command grows on the shapes that collections have: `python -m benchmarks.shapes`.

Prints processor seconds of whole processes (workers are not counted: `--jobs 1`), peak memory, and the exponent from
one size to the next: 1 is in proportion, 2 is quadratic. Shapes: `flat`, all films in one folder; `folders`, a folder
for each film with its subtitle; `kits`, many small files in folders three deep.
"""

from __future__ import annotations

import argparse
import math
import os
import subprocess
import sys
import tempfile
from collections.abc import Callable, Iterator
from itertools import product
from pathlib import Path

from benchmarks.corpus.words import ADJECTIVES, NOUNS

CONFIG = """[collection]
unplayable = "file"
[shelf.films]
kind = "movie"
folder = "Films"
[shelf.kits]
kind = "kit"
folder = "Kits"
"""
COMMANDS = ("scan", "scan", "tidy", "apply", "scan", "tidy", "undo")
LABELS = ("first scan", "second scan", "tidy", "apply", "scan after it", "tidy again", "undo")


def titles() -> Iterator[str]:
    """Yield made-up titles without end."""
    for number in range(10_000):
        for adjective, noun in product(ADJECTIVES, NOUNS):
            yield f"{adjective} {noun} {number}" if number else f"{adjective} {noun}"


def flat(files: int) -> Iterator[str]:
    """Yield films in one folder."""
    for number, title in zip(range(files), titles(), strict=False):
        yield f"Heap/{title.replace(' ', '.')}.{1930 + number % 90}.1080p.mkv"


def folders(files: int) -> Iterator[str]:
    """Yield films with a subtitle, each in a folder of its own."""
    for number, title in zip(range(files // 2), titles(), strict=False):
        year = 1930 + number % 90
        for ending in ("mkv", "en.srt"):
            yield f"Heap/{title} ({year})/{title.replace(' ', '.')}.{year}.1080p.{ending}"


def kits(files: int) -> Iterator[str]:
    """Yield kits of twenty files in folders three deep."""
    for number, title in zip(range(files // 20), titles(), strict=False):
        maker = f"{NOUNS[number % 30]} Paper Co"
        for at, section in product(range(10), ("papers", "elements")):
            yield f"Kits/{maker}/{title}/{section}/{section[0]}{at}.png"


SHAPES: dict[str, Callable[[int], Iterator[str]]] = {"flat": flat, "folders": folders, "kits": kits}


def cost(root: Path, command: str) -> tuple[float, float]:
    """Run a command and return its processor seconds and its peak memory in MiB."""
    words = [sys.executable, "-m", "lazy_magpie", "-C", str(root), command, "--json"]
    if command == "scan":
        words += ["--jobs", "1"]
    process = subprocess.Popen(words, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    _, _, usage = os.wait4(process.pid, 0)
    return usage.ru_utime + usage.ru_stime, usage.ru_maxrss / 1024


def measure(shape: str, files: int) -> list[tuple[float, float]]:
    """Return what each command costs on a collection of a shape."""
    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder)
        (root / "magpie.toml").write_text(CONFIG)
        for path in SHAPES[shape](files):
            file = root / path
            file.parent.mkdir(parents=True, exist_ok=True)
            file.touch()
        return [cost(root, command) for command in COMMANDS]


def main() -> None:
    """Measure and print."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--sizes", default="10000,30000,100000")
    parser.add_argument("--shapes", default=",".join(SHAPES))
    args = parser.parse_args()
    sizes = [int(size) for size in args.sizes.split(",")]
    for shape in args.shapes.split(","):
        costs = [measure(shape, size) for size in sizes]
        print(f"{shape:<15}" + "".join(f"{size:>20,}" for size in sizes))
        for at, label in enumerate(LABELS):
            cells = []
            for number, size in enumerate(sizes):
                seconds, memory = costs[number][at]
                text = f"{seconds:.1f} s {memory:.0f} M"
                if number:
                    growth = math.log(seconds / costs[number - 1][at][0]) / math.log(size / sizes[number - 1])
                    text += f" ^{growth:.2f}"
                cells.append(f"{text:>20}")
            print(f"  {label:<13}{''.join(cells)}")


if __name__ == "__main__":
    main()
