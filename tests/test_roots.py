"""Several roots and drives; what is missing stays until it is let go; watching."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest

from lazy_magpie import drives
from tests.conftest import SHELVES, Collection, picture, program

Tree = Callable[..., Collection]


@pytest.fixture
def two_drives(tree: Tree, tmp_path: Path) -> Collection:
    """Return a collection with a drive `attic` beside it."""
    attic = Collection(tmp_path / "drive")
    attic.put("Tern (1999).mkv", "Lanterns (1994).mkv")
    collection = tree(["Films/Kelp (2001).mkv"], f'{SHELVES}[root.attic]\nfolder = "{attic.root}"\n')
    collection.ok("scan")
    return collection


def _found(collection: Collection, *words: str) -> dict[str, dict[str, Any]]:
    return {item["path"]: item for item in collection.ok("find", *words, "--json").lines}


def test_all_drives_are_one_list(two_drives: Collection) -> None:
    found = _found(two_drives)
    assert {path: item["root"] for path, item in found.items()} == {
        "Films/Kelp (2001).mkv": "",
        "Lanterns (1994).mkv": "attic",
        "Tern (1999).mkv": "attic",
    }
    assert (
        _found(two_drives, "root", "is", "attic").keys()
        == _found(two_drives, str(two_drives.root.parent / "drive")).keys()
    )
    assert two_drives.ok("find", "tern").out.splitlines()[0].startswith("root")
    assert "There is no root “atic”; did you mean “attic”?" in two_drives.ok("find", "root", "is", "atic", code=2).err
    two_drives.ok("tidy", "--json")
    assert (two_drives.root.parent / "drive/Tern (1999).mkv").exists()  # plans stay on their own root


def test_a_drive_is_known_wherever_it_is(two_drives: Collection) -> None:
    before = _found(two_drives)
    os.rename(two_drives.root.parent / "drive", two_drives.root.parent / "mounted elsewhere")
    answer = two_drives.ok("scan", "--json").json
    assert (answer["files"], answer["missing"], answer["new"]) == (3, 0, 0)
    assert {path: item["id"] for path, item in _found(two_drives).items()} == {p: i["id"] for p, i in before.items()}


def test_a_drive_in_a_drawer_answers_too(two_drives: Collection) -> None:
    drawer = two_drives.root.parent / "drawer" / "deep" / "drive"
    drawer.parent.mkdir(parents=True)
    os.rename(two_drives.root.parent / "drive", drawer)
    (two_drives.root.parent / "drive").mkdir()  # where it was is an empty folder, as a mount point is
    answer = two_drives.ok("scan", "--json", code=1).json
    assert answer["missing"] == 0 and "attic is away" in answer["notes"][0]
    found = _found(two_drives, "away", "is", "yes")
    assert len(found) == 2 and all(item["away"] and not item["missing"] for item in found.values())
    assert "(away)" in two_drives.ok("find", "tern").out and len(_found(two_drives, "away", "is", "no")) == 1
    two_drives.ok("settle", "tern", "--set", "year=1998")
    shutil.rmtree(two_drives.root.parent / "drive")
    os.rename(drawer, two_drives.root.parent / "drive")
    two_drives.ok("scan")
    assert _found(two_drives, "tern")["Tern (1999).mkv"]["fields"]["year"] == 1998
    for file in (two_drives.root / ".magpie").glob("catalogue.db*"):
        file.unlink()
    two_drives.ok("scan")  # a new catalogue takes back what was settled while the drive was away
    assert _found(two_drives, "tern")["Tern (1999).mkv"]["fields"]["year"] == 1998


def test_what_is_settled_on_a_drive_stays_with_the_drive(two_drives: Collection, tmp_path: Path) -> None:
    two_drives.ok("settle", "tern", "--set", "year=1998")
    assert '"Tern (1999).mkv"' in (tmp_path / "drive/.magpie/notes.jsonl").read_text()
    for file in (two_drives.root / ".magpie").glob("catalogue.db*"):
        file.unlink()
    two_drives.ok("scan")
    assert _found(two_drives, "tern")["Tern (1999).mkv"]["fields"]["year"] == 1998


def test_a_cloned_drive_is_asked_about(two_drives: Collection) -> None:
    drive = two_drives.root.parent / "drive"
    shutil.copytree(drive, two_drives.root.parent / "clone")
    os.rename(drive, two_drives.root.parent / "original")
    answer = two_drives.ok("scan", "--json", code=1).json
    assert "Which is it?" in answer["notes"][0] and answer["missing"] == 0
    (two_drives.root.parent / "clone/.magpie/root.json").unlink()
    assert two_drives.ok("scan", "--json").json["notes"] == []


def test_another_drive_in_its_place_is_not_taken_for_it(two_drives: Collection) -> None:
    shutil.rmtree(two_drives.root.parent / "drive")
    (two_drives.root.parent / "drive/.magpie").mkdir(parents=True)
    (two_drives.root.parent / "drive/.magpie/root.json").write_text('{"root": "another"}')
    assert "is another one" in two_drives.ok("scan", code=1).err
    assert len(_found(two_drives, "root", "is", "attic")) == 2


@pytest.mark.parametrize(
    ("table", "sentence"),
    [
        ("[root.attic]\n", "[root.attic] has no “folder”"),
        ('[root.attic]\nfolder = "Films"\n', "is no whole path"),
        ('[root.attic]\nfolder = "{root}/Films"\n', "lie one in the other"),
        ('[root.a]\nfolder = "/x"\n[root.b]\nfolder = "/x/y"\n', "[root.a] lie one in the other"),
        ('[shelf.more]\nkind = "movie"\nfolder = "More"\nroot = "attic"\n', "there is no root “attic”"),
    ],
)
def test_a_mistake_in_a_root_is_named(tree: Tree, table: str, sentence: str) -> None:
    collection = tree([])
    (collection.root / "magpie.toml").write_text(SHELVES + table.replace("{root}", str(collection.root)))
    assert sentence in collection.ok("scan", code=2).err


def test_a_shelf_on_a_drive_speaks_for_its_kind(tree: Tree, tmp_path: Path) -> None:
    Collection(tmp_path / "drive").put("Shows/Dockside 03.avi")
    root = f'[root.attic]\nfolder = "{tmp_path / "drive"}"\n'
    shelf = '[shelf.more]\nkind = "episode"\nfolder = "Shows"\nroot = "attic"\n'
    collection = tree([], SHELVES + root + shelf)
    collection.ok("scan")
    assert _found(collection, "shelf", "is", "more")["Shows/Dockside 03.avi"]["kind"] == "episode"


def test_what_is_missing_stays_until_it_is_let_go(tree: Tree) -> None:
    collection = tree(["a/Kelp (2001).mkv", "a/Tern (1999).mkv", "a/Tern (1999).en.srt"])
    collection.ok("scan")
    collection.ok("settle", "kelp", "--set", "year=2002")
    for name in ("a/Kelp (2001).mkv", "a/Tern (1999).en.srt"):
        os.unlink(collection.root / name)
    collection.ok("scan")
    assert _found(collection).keys() == {"a/Tern (1999).mkv"}
    gone = _found(collection, "gone", "is", "yes")["a/Kelp (2001).mkv"]
    assert gone["missing"] and gone["fields"]["year"] == 2002
    assert "(missing)" in collection.ok("find", "gone", "is", "yes").out
    assert "only that can be forgotten" in collection.ok("forget", "tern", code=2).err
    asked = program("-C", str(collection.root), "forget", text="no\n")
    assert "1 of them settled" in asked.err and len(_found(collection, "gone", "is", "yes")) == 1
    answer = collection.ok("forget", "--yes", "--json").json
    assert answer["forgotten"] == [gone["id"]] and answer["files"] == 1
    assert not _found(collection, "gone", "is", "yes") and len(_found(collection)) == 1
    assert not _found(collection, "kelp", "or", "gone", "is", "yes")


def test_watching_follows_changes(tree: Tree) -> None:
    collection = tree(["a/Kelp (2001).mkv"])
    command = [str(Path(sys.executable).with_name("magpie")), "-C", str(collection.root), "scan", "--watch", "--json"]
    watching = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
    try:
        answers = _answers(watching)
        assert next(answers)["new"] == 1
        assert watching.stderr and "Watching" in watching.stderr.readline()
        collection.put("b/c/Tern (1999).mkv")
        assert next(answers)["new"] == 1
        os.rename(collection.root / "b", collection.root / "d")
        assert next(answers)["moved"] == 1
        assert _found(collection, "tern").keys() == {"d/c/Tern (1999).mkv"}
        watching.send_signal(2)
        assert watching.wait(20) == 0
    finally:
        watching.kill()


def _answers(process: subprocess.Popen[str]) -> Iterator[dict[str, Any]]:
    assert process.stdout
    for line in process.stdout:
        yield json.loads(line)


def test_a_medium_that_can_not_be_written_to_is_known_by_what_it_is(tree: Tree, tmp_path: Path) -> None:
    for name in ("one", "two"):
        Collection(tmp_path / name).put(f"Kelp {name} (2001).mkv")
    tables = "".join(f'[root.{name}]\nfolder = "{tmp_path / name}"\n' for name in ("one", "two"))
    collection = tree([], SHELVES + tables)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr("lazy_magpie.drives.os.access", lambda path, mode: False)
        assert drives.mark_of(str(tmp_path / "one")) != drives.mark_of(str(tmp_path / "two"))
    collection.ok("scan")
    assert {item["root"] for item in _found(collection).values()} == {"one", "two"}


def test_copies_on_other_drives_are_said_also_while_they_are_away(two_drives: Collection, tmp_path: Path) -> None:
    two_drives.put("Films/Tern (1999)/Tern (1999).mkv", text="Tern (1999).mkv")
    two_drives.put("Films/Gull (1990)/Gull (1990).mkv", text="GULL (1990).mkv")  # as large as it, and another
    two_drives.ok("scan")
    lines = two_drives.ok("copies", "--drives", "--json").lines
    assert [(one["keep"], one["others"], one["why"]) for one in lines] == [
        ("Films/Tern (1999)/Tern (1999).mkv", ["attic:Tern (1999).mkv"], "also on attic"),
    ]
    (tmp_path / "drive").rename(tmp_path / "put away")
    (tmp_path / "put away/.magpie").rename(tmp_path / "put away/other")
    lines = two_drives.ok("copies", "--drives", "--json").lines
    assert [one["why"] for one in lines] == ["also on attic, which is away"]


def test_the_copies_on_a_drive_stay_where_a_rule_says_so(two_drives: Collection) -> None:
    attic = Collection(two_drives.root.parent / "drive")
    two_drives.put("Films/Tern (1999).en.srt", text="1")
    for name in ("Tern (1999).mkv", "Lanterns (1994).mkv", "Kelp (2001).mkv"):
        two_drives.put(f"Films/{name}", text=name * 100)
        attic.put(name, text=name * 100)
    two_drives.ok("scan")
    before, there = picture(two_drives.root / "Films"), picture(attic.root)
    asks = ("copies", "--drives", "--keep", "drive:attic")
    assert {(one["keep"], *one["others"]) for one in two_drives.ok(*asks, "--json").lines} == {
        (f"attic:{name}", f"Films/{name}") for name in ("Kelp (2001).mkv", "Lanterns (1994).mkv", "Tern (1999).mkv")
    }
    assert "Say whose copies stay" in two_drives.ok("copies", "--drives", "--hold", code=2).err
    assert "did you mean “attic”" in two_drives.ok("copies", "--keep", "drive:atic", code=2).err
    plan = two_drives.ok(*asks, "--hold", "--json").json
    assert "“Tern (1999).en.srt”, which belongs to it, is not on attic" in plan["left"][0]["why"]
    attic.put("Kelp (2001).mkv", text="Kelp (2001).mka" * 100)  # as large, and no longer the same
    answer = two_drives.run("apply")
    assert "no longer equals the copy that would stay" in answer.out + answer.err
    assert before.keys() - picture(two_drives.root / "Films").keys() == {"Lanterns (1994).mkv"}
    two_drives.ok("undo")
    assert picture(two_drives.root / "Films") == before
    assert picture(attic.root).keys() == there.keys()
    os.rename(attic.root, two_drives.root.parent / "drawer")
    shutil.rmtree(two_drives.root.parent / "drawer")
    assert "is away" in two_drives.ok(*asks, "--hold", code=2).err
    assert "attic:Tern (1999).mkv" in two_drives.ok(*asks).out  # what is remembered of it is still said
