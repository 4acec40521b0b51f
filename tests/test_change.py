"""The change engine: every sort of step there and back, skips, failures, damaged journals, stops, two drives."""

from __future__ import annotations

import errno
import io
import os
import random
import stat
import subprocess
import tarfile
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest

from lazy_magpie.change import Area, Disk, Watch, apply, history, recover, redo, undo, unfinished
from lazy_magpie.change.batches import batches
from lazy_magpie.change.journal import line_of, record_of
from lazy_magpie.change.renaming import by_claim, by_link, rename_without_replacing
from lazy_magpie.errors import MagpieError
from lazy_magpie.model import Do, Seen, Step
from tests.chaos.crash import tree_of

Steps = list[Step]


@pytest.fixture
def disk(tmp_path: Path) -> Disk:
    (tmp_path / "root" / ".magpie").mkdir(parents=True)
    return Disk(str(tmp_path / "root"))


def put(disk: Disk, path: str, data: bytes | str = b"") -> Seen:
    """Make a file and return how it looks."""
    whole = Path(disk.path(path))
    whole.parent.mkdir(parents=True, exist_ok=True)
    whole.write_bytes(data.encode() if isinstance(data, str) else data or path.encode())
    status = disk.status(path)
    assert status is not None
    return status.seen


def read(disk: Disk, path: str) -> bytes:
    return Path(disk.path(path)).read_bytes()


def step(do: Do, source: str = "", target: str = "", seen: Seen | None = None, **data: object) -> Step:
    return Step(1, do, source, target, "test", seen=seen, data=data)


def numbered(*steps: Step) -> Steps:
    import dataclasses

    return [dataclasses.replace(one, number=number) for number, one in enumerate(steps, start=1)]


def zipped(**members: str) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as packed:
        for name, text in members.items():
            packed.writestr(name.replace("__", "/"), text)
    return out.getvalue()


CASES: dict[str, Callable[[Disk], Steps]] = {
    "move": lambda d: [step(Do.MOVE, "a", "b", put(d, "a"))],
    "copy": lambda d: [step(Do.COPY, "a", "b", put(d, "a"))],
    "hardlink": lambda d: [step(Do.HARDLINK, "a", "b", put(d, "a"))],
    "softlink": lambda d: [step(Do.SOFTLINK, "", "b", text="nowhere")],
    "make": lambda d: [step(Do.MAKE, "", "folder")],
    "hold": lambda d: [step(Do.HOLD, "x/a", "", put(d, "x/a"))],
    "write": lambda d: [step(Do.WRITE, "", "b", text="new text")],
    "replace": lambda d: [step(Do.REPLACE, "new", "old", put(d, "old"))] if put(d, "new") else [],
    "unpack": lambda d: [step(Do.UNPACK, "a.zip", "b", put(d, "a.zip", zipped(one="1", sub__two="2")))],
    "tag": lambda d: [step(Do.TAG, "a", "", old="", new="seen")],
    "swap": lambda d: [
        step(Do.MOVE, "a", "aside", put(d, "a")),
        step(Do.MOVE, "b", "a", put(d, "b")),
        step(Do.MOVE, "aside", "b"),
    ],
}


@pytest.mark.parametrize("case", CASES)
def test_each_sort_of_step_there_and_back_and_there_again(disk: Disk, case: str) -> None:
    steps = numbered(*CASES[case](disk))
    area, before = Area(disk), tree_of(disk)
    outcome = apply(area, steps, "test")
    assert (outcome.done, outcome.skipped, outcome.failed) == (len(steps), [], [])
    after = tree_of(disk)
    assert (after != before) is (case != "tag")
    undo(area)
    assert tree_of(disk) == before
    assert undo(area, 1).done == 0  # twice is harmless
    redo(area)
    assert {path: what for path, what in tree_of(disk).items() if what == "folder"} == {
        path: what for path, what in after.items() if what == "folder"
    }
    assert tree_of(disk).keys() == after.keys()
    undo(area, 1)
    assert tree_of(disk) == before


