"""Reviewing a plan: groups, corrected by hand in a spreadsheet; what the holding area has, and emptying it."""

from __future__ import annotations

import csv
import io
import os
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

import pytest

from lazy_magpie.change import Filesystem, JournalStore, apply
from lazy_magpie.model import FileStamp, Step
from lazy_magpie.model.steps import DropFolder, Hold
from tests.conftest import Collection, picture

Tree = Callable[..., Collection]
HEAP = ["Kelp (2001).mkv", "Tern (2002).mkv", "Dockside S01E01.mkv", "Dockside S01E02.mkv", "=Sum(A1) (2003).mkv"]


@pytest.fixture
def planned(tree: Tree, tmp_path: Path) -> tuple[Collection, Path]:
    """A collection with a plan saved as CSV."""
    collection = tree(HEAP)
    collection.ok("scan")
    collection.ok("tidy", "--save", str(tmp_path / "plan.csv"))
    return collection, tmp_path / "plan.csv"


def edit(path: Path, change: Callable[[dict[str, str]], dict[str, str] | None]) -> None:
    """Edit every row by `change`; None takes a row out."""
    rows = list(csv.DictReader(io.StringIO(path.read_text("utf-8-sig"))))
    edited = [row for row in map(change, rows) if row is not None]
    with open(path, "w", newline="", encoding="utf-8") as file:
        writer = csv.DictWriter(file, fieldnames=list(rows[0]))
        writer.writeheader()
        writer.writerows(edited)


def to(old: str, new: str) -> Callable[[dict[str, str]], dict[str, str]]:
    """Return an edit that replaces `old` in the destinations."""
    return lambda row: {**row, "to": row["to"].replace(old, new)}


def test_a_saved_plan_is_applied_as_it_was_corrected(planned: tuple[Collection, Path]) -> None:
    collection, path = planned
    text = path.read_text("utf-8")
    assert text.startswith("\ufeffplan,step,do,apply,from,to,group,why")
    assert "'=Sum(A1) (2003).mkv" in text
    edit(
        path,
        lambda row: {
            **to("Kelp (2001)", "Kelp Harvest (2001)")(row),
            "apply": "no" if "Tern" in row["from"] else "yes",
        },
    )
    collection.ok("apply", str(path))
    assert collection.files() == {
        "Films/Kelp Harvest (2001)/Kelp Harvest (2001).mkv",
        "Films/=Sum(A1) (2003)/=Sum(A1) (2003).mkv",
        "Series/Dockside/Season 01/Dockside S01E01.mkv",
        "Series/Dockside/Season 01/Dockside S01E02.mkv",
        "Tern (2002).mkv",
    }
    collection.ok("undo")
    assert collection.files() == set(HEAP)


@pytest.mark.parametrize(
    ("change", "text"),
    [
        (to("Films/Kelp", "../Kelp"), "row 5: “../Kelp (2001)/Kelp (2001).mkv” is not a path inside the collection"),
        (to("Films/Kelp", "/Kelp"), "is not a path inside the collection"),
        (to("Kelp (2001)/Kelp", "Kelp (2001)/Kelp?"), "is a name that not every disk takes"),
        (to("Films/Kelp", ".magpie/Kelp"), "lies in magpie's own folder"),
        (to("E02.mkv", "E01.mkv"), "is wanted by row"),
        (to("Kelp (2001).mkv", "Kelp (2001).avi"), "has another ending"),
        (lambda row: {**row, "apply": "maybe"}, "“apply” is yes or no, not “maybe”"),
        (lambda row: {**row, "from": "x"}, "can't be edited"),
        (lambda row: {**row, "step": "1000"}, "the plan has no step “1000”"),
        (lambda row: {**row, "plan": "9"}, "There is no plan 9"),
        (lambda row: {k: v for k, v in row.items() if k != "to"} | {"to": ""}, "is not a path inside"),
    ],
)
def test_every_edit_is_checked_with_its_row(
    planned: tuple[Collection, Path], change: Callable[[dict[str, str]], dict[str, str]], text: str
) -> None:
    collection, path = planned
    before = picture(collection.root)
    edit(path, change)
    answer = collection.ok("apply", str(path), code=2)
    assert text in answer.err and picture(collection.root) == before


