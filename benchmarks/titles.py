"""Title lists of 200,000 titles: `python -m benchmarks.titles [--count 200000]`.

Prints what reading a list into the catalogue costs against reading it with the csv module, the peak memory, and how
long a search takes inside the process: by an exact name, and by one with a letter changed.
"""

from __future__ import annotations

import argparse
import csv
import json
import random
import statistics
import tempfile
import time
from pathlib import Path

from benchmarks.corpus.chance import Chance
from benchmarks.scan import CONFIG, run
from lazy_magpie import collection as collections
from lazy_magpie.catalogue import opened
from lazy_magpie.titles import candidates


def make_list(path: Path, count: int) -> list[tuple[str, int]]:
    """Write a list of made-up films and return (title, year) of each."""
    chance = Chance(1)
    made = [(f"{chance.title()} {chance.title()}", chance.randrange(1900, 2026)) for _ in range(count)]
    with open(path, "w", newline="", encoding="utf-8") as file:
        writer = csv.writer(file)
        writer.writerow(("kind", "title", "year", "other titles"))
        writer.writerows(("movie", title, year, f"{title} Abroad" if year % 5 == 0 else "") for title, year in made)
    return made


def misspelt(chance: random.Random, title: str) -> str:
    """Return a title with one letter changed."""
    at = chance.randrange(len(title))
    return title[:at] + chance.choice("aeiostr") + title[at + 1 :]


def main() -> None:
    """Measure and print."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--count", type=int, default=200_000)
    args = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder)
        (root / "magpie.toml").write_text(CONFIG)
        made = make_list(root / "list.csv", args.count)
        start = time.perf_counter()
        with open(root / "list.csv", encoding="utf-8") as file:
            rows = sum(1 for _ in csv.reader(file))
        middle = time.perf_counter()
        answer, memory = run(root, "titles", "add", str(root / "list.csv"))
        end = time.perf_counter()
        assert answer["titles"] == args.count == rows - 1, json.dumps(answer)
        print(f"titles                              {args.count:,}")
        print(f"titles add / csv.reader             {(end - middle) / (middle - start):.0f}")
        print(f"titles add, peak memory             {memory:.0f} MiB")
        size = (root / ".magpie" / "catalogue.db").stat().st_size
        print(f"catalogue, bytes a title            {size / args.count:.0f}")
        chance = random.Random(2)
        with opened(collections.find(root), scanned=False) as catalogue:
            for what, change in (("exact name", lambda title: title), ("a letter changed", None)):
                seconds, found = [], 0
                for title, year in chance.sample(made, 300):
                    asked = change(title) if change else misspelt(chance, title)
                    begin = time.perf_counter()
                    ones = candidates(catalogue.titles, "movie", asked, year)
                    seconds.append(time.perf_counter() - begin)
                    found += bool(ones) and ones[0].title.title == title
                worst = sorted(seconds)[len(seconds) * 95 // 100]
                print(
                    f"search, {what:<18}          {statistics.median(seconds) * 1000:.1f} ms, 95 of 100 under "
                    f"{worst * 1000:.1f} ms, right {found / 3:.0f} %"
                )


if __name__ == "__main__":
    main()
