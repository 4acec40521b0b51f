"""`magpie demo [DIR]`: makes the demo collection and runs a tour on it."""

from __future__ import annotations

import argparse
import json
import os
import subprocess
import sys
import time
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path

from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.config import FILE_NAME
from lazy_magpie.demo import TITLES_FILE, declare, make
from lazy_magpie.demo.faults import SETTINGS, plant
from lazy_magpie.errors import MagpieError, UsageError

_EXAMPLES = """examples:
  magpie demo                         in a new folder magpie-demo
  magpie demo /tmp/kites --no-tour    the files alone
"""
_DEFAULT = "magpie-demo"

SERVICE = "SERVICE"
"""Stands for the address of the title service that runs beside the tour."""
RENAME = ("rename", "Club", "--prepend", "Kite club - ", "--case", "sentence")
CONVERT = ("convert", "Games/lantern", "--by", "discs")
WALL, REPORT = "Club wall.html", "Club report.html"
_GAMES = "title,system,regions,listed,path"
TOUR: tuple[tuple[str, tuple[str, ...]], ...] = (
    ("Make the folder a collection: shelves are proposed from the folders that are there.", ("start",)),
    ("Read what is on the disk into the catalogue; the second time only what changed is looked at.", ("scan",)),
    ("Everything that has to do with one show, wherever it lies.", ("find", "tidewater", "lane")),
    (
        "The films of which not everything is certain: only these need a look.",
        ("find", "kind", "is", "movie", "state", "is", "doubtful"),
    ),
    ("How a name is understood, and why.", ("explain", "Heap/Summer.of.1962.2004.EXTENDED.720p.mkv")),
    ("All that is known of one thing, and where it should be.", ("show", "salt", "orchard")),
    ("What is in doubt, as questions: one for all that share a reason or a show.", ("settle",)),
    (
        "A title service is asked from now on: here the club's own list, served beside this tour by “titles serve”.",
        ("titles", "add", SERVICE),
    ),
    ("What the titles leave no doubt about is settled; the rest waits for a person.", ("settle", "--auto")),
    ("Two films of one name: a person says which.", ("settle", "Heap/Kelp Ballad.mp4", "--set", "year=1993")),
    ("Downloads come in: five archives of one kit become one folder, under its maker.", ("intake", "Downloads")),
    ("Do it. Each step is in a journal before it happens.", ("apply",)),
    ("Tags of your own, which file managers see, too.", ("tag", "put", "film evening", "kind", "is", "movie")),
    ("Propose names and places. Nothing is changed: the list comes first.", ("tidy",)),
    ("Do that, too.", ("apply",)),
    ("A second time there is nothing left to do.", ("tidy", "kind", "is", "episode")),
    ("What is there more than once, and which one a rule would keep.", ("copies", "--keep", "shelved,older")),
    ("And what only sounds the same, in another format.", ("copies", "--alike", "kind", "is", "track")),
    ("What was done, when, by whom.", ("history",)),
    ("And back again: every name, every time, every empty folder as it was.", ("undo",)),
    ("Names by hand, for hundreds at once if need be: seen first, and kept by “tidy” from then on.", RENAME),
    ("Discs in parts, each into one file by a program that magpie.toml declares; the result is proved first.", CONVERT),
    ("Reference lists of games: of each what is there, misnamed, damaged, elsewhere or absent.", ("match",)),
    ("One list opened: every game that needs something, with what to do.", ("match", "reef4")),
    ("One plan: names as a newer list has them, games out of an archive, sets packed as wanted.", ("match", "--fix")),
    ("Do that.", ("apply",)),
    ("One of each game is the one to take along.", ("find", "preferred", "is", "yes", "--columns", _GAMES)),
    ("What goes on the handheld's card: what it reads, in its folders, as much as fits.", ("send", "card")),
    ("Do that; each file is read back before it gets its name.", ("apply",)),
    ("One game is played through …", ("tag", "put", "finished", "Games/chip8/Kite Run (World) (Unl).ch8")),
    ("… so it comes off; what is there already stays.", ("send", "card", "--now")),
    ("The machine's stick gets one form of each design, under names that it can show.", ("send", "stick")),
    ("Something to look at: a wall of pictures, in one file that needs nothing else.", ("find", "--page", WALL)),
    ("And the whole club in numbers and charts.", ("report", REPORT)),
)
"""The tour: why a collector would do it, and the command."""


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `demo`."""
    parser.epilog = _EXAMPLES
    parser.add_argument("dir", nargs="?", metavar="DIR", help=f"an empty or new folder; {_DEFAULT} if none is named")
    parser.add_argument("--faults", action="store_true", help="with one of each fault that check knows, and a list")
    parser.add_argument("--no-tour", action="store_true", help="make the files, run nothing on them")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Make the files, then run the tour's commands one by one, each as a person would."""
    folder = _folder(args.dir)
    start = time.monotonic()
    try:
        count = make(folder)
        if args.faults:
            count += plant(folder)
    except OSError as error:
        raise MagpieError(f"The demo can't be made in {folder}: {error.strerror}. Name another folder.") from error
    if terminal.as_json:
        terminal.json({"folder": str(folder), "files": count, "seconds": round(time.monotonic() - start, 2)})
        return 0
    terminal.say(f"{count} files of the Gullwick Kite Society are in {folder}")
    if not args.no_tour:
        with _service(folder) as url:
            for why, words in TOUR:
                _stop(folder, why, [url if word == SERVICE else word for word in words], terminal)
                if words == ("start",):
                    declare(folder / FILE_NAME)
                    if args.faults:
                        (folder / FILE_NAME).open("a").write(SETTINGS)
        terminal.say(terminal.styled(f"\nNow it is yours to try: cd {folder}", "bold"))
    return 0


@contextmanager
def _service(folder: Path) -> Iterator[str]:
    """Serve the demo's title list on loopback while the tour runs, and yield its address."""
    command = [sys.executable, "-m", "lazy_magpie", "titles", "serve", TITLES_FILE, "--port", "0", "--json"]
    server = subprocess.Popen(command, cwd=folder, stdout=subprocess.PIPE, text=True)
    try:
        assert server.stdout is not None
        line = server.stdout.readline()
        yield json.loads(line)["url"] if line else ""
    finally:
        server.terminate()
        server.wait()


def _folder(named: str | None) -> Path:
    """Return the folder to make the demo in. Raises UsageError where something is in it."""
    if named:
        folder = Path(named)
        if folder.exists() and (not folder.is_dir() or any(folder.iterdir())):
            raise UsageError(f"{folder} is not an empty folder; name a new one, so that nothing of yours is touched.")
        return folder
    number = 1
    while (folder := Path(_DEFAULT if number == 1 else f"{_DEFAULT}-{number}")).exists():
        number += 1
    return folder


def _stop(folder: Path, why: str, words: Sequence[str], terminal: Terminal) -> None:
    """Say why, print the command, and run it with its own output."""
    shown = " ".join(f'"{word}"' if " " in word else word for word in words)
    terminal.say(f"\n{terminal.styled(f'# {why}', 'dim')}")
    terminal.say(terminal.styled(f"$ magpie {shown}", "head"))
    sys.stdout.flush()
    colour = () if terminal.colour else ("--no-colour",)
    command = [sys.executable, "-m", "lazy_magpie", *words, *colour]
    subprocess.run(command, cwd=folder, env={**os.environ, "PAGER": ""}, check=False)  # nobody waits at a tour
