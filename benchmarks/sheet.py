"""Worksheets of many items: `python -m benchmarks.sheet [--files 40000]`.

Makes a collection of empty files with custom fields, and prints the processor seconds and the peak memory of
making a sheet of all items and of taking it back: untouched, and with a cell filled in in every tenth row.
"""

from __future__ import annotations

import argparse
import csv
import os
import subprocess
import sys
import tempfile
from pathlib import Path

from benchmarks.scan import make_tree, run

OWN = """
[field.theme]
allowed = ["harbour", "kites", "weather"]
[field.rights]
allowed = ["own use", "club", "free"]
[field.shelf_mark]
type = "number"
"""


def measured(root: Path, *words: str) -> tuple[float, float]:
    """Run a command and return its processor seconds and its peak memory in MiB."""
    command = [sys.executable, "-m", "lazy_magpie", "-C", str(root), *words, "--json"]
    process = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    _, _, usage = os.wait4(process.pid, 0)
    return usage.ru_utime + usage.ru_stime, usage.ru_maxrss / 1024


def fill(path: Path) -> None:
    """Fill in a cell of every tenth row of a sheet in CSV."""
    with path.open(encoding="utf-8-sig", newline="") as file:
        head, *rows = csv.reader(file)
    for row in rows[::10]:
        row[head.index("theme")] = "kites"
    with path.open("w", encoding="utf-8", newline="") as file:
        csv.writer(file).writerows([head, *rows])


def main() -> None:
    """Measure and print."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--files", type=int, default=40_000)
    args = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder) / "collection"
        root.mkdir()
        make_tree(root, args.files)
        with (root / "magpie.toml").open("a") as file:
            file.write(OWN)
        run(root, "scan")
        for name in ("all.xlsx", "all.csv"):
            sheet = Path(folder) / name
            print(f"{name}: make       {{:.1f}} s, {{:.0f}} MiB".format(*measured(root, "sheet", "make", str(sheet))))
            print(f"{name}: take       {{:.1f}} s, {{:.0f}} MiB".format(*measured(root, "sheet", "take", str(sheet))))
        fill(sheet)
        words = ("sheet", "take", str(sheet), "--now")
        print(f"{args.files // 10:,} cells taken     {{:.1f}} s, {{:.0f}} MiB".format(*measured(root, *words)))


if __name__ == "__main__":
    main()
