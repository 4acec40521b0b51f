"""Nothing is lost, however one tries: undo without what it needs, tampered manifests, mounts, half renames, damage."""

from __future__ import annotations

import errno
import json
import os
import subprocess
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from lazy_magpie.change import (
    Filesystem,
    JournalStore,
    apply,
    delete_held,
    held_things,
    history,
    recover,
    redo,
    undo,
    unfinished,
)
from lazy_magpie.change.filesystem.rename import by_claim
from lazy_magpie.errors import UsageError
from lazy_magpie.model import FolderAttributes, Step, StepKind
from tests.chaos import casefold
from tests.chaos.crash import tree_of
from tests.conftest import Collection
from tests.disks import numbered, put, read, step

# --- undo acts whole or not at all -----------------------------------------------------------------------------------


def _moved_between(d: Filesystem) -> list[Step]:
    return [step(StepKind.MOVE, "a", "two/a", put(d, "a"))]


def _replaced(d: Filesystem) -> list[Step]:
    put(d, "new")
    return [step(StepKind.REPLACE, "new", "a", put(d, "a"))]


def _rewritten(d: Filesystem) -> list[Step]:
    return [step(StepKind.REPLACE, "", "a", put(d, "a"), text="other words")]


def _linked(d: Filesystem) -> list[Step]:
    keeper, copy = put(d, "keeper", "same"), put(d, "a", "same")
    return [step(StepKind.HARDLINK, "keeper", "a", keeper, instead_of=list(copy))]


TAKING = {"between drives": _moved_between, "replace": _replaced, "rewrite": _rewritten, "link in place": _linked}


@pytest.mark.parametrize("case", TAKING)
def test_an_undo_whose_held_thing_is_gone_takes_nothing_away(drives: Filesystem, case: str) -> None:
    area = JournalStore(drives)
    assert apply(area, numbered(*TAKING[case](drives)), "test").done == 1
    for one in held_things(area):
        delete_held(drives, one)
    before = tree_of(drives)
    outcome = undo(area)
    if case == "between drives":  # what is there is the only one, and goes home by itself
        assert outcome.done == 1 and read(drives, "a") == b"a" and drives.status("two/a") is None
    else:
        assert outcome.done == 0 and "not held any more" in outcome.skipped[0][1]
        assert tree_of(drives) == before


@pytest.mark.parametrize("case", TAKING)
def test_an_undo_whose_old_name_is_taken_takes_nothing_away(drives: Filesystem, case: str) -> None:
    area = JournalStore(drives)
    apply(area, numbered(*TAKING[case](drives)), "test")
    if case == "between drives":
        put(drives, "a", "somebody else's")
    else:  # what stands in its place was changed by other hands
        os.unlink(drives.path("a"))
        put(drives, "a", "somebody else's")
    before = tree_of(drives)
    outcome = undo(area)
    assert outcome.done == 0 and len(outcome.skipped) == 1 and tree_of(drives) == before
    assert redo(area, 1).done == 0 and tree_of(drives) == before


@pytest.mark.parametrize("case", TAKING)
def test_an_undo_that_fails_half_way_puts_all_back(drives: Filesystem, case: str) -> None:
    area = JournalStore(drives)
    apply(area, numbered(*TAKING[case](drives)), "test")
    before = tree_of(drives)
    for failing in range(3):

        class Once(Filesystem):
            def rename(self, source: str, target: str, claimed: Any = None, left: list[int] = [failing]) -> None:  # noqa: B006
                left[0] -= 1
                if left[0] == -1:
                    raise OSError(errno.EIO, os.strerror(errno.EIO))
                super().rename(source, target)

        broken = JournalStore(Once(drives.root))
        if not undo(broken, 1).failed:
            break
        assert tree_of(drives) == before, failing
    else:
        undo(area, 1)
    assert read(drives, "a") in (b"a", b"same") and history(area)[0].state == "undone"


