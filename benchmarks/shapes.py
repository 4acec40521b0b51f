"""How the cost of each command grows on the shapes that collections have: `python -m benchmarks.shapes`.

Prints processor seconds of whole processes (workers are not counted: `--jobs 1`), peak memory, and the exponent from
one size to the next: 1 is in proportion, 2 is quadratic. Shapes: `flat`, films with their subtitles in one folder;
`folders`, the same names, a folder for each film; `kits`, many small files in folders three deep; `mixed`, all of these
beside episodes, with odd names. Every file holds its own path; one of fifty holds what the one before it does.
"""

from __future__ import annotations

import argparse
import math
import os
import subprocess
import sys
import tempfile
from collections.abc import Callable, Iterator
from itertools import chain, product
from pathlib import Path

from benchmarks.corpus.words import ADJECTIVES, NOUNS
from benchmarks.scan import CONFIG as FILMS_AND_SERIES

CONFIG = f"""{FILMS_AND_SERIES}[shelf.kits]
kind = "kit"
folder = "Kits"
"""
LONG_AGO = 1_000_000_000
ONE_NEW, INTAKE = "one new film", "intake, planned"
COMMANDS: tuple[tuple[str, tuple[str, ...]], ...] = (
    ("first scan", ("scan",)),
    ("second scan", ("scan",)),
    (ONE_NEW, ("scan",)),
    ("copies", ("copies",)),
    (INTAKE, ("intake",)),
    ("tidy", ("tidy",)),
    ("apply", ("apply",)),
    ("scan after it", ("scan",)),
    ("tidy again", ("tidy",)),
    ("and once more", ("tidy",)),
    ("undo", ("undo",)),
)
"""What is measured, one behind the other: what it is called, and the command."""


def titles() -> Iterator[str]:
    """Yield made-up titles without end."""
    for number in range(10_000):
        for adjective, noun in product(ADJECTIVES, NOUNS):
            yield f"{adjective} {noun} {number}" if number else f"{adjective} {noun}"


def flat(files: int) -> Iterator[str]:
    """Yield films with their subtitles in one folder."""
    return (f"Heap/{path.rpartition('/')[2]}" for path in folders(files))


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
            yield f"Old/Kits/{maker}/{title}/{section}/{section[0]}{at}.png"


def mixed(files: int) -> Iterator[str]:
    """Yield a quarter of each of the others with odd names, and a quarter of episodes."""
    signs = ("", "", "", " ★", " Ü-ö", " 時", " (1)", " " + "x" * 90)
    for number, path in enumerate(chain(flat(files // 4), folders(files // 4), kits(files // 4))):
        stem, dot, ending = path.rpartition(".")
        yield f"Old {number % 3}/{stem}{signs[number % len(signs)]}{dot}{ending}"
    for number, title in zip(range(files // 4), titles(), strict=False):
        season, episode = number // 24 % 9 + 1, number % 24 + 1
        yield f"Shows/{title}/Season {season}/{title} S{season:02}E{episode:02}.mkv"


SHAPES: dict[str, Callable[[int], Iterator[str]]] = {"flat": flat, "folders": folders, "kits": kits, "mixed": mixed}


def make_tree(root: Path, shape: str, files: int) -> None:
    """Make the files of a shape, and a configuration."""
    (root / "magpie.toml").write_text(CONFIG)
    text = ""
    for number, path in enumerate(SHAPES[shape](files)):
        file = root / path
        file.parent.mkdir(parents=True, exist_ok=True)
        text = text if number % 50 == 49 else path
        file.write_text(text)
        os.utime(file, (LONG_AGO, LONG_AGO))  # what has just come is left alone by `intake`


def cost(root: Path, *command: str) -> tuple[float, float]:
    """Run a command and return its processor seconds and its peak memory in MiB."""
    words = [sys.executable, "-m", "lazy_magpie", "-C", str(root), *command, "--json"]
    if command == ("scan",):
        words += ["--jobs", "1"]
    process = subprocess.Popen(words, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    _, _, usage = os.wait4(process.pid, 0)
    return usage.ru_utime + usage.ru_stime, usage.ru_maxrss / 1024


def measure(shape: str, files: int) -> list[tuple[float, float]]:
    """Return what each command costs on a collection of a shape."""
    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder)
        make_tree(root, shape, files)
        first = root / next(SHAPES[shape](files))
        tops = [path.name for path in root.iterdir() if path.is_dir()]
        costs = []
        for label, command in COMMANDS:
            if label == ONE_NEW:
                for ending in ("mkv", "en.srt"):  # the shares of endings stay as they are
                    first.with_name(f"Another Film Altogether (1999).{ending}").write_text("another")
            costs.append(cost(root, *command, *(tops if label == INTAKE else ())))
        return costs


def main() -> None:
    """Measure and print."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--sizes", default="10000,30000,100000")
    parser.add_argument("--shapes", default=",".join(SHAPES))
    args = parser.parse_args()
    sizes = [int(size) for size in args.sizes.split(",")]
    for shape in args.shapes.split(","):
        costs = [measure(shape, size) for size in sizes]
        print(f"{shape:<17}" + "".join(f"{size:>20,}" for size in sizes))
        for at, (label, _) in enumerate(COMMANDS):
            cells = []
            for number, size in enumerate(sizes):
                seconds, memory = costs[number][at]
                text = f"{seconds:.1f} s {memory:.0f} M"
                if number:
                    growth = math.log(seconds / costs[number - 1][at][0]) / math.log(size / sizes[number - 1])
                    text += f" ^{growth:.2f}"
                cells.append(f"{text:>20}")
            print(f"  {label:<15}{''.join(cells)}")


if __name__ == "__main__":
    main()
