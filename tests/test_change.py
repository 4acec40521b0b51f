"""The change engine: every sort of step there and back, skips, failures, damaged journals, stops."""

from __future__ import annotations

import errno
import io
import os
import random
import tarfile
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from lazy_magpie.change import (
    Filesystem,
    JournalStore,
    RunControl,
    apply,
    history,
    recover,
    redo,
    undo,
    unfinished,
)
from lazy_magpie.change.batches import batches
from lazy_magpie.change.filesystem.rename import by_claim, by_link, rename_no_replace
from lazy_magpie.change.records import decode_line, encode_line
from lazy_magpie.errors import MagpieError
from lazy_magpie.model import StepKind
from tests.chaos.crash import tree_of
from tests.disks import Steps, numbered, put, read, step, zipped

CASES: dict[str, Callable[[Filesystem], Steps]] = {
    "move": lambda d: [step(StepKind.MOVE, "a", "b", put(d, "a"))],
    "copy": lambda d: [step(StepKind.COPY, "a", "b", put(d, "a"))],
    "hardlink": lambda d: [step(StepKind.HARDLINK, "a", "b", put(d, "a"))],
    "softlink": lambda d: [step(StepKind.SOFTLINK, "", "b", text="nowhere")],
    "make": lambda d: [step(StepKind.MAKE, "", "folder")],
    "hold": lambda d: [step(StepKind.HOLD, "x/a", "", put(d, "x/a"))],
    "write": lambda d: [step(StepKind.WRITE, "", "b", text="new text")],
    "replace": lambda d: [step(StepKind.REPLACE, "new", "old", put(d, "old"))] if put(d, "new") else [],
    "unpack": lambda d: [step(StepKind.UNPACK, "a.zip", "b", put(d, "a.zip", zipped(one="1", sub__two="2")))],
    "tag": lambda d: [step(StepKind.TAG, "a", "", old="", new="seen")],
    "swap": lambda d: [
        step(StepKind.MOVE, "a", "aside", put(d, "a")),
        step(StepKind.MOVE, "b", "a", put(d, "b")),
        step(StepKind.MOVE, "aside", "b"),
    ],
}


@pytest.mark.parametrize("case", CASES)
def test_each_sort_of_step_there_and_back_and_there_again(disk: Filesystem, case: str) -> None:
    steps = numbered(*CASES[case](disk))
    store, before = JournalStore(disk), tree_of(disk)
    outcome = apply(store, steps, "test")
    assert (outcome.done, outcome.skipped, outcome.failed) == (len(steps), [], [])
    after = tree_of(disk)
    assert (after != before) is (case != "tag")
    undo(store)
    assert tree_of(disk) == before
    assert undo(store, 1).done == 0  # twice is harmless
    redo(store)
    assert {path: what for path, what in tree_of(disk).items() if what == "folder"} == {
        path: what for path, what in after.items() if what == "folder"
    }
    assert tree_of(disk).keys() == after.keys()
    undo(store, 1)
    assert tree_of(disk) == before


def test_a_dropped_folder_comes_back_with_its_mode_and_time(disk: Filesystem) -> None:
    disk.make_folder("empty")
    disk.set_mode("empty", 0o750)
    disk.set_times("empty", 1_500_000_000_000_000_000)
    apply(JournalStore(disk), numbered(step(StepKind.DROP, "empty")), "test")
    assert disk.status("empty") is None
    undo(JournalStore(disk))
    status = disk.status("empty")
    assert status is not None and (status.mode, status.mtime) == (0o750, 1_500_000_000_000_000_000)


def test_nothing_is_replaced_by_any_sort(disk: Filesystem) -> None:
    seen, there = put(disk, "a"), "there"
    for do, data in (
        (StepKind.MOVE, {}),
        (StepKind.COPY, {}),
        (StepKind.HARDLINK, {}),
        (StepKind.SOFTLINK, {"text": "x"}),
        (StepKind.WRITE, {"text": "x"}),
    ):
        put(disk, there, "mine")
        source = "" if do in (StepKind.SOFTLINK, StepKind.WRITE) else "a"
        outcome = apply(JournalStore(disk), numbered(step(do, source, there, seen if source else None, **data)), "test")
        assert outcome.done == 0 and "there now" in outcome.skipped[0][1], do
        assert read(disk, there) == b"mine"


