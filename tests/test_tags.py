"""Tags: put and taken off as changes, found like any other field, and never lost on the way."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path

import pytest

from tests.conftest import Collection

Tree = Callable[..., Collection]
KELP, HAWSER, WICK = "Heap/Kelp (2001).mkv", "Heap/Hawser (1964).mkv", "Heap/Wick (1999).mkv"


@pytest.fixture
def tagged(tree: Tree) -> Collection:
    """Return three films, two of them tagged."""
    collection = tree([])
    for path in (KELP, HAWSER, WICK):
        collection.put(path, text=f"this is {path}")
    collection.ok("scan")
    collection.ok("tag", "put", "film evening,seen", KELP)
    collection.ok("tag", "put", "seen", HAWSER)
    return collection


def _tags(collection: Collection) -> dict[str, list[str]]:
    items = collection.ok("find", "--json").lines
    return {item["path"].rpartition("/")[2].partition(" ")[0]: item["tags"] for item in items}


def _list(collection: Collection, *words: str) -> dict[str, int]:
    return {row["tag"]: row["items"] for row in collection.ok("tag", "list", "--json", *words).lines}


def test_tags_are_put_and_found(tagged: Collection) -> None:
    assert _tags(tagged) == {"Kelp": ["film evening", "seen"], "Hawser": ["seen"], "Wick": []}
    assert _list(tagged) == {"seen": 2, "film evening": 1}

    def found(*words: str) -> list[str]:
        return [item["path"] for item in tagged.ok("find", *words, "--json").lines]

    assert found("tag", "is", "Seen") == [HAWSER, KELP] and found("tag", "isnt", "seen") == [WICK]
    assert found("evening") == [KELP] and found("tag", "missing") == [WICK] and found("tag", "has", "even") == [KELP]
    assert "film evening, seen" in tagged.ok("find", "kelp", "--columns", "name,tag").out
    assert "film evening, seen" in tagged.ok("show", "kelp").out


def test_tags_are_dropped_renamed_and_merged_and_all_of_it_is_undone(tagged: Collection) -> None:
    tagged.ok("tag", "drop", "film evening", KELP)
    assert _tags(tagged)["Kelp"] == ["seen"]
    tagged.ok("undo")
    tagged.ok("tag", "colour", "seen", "green")
    tagged.ok("tag", "rename", "seen", "watched")
    assert _tags(tagged) == {"Kelp": ["film evening", "watched"], "Hawser": ["watched"], "Wick": []}
    rows = {row["tag"]: row["colour"] for row in tagged.ok("tag", "list", "--json").lines}
    assert rows == {"watched": "green", "film evening": ""}
    assert not tagged.ok("find", "tag", "is", "seen", "--json").lines
    tagged.ok("tag", "merge", "film evening,watched", "club")
    assert _tags(tagged) == {"Kelp": ["club"], "Hawser": ["club"], "Wick": []}
    tagged.ok("undo")
    tagged.ok("undo")
    assert _tags(tagged) == {"Kelp": ["film evening", "seen"], "Hawser": ["seen"], "Wick": []}
    tagged.ok("redo")
    assert _tags(tagged)["Hawser"] == ["watched"]
    assert "Nothing changes" in tagged.ok("tag", "put", "watched", HAWSER).err


def test_a_word_that_is_nearly_a_tag_is_asked_about(tagged: Collection) -> None:
    answer = tagged.ok("tag", "put", "film evning", HAWSER, code=2)
    assert "No tag “film evning”. Did you mean “film evening”" in answer.err
    tagged.ok("tag", "put", "film evning", HAWSER, "--new")
    tagged.ok("tag", "drop", "film evning", HAWSER)
    tagged.ok("tag", "colour", "later", "blue")
    assert _list(tagged, "--unused") == {"later": 0}


@pytest.mark.parametrize(
    ("words", "text"),
    [
        (("tag", "put", "a,,b", "kelp"), "can't be a tag"),
        (("tag", "put", "ring\x07", "kelp"), "can't be a tag"),
        (("tag", "put", "seen", "nowhere"), "Nothing matches"),
        (("tag", "put", "seen"), "takes put TAG"),
        (("tag", "rename", "film evening", "seen"), "tag merge"),
        (("tag", "colour", "seen", "gren"), "did you mean “green”?"),
    ],
)
def test_wrong_words_are_named(tagged: Collection, words: tuple[str, ...], text: str) -> None:
    before = _tags(tagged)
    assert text in tagged.ok(*words, code=2).err
    assert _tags(tagged) == before


def test_tags_stay_with_what_is_moved_filed_and_read_anew(tagged: Collection) -> None:
    before = _tags(tagged)
    (tagged.root / "Elsewhere").mkdir()
    (tagged.root / KELP).rename(tagged.root / "Elsewhere/Kelp (2001) again.mkv")
    tagged.ok("scan")
    assert _tags(tagged) == before
    shutil.copytree(tagged.root / ".magpie", tagged.root.parent / "kept")
    (tagged.root / ".magpie/catalogue.db").unlink()
    for more in ("-wal", "-shm"):
        (tagged.root / f".magpie/catalogue.db{more}").unlink(missing_ok=True)
    tagged.ok("scan")
    assert _tags(tagged) == before
    assert _list(tagged) == {"seen": 2, "film evening": 1}


def test_a_copy_that_goes_leaves_its_tags_to_what_stays(tagged: Collection) -> None:
    copy = "Other/Kelp (2001).mkv"
    tagged.put(copy, text=f"this is {KELP}")
    tagged.ok("scan")
    tagged.ok("tag", "put", "lent", copy)
    assert tagged.ok("copies", "--keep", "tagged", "--json").lines[0]["keep"] == KELP
    plan = tagged.ok("copies", "--keep", "tagged", "--hold", "--json").json
    assert [step["do"] for step in plan["steps"]] == ["hold", "drop", "tag"]
    tagged.ok("apply")
    assert _tags(tagged)["Kelp"] == ["film evening", "lent", "seen"]
    tagged.ok("undo")
    items = {item["path"]: item["tags"] for item in tagged.ok("find", "kelp", "--json").lines}
    assert items == {KELP: ["film evening", "seen"], copy: ["lent"]}


def test_things_that_become_one_have_the_tags_of_both(tree: Tree) -> None:
    collection = tree([])
    collection.put("Designs/A/Kite/Kite.pes", text="pes")
    collection.put("Designs/A/Other/Other.dst", text="dst")
    collection.ok("scan")
    collection.ok("tag", "put", "one", "Designs/A/Kite")
    collection.ok("tag", "put", "two", "Designs/A/Other", "--new")
    (collection.root / "Designs/A/Other/Other.dst").rename(collection.root / "Designs/A/Kite/Kite.dst")
    collection.ok("scan")
    items = [item for item in collection.ok("find", "kind", "is", "design", "--json").lines if item["files"]]
    assert sorted({tag for item in items for tag in item["tags"]}) == ["one", "two"]


def test_what_stays_for_two_sets_has_the_tags_of_both_in_one_step(tree: Tree) -> None:
    collection = tree([])
    whole, *parts = ("Designs/Jetty/Crab", "Themes/Sea/Crab", "Attic/Old/Crab")
    for home, endings in ((whole, "pes dst jef"), (parts[0], "pes dst"), (parts[1], "dst jef")):
        for ending in endings.split():
            collection.put(f"{home}/Crab.{ending}", text=f"stitches {ending}")
    collection.run("scan")
    for part, tag in zip(parts, ("sea", "old"), strict=True):
        collection.ok("tag", "put", tag, part)
    plan = collection.ok("copies", "--hold", "--json").json
    assert [step["from"] for step in plan["steps"] if step["do"] == "tag"] == [f"{whole}/Crab.dst"]
    collection.ok("apply")
    (item,) = collection.ok("find", "kind", "is", "design", "--json").lines
    assert item["tags"] == ["old", "sea"]


def test_tags_that_were_taken_off_do_not_come_back(tagged: Collection) -> None:
    (tagged.root / "Elsewhere").mkdir()
    (tagged.root / KELP).rename(tagged.root / "Elsewhere/Kelp (2001).mkv")
    tagged.ok("scan")
    tagged.ok("tag", "drop", "film evening,seen", "Elsewhere/Kelp (2001).mkv")
    assert _tags(tagged)["Kelp"] == []
    for more in ("", "-wal", "-shm"):
        (tagged.root / f".magpie/catalogue.db{more}").unlink(missing_ok=True)
    tagged.ok("scan")
    assert _tags(tagged) == {"Kelp": [], "Hawser": ["seen"], "Wick": []}


@pytest.mark.skipif(not shutil.which("bash"), reason="bash is not installed")
def test_a_shell_completes_the_tags_that_there_are(tagged: Collection) -> None:
    script = """source <(magpie --completion bash)
COMP_WORDS=(magpie tag put fi); COMP_CWORD=3; _shtab_magpie magpie fi put; printf '%s\\n' "${COMPREPLY[@]}"
"""
    path = f"{Path(sys.executable).parent}:{os.environ['PATH']}"
    run = subprocess.run(
        ["bash", "-c", script],
        cwd=tagged.root,
        env={**os.environ, "PATH": path},
        capture_output=True,
        text=True,
        check=True,
    )
    assert run.stdout.split("\n")[0] == "film\\ evening"
