"""The catalogue follows many moves while they are made, in a process of its own; each of the two may be killed."""

from __future__ import annotations

import csv
import os
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from itertools import pairwise
from pathlib import Path

import pytest

from lazy_magpie.catalogue import FollowedMoves, opened
from lazy_magpie.change import Filesystem, JournalStore, moves_in_effect
from lazy_magpie.change.failpoints import VARIABLE
from lazy_magpie.collection import find
from tests.conftest import Collection, picture

MANY = 3_000
CHAIN = 40
"""So many films take the name of the one before: followed twice, they would be taken for each other."""


@pytest.fixture
def planned(tree: Callable[..., Collection]) -> Collection:
    """Return a collection with a plan, `plan.csv` beside it, that gives all its films other names."""
    collection = tree(f"Heap/Tern {number:04} (2001).mkv" for number in range(MANY))
    collection.ok("scan")
    file = collection.root.parent / "plan.csv"
    collection.ok("rename", "kind", "is", "movie", "--append", " b", "--save", str(file))
    with file.open(encoding="utf-8-sig", newline="") as text:
        rows = list(csv.DictReader(text))
    for before, row in pairwise(rows[:CHAIN]):
        row["to"] = before["from"]
    with file.open("w", encoding="utf-8", newline="") as text:
        writer = csv.DictWriter(text, rows[0].keys())
        writer.writeheader()
        writer.writerows(rows)
    return collection


def _items(collection: Collection) -> dict[str, str]:
    """Return which item each film belongs to, told by what it holds, where the catalogue has it."""
    items = collection.ok("find", "--json").lines
    return {(collection.root / file["path"]).read_text(): item["id"] for item in items for file in item["files"]}


def _begun(collection: Collection, *words: str, **env: str) -> subprocess.Popen[bytes]:
    command = [str(Path(sys.executable).with_name("magpie")), "-C", str(collection.root), *words]
    return subprocess.Popen(command, env={**os.environ, **env}, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE)


def _followed(collection: Collection) -> int:
    with opened(find(collection.root)) as catalogue:
        followed = catalogue.followed()
    return followed.moves if followed else 0


def test_each_film_stays_itself(planned: Collection) -> None:
    items, before = _items(planned), picture(planned.root)
    planned.ok("apply", str(planned.root.parent / "plan.csv"))
    assert _items(planned) == items
    assert planned.ok("find", "0070", "b", "--json").lines, "the index of words has followed as well"
    scanned = planned.ok("scan", "--json").json
    assert (scanned["new"], scanned["missing"]) == (0, 0)
    planned.ok("undo")
    assert _items(planned) == items
    assert picture(planned.root) == before
    assert _followed(planned) == 0


@pytest.mark.parametrize("by_then", [0, 30, 1_500])
def test_what_was_followed_before_a_kill_is_not_followed_again(planned: Collection, by_then: int) -> None:
    items = _items(planned)
    killed = _begun(planned, "apply", str(planned.root.parent / "plan.csv"), **{VARIABLE: f"batch-noted:{CHAIN + 4}"})
    assert killed.wait() == -signal.SIGKILL
    store = JournalStore(Filesystem(str(planned.root)))
    with opened(find(planned.root), write=True) as catalogue:  # the helper may have been that quick, or not
        done = list(moves_in_effect(store))
        followed = catalogue.followed()
        assert followed
        FollowedMoves(catalogue.files, first=True).follow(done[followed.moves : by_then])
        catalogue.note_followed(followed._replace(moves=max(followed.moves, by_then)))
    planned.ok("redo")
    assert _items(planned) == items


def test_a_helper_that_outlives_the_command_follows_no_more(planned: Collection) -> None:
    items, before = _items(planned), picture(planned.root)
    words = ["apply", str(planned.root.parent / "plan.csv")]
    for moment in range(4):
        command = _begun(planned, *words)
        while command.poll() is None and _followed(planned) <= 700 * moment:
            time.sleep(0.002)
        command.kill()
        command.wait()
        planned.run("redo")  # puts the catalogue right, and has nothing to do where the command was that quick
        assert _items(planned) == items
        planned.ok("undo")
        assert _items(planned) == items
        assert picture(planned.root) == before
        words = ["redo"]


def test_a_command_whose_helper_is_killed_follows_itself(planned: Collection) -> None:
    items = _items(planned)
    command = _begun(planned, "apply", str(planned.root.parent / "plan.csv"))
    while command.poll() is None and not _followed(planned):
        time.sleep(0.002)
    for helper in _descendants(command.pid):
        os.kill(helper, signal.SIGKILL)
    _, said = command.communicate()
    assert (command.returncode, b"Traceback" in said) == (0, False), said.decode()
    assert _items(planned) == items


def _descendants(process: int) -> list[int]:
    """Return the processes that a process has begun, and those that they have."""
    found = [int(one) for one in Path(f"/proc/{process}/task/{process}/children").read_text().split()]
    return found + [other for one in found for other in _descendants(one)]