@pytest.mark.parametrize("way", [rename_no_replace, by_link, by_claim])
def test_every_way_to_rename_refuses_to_replace(tmp_path: Path, way: Callable[[str, str], None]) -> None:
    one, other = tmp_path / "one", tmp_path / "other"
    one.write_text("1")
    other.write_text("2")
    with pytest.raises(FileExistsError):
        way(str(one), str(other))
    assert (one.read_text(), other.read_text()) == ("1", "2")
    way(str(one), str(tmp_path / "new"))
    assert (tmp_path / "new").read_text() == "1" and not one.exists()


@pytest.mark.parametrize("way", [rename_no_replace, by_claim])
def test_folders_are_renamed_without_replacing(tmp_path: Path, way: Callable[[str, str], None]) -> None:
    (tmp_path / "one").mkdir()
    (tmp_path / "other").mkdir()
    with pytest.raises(FileExistsError):
        way(str(tmp_path / "one"), str(tmp_path / "other"))
    way(str(tmp_path / "one"), str(tmp_path / "new"))
    assert (tmp_path / "new").is_dir()


def test_a_disk_without_the_systems_rename_uses_the_fallbacks(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    from lazy_magpie.change.filesystem import rename as module

    def unsupported(source: str, target: str) -> None:
        raise OSError(errno.EINVAL, "not here")

    monkeypatch.setattr(module, "_ways", lambda target: (unsupported, by_link, by_claim))
    (tmp_path / "a").write_text("a")
    rename_no_replace(str(tmp_path / "a"), str(tmp_path / "b"))
    (tmp_path / "folder").mkdir()
    rename_no_replace(str(tmp_path / "folder"), str(tmp_path / "renamed"))
    assert sorted(path.name for path in tmp_path.iterdir()) == ["b", "renamed"]


def test_what_changed_since_the_plan_is_skipped(disk: Filesystem) -> None:
    old = put(disk, "a")
    put(disk, "a", "changed")
    missing = put(disk, "b")
    os.unlink(disk.path("b"))
    outcome = apply(
        JournalStore(disk), numbered(step(StepKind.MOVE, "a", "c", old), step(StepKind.MOVE, "b", "d", missing)), "test"
    )
    assert [why for _, why in outcome.skipped] == ["it has changed since the plan was made", "it is no longer there"]


def test_a_copy_goes_only_if_the_one_that_stays_is_the_same(disk: Filesystem) -> None:
    put(disk, "keep", "same")
    seen = put(disk, "go", "same")
    put(disk, "keep", "Same")
    outcome = apply(JournalStore(disk), numbered(step(StepKind.HOLD, "go", "", seen, keeps="keep")), "test")
    assert "no longer equals" in outcome.skipped[0][1] and read(disk, "go") == b"same"
    os.unlink(disk.path("keep"))
    outcome = apply(JournalStore(disk), numbered(step(StepKind.HOLD, "go", "", seen, keeps="keep")), "test")
    assert "no longer there" in outcome.skipped[0][1] and read(disk, "go") == b"same"
    put(disk, "keep", "same")
    assert apply(JournalStore(disk), numbered(step(StepKind.HOLD, "go", "", seen, keeps="keep")), "test").done == 1


def test_undo_takes_back_what_it_can_after_other_hands(disk: Filesystem) -> None:
    steps = numbered(*(step(StepKind.MOVE, name, f"new {name}", put(disk, name)) for name in "abc"))
    apply(JournalStore(disk), steps, "test")
    os.rename(disk.path("new a"), disk.path("elsewhere"))
    put(disk, "new b", "edited meanwhile")
    put(disk, "c", "something new under the old name")
    outcome = undo(JournalStore(disk))
    assert outcome.done == 0
    assert dict(outcome.skipped) == {
        "new a": "it is no longer there",
        "new b": "it has changed since the plan was made",
        "new c": "something of that name is there now",
    }
    assert read(disk, "new b") == b"edited meanwhile" and read(disk, "new c") == b"c"
    assert history(JournalStore(disk))[0].state == "part undone"


def test_changes_are_undone_newest_first_and_redone(disk: Filesystem) -> None:
    store = JournalStore(disk)
    apply(store, numbered(step(StepKind.MOVE, "a", "b", put(disk, "a"))), "first")
    apply(store, numbered(step(StepKind.MOVE, "b", "c")), "second")
    assert undo(store).change == 2 and undo(store).change == 1
    with pytest.raises(MagpieError, match="nothing to undo"):
        undo(store)
    assert redo(store).change == 1 and redo(store).change == 2
    assert read(disk, "c") == b"a" and [change.state for change in history(store)] == ["done", "done"]


def test_a_stop_between_two_steps_can_be_gone_on_with(disk: Filesystem) -> None:
    steps = numbered(*(step(StepKind.MOVE, f"{n}", f"new {n}", put(disk, f"{n}")) for n in range(10)))
    asked = iter([False] * 5 + [True] * 100)
    outcome = apply(JournalStore(disk), steps, "test", control=RunControl(stop=lambda: next(asked)))
    assert 0 < outcome.done < 10 and outcome.not_reached == 10 - outcome.done
    assert history(JournalStore(disk))[0].state == "stopped"
    assert redo(JournalStore(disk)).done == 10 - outcome.done
    assert undo(JournalStore(disk)).done == 10 and disk.status("9")


# --- the journal -----------------------------------------------------------------------------------------------------


def test_a_record_knows_its_damage() -> None:
    line = encode_line({"r": "did", "done": [1]})
    assert decode_line(line) == {"r": "did", "done": [1]}
    assert (
        decode_line(line[:-3]) is None
        and decode_line(line.replace(b"did", b"dud")) is None
        and decode_line(b"") is None
    )


def _unfinished(disk: Filesystem, count: int = 6) -> JournalStore:
    """Apply a plan and cut its journal off behind the announcement, as a crash would."""
    steps = numbered(*(step(StepKind.MOVE, f"{n}", f"new {n}", put(disk, f"{n}")) for n in range(count)))
    store = JournalStore(disk)
    apply(store, steps, "test")
    path = Path(disk.path(store.journal(1)))
    lines = path.read_bytes().splitlines(keepends=True)
    path.write_bytes(b"".join(line for line in lines if b'"did"' not in line and b'"end"' not in line))
    return store


def test_a_cut_off_journal_is_put_right_by_looking(disk: Filesystem) -> None:
    store = _unfinished(disk)
    os.rename(disk.path("new 3"), disk.path("3"))  # as if this step had not been done
    assert [change.number for change in unfinished(store)] == [1]
    (found,) = recover(store)
    assert (found.done, found.not_reached) == (5, 1)
    assert "5 steps are done, 1 are not" in found.text and "magpie redo 1" in found.text
    assert recover(store) == [] and unfinished(store) == []
    redo(store)
    assert disk.status("new 3") and undo(store).done == 6


def test_a_damaged_journal_is_used_as_far_as_it_is_whole(disk: Filesystem) -> None:
    store = _unfinished(disk)
    path = Path(disk.path(store.journal(1)))
    with open(path, "ab") as file:
        file.write(b"00000000 {garbage\n" + encode_line({"r": "end", "state": "done"})[:20])
    (found,) = recover(store)
    assert "damaged or cut off" in found.damaged and found.done == 6
    assert undo(store).done == 6


@pytest.mark.parametrize("record", ["step", "go", "did", "ready", "end"])
def test_a_journal_that_rots_later_is_made_up_for_by_looking(disk: Filesystem, record: str) -> None:
    steps = numbered(*(step(StepKind.MOVE, f"{n}", f"new {n}", put(disk, f"{n}")) for n in range(6)))
    store = JournalStore(disk)
    apply(store, steps, "test")
    path = Path(disk.path(store.journal(1)))
    lines = path.read_bytes().splitlines(keepends=True)
    at = max(number for number, line in enumerate(lines) if f'"r":"{record}"'.encode() in line)
    lines[at] = lines[at].replace(b"{", b"[", 1)
    path.write_bytes(b"".join(lines))
    recover(store)
    outcome = undo(store)
    back = [n for n in range(6) if disk.status(f"{n}")]
    if record == "step":  # one record of a step is gone for good: all others come back, and it is said
        assert back == [0, 1, 2, 3, 4] and disk.status("new 5")
    else:
        assert back == [0, 1, 2, 3, 4, 5]
    if record != "end":
        assert any(f"record {at + 1} of 000001.log is damaged" in why for _, why in outcome.skipped)
    assert undo(store, 1).done == 0


def test_a_run_that_never_began_counts_for_nothing(disk: Filesystem) -> None:
    store = _unfinished(disk)
    path = Path(disk.path(store.journal(1)))
    lines = path.read_bytes().splitlines(keepends=True)
    path.write_bytes(b"".join(line for line in lines if b'"ready"' not in line and b'"go"' not in line))
    recover(store)
    assert history(store) == []


def test_batches_are_independent() -> None:
    moves = [("a", "b"), ("c", "d"), ("b", "e"), ("f/x", "g"), ("f", "h"), ("i", "h/y")]
    steps = numbered(*(step(StepKind.MOVE, source, target) for source, target in moves))
    assert [[s.source for s in batch] for batch in batches(steps, 100)] == [["a", "c"], ["b", "f/x"], ["f"], ["i"]]
    assert sum(len(batch) for batch in batches(steps, 1)) == 6


# --- failing disks ---------------------------------------------------------------------------------------------------


class FailingDisk(Filesystem):
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
def test_an_error_costs_one_step(disk: Filesystem, number: int, text: str) -> None:
    steps = numbered(*(step(StepKind.MOVE, f"{n}", f"new {n}", put(disk, f"{n}")) for n in range(4)))

    class Once(FailingDisk):
        def rename(self, source: str, target: str, claimed: Any = None) -> None:
            if source == "2":
                raise OSError(number, os.strerror(number))
            Filesystem.rename(self, source, target)

    outcome = apply(JournalStore(Once(disk.root, "", 0)), steps, "test")
    assert outcome.done == 3 and outcome.failed == [("2", text)]
    assert read(disk, "2") == b"2"


def test_a_full_disk_stops_the_change(disk: Filesystem) -> None:
    steps = numbered(*(step(StepKind.COPY, f"{n}", f"new {n}", put(disk, f"{n}")) for n in range(4)))
    outcome = apply(JournalStore(FailingDisk(disk.root, "open_new", errno.ENOSPC, after=2)), steps, "test")
    assert outcome.done == 2 and "No space left" in outcome.why_stopped and outcome.not_reached == 1
    assert not os.path.exists(disk.path(".magpie/work"))
    assert redo(JournalStore(disk)).done == 2


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
def test_a_hostile_archive_is_left_alone(disk: Filesystem, sort: str) -> None:
    data = HOSTILE[sort]
    if sort == "bomb":
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
            packed.writestr("zeros", bytes(80 << 20))
        data = out.getvalue()
    seen = put(disk, "in/a.zip", data)
    before = tree_of(disk)
    outcome = apply(JournalStore(disk), numbered(step(StepKind.UNPACK, "in/a.zip", "in/a", seen)), "test")
    assert outcome.done == 0 and len(outcome.skipped) == 1 and outcome.failed == []
    assert tree_of(disk) == before
    assert os.listdir(Path(disk.root).parent) == ["root"]


def test_random_plans_there_and_back(tmp_path: Path) -> None:
    from tests.chaos.plans import Planner, make_tree

    for seed in range(30):
        root = tmp_path / str(seed)
        (root / ".magpie").mkdir(parents=True)
        disk, chance = Filesystem(str(root)), random.Random(seed)
        make_tree(disk, chance, ())
        before = tree_of(disk)
        outcome = apply(JournalStore(disk), Planner(disk, chance, ()).plan(15), "test")
        assert outcome.skipped == outcome.failed == [], seed
        after = tree_of(disk)
        undo(JournalStore(disk))
        assert tree_of(disk) == before, seed
        redo(JournalStore(disk))
        assert tree_of(disk).keys() == after.keys(), seed
