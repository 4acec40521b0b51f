"""How long `check` takes beside `find`, and how well pictures find their games: `python -m benchmarks.checks [ITEMS]`.

Makes ITEMS episodes (100,000) in a temporary folder, some of them with faults, and compares `check --json` with
`find --json` of all of them, each as a process, the second run of either; and 2,000 games with 2,000 pictures that are
called by other habits (small letters with underscores, capitals, dots, the article behind, words for a cover).
"""

from __future__ import annotations

import json
import os
import random
import subprocess
import sys
import tempfile
import time
from pathlib import Path

_MAGPIE = Path(sys.executable).with_name("magpie")
_SHELVES = (
    '[collection]\nname = "P"\nunplayable = "file"\n[shelf.series]\nkind = "episode"\nfolder = "Series"\n'
    '[shelf.games]\nkind = "game"\nfolder = "Games"\n[player.lounge]\nart = { cover = "{stem}" }\n'
)
_THINGS = (
    "Gull Kelp Fog Tern Buoy Wrack Lamp Salt Crab Pier Reef Tide Mast Sail Net Rope Harbour Quay Gale Sand".split()
)
_DEEDS = (
    "Run Race Quest Patrol Saga Story Rush Rally Hunt Dance Duel March Party Keeper Watch Diver Winder Census".split()
)
_MORE = ["", "II", "III", "Deluxe", "Zero", "2049", "Island", "Nights", "at Sea", "and Friends"]


def _run(root: Path, *words: str) -> tuple[float, float]:
    """Run magpie; return how many seconds it took, and the most MiB that it had."""
    start = time.perf_counter()
    command = [str(_MAGPIE), "-C", str(root), *words]
    nowhere = os.open(os.devnull, os.O_WRONLY)
    to_nowhere = [(os.POSIX_SPAWN_DUP2, nowhere, 1), (os.POSIX_SPAWN_DUP2, nowhere, 2)]
    _, _, used = os.wait4(os.posix_spawn(command[0], command, os.environ, file_actions=to_nowhere), 0)
    os.close(nowhere)
    return time.perf_counter() - start, used.ru_maxrss / 1024


def _episodes(root: Path, count: int) -> None:
    for number in range(count):
        show, episode = divmod(number, 60)
        season, place = divmod(episode, 20)
        if number % 97 == 5:
            continue  # one is missing
        folder = root / f"Series/Show {show}/Season {season + 1:02}"
        folder.mkdir(parents=True, exist_ok=True)
        wrong = "show.{}.s{:02}e{:02}.mkv" if number % 89 == 7 else "Show {} S{:02}E{:02}.mkv"
        (folder / wrong.format(show, season + 1, place + 1)).write_bytes(b"x" * 600)


def _names(chance: random.Random) -> list[str]:
    names: set[str] = set()
    while len(names) < 2000:
        front = chance.choice(["", "The", "Super", "Little"])
        words = (front, chance.choice(_THINGS), chance.choice(_THINGS), chance.choice(_DEEDS), chance.choice(_MORE))
        names.add(" ".join(filter(None, words)))
    return sorted(names)


def _habit(name: str, chance: random.Random) -> str:
    behind = f"{name[4:]}, The" if name.startswith("The ") else name
    return chance.choice(
        [
            name.replace(" ", "_").lower() + "-cover",
            f"{name} [cover]",
            name.upper(),
            f"{behind} (front)",
            name.replace(" ", "."),
        ]
    )


def _pictures(root: Path, elsewhere: Path) -> None:
    chance = random.Random(5)
    truth = {}
    for name in _names(chance):
        behind = f"{name[4:]}, The" if name.startswith("The ") else name
        stem = f"{behind} {chance.choice(['(Europe)', '(USA)', '(World) (Rev 1)', '(Japan) (En)'])}"
        (root / "Games/gb").mkdir(parents=True, exist_ok=True)
        (root / f"Games/gb/{stem}.gb").write_bytes(name.encode() * 9)
        elsewhere.mkdir(exist_ok=True)
        (elsewhere / f"{_habit(name, chance)}.png").write_bytes(b"\x89PNG" + name.encode())
        truth[f"Games/gb/{stem}.png"] = name
    _run(root, "scan")
    words = [_MAGPIE, "-C", str(root), "companions", "--from", str(elsewhere), "--json"]
    plan = json.loads(subprocess.run(words, capture_output=True, text=True, check=False).stdout)
    right = wrong = 0
    for step in plan["steps"]:
        if step["do"] == "copy":
            is_right = (root / step["from"]).read_bytes()[4:].decode() == truth.get(step["to"])
            right, wrong = right + is_right, wrong + (not is_right)
    share, asked = right / len(truth), len(plan["left"])
    print(f"of {len(truth):,} pictures {share:.1%} find their games, {wrong} wrong, {asked} asked")


def main(count: int) -> None:
    """Measure, and print ratios."""
    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder) / "collection"
        root.mkdir()
        (root / "magpie.toml").write_text(_SHELVES)
        _episodes(root, count)
        _run(root, "scan")
        for words in (("find", "--json"), ("check", "--json")):
            _run(root, *words)
        (find, _), (check, memory) = _run(root, "find", "--json"), _run(root, "check", "--json")
        print(f"check of {count:,} items  {check / find:.1f} of find ({find:.1f} s); {memory:.0f} MiB", flush=True)
        _pictures(root, Path(folder) / "pictures")


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 100_000)
