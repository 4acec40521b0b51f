"""What is alike, over corpora with known truth: `python -m benchmarks.likeness [--small] [SORT …]`.

For each sort a collection is made (variants that are the same, near-twins that are not), scanned, and asked by
`magpie copies --alike`. Printed is the recall (an original and a variant in one set) per sort of variant, the false
pairs, and the search of hashes against comparing all with all by NumPy in the same run.
"""

from __future__ import annotations

import argparse
import itertools
import json
import subprocess
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np

from benchmarks.corpus import clips, crafted, scenes, tunes
from lazy_magpie.copies.hamming_index import pairs_within

Made = Iterator[tuple[Path, int, str]]
CORPORA: dict[str, tuple[str, Callable[[Path, int], Made], int, int]] = {
    "picture": ("Pictures", scenes.make, 3_000, 60),
    "sound": ("Music", tunes.make, 300, 12),
    "video": ("Films", clips.make, 60, 4),
    "glyphs": ("Fonts", crafted.fonts, 100, 12),
    "stitches": ("Designs", crafted.designs, 100, 12),
}
"""For each sort the shelf, what makes the corpus, how many originals it has, and how many with `--small`."""
HASHES, DISTANCE = 200_000, 10


def magpie(root: Path, *words: str) -> str:
    """Run a command in the collection at `root` and return what it says."""
    command = [sys.executable, "-m", "lazy_magpie", "-C", str(root), *words]
    return subprocess.run(command, stdout=subprocess.PIPE, check=False, text=True).stdout


def measure(sort: str, count: int) -> None:
    """Make one corpus, ask for what is alike in it, and print how much of it was found."""
    shelf, make, _, _ = CORPORA[sort]
    with tempfile.TemporaryDirectory() as name:
        root = Path(name)
        (root / "magpie.toml").write_text("")
        truth = {}
        work = root / "work"
        work.mkdir()
        for path, number, variant in make(work, count):
            place = f"{shelf}/{variant.replace(' ', '-')}/{path.name}"  # apart, so that no two are one thing
            (root / place).parent.mkdir(parents=True, exist_ok=True)
            path.rename(root / place)
            truth[place] = number, variant
        work.rmdir()
        magpie(root, "scan", "--quiet")
        begin = time.perf_counter()
        found = [json.loads(line) for line in magpie(root, "copies", "--alike", "--json").splitlines()]
        seconds = time.perf_counter() - begin
        begin = time.perf_counter()
        magpie(root, "copies", "--alike", "--json")
        again = time.perf_counter() - begin
    sets = {}
    for at, one in enumerate(found):
        if one["match"] == sort:
            sets |= dict.fromkeys([*([one["keep"]] if one["keep"] else []), *one["others"]], at)
    report(sort, truth, sets)
    print(f"{sort}: seconds for each file   {seconds / len(truth):.3f}; a second time {again / seconds:.3f} of it")


def report(sort: str, truth: dict[str, tuple[int, str]], sets: dict[str, int]) -> None:
    """Print the recall of each sort of variant, and the pairs that are not the same."""
    originals = {}
    for path, (number, _) in truth.items():
        originals.setdefault(number, path)
    wanted, right, false = Counter[str](), Counter[str](), Counter[str]()
    for path, (number, variant) in truth.items():
        if path != originals[number]:
            wanted[variant] += 1
            right[variant] += path in sets and sets[path] == sets.get(originals[number])
    for _, group in itertools.groupby(sorted(sets, key=sets.__getitem__), key=sets.__getitem__):
        for one, other in itertools.combinations(group, 2):
            if truth[one][0] != truth[other][0]:
                false[f"{truth[one][1]} / {truth[other][1]}"] += 1
    print(f"{sort}: files                   {len(truth):,}")
    for variant, all_ in wanted.items():
        print(f"{sort}: recall, {variant:<15} {right[variant] / all_:.4f} of {all_:,}")
    print(f"{sort}: recall, all             {right.total() / wanted.total():.4f}")
    print(f"{sort}: false pairs             {false.total()} {dict(false.most_common(4)) or ''}")


def search(count: int) -> None:
    """Compare the search through the index with comparing all with all."""
    chance = np.random.default_rng(5)
    hashes = chance.integers(0, 2**64, count, dtype=np.uint64)
    planted = set()
    for at in range(0, count - 1, 200):
        bits = chance.choice(64, int(chance.integers(0, DISTANCE + 1)), replace=False)
        hashes[at + 1] = hashes[at] ^ np.uint64(sum(1 << int(bit) for bit in bits))
        planted.add((at, at + 1))
    begin = time.perf_counter()
    found = set(map(tuple, pairs_within(hashes, DISTANCE).tolist()))
    middle = time.perf_counter()
    every = set()
    for at in range(0, count, 256):
        near = np.bitwise_count(hashes[at : at + 256, None] ^ hashes[None, at:]) <= DISTANCE
        every |= {(at + int(one), at + int(other)) for one, other in np.argwhere(near) if one < other}
    end = time.perf_counter()
    print(f"search of {count:,} hashes       {len(found & every):,} of {len(every):,} pairs found")
    print(f"planted pairs                   {len(planted & found)} of {len(planted)} found")
    print(f"all with all / index            {(end - middle) / (middle - begin):.1f}")


def main() -> None:
    """Measure and print."""
    parser = argparse.ArgumentParser()
    parser.add_argument("sorts", nargs="*", default=[*CORPORA, "search"], metavar="SORT")
    parser.add_argument("--small", action="store_true", help="small corpora, to see that all works")
    args = parser.parse_args()
    for sort in args.sorts:
        if sort == "search":
            search(HASHES // 20 if args.small else HASHES)
        else:
            measure(sort, CORPORA[sort][3 if args.small else 2])


if __name__ == "__main__":
    main()
