"""The empty place of a drive that is not mounted is never taken for the drive itself."""

from __future__ import annotations

import os
import subprocess
import tempfile
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from lazy_magpie import mounts
from tests.conftest import SHELVES, Collection, picture

Tree = Callable[..., Collection]


@pytest.fixture
def place() -> Iterator[Path]:
    """An empty folder where drives are mounted, as it is while nothing is plugged in."""
    if os.geteuid() or not os.access("/mnt", os.W_OK):
        pytest.skip("only root can make the place of a drive")
    made = Path(tempfile.mkdtemp(prefix="gullwick", dir="/mnt"))
    yield made
    subprocess.run(["umount", "-l", str(made)], capture_output=True, check=False)
    made.rmdir()


def _plug_in(place: Path) -> None:
    command = ["mount", "-t", "tmpfs", "-o", "size=4m", "tmpfs", str(place)]
    if subprocess.run(command, capture_output=True, check=False).returncode:
        pytest.skip("a second file system can't be mounted here")


SECTIONS = {
    "root": '[root.attic]\nfolder = "{place}"\n',
    "target": '[target.card]\nfolder = "{place}"\nitems = "kind is movie"\n',
    "mirror": '[mirror.spare]\nfolder = "{place}"\n',
}
COMMANDS = {
    "root": ["scan"],
    "target": ["send", "card", "--now"],
    "mirror": ["mirror", "spare", "--refresh", "--now"],
}


@pytest.mark.parametrize("what", SECTIONS)
def test_what_is_met_for_the_first_time_waits_for_its_drive(tree: Tree, place: Path, what: str) -> None:
    here = tree(["Films/Kelp (2001).mkv"], SHELVES + SECTIONS[what].format(place=place))
    here.run("scan")
    before = here.run(*COMMANDS[what])
    assert f"{place} is empty, and no drive is mounted there" in before.out + before.err
    assert before.code == (1 if what == "root" else 2) and not any(place.iterdir())
    _plug_in(place)
    here.run(*COMMANDS[what])
    assert any(place.iterdir())


def test_a_new_target_too(tree: Tree, place: Path) -> None:
    here = tree(["Films/Kelp (2001).mkv"], SHELVES)
    assert "no drive is mounted there" in here.ok("send", "--new", "card", str(place), code=2).err
    assert not any(place.iterdir()) and "target.card" not in (here.root / "magpie.toml").read_text()
    (place / "notes.txt").write_text("this folder itself")
    here.ok("send", "--new", "card", str(place))
    for path in sorted(place.rglob("*"), reverse=True):
        path.rmdir() if path.is_dir() else path.unlink()


def test_status_sees_what_is_held_on_drives_inside_whatever_the_folder_is_called(tree: Tree, tmp_path: Path) -> None:
    """Blanks stand in the system's table as something else."""
    here = tree(["Films/Kelp (2001).mkv"], SHELVES)
    here = Collection(here.root.rename(tmp_path / "my own films"))
    (here.root / "two").mkdir()
    if os.geteuid():
        pytest.skip("only root can mount a second file system")
    _plug_in(here.root / "two")
    try:
        here.put("two/Tern (1999).mkv", "two/Buoy (1998).mkv")
        here.run("scan")
        here.ok("hold", "tern", "--now")
        assert here.ok("status", "--json").json["held"]["files"] == 1
    finally:
        subprocess.run(["umount", "-l", str(here.root / "two")], check=True)


def test_places_that_the_machine_keeps_for_drives(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    kept, table = tmp_path / "big disk", tmp_path / "fstab"
    (kept / "films").mkdir(parents=True)
    table.write_text(
        f"# made by hand\n/dev/sda1 / ext4\nUUID=1 {str(kept).replace(' ', chr(92) + '040')} ext4\nnone swap\n"
    )
    assert not mounts.why_away(str(kept / "films"))
    monkeypatch.setattr(mounts, "_TO_BE", str(table))
    assert mounts.why_away(str(kept / "films")) and not mounts.why_away(str(kept))  # which is not empty
    assert not mounts.why_away(str(kept / "nowhere"))
    assert not mounts.why_away(str(tmp_path))


@pytest.fixture
def with_drive(tree: Tree) -> Iterator[Collection]:
    """A collection with a film, and a drive mounted inside it at “two”."""
    if os.geteuid():
        pytest.skip("only root can mount a second file system")
    here = tree(["Films/Kelp (2001)/Kelp (2001).mkv"], SHELVES)
    (here.root / "two").mkdir()
    _plug_in(here.root / "two")
    yield here
    subprocess.run(["umount", "-l", str(here.root / "two")], capture_output=True, check=False)


def test_an_empty_drive_inside_is_no_empty_folder(with_drive: Collection) -> None:
    here = with_drive
    (here.root / "three").mkdir()
    here.put("two/Thumbs.db")
    here.ok("scan")
    here.run("check", "--fix", "--now")
    assert (here.root / "two").is_mount() and not (here.root / "three").exists()
    here.ok("scan")
    assert "empty-folder" not in {one["rule"] for one in here.run("check", "--json").lines}


@pytest.mark.parametrize("command", ["hold tern", "move tern Films", "tidy"])
def test_the_place_of_a_drive_inside_is_never_taken_away(with_drive: Collection, command: str) -> None:
    here = with_drive
    here.put("two/Tern (1999).mkv")
    here.ok("scan")
    before = picture(here.root)
    assert "a drive is mounted there" in here.run("rename", "two", "--folders", "--append", " x").out
    plan = here.ok(*command.split(), "--json").json
    assert "two" not in {step["from"] for step in plan["steps"] if step["do"] == "drop"} and plan["steps"]
    here.ok("apply")
    assert (here.root / "two").is_mount() and "two/Tern (1999).mkv" not in here.files()
    here.ok("undo")
    assert {path for path in picture(here.root) if ".magpie" not in path} >= set(before)
