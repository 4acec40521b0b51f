"""Mirrors: `python -m benchmarks.mirror [--files N] [--bytes GIB] [--trouble RUNS [--seed N]]`.

`--files`: comparing two trees of N files that are the same, beside walking both with find. `--bytes`: reading both
sides whole, beside two sha256sum at once, and what BLAKE3 gains over SHA-256 on this machine. `--trouble`: refreshing,
killed, with the mirror's drive pulled or full at random instants: no file on the mirror may be half, nothing of what it
held may be lost, and the next run has to complete it.
"""

from __future__ import annotations

import argparse
import hashlib
import random
import shutil
import subprocess
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

from benchmarks.trouble import MAGPIE, Place, interrupted, run, troubled


def main() -> int:
    """Measure what was asked for."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--files", type=int, default=0)
    parser.add_argument("--bytes", type=float, default=0)
    parser.add_argument("--trouble", type=int, default=0)
    parser.add_argument("--seed", type=int, default=0)
    args = parser.parse_args()
    if args.files:
        _names(args.files)
    if args.bytes:
        _contents(args.bytes)
    return troubled(_one, args.trouble, args.seed) if args.trouble else 0


def _pair(home: Path) -> tuple[Path, Path]:
    own, other = home / "own", home / "other"
    (own / ".magpie").mkdir(parents=True)
    (own / "magpie.toml").write_text('[collection]\nname = "Test"\n')
    return own, other


def _timed(*command: str, cwd: Path) -> float:
    start = time.monotonic()
    subprocess.run(command, cwd=cwd, check=True, capture_output=True)
    return time.monotonic() - start


def _names(count: int) -> None:
    with tempfile.TemporaryDirectory(dir=Path.cwd()) as home:
        own, other = _pair(Path(home))
        for number in range(count):
            path = own / f"Films/{number // 2000:03}/Kelp {number // 20} ({1950 + number % 70})/Kelp {number}.mkv"
            if number % 20 == 0:
                path.parent.mkdir(parents=True, exist_ok=True)
            (own / f"Films/{number // 2000:03}").mkdir(parents=True, exist_ok=True)
            path.parent.mkdir(parents=True, exist_ok=True)
            path.write_bytes(b"")
        shutil.copytree(own, other, ignore=shutil.ignore_patterns(".magpie"))
        subprocess.run([MAGPIE, "-q", "scan"], cwd=own, check=True, capture_output=True)
        look = ("find", str(own), str(other), "-printf", "%p %s %T@\n")
        walked = min(_timed(*look, cwd=own) for _ in range(3))
        compared = min(_timed(str(MAGPIE), "mirror", str(other), cwd=own) for _ in range(3))
        print(f"{count:,} files on each side: find {walked:.2f} s, mirror {compared / walked:.1f} times that")


def _contents(size: float) -> None:
    with tempfile.TemporaryDirectory(dir=Path.cwd()) as home:
        own, other = _pair(Path(home))
        piece = b"kelp" * (1 << 22)
        for number in range(int(size * 64)):
            path = own / f"Films/Kelp {number} (2001)/Kelp {number} (2001).mkv"
            path.parent.mkdir(parents=True)
            path.write_bytes(number.to_bytes(4, "big") + piece[4:])
        shutil.copytree(own, other, ignore=shutil.ignore_patterns(".magpie"))
        subprocess.run([MAGPIE, "-q", "scan"], cwd=own, check=True, capture_output=True)
        sums = (
            f"find '{own}/Films' -type f -exec sha256sum {{}} + & find '{other}' -type f -exec sha256sum {{}} + & wait"
        )
        plain = min(_timed("sh", "-c", sums, cwd=own) for _ in range(2))
        read = min(_timed(str(MAGPIE), "mirror", str(other), "--contents", cwd=own) for _ in range(2))
        gain = _gain()
        print(f"{size} GiB on each side: two sha256sum {plain:.1f} s; mirror {read / plain:.2f} of that")
        print(
            f"BLAKE3 is {gain:.1f} times as fast as SHA-256 here: {read * gain / plain:.2f} of the sums divided by it"
        )


def _one(home: Path, place: Place, chosen: random.Random) -> Iterator[str]:
    """Refresh a mirror, interrupted at a random instant; then once more. Yield what is wrong."""
    own, other = _pair(home)
    for number in range(chosen.randint(3, 30)):
        _write(own / f"Films/Kelp {number} (2001)/Kelp {number} (2001).mkv", chosen)
    run(own, "scan")
    words = ("mirror", str(other), "--refresh", "--now")
    run(own, *words)
    _edit(own, chosen)
    run(own, "scan")
    before, wanted = _files(other), _files(own)
    yield from interrupted(own, words, place, chosen)
    for path, data in _files(other).items():
        if data not in (before.get(path), wanted.get(path)):
            yield f"half, or strange: {path}"
    yield from _lost(before, other, "after it")
    last = run(own, *words)
    yield from _lost(before, other, "after the next run")
    there = _files(other)
    if there != wanted:
        differs = sorted(path for path in wanted.keys() | there.keys() if wanted.get(path) != there.get(path))
        yield f"not completed: {differs[:3]}; {last.returncode} {last.stderr[-200:]}"
    if _files(own) != wanted:
        yield "changed in the collection"


def _write(path: Path, chosen: random.Random) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(chosen.randbytes(50) * (chosen.choice((0, 10, 5_000, 400_000, 3_000_000)) // 50))


def _edit(own: Path, chosen: random.Random) -> None:
    """Add, remove, rename and change files, and rename folders."""
    for folder in sorted((own / "Films").iterdir()):
        file = next(folder.iterdir())
        match chosen.randrange(6):
            case 0:
                file.unlink()
            case 1:
                file.rename(folder / f"{file.stem} b.mkv")
            case 2:
                folder.rename(folder.with_name(f"Tern {folder.name}"))
            case 3:
                _write(file, chosen)
            case 4:
                _write(own / f"Films/New {folder.name}/new.mkv", chosen)


def _files(top: Path) -> dict[str, bytes]:
    found = (file for file in top.rglob("*") if file.is_file() and ".magpie" not in file.relative_to(top).parts)
    return {str(file.relative_to(top)): file.read_bytes() for file in found if file.name != "magpie.toml"}


def _lost(before: dict[str, bytes], other: Path, when: str) -> Iterator[str]:
    """Yield what the mirror held and neither holds nor has in its holding area."""
    still = {file.read_bytes() for file in other.rglob("*") if file.is_file()}
    yield from (f"{when}: lost {path}" for path, data in before.items() if data not in still)


def _gain() -> float:
    from blake3 import blake3

    data = bytes(256 << 20)
    times = []
    for digest in (hashlib.sha256, blake3):
        start = time.monotonic()
        digest(data).digest()
        times.append(time.monotonic() - start)
    return times[0] / times[1]


if __name__ == "__main__":
    raise SystemExit(main())
