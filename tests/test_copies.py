"""Copies: what is one, which one stays and by which rule, and that taking away loses nothing."""

from __future__ import annotations

import base64
import os
import subprocess
import threading
import zipfile
from collections.abc import Callable
from html.parser import HTMLParser
from pathlib import Path
from typing import Any

import pytest
from benchmarks.corpus import scenes

from lazy_magpie.cli.commands import copies as copies_command
from tests.conftest import Collection, picture, program

Tree = Callable[..., Collection]
SHELVES = '[shelf.films]\nkind = "movie"\nfolder = "Films"\n'
TWO = ("Films/Kelp (2001).mkv", "Heap/Kelp (2001).mkv")


def _found(collection: Collection, *words: str, code: int = 0) -> list[dict[str, Any]]:
    lines: list[dict[str, Any]] = collection.ok("copies", *words, "--json", code=code).lines
    return lines


@pytest.fixture
def two(tree: Tree) -> Collection:
    """Return a film that is there twice, with a subtitle that only the copy has."""
    collection = tree(["Heap/Kelp (2001).en.srt", "Heap/Other (1999).mkv"], SHELVES)
    collection.put(*TWO, text="a film")
    collection.ok("scan")
    return collection


def test_a_copy_is_found_and_a_rule_says_which_one_stays(two: Collection) -> None:
    (one,) = _found(two)
    assert one == {"match": "bytes", "sure": True, "keep": TWO[0], "others": [TWO[1]], "bytes": 6, "why": "shelved"}
    (one,) = _found(two, "--keep", "folder:Heap,shelved")
    assert (one["keep"], one["why"]) == (TWO[1], "folder:Heap")
    (one,) = _found(two, "--keep", "better", code=1)
    assert (one["keep"], one["why"]) == (None, "no rule chooses one")
    assert "shelved" in two.ok("copies").out
    assert "read" not in two.ok("copies").out  # remembered
    assert two.ok("show", "Heap/Kelp (2001).mkv", "--json").lines[0]["copies"] == [TWO[0]]


@pytest.mark.parametrize(
    ("rules", "keep"),
    [
        ("older", TWO[1]),
        ("newer", TWO[0]),
        ("complete", TWO[1]),
        ("shelf:films", TWO[0]),
        ("shorter", TWO[1]),
        ("better,shorter", TWO[1]),
    ],
)
def test_each_rule(two: Collection, rules: str, keep: str) -> None:
    os.utime(two.root / TWO[1], ns=(1, 1))
    two.ok("scan")
    assert _found(two, "--keep", rules)[0]["keep"] == keep


def test_rules_are_checked_and_can_be_configured(two: Collection) -> None:
    assert "did you mean “shelved”?" in two.ok("copies", "--keep", "shelve", code=2).err
    assert "is written folder:PATH" in two.ok("copies", "--keep", "folder", code=2).err
    (two.root / "magpie.toml").write_text(SHELVES + '[copies]\nkeep = ["folder:Heap"]\n')
    assert _found(two)[0]["why"] == "folder:Heap"


def test_what_goes_is_held_and_what_belongs_to_it_joins_what_stays(two: Collection) -> None:
    before = picture(two.root)
    plan = two.ok("copies", "--hold", "--json").json
    assert [(step["do"], step["group"]) for step in plan["steps"]] == [("hold", TWO[0]), ("move", TWO[0])]
    assert picture(two.root) == before
    two.ok("apply")
    assert two.files() == {TWO[0], "Films/Kelp (2001).en.srt", "Heap/Other (1999).mkv"}
    assert not _found(two) and "Heap/Kelp" not in two.ok("find").out  # before any scan
    two.ok("undo")
    assert picture(two.root) == before
    assert len(_found(two)) == 1


@pytest.mark.parametrize(("path", "why"), [(TWO[0], "no longer"), (TWO[1], "changed")])
def test_what_changes_between_plan_and_apply_stays(two: Collection, path: str, why: str) -> None:
    two.ok("copies", "--hold")
    (two.root / path).write_text("A FILM")
    answer = two.ok("apply", "--json", code=1).json
    assert why in answer["skipped"][0]["why"]
    assert two.files() >= set(TWO)


def test_the_last_copy_never_goes(two: Collection) -> None:
    two.ok("copies", "--hold")
    os.unlink(two.root / TWO[0])
    assert two.ok("apply", "--json", code=1).json["skipped"]
    assert TWO[1] in two.files()


def test_links_in_the_place_of_copies(two: Collection) -> None:
    before = picture(two.root)
    two.ok("copies", "--link", "--now")
    assert (two.root / TWO[0]).stat().st_ino == (two.root / TWO[1]).stat().st_ino
    two.ok("scan")
    assert not _found(two)  # hard links are no copies
    two.ok("undo")
    assert picture(two.root) == before