def test_a_copy_and_what_was_unpacked_stay_when_what_they_came_from_is_gone(disk: Filesystem) -> None:
    from tests.disks import zipped

    seen, packed = put(disk, "film"), put(disk, "kit.zip", zipped(one="1"))
    steps = [step(StepKind.COPY, "film", "copy", seen), step(StepKind.UNPACK, "kit.zip", "kit", packed)]
    apply(JournalStore(disk), numbered(*steps), "test")
    os.unlink(disk.path("film"))
    os.unlink(disk.path("kit.zip"))
    outcome = undo(JournalStore(disk))
    assert outcome.done == 0 and read(disk, "copy") == b"film" and read(disk, "kit/one") == b"1"
    assert all("came from" in why for _, why in outcome.skipped)


def test_what_other_hands_put_into_an_unpacked_folder_keeps_it(disk: Filesystem) -> None:
    from tests.disks import zipped

    apply(
        JournalStore(disk),
        numbered(step(StepKind.UNPACK, "kit.zip", "kit", put(disk, "kit.zip", zipped(one="1")))),
        "test",
    )
    put(disk, "kit/notes.txt", "mine")
    assert "new, changed or gone" in undo(JournalStore(disk)).skipped[0][1] and read(disk, "kit/notes.txt") == b"mine"
    os.unlink(disk.path("kit/notes.txt"))
    assert undo(JournalStore(disk), 1).done == 1 and disk.status("kit") is None


# --- what is held is told by the journals alone ----------------------------------------------------------------------


@pytest.mark.parametrize(
    "line",
    ["../outside", "/etc/passwd", "film", ".magpie/held/../../film", "a/.magpie/held/000001/1/x", "a\0b", 7, None],
)
def test_a_manifest_that_somebody_wrote_deletes_nothing(disk: Filesystem, line: object) -> None:
    put(disk, "film")
    put(disk, "a/.magpie/held/000001/1/x", "came with a download")
    apply(JournalStore(disk), numbered(step(StepKind.HOLD, "b", "", put(disk, "b"))), "test")
    record = {"held": line, "from": "x", "why": "y", "since": "2026-01-01T00:00:00+00:00", "change": 1}
    for place in (".magpie/held/000001/manifest.jsonl", "a/.magpie/held/000001/manifest.jsonl"):
        with open(disk.path(place), "a") as file:
            file.write(json.dumps(record) + "\n")
    found = held_things(JournalStore(disk))
    assert [one.origin for one in found] == ["b"]
    for one in found:
        delete_held(disk, one)
    assert read(disk, "film") == b"film" and read(disk, "a/.magpie/held/000001/1/x") == b"came with a download"


def test_emptying_follows_no_link_and_leaves_no_drive(drives: Filesystem) -> None:
    put(drives, "two/precious")
    seen = put(drives, "folder/inner/x")
    apply(JournalStore(drives), numbered(step(StepKind.HOLD, "folder/inner/x", "", seen)), "test")
    (one,) = held_things(JournalStore(drives))
    inner = Path(drives.path(one.path)).parent
    os.unlink(inner / "x")
    os.rmdir(inner)
    os.symlink(drives.path("two"), inner)  # the folder above is another one now
    put(drives, "two/x", "not ours")
    with pytest.raises(OSError):
        delete_held(drives, one)
    assert read(drives, "two/x") == b"not ours" and read(drives, "two/precious") == b"two/precious"
    os.unlink(inner)
    os.mkdir(inner)
    os.mkdir(inner / "x")
    subprocess.run(["mount", "--bind", drives.path("two"), str(inner / "x")], check=True)
    try:
        with pytest.raises(OSError):
            delete_held(drives, one)
    finally:
        subprocess.run(["umount", str(inner / "x")], check=True)
    assert read(drives, "two/precious") == b"two/precious"