def test_a_name_that_is_taken_is_named(planned: tuple[Collection, Path]) -> None:
    collection, path = planned
    collection.put("Films/Old/Old.mkv")
    edit(path, to("Films/Kelp (2001)/Kelp (2001).mkv", "Films/Old/Old.mkv"))
    assert "“Films/Old/Old.mkv” is there already" in collection.ok("apply", str(path), code=2).err


def test_files_that_are_no_plan(planned: tuple[Collection, Path], tmp_path: Path) -> None:
    collection, path = planned
    (tmp_path / "other.csv").write_text("a,b\n1,2\n")
    assert "has no column “plan”" in collection.ok("apply", str(tmp_path / "other.csv"), code=2).err
    assert "can't be read" in collection.ok("apply", str(tmp_path / "none.csv"), code=2).err
    (tmp_path / "bytes.csv").write_bytes(b"\xff\xfe\x00")
    assert "Save it as CSV in UTF-8" in collection.ok("apply", str(tmp_path / "bytes.csv"), code=2).err
    assert "is there already" in collection.ok("tidy", "--save", str(path), code=2).err
    collection.ok("tidy", "--save", str(path), "--force")


def test_semicolons_and_sorted_rows_are_read_too(planned: tuple[Collection, Path]) -> None:
    collection, path = planned
    rows = list(csv.reader(io.StringIO(path.read_text("utf-8-sig"))))
    out = io.StringIO()
    csv.writer(out, delimiter=";").writerows([rows[0], *reversed(rows[1:])])
    path.write_text(out.getvalue())
    collection.ok("apply", str(path))
    assert len([p for p in collection.files() if p.startswith(("Films/", "Series/"))]) == len(HEAP)


def test_groups_are_applied_alone_and_the_rest_waits(tree: Tree) -> None:
    collection = tree(HEAP)
    collection.ok("scan")
    collection.ok("tidy")
    answer = collection.ok("apply", "--only", "Dockside")
    assert "pending as plan 2" in answer.err
    assert len([path for path in collection.files() if path.startswith("Series/")]) == 2
    collection.ok("apply", "2", "--except", "Tern (2002)")
    assert "Tern (2002).mkv" in collection.files() and "Films/Kelp (2001)/Kelp (2001).mkv" in collection.files()
    assert "did you mean “Tern (2002)”?" in collection.ok("apply", "--only", "Tern (2003)", code=2).err
    assert "exclude each other" in collection.ok("apply", "--only", "a", "--except", "b", code=2).err
    collection.ok("apply")
    assert "Films/Tern (2002)/Tern (2002).mkv" in collection.files()
    for _ in range(3):
        collection.ok("undo")
    assert collection.files() == set(HEAP)


# --- the holding area ------------------------------------------------------------------------------------------------


@pytest.fixture
def holding(tree: Tree) -> Collection:
    """A collection in which two files were taken away."""
    collection = tree(["a/Kelp (2001).mkv", "a/odd\\ \udcff.mkv", "b/stays.mkv"])
    collection.ok("scan")
    steps: list[Step] = []
    for number, name in enumerate(("a/Kelp (2001).mkv", "a/odd\\ \udcff.mkv"), start=1):
        status = os.lstat(collection.root / name)
        seen = FileStamp(status.st_size, status.st_mtime_ns, status.st_ino)
        steps.append(Hold(number=number, source=name, why="a copy", stamp=seen))
    steps.append(DropFolder(number=3, source="a", why="empty"))
    assert apply(JournalStore(Filesystem(str(collection.root))), steps, "copies").done == 3
    return collection