def test_one_folder_is_compared_with_another_and_never_touched(two: Collection) -> None:
    two.put("Heap/again/Kelp (2001).mkv", text="a film")
    two.ok("scan")
    (one,) = _found(two, "--between", "Heap", "Films")
    assert (one["keep"], one["others"]) == ("Heap/Kelp (2001).mkv", [TWO[0]])
    plan = two.ok("copies", "--between", "Heap", "Films", "--hold", "--json").json
    assert not [step for step in plan["steps"] if step["from"].startswith("Heap/")]
    assert "There is no folder “Hep”" in two.ok("copies", "--between", "Hep", "Films", code=2).err


def test_files_that_differ_only_in_the_middle_are_no_copies(tree: Tree) -> None:
    collection = tree([], SHELVES)
    for name, middle in (("a", b"x"), ("b", b"y"), ("c", b"x")):
        (collection.root / f"{name} (2001).mkv").write_bytes(bytes(1 << 20) + middle + bytes(1 << 20))
    collection.ok("scan")
    (one,) = _found(collection, "--keep", "older")
    assert sorted([one["keep"], *one["others"]]) == ["a (2001).mkv", "c (2001).mkv"]


def test_empty_and_unfinished_files_and_junk_are_nobodys_copies(tree: Tree) -> None:
    collection = tree([], SHELVES)
    collection.put("Thumbs.db", "a/Thumbs.db", "Kelp.mkv.part", "a/Kelp.mkv.part", text="the same")
    (collection.root / "Tern (1999).mkv").touch()
    (collection.root / "a/Tern (1999).mkv").touch()
    collection.ok("scan")
    assert not _found(collection)


def test_things_of_several_files_are_copies_as_a_whole(tree: Tree) -> None:
    collection = tree([], SHELVES)
    for home, endings in (("Designs/Jetty", ("pes", "dst", "jef")), ("Themes/Sea", ("pes", "dst"))):
        for ending in endings:
            collection.put(f"{home}/Crab/Crab.{ending}", text=f"stitches {ending}")
    collection.put("Pictures/one.jpg", "Covers/one.jpg", text="a picture")
    collection.run("scan")
    found = {one["why"]: one for one in _found(collection, "--keep", "folder:Pictures")}
    whole = found["it has all of it, and more"]
    assert whole["keep"].startswith("Designs/") and len(whole["others"]) == 1
    assert found["folder:Pictures"]["others"] == ["Covers/one.jpg"]
    collection.ok("copies", "--keep", "folder:Pictures", "--hold", "--now")
    assert {path for path in collection.files() if "Crab" in path} == {
        f"Designs/Jetty/Crab/Crab.{ending}" for ending in ("pes", "dst", "jef")
    }
    assert not (collection.root / "Themes").exists()  # the plan names the folders it leaves empty


def test_what_can_not_be_read_is_named(two: Collection) -> None:
    (two.root / TWO[1]).write_text("A FILM")  # since the scan
    answer = two.run("copies")
    assert "not compared: Heap/Kelp (2001).mkv: it has changed since the last scan" in answer.err


def test_a_file_cut_off_while_it_is_read_is_named(tree: Tree) -> None:
    paths = ("Heap/Low Tide (1999).mkv", "Other/Low Tide (1999).mkv")
    collection = tree([], SHELVES)
    collection.put(*paths, text="a film")
    for path in paths:
        os.truncate(collection.root / path, 4 << 30)  # sparse: nothing but its length
    collection.ok("scan")
    cuts = [threading.Timer(0.6, os.truncate, (collection.root / path, 100)) for path in paths]
    for cut in cuts:
        cut.start()
    answer = program("copies", "--jobs", "1", cwd=collection.root)
    for cut in cuts:
        cut.join()
    assert answer.code == 0, answer
    assert answer.err.count("it has changed since the last scan") == 2, answer


def test_folders_left_alone_are_passed_by(tree: Tree) -> None:
    collection = tree([], '[collection]\nleave = ["Backup*"]\n' + SHELVES)
    collection.put("Films/Kelp (2001).mkv", "Backup 2024/Kelp (2001).mkv", text="a film")
    collection.ok("scan")
    assert not _found(collection)
    assert _found(collection, "--between", "Films", "Backup 2024")[0]["others"] == ["Backup 2024/Kelp (2001).mkv"]
    plan = collection.ok("copies", "--between", "Films", "Backup 2024", "--hold", "--json").json
    assert not plan["steps"] and plan["left"][0]["why"] == "in a folder left alone"


def _pack(collection: Collection, path: str, members: dict[str, str], stored: int = zipfile.ZIP_DEFLATED) -> None:
    with zipfile.ZipFile(collection.root / path, "w", stored) as packed:
        for name, text in members.items():
            packed.writestr(name, text)