def test_a_dropped_folder_comes_back_with_its_mode_and_time(disk: Disk) -> None:
    disk.make_folder("empty")
    disk.set_mode("empty", 0o750)
    disk.set_times("empty", 1_500_000_000_000_000_000)
    apply(Area(disk), numbered(step(Do.DROP, "empty")), "test")
    assert disk.status("empty") is None
    undo(Area(disk))
    status = disk.status("empty")
    assert status is not None and (status.mode, status.mtime) == (0o750, 1_500_000_000_000_000_000)


def test_nothing_is_replaced_by_any_sort(disk: Disk) -> None:
    seen, there = put(disk, "a"), "there"
    for do, data in (
        (Do.MOVE, {}),
        (Do.COPY, {}),
        (Do.HARDLINK, {}),
        (Do.SOFTLINK, {"text": "x"}),
        (Do.WRITE, {"text": "x"}),
    ):
        put(disk, there, "mine")
        source = "" if do in (Do.SOFTLINK, Do.WRITE) else "a"
        outcome = apply(Area(disk), numbered(step(do, source, there, seen if source else None, **data)), "test")
        assert outcome.done == 0 and "there now" in outcome.skipped[0][1], do
        assert read(disk, there) == b"mine"


@pytest.mark.parametrize("way", [rename_without_replacing, by_link, by_claim])
def test_every_way_to_rename_refuses_to_replace(tmp_path: Path, way: Callable[[str, str], None]) -> None:
    one, other = tmp_path / "one", tmp_path / "other"
    one.write_text("1")
    other.write_text("2")
    with pytest.raises(FileExistsError):
        way(str(one), str(other))
    assert (one.read_text(), other.read_text()) == ("1", "2")
    way(str(one), str(tmp_path / "new"))
    assert (tmp_path / "new").read_text() == "1" and not one.exists()


@pytest.mark.parametrize("way", [rename_without_replacing, by_claim])
def test_folders_are_renamed_without_replacing(tmp_path: Path, way: Callable[[str, str], None]) -> None:
    (tmp_path / "one").mkdir()
    (tmp_path / "other").mkdir()
    with pytest.raises(FileExistsError):
        way(str(tmp_path / "one"), str(tmp_path / "other"))
    way(str(tmp_path / "one"), str(tmp_path / "new"))
    assert (tmp_path / "new").is_dir()