def test_what_is_held_is_listed_and_comes_back(holding: Collection) -> None:
    held = holding.ok("held", "--json").lines
    assert [one["from"] for one in held] == ["a/Kelp (2001).mkv", "a/odd\\\\ \\xff.mkv"]
    assert all(one["why"] == "a copy" and one["change"] == 1 for one in held)
    assert "Kelp" in holding.ok("held").out
    manifest = (holding.root / ".magpie/held/000001/manifest.jsonl").read_text()
    assert '"from": "a/Kelp (2001).mkv"' in manifest
    holding.ok("scan")
    assert {item["path"] for item in holding.ok("find", "--json").lines} == {"b/stays.mkv"}
    holding.ok("held", "restore", "a")
    assert "a/Kelp (2001).mkv" in holding.files() and len(holding.files()) == 3
    assert holding.ok("held", "--json").lines == []
    holding.ok("undo")
    assert holding.files() == {"b/stays.mkv"}


def test_restoring_never_replaces(holding: Collection) -> None:
    holding.put("a/Kelp (2001).mkv", text="another film by now")
    answer = holding.ok("held", "restore", "kelp", code=1)
    assert "something of that name is there now" in answer.out
    assert (holding.root / "a/Kelp (2001).mkv").read_text() == "another film by now"
    assert "Nothing held was called" in holding.ok("held", "restore", "gull", code=2).err


def _emptied(collection: Collection, answer: str, *words: str) -> subprocess.CompletedProcess[str]:
    command = [sys.executable, "-m", "lazy_magpie", "-C", str(collection.root), "held", "empty", *words]
    return subprocess.run(command, input=answer, capture_output=True, text=True, check=False)


def test_emptying_asks_and_deletes_only_what_is_held(holding: Collection) -> None:
    before = picture(holding.root)
    for answer in ("no\n", "", "y\n"):
        run = _emptied(holding, answer)
        assert run.returncode == 0 and "Delete 2 held things" in run.stderr and "Nothing was deleted" in run.stderr
    assert "Nothing is held" in _emptied(holding, "", "--older-than", "30d").stderr
    assert "is no length of time" in holding.ok("held", "empty", "--older-than", "soon", code=2).err
    assert len(holding.ok("held", "--json").lines) == 2
    assert "2 held things deleted" in _emptied(holding, "yes\n").stdout
    assert holding.ok("held", "--json").lines == [] and picture(holding.root) == before
    assert "it is no longer there" in holding.ok("undo", code=1).out


# --- stopped and killed while it runs --------------------------------------------------------------------------------


@pytest.mark.parametrize("wish", [signal.SIGINT, signal.SIGTERM, signal.SIGHUP])
def test_a_signal_stops_between_two_steps(tree: Tree, wish: signal.Signals) -> None:
    collection = tree([f"Dock{n % 40} s01e{n // 40:02}.mkv" for n in range(4000)])
    collection.ok("scan")
    collection.ok("tidy")
    command = [sys.executable, "-m", "lazy_magpie", "-C", str(collection.root), "apply", "--json"]
    process = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
    series = collection.root / "Series"
    while process.poll() is None and not series.is_dir():
        time.sleep(0.001)
    process.send_signal(wish)
    out, err = process.communicate(timeout=60)
    assert process.returncode in (0, 1) and "Traceback" not in err
    files = collection.files()
    assert len(files) == 4000
    if process.returncode == 1:
        assert '"not_reached"' in out
        collection.ok("redo")
    assert all(path.startswith("Series/") for path in collection.files())
    collection.ok("undo")
    assert not any(path.startswith("Series/") for path in collection.files())


def test_after_a_crash_readers_say_so_and_the_next_writer_puts_it_right(tree: Tree) -> None:
    collection = tree([f"Dockside s01e{n:02}.mkv" for n in range(30)])
    collection.ok("scan")
    collection.ok("tidy")
    command = [sys.executable, "-m", "lazy_magpie", "-C", str(collection.root), "apply"]
    environment = {**os.environ, "MAGPIE_CRASH_AT": "step-done:12"}
    assert subprocess.run(command, env=environment, check=False).returncode == -signal.SIGKILL
    assert "unfinished after a crash" in collection.ok("find").err
    answer = collection.ok("scan")
    assert "Change 1 (tidy) was interrupted: 12 steps are done" in answer.err
    assert "unfinished" not in collection.ok("find").err
    collection.ok("redo")
    assert len([path for path in collection.files() if path.startswith("Series/")]) == 30
    assert collection.ok("scan", "--json").json["new"] == 0
