"""Scan and tidy of many empty files: `python -m benchmarks.scan [--files 100000] [--runs 5] [--no-tidy]`.

Prints, as medians of the runs, walking and storing as a multiple of a bare loop that lists the same folders and inserts
the same rows; the whole first scan, by one process, as a multiple of that loop, a bare loop that identifies the same
names, and one that inserts the same rows of items and index; and the peak memory of scan and tidy.
"""

from __future__ import annotations

import argparse
import json
import os
import random
import shutil
import sqlite3
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Sequence
from contextlib import closing
from pathlib import Path

from benchmarks.corpus.words import ADJECTIVES, FIRST, NAMES, NOUNS
from lazy_magpie.catalogue import opened, schema
from lazy_magpie.collection import Collection
from lazy_magpie.identify import identify

CONFIG = """[collection]
unplayable = "file"
[shelf.films]
kind = "movie"
folder = "Films"
[shelf.series]
kind = "episode"
folder = "Series"
"""


def make_tree(root: Path, files: int) -> None:
    """Make `files` empty files: of ten eight are episodes, a hundred to a season's folder, one a film, one a song."""
    chance = random.Random(7)
    titles = [f"{adjective} {noun}" for adjective in ADJECTIVES for noun in NOUNS]
    folder = root
    for number in range(files):
        batch, at = divmod(number, 100)
        title = chance.choice(titles)
        dotted = title.lower().replace(" ", ".")
        if batch % 10 == 8:
            name, home = f"{title} ({chance.randrange(1920, 2020)}) 720p.mkv", root / "Heap" / "Films" / str(batch)
        elif batch % 10 == 9:
            artist = f"{FIRST[batch % len(FIRST)]} {NAMES[batch // 10 % len(NAMES)]}"
            name, home = f"{at % 12 + 1:02} - {title}.mp3", root / "Music" / artist / f"{title} {batch}-{at // 12}"
            home = folder if at % 12 else home
        else:
            show, season = titles[batch // 5 % len(titles)], batch % 5 + 1
            again = batch // 5 // len(titles)
            show = f"{show} {again + 1}" if again else show
            name = f"{show.lower().replace(' ', '.')}.s{season:02}e{at + 1:03}.{dotted}.720p.web.mkv"
            home = root / "Heap" / show / f"Season {season}"
        if home != folder:
            home.mkdir(parents=True, exist_ok=True)
            folder = home
        os.close(os.open(folder / name, os.O_CREAT | os.O_WRONLY))
    (root / "magpie.toml").write_text(CONFIG)


def run(root: Path, *words: str) -> tuple[dict[str, object], float]:
    """Run a command and return its JSON and its peak memory in MiB."""
    command = [sys.executable, "-m", "lazy_magpie", "-C", str(root), *words, "--json"]
    with tempfile.TemporaryFile() as out:
        process = subprocess.Popen(command, stdout=out)
        _, _, usage = os.wait4(process.pid, 0)
        out.seek(0)
        answer: dict[str, object] = json.load(out)
    return answer, usage.ru_maxrss / 1024


def seconds_of_walk(root: Path, place: Path) -> float:
    """Return how long a bare loop takes that lists all folders and inserts what a scan keeps of folders and files."""
    start = time.perf_counter()
    with closing(new_database(place)) as db:
        waiting, files, folders = [str(root)], [], 0
        while waiting:
            folder = waiting.pop()
            folders += 1
            db.execute("INSERT INTO folder (id, root, path, seen) VALUES (?, 0, ?, 1)", (folders, folder))
            with os.scandir(folder) as entries:
                for entry in entries:
                    if entry.is_dir(follow_symlinks=False):
                        waiting.append(entry.path)
                        continue
                    status = entry.stat(follow_symlinks=False)
                    files.append((folders, entry.name, status.st_size, status.st_mtime_ns, status.st_ino, 1))
            if len(files) >= 20_000:
                insert_files(db, files)
                files.clear()
        insert_files(db, files)
        db.commit()
    return time.perf_counter() - start


def new_database(place: Path) -> sqlite3.Connection:
    """Return an empty catalogue, set up as a scan has it."""
    db = sqlite3.connect(place)
    db.execute("PRAGMA journal_mode = WAL")
    db.execute("PRAGMA synchronous = NORMAL")
    schema.prepare(db, place)
    return db


def insert_files(db: sqlite3.Connection, files: Sequence[tuple[int, str, int, int, int, int]]) -> None:
    """Insert files, and write them."""
    db.executemany("INSERT INTO file (folder, name, size, mtime, inode, added) VALUES (?, ?, ?, ?, ?, ?)", files)
    db.commit()


def seconds_of_names(root: Path) -> float:
    """Return how long a bare loop takes that identifies the paths of a scanned collection, one by one."""
    with opened(Collection(root)) as catalogue:
        paths = catalogue.files.main_paths()
    start = time.perf_counter()
    for path in paths:
        identify(path)
    return time.perf_counter() - start


def seconds_of_rows(root: Path, place: Path) -> float:
    """Return how long bare inserts take of the rows that a scan has made of items, with their index."""
    with closing(sqlite3.connect(root / ".magpie" / "catalogue.db")) as made:
        tables = {table: made.execute(f"SELECT * FROM {table}").fetchall() for table in ("item", "value")}
        words = made.execute("SELECT id, search FROM item").fetchall()
    start = time.perf_counter()
    with closing(new_database(place)) as db:
        for table, rows in tables.items():
            db.executemany(f"INSERT INTO {table} VALUES ({', '.join('?' * len(rows[0]))})", rows)
        db.executemany("INSERT INTO words (rowid, search) VALUES (?, ?)", words)
        db.commit()
    return time.perf_counter() - start


def spread(figures: Sequence[float]) -> str:
    """Return a median, with the smallest and the largest."""
    return f"{statistics.median(figures):.2f} ({min(figures):.2f} to {max(figures):.2f})"


def main() -> None:
    """Measure and print."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--files", type=int, default=100_000)
    parser.add_argument("--runs", type=int, default=5)
    parser.add_argument("--no-tidy", action="store_true")
    args = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder, tempfile.TemporaryDirectory() as other:
        root = Path(folder)
        make_tree(root, args.files)
        walks, wholes, again, memory = [], [], [], 0.0
        for run_number in range(args.runs):
            shutil.rmtree(root / ".magpie", ignore_errors=True)
            bare = seconds_of_walk(root, Path(other) / f"{run_number}.db")
            answer, peak = run(root, "scan", "--jobs", "1")
            memory = max(memory, peak)
            first = answer["seconds"]
            walks.append(first["walk"] / bare)  # type: ignore[index]
            bare += seconds_of_names(root) + seconds_of_rows(root, Path(other) / f"rows {run_number}.db")
            wholes.append(first["all"] / bare)  # type: ignore[index]
            second, _ = run(root, "scan")
            again.append(second["seconds"]["all"] / first["all"])  # type: ignore[index]
        print(f"files                                        {args.files:,}")
        print(f"walk and store / bare loop, same rows        {spread(walks)}")
        print(f"first scan / bare loops                      {spread(wholes)}")
        print(f"second scan / first scan                     {spread(again)}")
        size = (root / ".magpie" / "catalogue.db").stat().st_size
        print(f"catalogue, bytes a file                      {size / args.files:.0f}")
        print(f"scan, peak memory                            {memory:.0f} MiB")
        if not args.no_tidy:
            plan, peak = run(root, "tidy")
            print(f"tidy, steps                                  {len(plan['steps']):,}")  # type: ignore[arg-type]
            print(f"tidy, peak memory                            {peak:.0f} MiB")


if __name__ == "__main__":
    main()