def test_an_archive_and_what_was_unpacked_from_it(tree: Tree) -> None:
    collection = tree([], SHELVES)
    members = {"Crab/Crab.pes": "stitches" * 99, "Crab/notes.txt": "notes"}
    collection.put("Designs/Crab/Crab.pes", text=members["Crab/Crab.pes"])
    collection.put("Designs/Crab/notes.txt", text="notes")
    _pack(collection, "Designs/Crab.zip", members)
    collection.run("scan")
    (one,) = _found(collection, code=1)
    assert one["match"] == "contents" and one["keep"] is None and "all of it is in “Designs/Crab”" in one["why"]
    (one,) = _found(collection, "--keep", "unpacked")
    assert (one["keep"], one["others"], one["why"]) == ("Designs/Crab", ["Designs/Crab.zip"], "unpacked")
    collection.ok("copies", "--keep", "unpacked", "--hold")
    (collection.root / "Designs/Crab/notes.txt").write_text("nodes")  # of the same size
    assert "no longer holds all" in collection.ok("apply", "--json", code=1).json["skipped"][0]["why"]
    (collection.root / "Designs/Crab/notes.txt").write_text("notes")
    before = picture(collection.root)
    collection.run("scan")
    collection.ok("copies", "--keep", "unpacked", "--hold", "--now")
    assert "Designs/Crab.zip" not in collection.files()
    collection.ok("undo")
    assert picture(collection.root) == before


def test_an_archive_that_has_more_is_no_copy(tree: Tree) -> None:
    collection = tree([], SHELVES)
    collection.put("Designs/Crab/Crab.pes", text="stitches" * 99)
    collection.put("Designs/Crab/a.txt", text="notes")
    collection.put("Designs/Crab/b.txt", text="other")
    members = {"Crab/Crab.pes": "stitches" * 99, "Crab/a.txt": "notes", "Crab/b.txt": "other", "Crab/more.txt": "more"}
    _pack(collection, "Designs/Crab.zip", members)
    collection.put("Designs/Whelk/Whelk.pes", text="stitches of a size")
    _pack(collection, "Designs/Whelk.zip", {"Whelk/Whelk.pes": "otherwise the same"})  # of the same size
    collection.run("scan")
    assert not [one for one in _found(collection, "--keep", "unpacked,shorter") if one["match"] == "contents"]
    assert "Crab.zip is no copy: it has 1 file that its folder has not" in collection.run("copies").err


def test_archives_with_the_same_members_in_another_order(tree: Tree) -> None:
    collection = tree([], SHELVES)
    members = {"one.png": "a picture" * 99, "two.png": "another" * 99}
    _pack(collection, "first.zip", members)
    _pack(collection, "again.zip", dict(reversed(members.items())), zipfile.ZIP_STORED)
    _pack(collection, "other.zip", {**members, "two.png": "a third" * 99})
    collection.run("scan")
    os.utime(collection.root / "first.zip", ns=(1, 1))
    collection.run("scan")
    (one,) = _found(collection, "--keep", "older")
    assert (one["match"], one["keep"], one["others"]) == ("contents", "first.zip", ["again.zip"])
    collection.ok("copies", "--keep", "older", "--hold")
    _pack(collection, "first.zip", {"one.png": "damaged"})
    assert collection.ok("apply", "--json", code=1).json["skipped"]
    assert "again.zip" in collection.files()


def test_a_whole_folder_is_one_line(tree: Tree) -> None:
    collection = tree([], SHELVES)
    for top in ("Films", "Old/Films", "Heap"):
        for name in (
            "Kelp (2001)/Kelp (2001).mkv",
            "Kelp (2001)/Kelp (2001).en.srt",
            "Hawser (1964).mkv",
            "Wick.mkv",
        ):
            collection.put(f"{top}/{name}", text=f"this is {name}")
    collection.put("Heap/Reed (1950).mkv", text="only here")
    collection.ok("scan")
    found = _found(collection)
    assert found[0]["keep"] == "Films" and found[0]["others"] == ["Old/Films"]
    assert found[0]["why"] == "the whole folder: shelved"
    assert {one["others"][0] for one in found[1:]} == {
        f"Heap/{name}.mkv" for name in ("Kelp (2001)/Kelp (2001)", "Hawser (1964)", "Wick")
    }
    assert "6 copies can go" in collection.ok("copies").out
    collection.ok("copies", "--hold", "--now")
    assert not (collection.root / "Old").exists() and (collection.root / "Heap/Reed (1950).mkv").exists()


class _Page(HTMLParser):
    """Gathers the tags of a page, its pictures, and what it would fetch."""

    def __init__(self, text: str) -> None:
        super().__init__()
        self.tags: list[str] = []
        self.pictures: list[str] = []
        self.fetched: list[str] = []
        self.feed(text)

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self.tags.append(tag)
        for name, value in attrs:
            if name in ("src", "href") and value:
                (self.pictures if value.startswith("data:image/webp;base64,") else self.fetched).append(value)