def test_held_things_are_found_where_their_drive_is_mounted_now(disk: Filesystem, tmp_path: Path) -> None:
    image = tmp_path / "drive"
    image.mkdir()
    for name in ("old", "new"):
        os.mkdir(disk.path(name))
    if os.geteuid() or subprocess.run(["mount", "-t", "tmpfs", "tmpfs", str(image)], check=False).returncode:
        pytest.skip("only root can mount")
    try:
        subprocess.run(["mount", "--bind", str(image), disk.path("old")], check=True)
        apply(JournalStore(disk), numbered(step(StepKind.HOLD, "old/f/film", "", put(disk, "old/f/film"))), "test")
        subprocess.run(["umount", disk.path("old")], check=True)
        assert held_things(JournalStore(disk)) == []
        subprocess.run(["mount", "--bind", str(image), disk.path("new")], check=True)
        (one,) = held_things(JournalStore(disk))
        assert (one.origin, one.top) == ("new/f/film", "new")
        delete_held(disk, one)
        assert held_things(JournalStore(disk)) == []
    finally:
        for place in (disk.path("old"), disk.path("new"), str(image)):
            subprocess.run(["umount", "-l", place], check=False, capture_output=True)


# --- what stays is another file --------------------------------------------------------------------------------------


@pytest.mark.parametrize("how", ["hard link", "link to the folder", "bind mount"])
def test_a_copy_that_is_the_keeper_itself_stays(disk: Filesystem, how: str) -> None:
    seen = put(disk, "copies/film", "same")
    put(disk, "keep/film", "same")
    os.unlink(disk.path("keep/film"))
    if how == "hard link":
        os.link(disk.path("copies/film"), disk.path("keep/film"))
    else:
        os.rmdir(disk.path("keep"))
        if how == "bind mount":
            os.mkdir(disk.path("keep"))
            done = subprocess.run(["mount", "--bind", disk.path("copies"), disk.path("keep")], check=False)
            if done.returncode:
                pytest.skip("only root can mount")
        else:
            os.symlink("copies", disk.path("keep"))
    try:
        steps = [
            step(StepKind.HOLD, "copies/film", "", seen, keeps="keep/film"),
            step(StepKind.HOLD, "copies/film", "", seen, like=[["keep/film", *seen]]),
            step(StepKind.HARDLINK, "keep/film", "copies/film", seen, instead_of=list(seen)),
        ]
        outcome = apply(JournalStore(disk), numbered(*steps), "test")
        assert outcome.done == 0 and read(disk, "copies/film") == b"same"
    finally:
        if how == "bind mount":
            subprocess.run(["umount", disk.path("keep")], check=True)


# --- recovery deletes no content -------------------------------------------------------------------------------------


def _killed_aside(d: Filesystem, area: JournalStore, names: tuple[str, str], later: str = "") -> None:
    """Apply a rename in case alone that dies between its two renames, as a process does that is killed."""

    class Killed(BaseException):
        pass

    class Dying(Filesystem):
        def rename(self, source: str, target: str, claimed: Any = None) -> None:
            if ".magpie/work" in source:
                raise Killed
            super().rename(source, target, lambda claim: None)

    status = d.status(names[0])
    assert status is not None
    with pytest.raises(Killed):
        apply(JournalStore(Dying(d.root)), numbered(step(StepKind.MOVE, *names, status.stamp)), "test")
    (aside,) = Path(d.path(names[0])).parent.glob(".magpie/work/*")
    if later == "another time":
        os.utime(aside, (1, 1))


@pytest.fixture
def folded(disk: Filesystem, tmp_path: Path) -> Iterator[Filesystem]:
    """A disk with a drive `two` that ignores case, has no hard links, and may number its files anew."""
    if not casefold.is_possible():
        pytest.skip("there is no FUSE here")
    os.mkdir(disk.path("two"))
    backing = tmp_path / "backing"
    backing.mkdir()
    with casefold.mounted(backing, Path(disk.path("two"))) as is_there:
        if not is_there:
            pytest.skip("there is no FUSE here")
        yield disk


