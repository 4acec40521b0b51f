"""What `magpie --version` costs, as a multiple of an interpreter with argparse: `python -m benchmarks.start`."""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
from pathlib import Path

RUNS = 25


def cpu_seconds(*command: str) -> float:
    """Return the CPU time of a command as a whole process."""
    process = subprocess.Popen(command, stdout=subprocess.DEVNULL)
    _, _, usage = os.wait4(process.pid, 0)
    return usage.ru_utime + usage.ru_stime


def main() -> None:
    """Measure in turn and print the median of the ratios."""
    program = str(Path(sys.executable).with_name("magpie"))
    ratios = []
    for _ in range(RUNS):
        yardstick = cpu_seconds(sys.executable, "-c", "import argparse")
        ratios.append(cpu_seconds(program, "--version") / yardstick)
    print(f"magpie --version / python -c 'import argparse', CPU: {statistics.median(ratios):.2f}")


if __name__ == "__main__":
    main()