def test_a_disk_without_the_systems_rename_uses_the_fallbacks(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    from lazy_magpie.change import renaming as module

    def unsupported(source: str, target: str) -> None:
        raise OSError(errno.EINVAL, "not here")

    monkeypatch.setattr(module, "_ways", lambda target: (unsupported, by_link, by_claim))
    (tmp_path / "a").write_text("a")
    rename_without_replacing(str(tmp_path / "a"), str(tmp_path / "b"))
    (tmp_path / "folder").mkdir()
    rename_without_replacing(str(tmp_path / "folder"), str(tmp_path / "renamed"))
    assert sorted(path.name for path in tmp_path.iterdir()) == ["b", "renamed"]


def test_what_changed_since_the_plan_is_skipped(disk: Disk) -> None:
    old = put(disk, "a")
    put(disk, "a", "changed")
    missing = put(disk, "b")
    os.unlink(disk.path("b"))
    outcome = apply(Area(disk), numbered(step(Do.MOVE, "a", "c", old), step(Do.MOVE, "b", "d", missing)), "test")
    assert [why for _, why in outcome.skipped] == ["it has changed since the plan was made", "it is no longer there"]


def test_a_copy_goes_only_if_the_one_that_stays_is_the_same(disk: Disk) -> None:
    put(disk, "keep", "same")
    seen = put(disk, "go", "same")
    put(disk, "keep", "Same")
    outcome = apply(Area(disk), numbered(step(Do.HOLD, "go", "", seen, keeps="keep")), "test")
    assert "no longer equals" in outcome.skipped[0][1] and read(disk, "go") == b"same"
    os.unlink(disk.path("keep"))
    outcome = apply(Area(disk), numbered(step(Do.HOLD, "go", "", seen, keeps="keep")), "test")
    assert "no longer there" in outcome.skipped[0][1] and read(disk, "go") == b"same"
    put(disk, "keep", "same")
    assert apply(Area(disk), numbered(step(Do.HOLD, "go", "", seen, keeps="keep")), "test").done == 1


def test_undo_takes_back_what_it_can_after_other_hands(disk: Disk) -> None:
    steps = numbered(*(step(Do.MOVE, name, f"new {name}", put(disk, name)) for name in "abc"))
    apply(Area(disk), steps, "test")
    os.rename(disk.path("new a"), disk.path("elsewhere"))
    put(disk, "new b", "edited meanwhile")
    put(disk, "c", "something new under the old name")
    outcome = undo(Area(disk))
    assert outcome.done == 0
    assert dict(outcome.skipped) == {
        "new a": "it is no longer there",
        "new b": "it has changed since the plan was made",
        "new c": "something of that name is there now",
    }
    assert read(disk, "new b") == b"edited meanwhile" and read(disk, "new c") == b"c"
    assert history(Area(disk))[0].state == "part undone"


def test_changes_are_undone_newest_first_and_redone(disk: Disk) -> None:
    area = Area(disk)
    apply(area, numbered(step(Do.MOVE, "a", "b", put(disk, "a"))), "first")
    apply(area, numbered(step(Do.MOVE, "b", "c")), "second")
    assert undo(area).change == 2 and undo(area).change == 1
    with pytest.raises(MagpieError, match="no change left"):
        undo(area)
    assert redo(area).change == 1 and redo(area).change == 2
    assert read(disk, "c") == b"a" and [change.state for change in history(area)] == ["done", "done"]


def test_a_stop_between_two_steps_can_be_gone_on_with(disk: Disk) -> None:
    steps = numbered(*(step(Do.MOVE, f"{n}", f"new {n}", put(disk, f"{n}")) for n in range(10)))
    asked = iter([False] * 5 + [True] * 100)
    outcome = apply(Area(disk), steps, "test", watch=Watch(stop=lambda: next(asked)))
    assert 0 < outcome.done < 10 and outcome.left == 10 - outcome.done
    assert history(Area(disk))[0].state == "stopped"
    assert redo(Area(disk)).done == 10 - outcome.done
    assert undo(Area(disk)).done == 10 and disk.status("9")


# --- the journal -----------------------------------------------------------------------------------------------------


def test_a_record_knows_its_damage() -> None:
    line = line_of({"r": "did", "done": [1]})
    assert record_of(line) == {"r": "did", "done": [1]}
    assert record_of(line[:-3]) is None and record_of(line.replace(b"did", b"dud")) is None and record_of(b"") is None


def _unfinished(disk: Disk, count: int = 6) -> Area:
    """Apply a plan and cut its journal off behind the announcement, as a crash would."""
    steps = numbered(*(step(Do.MOVE, f"{n}", f"new {n}", put(disk, f"{n}")) for n in range(count)))
    area = Area(disk)
    apply(area, steps, "test")
    path = Path(disk.path(area.journal(1)))
    lines = path.read_bytes().splitlines(keepends=True)
    path.write_bytes(b"".join(line for line in lines if b'"did"' not in line and b'"end"' not in line))
    return area


def test_a_cut_off_journal_is_put_right_by_looking(disk: Disk) -> None:
    area = _unfinished(disk)
    os.rename(disk.path("new 3"), disk.path("3"))  # as if this step had not been done
    assert [change.number for change in unfinished(area)] == [1]
    (found,) = recover(area)
    assert (found.done, found.left) == (5, 1)
    assert "5 steps are done, 1 are not" in found.text and "magpie redo 1" in found.text
    assert recover(area) == [] and unfinished(area) == []
    redo(area)
    assert disk.status("new 3") and undo(area).done == 6


def test_a_damaged_journal_is_used_as_far_as_it_is_whole(disk: Disk) -> None:
    area = _unfinished(disk)
    path = Path(disk.path(area.journal(1)))
    with open(path, "ab") as file:
        file.write(b"00000000 {garbage\n" + line_of({"r": "end", "state": "done"})[:20])
    (found,) = recover(area)
    assert "damaged or cut off" in found.damaged and found.done == 6
    assert undo(area).done == 6


@pytest.mark.parametrize("record", ["step", "go", "did", "ready", "end"])
def test_a_journal_that_rots_later_is_made_up_for_by_looking(disk: Disk, record: str) -> None:
    steps = numbered(*(step(Do.MOVE, f"{n}", f"new {n}", put(disk, f"{n}")) for n in range(6)))
    area = Area(disk)
    apply(area, steps, "test")
    path = Path(disk.path(area.journal(1)))
    lines = path.read_bytes().splitlines(keepends=True)
    at = max(number for number, line in enumerate(lines) if f'"r":"{record}"'.encode() in line)
    lines[at] = lines[at].replace(b"{", b"[", 1)
    path.write_bytes(b"".join(lines))
    recover(area)
    outcome = undo(area)
    back = [n for n in range(6) if disk.status(f"{n}")]
    if record == "step":  # one record of a step is gone for good: all others come back, and it is said
        assert back == [0, 1, 2, 3, 4] and disk.status("new 5")
    else:
        assert back == [0, 1, 2, 3, 4, 5]
    if record != "end":
        assert any(f"record {at + 1} of 000001.log is damaged" in why for _, why in outcome.skipped)
    assert undo(area, 1).done == 0


def test_a_run_that_never_began_counts_for_nothing(disk: Disk) -> None:
    area = _unfinished(disk)
    path = Path(disk.path(area.journal(1)))
    lines = path.read_bytes().splitlines(keepends=True)
    path.write_bytes(b"".join(line for line in lines if b'"ready"' not in line and b'"go"' not in line))
    recover(area)
    assert history(area) == []


def test_batches_are_independent() -> None:
    moves = [("a", "b"), ("c", "d"), ("b", "e"), ("f/x", "g"), ("f", "h"), ("i", "h/y")]
    steps = numbered(*(step(Do.MOVE, source, target) for source, target in moves))
    assert [[s.source for s in batch] for batch in batches(steps, 100)] == [["a", "c"], ["b", "f/x"], ["f"], ["i"]]
    assert sum(len(batch) for batch in batches(steps, 1)) == 6


# --- failing disks ---------------------------------------------------------------------------------------------------


class FailingDisk(Disk):
    """A disk on which the calls named fail with an error, from the given count on."""

    def __init__(self, root: str, call: str, number: int, after: int = 0) -> None:
        super().__init__(root)
        self.call, self.number, self.after = call, number, after

    def _perhaps(self, call: str) -> None:
        if call == self.call:
            self.after -= 1
            if self.after < 0:
                raise OSError(self.number, os.strerror(self.number))

    def rename(self, source: str, target: str, claimed: Any = None) -> None:
        self._perhaps("rename")
        super().rename(source, target)

    def open_new(self, path: str):  # type: ignore[no-untyped-def]
        self._perhaps("open_new")
        return super().open_new(path)


@pytest.mark.parametrize(("number", "text"), [(errno.EIO, "input/output error"), (errno.EACCES, "permission denied")])
def test_an_error_costs_one_step(disk: Disk, number: int, text: str) -> None:
    steps = numbered(*(step(Do.MOVE, f"{n}", f"new {n}", put(disk, f"{n}")) for n in range(4)))

    class Once(FailingDisk):
        def rename(self, source: str, target: str, claimed: Any = None) -> None:
            if source == "2":
                raise OSError(number, os.strerror(number))
            Disk.rename(self, source, target)

    outcome = apply(Area(Once(disk.root, "", 0)), steps, "test")
    assert outcome.done == 3 and outcome.failed == [("2", text)]
    assert read(disk, "2") == b"2"


def test_a_full_disk_stops_the_change(disk: Disk) -> None:
    steps = numbered(*(step(Do.COPY, f"{n}", f"new {n}", put(disk, f"{n}")) for n in range(4)))
    outcome = apply(Area(FailingDisk(disk.root, "open_new", errno.ENOSPC, after=2)), steps, "test")
    assert outcome.done == 2 and "No space left" in outcome.why_stopped and outcome.left == 1
    assert not os.path.exists(disk.path(".magpie/work"))
    assert redo(Area(disk)).done == 2


# --- two drives ------------------------------------------------------------------------------------------------------


@pytest.fixture
def drives(disk: Disk) -> Iterator[Disk]:
    """A disk with a small file system of its own mounted at `two`."""
    os.mkdir(disk.path("two"))
    if (
        os.geteuid()
        or subprocess.run(
            ["mount", "-t", "tmpfs", "-o", "size=4m", "tmpfs", disk.path("two")], capture_output=True, check=False
        ).returncode
    ):
        pytest.skip("only root can mount a second file system")
    yield disk
    subprocess.run(["umount", "-l", disk.path("two")], check=True)


def test_a_move_between_drives_keeps_everything_and_comes_back(drives: Disk) -> None:
    seen = put(drives, "a/film", b"film" * 10_000)
    drives.set_mode("a/film", 0o640)
    os.setxattr(drives.path("a/film"), "user.note", b"seen")
    before = os.lstat(drives.path("a/film"))
    apply(Area(drives), numbered(step(Do.MOVE, "a/film", "two/film", seen)), "test")
    after = os.lstat(drives.path("two/film"))
    assert (after.st_mtime_ns, stat.S_IMODE(after.st_mode)) == (before.st_mtime_ns, 0o640)
    assert drives.status("a/film") is None
    assert os.listdir(drives.path("two/.magpie")) == ["area.json"]
    undo(Area(drives))
    back = os.lstat(drives.path("a/film"))
    assert (back.st_ino, back.st_mtime_ns) == (before.st_ino, before.st_mtime_ns)
    assert os.getxattr(drives.path("a/film"), "user.note") == b"seen"


def test_a_folder_between_drives(drives: Disk) -> None:
    put(drives, "a/b/one")
    put(drives, "a/two")
    os.symlink("two", drives.path("a/link"))
    status = drives.status("a")
    before = tree_of(drives)
    apply(Area(drives), numbered(step(Do.MOVE, "a", "two/a", status.seen if status else None)), "test")
    assert read(drives, "two/a/b/one") == b"a/b/one" and drives.link_text("two/a/link") == "two"
    undo(Area(drives))
    assert tree_of(drives) == before


def test_room_is_looked_for_before_the_first_byte(drives: Disk) -> None:
    seen = put(drives, "big", b"x" * (6 << 20))
    small = put(drives, "small")
    before = tree_of(drives)
    with pytest.raises(MagpieError, match=r"“two” has .* free, and the plan copies 6.0M to it: .* are missing"):
        apply(Area(drives), numbered(step(Do.MOVE, "small", "s", small), step(Do.MOVE, "big", "two/big", seen)), "test")
    assert tree_of(drives) == before and history(Area(drives)) == []


def test_a_source_that_changes_under_the_copy_stays(drives: Disk) -> None:
    seen = put(drives, "film", b"x" * (3 << 20))

    class Growing(Disk):
        def open_new(self, path: str):  # type: ignore[no-untyped-def]
            with open(self.path("film"), "ab") as file:
                file.write(b"more")
            return super().open_new(path)

    outcome = apply(Area(Growing(drives.root)), numbered(step(Do.MOVE, "film", "two/film", seen)), "test")
    assert outcome.skipped == [("film", "it changed while it was copied")]
    assert drives.status("two/film") is None and drives.status("film") and tree_of(drives).keys() == {"film", "two"}


def test_a_failing_destination_is_noticed_by_reading_back(drives: Disk) -> None:
    seen = put(drives, "film", b"x" * 5000)

    class Rotten(Disk):
        def sync_file(self, file):  # type: ignore[no-untyped-def]
            super().sync_file(file)
            if "part" in str(file.name) or isinstance(file.name, int):
                for path in Path(self.path("two/.magpie/work")).glob("*"):
                    with open(path, "rb+") as damaged:
                        damaged.write(b"y")

    outcome = apply(Area(Rotten(drives.root)), numbered(step(Do.MOVE, "film", "two/film", seen)), "test")
    assert "read back, differs" in outcome.skipped[0][1] and read(drives, "film") == b"x" * 5000


def test_a_drive_that_vanishes(drives: Disk) -> None:
    seen = put(drives, "film")
    subprocess.run(["umount", "-l", drives.path("two")], check=True)
    os.rmdir(drives.path("two"))
    outcome = apply(Area(drives), numbered(step(Do.MOVE, "film", "two/film", seen)), "test")
    os.mkdir(drives.path("two"))
    subprocess.run(["mount", "-t", "tmpfs", "tmpfs", drives.path("two")], check=True)
    assert outcome.done == 0 and "no longer there" in outcome.skipped[0][1] and read(drives, "film") == b"film"


# --- hostile archives ------------------------------------------------------------------------------------------------


def _tarred(*infos: tuple[str, bytes, str]) -> bytes:
    out = io.BytesIO()
    with tarfile.open(fileobj=out, mode="w:gz") as packed:
        for name, sort, link in infos:
            info = tarfile.TarInfo(name)
            info.type, info.linkname = sort, link
            packed.addfile(info)
    return out.getvalue()


HOSTILE = {
    "outside": zipped(**{"..__..__x": "out"}),
    "absolute": zipped(__etc__x="out"),
    "drive": zipped(**{"a\\..\\x": "out"}),
    "twins": zipped(name="1", Name="2"),
    "bomb": b"",
    "cut off": zipped(one="1" * 9999)[:-40],
    "no archive": b"just text",
    "symlink": _tarred(("link", tarfile.SYMTYPE, "/tmp"), ("link/x", tarfile.REGTYPE, "")),
    "device": _tarred(("null", tarfile.CHRTYPE, "")),
    "tar outside": _tarred(("../../x", tarfile.REGTYPE, "")),
}


@pytest.mark.parametrize("sort", HOSTILE)
def test_a_hostile_archive_is_left_alone(disk: Disk, sort: str) -> None:
    data = HOSTILE[sort]
    if sort == "bomb":
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
            packed.writestr("zeros", bytes(80 << 20))
        data = out.getvalue()
    seen = put(disk, "in/a.zip", data)
    before = tree_of(disk)
    outcome = apply(Area(disk), numbered(step(Do.UNPACK, "in/a.zip", "in/a", seen)), "test")
    assert outcome.done == 0 and len(outcome.skipped) == 1 and outcome.failed == []
    assert tree_of(disk) == before
    assert os.listdir(Path(disk.root).parent) == ["root"]


def test_random_plans_there_and_back(tmp_path: Path) -> None:
    from tests.chaos.plans import Planner, make_tree

    for seed in range(30):
        root = tmp_path / str(seed)
        (root / ".magpie").mkdir(parents=True)
        disk, chance = Disk(str(root)), random.Random(seed)
        make_tree(disk, chance, ())
        before = tree_of(disk)
        outcome = apply(Area(disk), Planner(disk, chance, ()).plan(15), "test")
        assert outcome.skipped == outcome.failed == [], seed
        after = tree_of(disk)
        undo(Area(disk))
        assert tree_of(disk) == before, seed
        redo(Area(disk))
        assert tree_of(disk).keys() == after.keys(), seed
