"""Power cuts on a simulated disk: at a random call everything not synced is forgotten, in any order."""

from __future__ import annotations

import random

import pytest

from lazy_magpie.change import JournalStore, apply, recover, redo, undo
from lazy_magpie.errors import MagpieError
from lazy_magpie.model.steps import DropFolder, Move
from tests.chaos.plans import Planner, contents, faults, make_tree, wanted
from tests.chaos.simulated import PowerCut, SimulatedDisk


def one_run(seed: int) -> list[str]:
    """Make a tree, apply a plan, cut the power, recover (perhaps cut again), undo or redo; return what is wrong."""
    chance = random.Random(seed)
    drives = ("Drive two",) if chance.random() < 0.5 else ()
    disk = SimulatedDisk(drives, seed)
    make_tree(disk, chance, drives)
    disk.make_folder(".magpie")
    disk.settle()
    steps = Planner(disk, chance, drives).plan(chance.randrange(3, 25))
    before, allowed = contents(disk), wanted(disk, steps)
    area = JournalStore(disk)  # type: ignore[arg-type]
    disk.calls_left = chance.randrange(1, 40 + 12 * len(steps))
    try:
        apply(area, steps, "chaos")
    except (PowerCut, MagpieError):
        pass
    disk.power_cut()
    for _ in range(chance.randrange(3)):  # a second cut, in the recovery
        disk.calls_left = chance.randrange(1, 60)
        try:
            recover(area)
        except (PowerCut, MagpieError):
            pass
        disk.power_cut()
    recover(area)
    disk.calls_left = -1
    wrong = faults(disk, before, allowed)
    if area.changes():
        try:
            (redo if chance.random() < 0.5 else undo)(area, 1)
        except MagpieError:
            pass
        wrong += [f"after undo or redo: {fault}" for fault in faults(disk, before, allowed)]
    return [f"seed {seed}: {fault}" for fault in wrong]


@pytest.mark.parametrize("start", range(0, 400, 50))
def test_nothing_is_lost_in_a_power_cut(start: int) -> None:
    assert [fault for seed in range(start, start + 50) for fault in one_run(seed)] == []


def test_without_a_cut_undo_restores_everything() -> None:
    for seed in range(1000, 1060):
        chance = random.Random(seed)
        disk = SimulatedDisk(("Drive two",), seed)
        make_tree(disk, chance, ("Drive two",))
        disk.make_folder(".magpie")
        steps = Planner(disk, chance, ("Drive two",)).plan(20)

        def state(disk: SimulatedDisk = disk) -> dict[str, object]:
            paths = [path for path in disk.walk() if ".magpie" not in path]
            return {path: (disk._at(path).kind, disk._at(path).data, disk._at(path).mtime) for path in paths}

        before = state()
        done = apply(JournalStore(disk), steps, "chaos")  # type: ignore[arg-type]
        assert done.skipped == done.failed == [], seed
        after = {path: what[:2] for path, what in state().items()}  # type: ignore[index]
        undo(JournalStore(disk))  # type: ignore[arg-type]
        assert state() == before, seed
        redo(JournalStore(disk))  # type: ignore[arg-type]
        assert {path: what[:2] for path, what in state().items()} == after, seed  # type: ignore[index]
        undo(JournalStore(disk))  # type: ignore[arg-type]
        assert {path: what[:2] for path, what in state().items()} == {p: w[:2] for p, w in before.items()}  # type: ignore[index]


def test_a_folder_emptied_onto_another_drive_and_dropped_comes_back_from_a_cut_at_any_call() -> None:
    def place(disk: SimulatedDisk) -> dict[str, bytes]:
        paths = [path for path in disk.walk() if ".magpie" not in path]
        return {path: disk._at(path).data for path in paths}

    cuts, done = 0, False
    while not done:
        disk = SimulatedDisk(("Drive two",), cuts)
        for folder in ("box", "box/inner", ".magpie"):
            disk.make_folder(folder)
        disk.put("box/inner/kelp.mkv", b"kelp" * 50)
        disk.settle()
        before, seen = place(disk), disk.status("box/inner/kelp.mkv").stamp  # type: ignore[union-attr]
        steps = [
            Move(number=1, source="box/inner/kelp.mkv", target="Drive two/kelp.mkv", stamp=seen),
            DropFolder(number=2, source="box/inner"),
            DropFolder(number=3, source="box"),
        ]
        disk.calls_left = cuts = cuts + 1
        try:
            apply(JournalStore(disk), steps, "chaos")  # type: ignore[arg-type]
            done = True
        except PowerCut:
            pass
        disk.power_cut()
        recover(JournalStore(disk))  # type: ignore[arg-type]
        disk.calls_left = -1
        if JournalStore(disk).changes():  # type: ignore[arg-type]
            try:
                undo(JournalStore(disk))  # type: ignore[arg-type]
            except MagpieError as error:
                assert "nothing to undo" in str(error), (cuts, error)
        assert place(disk) == before, cuts
    assert cuts > 30
