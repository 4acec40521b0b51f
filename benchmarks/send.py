"""Sending to targets: `python -m benchmarks.send [--fit] [--copy N [--to FOLDER]] [--trouble RUNS [--seed N]]`.

`--fit`: 20,000 things in three tiers, of different worth, and the processor time that choosing takes. `--copy`: N files
of 2 MiB to a folder on another file system, beside `cp`, `sync` and `cmp` in the same run, then the second time.
`--trouble`: runs that are killed, or whose target vanishes or fills, at random instants: no file under a final name may
be half, none that others put there may change, and the next run has to complete it.
"""

from __future__ import annotations

import argparse
import os
import random
import shutil
import statistics
import subprocess
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

from benchmarks.trouble import MAGPIE, Place, interrupted, run, troubled
from lazy_magpie.sending import Candidate, Room, fit

_CONFIG = '[collection]\nname = "Test"\n[target.card]\nfolder = "{card}"\nitems = "kind is game not tag is finished"\n'


def main() -> int:
    """Measure what was asked for."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--fit", action="store_true")
    parser.add_argument("--copy", type=int, default=0)
    parser.add_argument("--to", default="/dev/shm")
    parser.add_argument("--trouble", type=int, default=0)
    parser.add_argument("--seed", type=int, default=0)
    args = parser.parse_args()
    if args.fit:
        _fit()
    if args.copy:
        _copy(args.copy, Path(args.to))
    return troubled(_one, args.trouble, args.seed) if args.trouble else 0


def _fit() -> None:
    chosen = random.Random(0)
    for alike in (True, False):
        tiers = []
        for number, count in enumerate((2_000, 8_000, 10_000)):
            tiers.append([(at + number * 100_000, _candidate(chosen, alike=alike)) for at in range(count)])
        whole = sum(one.size for tier in tiers for _, one in tier)
        start = time.process_time()
        found = fit(tiers, Room(int(whole * 0.6)))
        what = "alike" if alike else "of different worth"
        spent = time.process_time() - start
        print(f"20,000 things {what}: {spent:.1f} s of processor time, {len(found.chosen):,} go, gap {found.gap:.5%}")


def _candidate(chosen: random.Random, *, alike: bool) -> Candidate:
    return Candidate(chosen.randint(1, 5_000), 1.0 if alike else chosen.randint(1, 100) / 10)


def _timed(*command: str, cwd: Path | None = None) -> float:
    start = time.monotonic()
    subprocess.run(command, cwd=cwd, check=True, capture_output=True)
    return time.monotonic() - start


def _copy(count: int, to: Path) -> None:
    """Print how long a sending takes, as ratios of cp, sync and cmp of the same files to the same place."""
    with tempfile.TemporaryDirectory(dir=Path.cwd()) as home, tempfile.TemporaryDirectory(dir=to) as there:
        root, card, other = Path(home), Path(there) / "card", Path(there) / "plain"
        card.mkdir()
        (root / "magpie.toml").write_text(_CONFIG.format(card=card))
        (root / ".magpie").mkdir()
        for number in range(count):
            path = root / f"Games/gb/{number // 500:02}/Gull {number} (World).gb"
            path.parent.mkdir(parents=True, exist_ok=True)
            path.write_bytes(random.Random(number).randbytes(2 << 20))
        run(root, "scan")
        times = [_copied(root, card, other) for _ in range(3)]
        plain, first, second = (statistics.median(column) for column in zip(*times, strict=True))
        first_ratio = statistics.median(sent / copied for copied, sent, _ in times)
        second_ratio = statistics.median(again / sent for _, sent, again in times)
        print(
            f"{count:,} files of 2 MiB: cp, sync and diff {plain:.1f} s; send {first:.1f} s, {first_ratio:.2f} times; "
            f"the second time {second:.1f} s, {second_ratio:.3f} of the first"
        )


def _copied(root: Path, card: Path, other: Path) -> tuple[float, float, float]:
    """Return the seconds that copying and comparing takes, sending the same, and sending once more."""
    os.sync()
    plain = _timed("cp", "-a", str(root / "Games"), str(other)) + _timed("sync")
    plain += _timed("diff", "-r", str(root / "Games"), str(other))
    shutil.rmtree(other)
    os.sync()
    first = _timed(str(MAGPIE), "-q", "send", "card", "--now", cwd=root)
    second = _timed(str(MAGPIE), "-q", "send", "card", cwd=root)
    run(root, "undo")
    return plain, first, second


def _one(home: Path, place: Place, chosen: random.Random) -> Iterator[str]:
    """Send, interrupted at a random instant; then once more. Yield what is wrong."""
    root, card = home / "own", place.folder
    foreign = {"DCIM/1.jpg": b"a picture", "Games/gb/save.sav": b"level 3"}
    games = _collection(root, card, foreign, chosen)
    wanted = {path for path in games if path not in _finished(root)}
    yield from interrupted(root, ("send", "card", "--now"), place, chosen)
    yield from _looked_at(card, games, foreign, "after it")
    last = run(root, "send", "card", "--now")
    yield from _looked_at(card, games, foreign, "after the next run")
    missing = [path for path in wanted if not (card / path).is_file()]
    if missing:
        yield f"not completed: {missing[:3]}; {last.returncode} {last.stderr[-200:]}"
    left = [path for path in games if path not in wanted and (card / path).exists()]
    if left:
        yield f"still there: {left[:3]}; {last.stderr[-200:]}"
    for path, data in games.items():
        if (root / path).read_bytes() != data:
            yield f"changed in the collection: {path}"


def _collection(root: Path, card: Path, foreign: dict[str, bytes], chosen: random.Random) -> dict[str, bytes]:
    """Make a collection and a card, perhaps with something sent of which some comes off; return the games."""
    for path, data in foreign.items():
        (card / path).parent.mkdir(parents=True, exist_ok=True)
        (card / path).write_bytes(data)
    (root / ".magpie").mkdir(parents=True)
    (root / "magpie.toml").write_text(_CONFIG.format(card=card))
    games = {}
    for number in range(chosen.randint(3, 40)):
        path = f"Games/gb/Gull {number} (World).gb"
        games[path] = chosen.randbytes(50) * (chosen.choice((0, 10, 5_000, 400_000, 3_000_000)) // 50)
        (root / path).parent.mkdir(parents=True, exist_ok=True)
        (root / path).write_bytes(games[path])
    run(root, "scan")
    run(root, "send", "card")  # it gets to know the card: an empty folder where it is mounted is not taken for it then
    if chosen.random() < 0.6:  # there is something already, of which some comes off
        run(root, "send", "card", "--now")
        if some := chosen.sample(sorted(games), len(games) // 3):
            run(root, "tag", "put", "finished", *some)
        for number in range(5):
            path = f"Games/gb/Tern {number} (World).gb"
            games[path] = chosen.randbytes(50) * 6_000
            (root / path).write_bytes(games[path])
        run(root, "scan")
    return games


def _finished(root: Path) -> set[str]:
    words = ("find", "tag", "is", "finished", "--csv", "--columns", "path")
    answer = subprocess.run([MAGPIE, *words], cwd=root, capture_output=True, text=True, check=False)
    return set(answer.stdout.splitlines()[1:])


def _looked_at(card: Path, games: dict[str, bytes], foreign: dict[str, bytes], when: str) -> Iterator[str]:
    for path, data in foreign.items():
        if not (card / path).is_file() or (card / path).read_bytes() != data:
            yield f"{when}: touched {path}"
    for file in card.rglob("*"):
        path = str(file.relative_to(card))
        is_ours = file.is_file() and not path.startswith(".magpie/") and path not in foreign
        if is_ours and games.get(path) != file.read_bytes():
            yield f"{when}: half, or strange: {path}"


if __name__ == "__main__":
    raise SystemExit(main())