def test_a_name_changes_its_case_on_a_drive_that_ignores_it(folded: Filesystem) -> None:
    seen = put(folded, "two/kelp.MKV")
    area = JournalStore(folded)
    assert apply(area, numbered(step(StepKind.MOVE, "two/kelp.MKV", "two/Kelp.mkv", seen)), "test").done == 1
    assert "Kelp.mkv" in folded.names("two")
    assert undo(area).done == 1 and "kelp.MKV" in folded.names("two")
    put(folded, "two/Other.mkv")
    assert apply(area, numbered(step(StepKind.MOVE, "two/kelp.MKV", "two/other.mkv", seen)), "test").done == 0


@pytest.mark.parametrize("later", ["", "another time"])
def test_a_file_between_its_two_names_is_never_deleted(folded: Filesystem, later: str) -> None:
    put(folded, "two/kelp.MKV", "the only one")
    area = JournalStore(folded)
    _killed_aside(folded, area, ("two/kelp.MKV", "two/Kelp.mkv"), later)
    recover(area)
    assert read(folded, "two/kelp.mkv") == b"the only one" and not unfinished(area)


def test_a_second_rename_that_fails_leaves_the_file_under_its_old_name(folded: Filesystem) -> None:
    seen = put(folded, "two/kelp.MKV", "the only one")

    class Failing(Filesystem):
        fails = 1

        def rename(self, source: str, target: str, claimed: Any = None) -> None:
            if ".magpie/work" in source and self.fails:
                Failing.fails -= 1
                raise OSError(errno.EIO, os.strerror(errno.EIO))
            super().rename(source, target, lambda claim: None)

    outcome = apply(
        JournalStore(Failing(folded.root)), numbered(step(StepKind.MOVE, "two/kelp.MKV", "two/Kelp.mkv", seen)), "test"
    )
    assert outcome.failed and "kelp.MKV" in folded.names("two") and read(folded, "two/kelp.MKV") == b"the only one"


def test_one_that_can_be_put_nowhere_waits_for_the_next_command(folded: Filesystem) -> None:
    seen = put(folded, "two/kelp.MKV", "the only one")

    class Broken(Filesystem):
        def rename(self, source: str, target: str, claimed: Any = None) -> None:
            if ".magpie/work" in source:
                raise OSError(errno.EIO, os.strerror(errno.EIO))
            super().rename(source, target, lambda claim: None)

    area = JournalStore(Broken(folded.root))
    outcome = apply(area, numbered(step(StepKind.MOVE, "two/kelp.MKV", "two/Kelp.mkv", seen)), "test")
    assert outcome.stuck and "tries to put that right" in outcome.why_stopped
    assert recover(area) and unfinished(area)  # it is still broken: nothing is closed
    recover(JournalStore(folded))
    assert read(folded, "two/kelp.mkv") == b"the only one" and not unfinished(JournalStore(folded))


@pytest.mark.parametrize("name", [".1-1-1.magpie-part", ".y.part.csv", "new a"])
def test_what_only_looks_like_ours_is_a_persons(disk: Filesystem, name: str) -> None:
    seen = put(disk, "a")
    put(disk, name, b"")
    os.chmod(disk.path(name), 0o600)
    put(disk, ".x", "precious")
    os.rename(disk.path(".x"), disk.path(name)) if name != "new a" else None
    area = JournalStore(disk)
    apply(area, numbered(step(StepKind.MOVE, "a", "new a", seen)), "test")
    path = Path(disk.path(area.journal(1)))
    lines = path.read_bytes().splitlines(keepends=True)
    path.write_bytes(b"".join(line for line in lines if b'"did"' not in line and b'"end"' not in line))
    recover(area)
    assert os.path.exists(disk.path(name))


