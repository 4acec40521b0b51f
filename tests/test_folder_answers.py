"""A person says what a folder is for: all that hangs on it is read anew, the answer lasts, and can be taken back."""

from __future__ import annotations

import json
import shutil
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from tests.conftest import Collection, program

Tree = Callable[..., Collection]
SAMPLER = [
    f"Music/Tidings/{album}/{number:02} {song}.mp3"
    for album in ("Pier Songs (2003)", "Quay Songs (2004)")
    for number, song in enumerate(("Kelp Parade - Ebb", "Nora Samphire - Wick", "Gull Trio - Cry"), start=1)
]
OTHERS = [f"Music/Kelp Parade/Low Tide (1998)/{number:02} {song}.mp3" for number, song in ((1, "Ebb"), (2, "Slack"))]


def _fields(collection: Collection, path: str) -> dict[str, Any]:
    items = collection.ok("find", "--json").lines
    return next(item["fields"] for item in items if any(file["path"] == path for file in item["files"]))


def _role(collection: Collection, folder: str) -> str:
    return collection.run("show", f"{folder}/").out


def test_an_answer_is_for_all_that_lies_in_the_folder(tree: Tree) -> None:
    collection = tree([*SAMPLER, *OTHERS], "")
    collection.run("scan")
    before = _fields(collection, OTHERS[0])
    done = collection.ok("settle", "Music/Kelp Parade/", "--set", "role=category")
    assert "1 folder settled" in done.out and "category" in done.out
    assert "a category" in _role(collection, "Music/Kelp Parade") and "You said so" in _role(
        collection, "Music/Kelp Parade"
    )
    assert _fields(collection, OTHERS[0]).get("artist") != "Kelp Parade"
    collection.ok("undo")
    assert "an owner" in _role(collection, "Music/Kelp Parade")
    assert _fields(collection, OTHERS[0]) == before
    collection.ok("redo")
    assert "a category" in _role(collection, "Music/Kelp Parade")


def test_an_answer_outlives_scans_and_the_catalogue(tree: Tree) -> None:
    collection = tree([*SAMPLER, *OTHERS], "")
    collection.run("scan")
    collection.ok("settle", "Music/Tidings/", "--set", "role=owner")
    told = _fields(collection, SAMPLER[0])
    collection.run("scan", "--full")
    assert "an owner" in _role(collection, "Music/Tidings") and _fields(collection, SAMPLER[0]) == told
    for file in (collection.root / ".magpie").glob("catalogue*"):
        file.unlink()
    collection.run("scan")
    assert "an owner" in _role(collection, "Music/Tidings") and _fields(collection, SAMPLER[0]) == told


def test_an_answer_is_taken_back(tree: Tree) -> None:
    collection = tree([*SAMPLER, *OTHERS], "")
    collection.run("scan")
    first = _role(collection, "Music/Tidings").splitlines()[0]
    collection.ok("settle", "Music/Tidings/", "--set", "role=division")
    assert _role(collection, "Music/Tidings").splitlines()[0] != first
    collection.ok("settle", "Music/Tidings/", "--unset")
    assert _role(collection, "Music/Tidings").splitlines()[0] == first
    assert "settled so already" in collection.ok("settle", "Music/Tidings/", "--unset").err


@pytest.mark.parametrize(
    ("words", "says"),
    [
        (["Music/Tidings/", "--set", "role=shelf of shelves"], "not “shelf of shelves”"),
        (["Music/Nowhere/", "--set", "role=owner"], "no folder of this collection"),
        (["--set", "role=owner"], "needs ITEMS"),
        (["Music/Tidings/", "--set", "role=owner", "year=1990"], "can't stand beside"),
    ],
)
def test_what_is_no_role_or_no_folder_is_refused(tree: Tree, words: list[str], says: str) -> None:
    collection = tree([*SAMPLER, *OTHERS], "")
    collection.run("scan")
    refused = collection.run("settle", *words)
    assert refused.code == 2 and says in refused.err


def test_questions_about_folders_come_first_the_one_that_decides_most_before_all(tree: Tree) -> None:
    paths = [f"Downloads/Wyvern {n}/thing {k}.pes" for n in range(4) for k in range(n + 1)]
    collection = tree([*paths, *SAMPLER, "Films/Nets (again).avi"], "")
    collection.run("scan")
    asked = collection.run("settle", "--json").lines
    folders = [question for question in asked if question["folder"]]
    assert asked[: len(folders)] == folders
    counts = [question["items"] for question in folders]
    assert counts == sorted(counts, reverse=True)
    for question in folders:
        assert question["field"] == "role" and set(question["choices"]) >= {"category", "owner", "work"}
        assert question["items"] == len(question["paths"])
        assert all(path.startswith(question["folder"] + "/") for path in question["paths"])


def test_a_question_about_a_folder_is_answered_by_its_number(tree: Tree) -> None:
    paths = [
        f"Stitches/Bobbin and Reel/bb-22{number}-harbour {word}.pes" for number, word in ((14, "crab"), (15, "net"))
    ]
    collection = tree([*paths, "Stitches/Sea set/gull.pes", "Stitches/Sea set/knot.pes"], "")
    collection.run("scan")
    first = collection.run("settle", "--json").lines[0]
    assert first["folder"] == "Stitches/Bobbin and Reel" and first["items"] == 2
    answered = program("-C", str(collection.root), "settle", "--ask", text="2\nq\n")
    assert "2  a maker" in answered.out
    assert "an owner" in _role(collection, first["folder"])
    notes = (collection.root / ".magpie" / "notes.jsonl").read_text().splitlines()
    assert json.loads(notes[-1]) == {"path": first["folder"], "size": 0, "mtime": 0, "role": "owner"}


def test_a_folder_that_moves_keeps_its_answer(tree: Tree) -> None:
    collection = tree([*SAMPLER, *OTHERS], "")
    collection.run("scan")
    collection.ok("settle", "Music/Tidings/", "--set", "role=category")
    shutil.copytree(collection.root / "Music", collection.root / "Copy")
    collection.run("scan")
    assert "a category" in _role(collection, "Music/Tidings")


def test_explain_says_why_a_folder_is_what_it_is(tree: Tree) -> None:
    collection = tree([*SAMPLER, *OTHERS], "")
    collection.run("scan")
    found = collection.ok("explain", "Music/Kelp Parade/", "--json").json
    assert (found["path"], found["role"], found["told"]) == ("Music/Kelp Parade/", "owner", False)
    assert abs(sum(found["roles"].values()) - 1) < 0.01 and found["why"]
    collection.ok("settle", "Music/Kelp Parade/", "--set", "role=category")
    told = collection.ok("explain", "Music/Kelp Parade/", "--json").json
    assert (told["role"], told["confidence"], told["told"]) == ("category", 1.0, True)
    assert "you said so" in collection.ok("explain", "Music/Kelp Parade/").out


def test_explain_needs_no_collection_for_a_folder(tmp_path: Path) -> None:
    answer = program("explain", "Music/Sampler/", cwd=tmp_path)
    assert answer.code == 0 and answer.out.startswith("Music/Sampler/")
