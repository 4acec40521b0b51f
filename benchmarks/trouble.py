"""Runs that are interrupted at random instants: killed, or with the target's drive pulled."""

from __future__ import annotations

import random
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path

MAGPIE = Path(sys.executable).with_name("magpie")


def troubled(one: Callable[[Path, random.Random], Iterator[str]], runs: int, seed: int) -> int:
    """Call `one` in an empty folder for each run, and print the faults that it yields; return 1 if there are any."""
    wrong = 0
    for number in range(seed, seed + runs):
        with tempfile.TemporaryDirectory() as home:
            for fault in one(Path(home), random.Random(number)):
                wrong += 1
                print(f"run {number}: {fault}", flush=True)
    print(f"{runs} runs, {wrong} faults")
    return 1 if wrong else 0


def run(root: Path, *words: str) -> subprocess.CompletedProcess[str]:
    """Run the program in a collection, and let it end."""
    return subprocess.run([MAGPIE, "-q", *words], cwd=root, capture_output=True, text=True, check=False)


def interrupted(root: Path, words: tuple[str, ...], target: Path, away: Path, chosen: random.Random) -> Iterator[str]:
    """Run the program and kill it, or take the target away, at a random instant; put it back. Yield what is wrong."""
    process = subprocess.Popen([MAGPIE, "-q", *words], cwd=root, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    time.sleep(chosen.uniform(0.3, 1.1))
    pulled = chosen.random() < 0.4
    if pulled:
        target.rename(away)
    else:
        process.send_signal(signal.SIGKILL)
    process.wait()
    if pulled:
        if target.exists():
            yield f"something was made where the target had been: {sorted(map(str, target.rglob('*')))[:3]}"
        else:
            away.rename(target)
