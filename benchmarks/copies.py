"""Finding copies: `python -m benchmarks.copies [--gib 5]`.

Makes a tree of files of random contents in which three of ten bytes are copies, scans it, and prints what
`magpie copies` reads as a multiple of the least that proves the answer, its time as a multiple of a bare loop that
hashes all that could be a copy with BLAKE3, both read from the disk, and the second run as a share of the first: with
all files in the system's memory, and with none.
"""

from __future__ import annotations

import argparse
import os
import random
import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from blake3 import blake3

from benchmarks.scan import run
from lazy_magpie.catalogue import All, opened
from lazy_magpie.collection import Collection
from lazy_magpie.copies import find_copies

_KIB = 1024


def make_tree(root: Path, size: int) -> int:
    """Make files of 64 KiB to 64 MiB, `size` bytes in all; return the bytes of all that has a copy."""
    chance = random.Random(5)
    made = paired = number = 0
    while made < size:
        length = int(2 ** chance.uniform(16, 26)) // _KIB * _KIB
        name = root / f"{number // 100:03}" / f"Pier {number} ({1900 + number % 100}).mkv"
        name.parent.mkdir(exist_ok=True)
        name.write_bytes(os.urandom(length))
        made += length
        number += 1
        if chance.random() < 0.43:
            other = root / "Again" / f"{number}.mkv"
            other.parent.mkdir(exist_ok=True)
            shutil.copyfile(name, other)
            made += length
            paired += 2 * length
    (root / "magpie.toml").write_text("")
    return paired


def put_out_of_memory(root: Path) -> None:
    """Drop the contents of all files below `root` from memory, as if nobody had read them lately."""
    os.sync()
    for file in root.rglob("*"):
        if file.is_file():
            descriptor = os.open(file, os.O_RDONLY)
            os.posix_fadvise(descriptor, 0, 0, os.POSIX_FADV_DONTNEED)
            os.close(descriptor)


def seconds_of_hashing(root: Path) -> float:
    """Return how long a bare loop takes that hashes every file of a size that another has."""
    sizes: dict[int, list[Path]] = {}
    for file in root.rglob("*.mkv"):
        sizes.setdefault(file.stat().st_size, []).append(file)
    start = time.perf_counter()
    for file in (file for files in sizes.values() if len(files) > 1 for file in files):
        hasher = blake3()
        with open(file, "rb") as data:
            while block := data.read(1 << 20):
                hasher.update(block)
        hasher.digest()
    return time.perf_counter() - start


def timed_twice(root: Path) -> tuple[float, float]:
    """Return the seconds that `magpie copies` takes the first time and the second time."""
    words = [sys.executable, "-m", "lazy_magpie", "-C", str(root), "copies", "--json"]
    seconds = []
    for _ in range(2):
        start = time.perf_counter()
        subprocess.run(words, stdout=subprocess.DEVNULL, check=False)
        seconds.append(time.perf_counter() - start)
    return seconds[0], seconds[1]


def main() -> None:
    """Measure and print."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--gib", type=float, default=5)
    args = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder)
        least = make_tree(root, int(args.gib * 2**30))
        run(root, "scan")
        put_out_of_memory(root)
        yardstick = seconds_of_hashing(root)
        first, second = timed_twice(root)
        with opened(Collection(root), write=True) as catalogue:
            catalogue.db.execute("DELETE FROM digest")
            found = find_copies(catalogue, str(root), catalogue.items.ask(All()))
            catalogue.db.execute("DELETE FROM digest")
            catalogue.commit()
        put_out_of_memory(root)
        cold, after_cold = timed_twice(root)
    print(f"bytes read / the least that proves it   {found.bytes_read / least:.2f}")
    print(f"magpie copies / a bare loop of BLAKE3    {cold / yardstick:.2f}")
    print(f"second run / first, files in memory      {second / first:.2f}")
    print(f"second run / first, read from the disk   {after_cold / cold:.3f} ({cold:.1f} s)")


if __name__ == "__main__":
    main()
