"""Mirrors: `python -m benchmarks.mirror [--files N] [--bytes GIB]`.

`--files`: comparing two trees of N files that are the same, beside walking both with find. `--bytes`: reading both
sides whole, beside two sha256sum at once, and what BLAKE3 gains over SHA-256 on this machine.
"""

from __future__ import annotations

import argparse
import hashlib
import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path

_MAGPIE = Path(sys.executable).with_name("magpie")


def main() -> int:
    """Measure what was asked for."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--files", type=int, default=0)
    parser.add_argument("--bytes", type=float, default=0)
    args = parser.parse_args()
    if args.files:
        _names(args.files)
    if args.bytes:
        _contents(args.bytes)
    return 0


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
        subprocess.run([_MAGPIE, "-q", "scan"], cwd=own, check=True, capture_output=True)
        look = ("find", str(own), str(other), "-printf", "%p %s %T@\n")
        walked = min(_timed(*look, cwd=own) for _ in range(3))
        compared = min(_timed(str(_MAGPIE), "mirror", str(other), cwd=own) for _ in range(3))
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
        subprocess.run([_MAGPIE, "-q", "scan"], cwd=own, check=True, capture_output=True)
        sums = (
            f"find '{own}/Films' -type f -exec sha256sum {{}} + & find '{other}' -type f -exec sha256sum {{}} + & wait"
        )
        plain = min(_timed("sh", "-c", sums, cwd=own) for _ in range(2))
        read = min(_timed(str(_MAGPIE), "mirror", str(other), "--contents", cwd=own) for _ in range(2))
        gain = _gain()
        print(f"{size} GiB on each side: two sha256sum {plain:.1f} s; mirror {read / plain:.2f} of that")
        print(
            f"BLAKE3 is {gain:.1f} times as fast as SHA-256 here: {read * gain / plain:.2f} of the sums divided by it"
        )


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