def test_a_killed_claim_is_taken_back_by_its_inode_alone(disk: Filesystem, monkeypatch: pytest.MonkeyPatch) -> None:
    from lazy_magpie.change.filesystem import rename

    class Killed(BaseException):
        pass

    def dying(source: str, target: str) -> None:
        raise Killed

    seen = put(disk, "a")
    monkeypatch.setattr(rename, "_ways", lambda target: (by_claim,))
    monkeypatch.setattr(os, "rename", dying)
    with pytest.raises(Killed):
        apply(JournalStore(disk), numbered(step(StepKind.MOVE, "a", "b", seen)), "test")
    monkeypatch.undo()
    assert read(disk, "b") == b"" and read(disk, "a") == b"a"
    recover(JournalStore(disk))
    assert disk.status("b") is None and read(disk, "a") == b"a"


def test_a_folder_around_what_is_held_is_not_brought_back(disk: Filesystem) -> None:
    """After a crash: the folder was moved, and what was held out of it before lies in a folder of that name."""
    seen = put(disk, "x/a")
    put(disk, "x/b")
    status = disk.status("x")
    assert status is not None
    area = JournalStore(disk)
    steps = [
        step(StepKind.HOLD, "x/a", "", seen),
        step(StepKind.MOVE, "x", "y", status.stamp),
        step(StepKind.HOLD, "y", "", status.stamp),
    ]
    apply(area, numbered(*steps), "test")
    assert {one.origin for one in held_things(area)} == {"x/a", "y"}
    undo(area)
    apply(area, numbered(*steps[:2]), "again")
    path = Path(disk.path(area.journal(2)))
    lines = path.read_bytes().splitlines(keepends=True)
    last = max(number for number, line in enumerate(lines) if b'"did"' in line)
    path.write_bytes(b"".join(lines[:last]))
    recover(area)
    assert disk.status("x") is None and read(disk, "y/b") == b"x/b" and not unfinished(area)
    undo(area, 2)
    assert tree_of(disk).keys() == {"x", "x/a", "x/b"}


@pytest.mark.parametrize("command", [("sheet", "make"), ("tidy", "--save")])
def test_an_output_takes_away_nothing_that_lies_beside_it(heap: Collection, command: tuple[str, ...]) -> None:
    heap.put("Heap/Kelp (2001).mkv", "out/.y.part.csv", "out/.y.csv.part", text="a person's")
    heap.ok("scan")
    for _ in range(2):
        heap.run(*command, str(heap.root / "out/y.csv"))
    heap.put("out/z.csv", text="a person's")
    assert "is there already" in heap.run(*command, str(heap.root / "out/z.csv")).err
    assert sorted(os.listdir(heap.root / "out")) == [".y.csv.part", ".y.part.csv", "y.csv", "z.csv"]
    assert {(heap.root / f"out/{name}").read_text() for name in (".y.part.csv", "z.csv")} == {"a person's"}
    heap.run(*command, str(heap.root / "out/z.csv"), "--force")
    assert (heap.root / "out/z.csv").read_text() != "a person's"


# --- moves between drives, drives that are away ----------------------------------------------------------------------


def test_a_source_that_cannot_be_held_is_not_copied(drives: Filesystem) -> None:
    seen = put(drives, "closed/film", b"film" * 1000)

    class Closed(Filesystem):
        def may_change_names(self, folder: str) -> bool:
            return folder != "closed"

        def open_new(self, path: str) -> Any:
            raise AssertionError("a byte was copied")

    outcome = apply(
        JournalStore(Closed(drives.root)), numbered(step(StepKind.MOVE, "closed/film", "two/film", seen)), "test"
    )
    assert outcome.failed == [("closed/film", "no permission to take it away from its folder")]

    class Failing(Filesystem):
        def rename(self, source: str, target: str, claimed: Any = None) -> None:
            if source == "closed/film" and "held" in target:
                raise OSError(errno.EROFS, os.strerror(errno.EROFS))
            super().rename(source, target, lambda claim: None)

    outcome = apply(
        JournalStore(Failing(drives.root)), numbered(step(StepKind.MOVE, "closed/film", "two/film", seen)), "test"
    )
    assert outcome.failed and drives.status("two/film") is None and read(drives, "closed/film") == b"film" * 1000


