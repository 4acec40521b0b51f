"""`magpie start [DIR]`: makes a folder a collection."""

from __future__ import annotations

import argparse
import os
import sys
from collections.abc import Sequence
from pathlib import Path

from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.collection import STATE_DIR_NAME
from lazy_magpie.config import FILE_NAME, parse
from lazy_magpie.errors import MagpieError, UsageError
from lazy_magpie.paths import written
from lazy_magpie.planners.initial_config import WORDS, Proposal, propose
from lazy_magpie.services.first_look import counts_of

_EXAMPLES = """examples:
  magpie start                      the current folder
  magpie start "/media/big/Films and series"
"""


def register(parser: argparse.ArgumentParser) -> None:
    """Add the arguments of `start`."""
    parser.epilog = _EXAMPLES
    parser.add_argument("dir", nargs="?", metavar="DIR", help="the folder; the current one if none is named")
    parser.set_defaults(run=run)


def run(args: argparse.Namespace, terminal: Terminal) -> int:
    """Look at the folder, propose shelves, write magpie.toml and make .magpie/."""
    root = Path(args.dir or args.folder)
    if not root.is_dir():
        raise UsageError(f"There is no folder {root}; make it first, or name another.")
    path = root / FILE_NAME
    if path.exists():
        raise UsageError(f"{root} is a collection already: it has a {FILE_NAME}. Edit that file, or remove it first.")
    if around := _collection_around(root.resolve()):
        raise UsageError(
            f"{root} lies inside the collection {around}: one can't be inside another. Make it a shelf there, or a "
            "[root.NAME] of it, or move it out."
        )
    try:
        folders = sorted(entry.name for entry in os.scandir(root) if entry.is_dir(follow_symlinks=False))
        counts = counts_of(str(root))
        proposal = propose(root.resolve().name, folders, counts)
        chosen = {kind: _chosen(terminal, kind, some) for kind, some in proposal.open.items()}
        proposal = propose(root.resolve().name, folders, counts, chosen) if chosen else proposal
        parse(proposal.text)
        with open(path, "x", encoding="utf-8") as file:
            file.write(proposal.text)
        (root / STATE_DIR_NAME).mkdir(exist_ok=True)
    except OSError as error:
        raise MagpieError(f"{root} can't be made a collection: {error.strerror}. Check its permissions.") from error
    _show(terminal, root, proposal)
    return 0


def _collection_around(root: Path) -> Path | None:
    """Return the collection that a folder lies in, None where it lies in none."""
    return next((folder for folder in root.parents if (folder / FILE_NAME).is_file()), None)


def _chosen(terminal: Terminal, kind: str, folders: Sequence[str]) -> str:
    """Ask which of several folders is the shelf of a kind; without a person to ask take the first, and say so."""
    named = ", ".join(f"“{written(folder)}”" for folder in folders[1:])
    if terminal.as_json or not sys.stdin.isatty():
        terminal.note(
            f"“{written(folders[0])}” is the shelf for {WORDS[kind]}; {named} would do as well: see {FILE_NAME}."
        )
        return folders[0]
    terminal.say(f"Which folder is the shelf for {WORDS[kind]}?")
    for number, folder in enumerate(folders, start=1):
        terminal.say(f"  {number}  {written(folder)}")
    while True:
        print("> ", end="", file=sys.stderr, flush=True)
        word = sys.stdin.readline()
        if not word or not word.strip():
            return folders[0]
        if word.strip().isdecimal() and 1 <= int(word) <= len(folders):
            return folders[int(word) - 1]


def _show(terminal: Terminal, root: Path, proposal: Proposal) -> None:
    if terminal.as_json:
        shelves = [{"name": s.name, "kind": s.kind, "folder": s.folder, "new": s.is_new} for s in proposal.shelves]
        terminal.json({"root": str(root.resolve()), "shelves": shelves, "leave": list(proposal.leave)})
        return
    terminal.say(f"{root.resolve()} is a collection now.")
    for shelf in proposal.shelves:
        how = "a new folder" if shelf.is_new else "the folder that is there"
        terminal.say(
            f"  shelf {terminal.styled(shelf.name, 'bold')}: {WORDS[shelf.kind]} go to {shelf.folder}/ ({how})"
        )
    for folder in proposal.leave:
        terminal.say(f"  left alone: {folder}/ (looks like a backup)")
    terminal.say(f"Review {FILE_NAME}, then run: magpie scan")
