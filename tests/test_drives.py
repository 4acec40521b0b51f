"""Moves between two drives: copied, compared, held; what changes, fails or vanishes meanwhile stays where it is."""

from __future__ import annotations

import os
import stat
import subprocess
from pathlib import Path

import pytest

from lazy_magpie.change import Filesystem, JournalStore, apply, history, undo, verified_copy
from lazy_magpie.errors import MagpieError
from lazy_magpie.model import StepKind
from tests.chaos.crash import tree_of
from tests.disks import numbered, put, read, step


def test_a_move_between_drives_keeps_everything_and_comes_back(drives: Filesystem) -> None:
    seen = put(drives, "a/film", b"film" * 10_000)
    drives.set_mode("a/film", 0o640)
    os.setxattr(drives.path("a/film"), "user.note", b"seen")
    before = os.lstat(drives.path("a/film"))
    apply(JournalStore(drives), numbered(step(StepKind.MOVE, "a/film", "two/film", seen)), "test")
    after = os.lstat(drives.path("two/film"))
    assert (after.st_mtime_ns, stat.S_IMODE(after.st_mode)) == (before.st_mtime_ns, 0o640)
    assert drives.status("a/film") is None
    assert os.listdir(drives.path("two/.magpie")) == ["area.json"]
    undo(JournalStore(drives))
    back = os.lstat(drives.path("a/film"))
    assert (back.st_ino, back.st_mtime_ns) == (before.st_ino, before.st_mtime_ns)
    assert os.getxattr(drives.path("a/film"), "user.note") == b"seen"


def test_a_folder_between_drives(drives: Filesystem) -> None:
    put(drives, "a/b/one")
    put(drives, "a/two")
    os.symlink("two", drives.path("a/link"))
    status = drives.status("a")
    before = tree_of(drives)
    apply(JournalStore(drives), numbered(step(StepKind.MOVE, "a", "two/a", status.stamp if status else None)), "test")
    assert read(drives, "two/a/b/one") == b"a/b/one" and drives.link_text("two/a/link") == "two"
    undo(JournalStore(drives))
    assert tree_of(drives) == before


def test_room_is_looked_for_before_the_first_byte(drives: Filesystem) -> None:
    seen = put(drives, "big", b"x" * (6 << 20))
    small = put(drives, "small")
    before = tree_of(drives)
    with pytest.raises(MagpieError, match=r"“two” has .* free, and the plan copies 6.0M to it: .* are missing"):
        apply(
            JournalStore(drives),
            numbered(step(StepKind.MOVE, "small", "s", small), step(StepKind.MOVE, "big", "two/big", seen)),
            "test",
        )
    assert tree_of(drives) == before and history(JournalStore(drives)) == []


def test_a_source_that_changes_under_the_copy_stays(drives: Filesystem) -> None:
    seen = put(drives, "film", b"x" * (3 << 20))

    class Growing(Filesystem):
        def open_new(self, path: str):  # type: ignore[no-untyped-def]
            with open(self.path("film"), "ab") as file:
                file.write(b"more")
            return super().open_new(path)

    outcome = apply(JournalStore(Growing(drives.root)), numbered(step(StepKind.MOVE, "film", "two/film", seen)), "test")
    assert outcome.skipped == [("film", "it changed while it was copied")]
    assert drives.status("two/film") is None and drives.status("film") and tree_of(drives).keys() == {"film", "two"}


@pytest.mark.parametrize("read_twice", [16 << 20, 1000], ids=["compared", "by its digest"])
def test_a_failing_destination_is_noticed_by_reading_back(
    drives: Filesystem, read_twice: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(verified_copy, "_READ_TWICE", read_twice)
    seen = put(drives, "film", b"x" * 5000)

    class Rotten(Filesystem):
        def sync_file(self, file):  # type: ignore[no-untyped-def]
            super().sync_file(file)
            if "part" in str(file.name) or isinstance(file.name, int):
                for path in Path(self.path("two/.magpie/work")).glob("*"):
                    with open(path, "rb+") as damaged:
                        damaged.write(b"y")

    outcome = apply(JournalStore(Rotten(drives.root)), numbered(step(StepKind.MOVE, "film", "two/film", seen)), "test")
    assert "read back, differs" in outcome.skipped[0][1] and read(drives, "film") == b"x" * 5000


def test_a_drive_that_vanishes(drives: Filesystem) -> None:
    seen = put(drives, "film")
    subprocess.run(["umount", "-l", drives.path("two")], check=True)
    os.rmdir(drives.path("two"))
    outcome = apply(JournalStore(drives), numbered(step(StepKind.MOVE, "film", "two/film", seen)), "test")
    os.mkdir(drives.path("two"))
    subprocess.run(["mount", "-t", "tmpfs", "tmpfs", drives.path("two")], check=True)
    assert outcome.done == 0 and "no longer there" in outcome.skipped[0][1] and read(drives, "film") == b"film"