def test_nothing_goes_into_the_empty_folder_of_a_drive_that_is_away(drives: Filesystem) -> None:
    mounted = drives.drives()
    assert mounted and "two" in mounted
    seen, there = put(drives, "film"), put(drives, "two/there")
    steps = [step(StepKind.MOVE, "film", "two/film", seen), step(StepKind.MOVE, "two/there", "there", there)]
    subprocess.run(["umount", "-l", drives.path("two")], check=True)
    try:
        put(drives, "two/there", "what lies below the drive")
        outcome = apply(JournalStore(drives), numbered(*steps), "test", drives=mounted)
        assert outcome.done == 0 and {why for _, why in outcome.skipped} == {
            "the drive that was mounted at “two” is away"
        }
        assert read(drives, "film") == b"film"
    finally:
        subprocess.run(["mount", "-t", "tmpfs", "tmpfs", drives.path("two")], check=True)
    outcome = apply(JournalStore(drives), numbered(steps[0]), "test", drives={})
    assert outcome.skipped[0][1] == "another drive is mounted at “two” now"


def test_what_cannot_be_given_back_is_said_and_the_rest_goes_on(disk: Filesystem) -> None:
    class Poor(Filesystem):
        def set_times(self, path: str, mtime: int) -> None:
            raise PermissionError(errno.EPERM, os.strerror(errno.EPERM))

        def set_attributes(self, folder: str, wanted: FolderAttributes) -> str:
            return "owner"

    disk.make_folder("x")
    seen = put(disk, "x/a")
    steps = [step(StepKind.MOVE, "x/a", "b", seen), step(StepKind.DROP, "x")]
    apply(JournalStore(disk), numbered(*steps), "test")
    outcome = undo(JournalStore(Poor(disk.root)))
    assert outcome.done == 2 and ("x", "owner") in outcome.unrestored and (".", "time") in outcome.unrestored


# --- damaged journals ------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("record", range(10))
def test_one_flipped_byte_anywhere_hides_no_change(disk: Filesystem, record: int) -> None:
    area = JournalStore(disk)
    apply(area, numbered(step(StepKind.MOVE, "a", "b", put(disk, "a"))), "older")
    apply(area, numbered(*(step(StepKind.MOVE, f"{n}", f"new {n}", put(disk, f"{n}")) for n in range(3))), "newer")
    path = Path(disk.path(area.journal(2)))
    lines = path.read_bytes().splitlines(keepends=True)
    if record >= len(lines):
        return
    lines[record] = lines[record].replace(b'"', b"'", 1)
    path.write_bytes(b"".join(lines))
    assert [change.number for change in history(area)] == [1, 2]
    recover(area)
    outcome = undo(area)
    assert outcome.change == 2 and read(disk, "b") == b"a"
    back = sum(disk.status(f"{n}") is not None for n in range(3))
    assert back == 3 or (back == 2 and any("damaged" in why for _, why in outcome.skipped))


def test_a_change_that_cannot_be_read_blocks_what_came_before(disk: Filesystem) -> None:
    area = JournalStore(disk)
    apply(area, numbered(step(StepKind.MOVE, "a", "b", put(disk, "a"))), "older")
    apply(area, numbered(step(StepKind.MOVE, "c", "d", put(disk, "c"))), "newer")
    Path(disk.path(area.journal(2))).write_bytes(b"00000000 {nothing is left of it}\n")
    assert [(change.number, change.state) for change in history(area)] == [(1, "done"), (2, "damaged")]
    recover(area)
    for number in (0, 1):
        with pytest.raises(UsageError, match="can't be read"):
            undo(area, number)
    with pytest.raises(UsageError, match="can't be read"):
        redo(area, 2)
    assert undo(area, 1, anyway=True).done == 1 and read(disk, "d") == b"c"