def test_the_page_stands_alone_and_shows_what_there_is(tree: Tree, tmp_path: Path) -> None:
    collection = tree([], SHELVES)
    nasty = "Heap/<script>alert(1)</script> & 'Kelp' \"2\" {{ 7 * 7 }}"
    for name in ("Pictures/pier.png", f"{nasty}.png"):
        (collection.root / name).parent.mkdir(parents=True, exist_ok=True)
        scenes.scene(2).save(collection.root / name)
    collection.put(*TWO, text="a film")
    collection.ok("scan")
    page = tmp_path / "copies.html"
    collection.ok("copies", "--page", str(page), code=1)
    text = page.read_text()
    seen = _Page(text)
    assert seen.tags.count("section") == 2 and seen.tags.count("script") == 1 and seen.fetched == ["data:,"]
    assert "{{ 7 * 7 }}" in text and "49" not in text.partition("<main>")[2]
    assert all(base64.b64decode(one.partition(",")[2])[8:12] == b"WEBP" for one in seen.pictures) and seen.pictures
    assert "http:" not in text and "https:" not in text
    assert "is there already" in collection.ok("copies", "--page", str(page), code=2).err
    collection.ok("copies", "--page", str(page), "--force", code=1)
    assert "is HTML" in collection.ok("copies", "--page", "copies.txt", code=2).err
    assert "There is no folder" in collection.ok("copies", "--page", "no/such/copies.html", code=2).err


def test_a_page_that_came_while_copies_were_looked_for_stays(
    two: Collection, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    page = tmp_path / "copies.html"
    monkeypatch.setattr(copies_command, "check_page", lambda path, *, force: path.write_text("a person's own"))
    assert "is there already" in two.ok("copies", "--page", str(page), code=2).err
    assert page.read_text() == "a person's own"


def test_a_file_that_also_lies_inside_an_archive_is_said(tree: Tree) -> None:
    collection = tree([], SHELVES)
    collection.put("Films/Kelp (2001).mkv", text="contents " * 40)
    collection.put("Films/read me.txt", text="read me " * 40)
    members = {"Kelp (2001).mkv": "contents " * 40, "read me.txt": "read me " * 40, "more.txt": "more"}
    (collection.root / "Heap").mkdir()
    _pack(collection, "Heap/bundle.zip", members)
    collection.ok("scan")
    found = _found(collection, "--keep", "shelved", code=1)
    said = [one for one in found if one["match"] == "contents"]
    assert [(one["keep"], one["others"]) for one in said] == [(None, ["Films/Kelp (2001).mkv"])]
    assert "also lies inside “Heap/bundle.zip”" in said[0]["why"]


def test_what_lies_on_the_collections_own_drive_can_stay(two: Collection) -> None:
    heap = two.root / "Heap"
    files = {file.name: file.read_bytes() for file in heap.iterdir()}
    if subprocess.run(["mount", "-t", "tmpfs", "tmpfs", str(heap)], capture_output=True, check=False).returncode:
        pytest.skip("only root can mount a second file system")
    try:
        for name, data in files.items():
            (heap / name).write_bytes(data)
        two.ok("scan")
        assert _found(two, "--keep", "drive")[0] == {**_found(two)[0], "keep": TWO[0], "why": "drive"}
    finally:
        subprocess.run(["umount", "-l", str(heap)], check=True)
    two.ok("scan")
    assert _found(two, "--keep", "drive", code=1)[0]["keep"] is None


@pytest.mark.parametrize("way", ["--hold", "--link"])
def test_a_saved_plan_takes_away_only_what_a_person_said_yes_to(tree: Tree, tmp_path: Path, way: str) -> None:
    names = [f"{name} (2001).mkv" for name in ("Kelp", "Tern")]
    collection = tree([], SHELVES)
    for name in names:
        collection.put(f"Films/{name}", f"Heap/{name}", text=name)
    collection.ok("scan")
    before = picture(collection.root)
    path = tmp_path / "plan.csv"
    assert "needs --hold or --link" in collection.ok("copies", "--save", str(path), code=2).err
    assert f"magpie apply {path}" in collection.ok("copies", way, "--save", str(path)).err
    rows = path.read_text("utf-8").splitlines(keepends=True)
    path.write_text("".join(row.replace(",yes,", ",no,") if "Tern" in row else row for row in rows), "utf-8")
    collection.ok("apply", str(path))
    kelp, tern = (collection.root / "Heap" / name for name in names)
    assert tern.stat().st_nlink == 1 and (kelp.exists() == (way == "--link"))
    assert way == "--hold" or kelp.stat().st_nlink == 2
    collection.ok("undo")
    assert picture(collection.root) == before
