"""One crash on real file systems: a plan is killed in the middle, perhaps its recovery too; what then holds."""

from __future__ import annotations

import os
import random
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from lazy_magpie.change import Area, Disk, history, recover, redo, undo
from lazy_magpie.change.crash import POINTS, VARIABLE
from tests.chaos.plans import Planner, contents, faults, make_tree, wanted

DRIVE = "Drive two"
IN_RECOVERY = [name for name in POINTS if name.startswith("recovery")]


@contextmanager
def second_drive(root: Path, mount: bool) -> Iterator[tuple[str, ...]]:
    """Mount a file system of its own inside `root`, if wanted and where this process may; yield the drives."""
    folder = root / DRIVE
    folder.mkdir()
    mounted = (
        mount
        and os.geteuid() == 0
        and not subprocess.run(
            ["mount", "-t", "tmpfs", "-o", "size=64m", "tmpfs", str(folder)], capture_output=True, check=False
        ).returncode
    )
    try:
        yield (DRIVE,) if mounted else ()
    finally:
        if mounted:
            subprocess.run(["umount", "-l", str(folder)], check=True)


def tree_of(disk: Disk, folder: str = "") -> dict[str, object]:
    """Return every path with what is there, magpie's own left out."""
    found: dict[str, object] = {}
    for name in disk.names(folder):
        path = f"{folder}/{name}" if folder else name
        status = disk.status(path)
        if name == ".magpie" or status is None:
            continue
        if status.is_folder and not status.is_link:
            found[path] = "folder"
            found |= tree_of(disk, path)
        elif status.is_link:
            found[path] = ("link", disk.link_text(path))
        else:
            with disk.open_old(path) as file:
                found[path] = (file.read(), status.mtime)
    return found


def killed(root: Path, what: str, seed: int, drives: tuple[str, ...], at: str, after: float) -> bool:
    """Run the child and kill it at a named point, or `after` seconds if none is named. Say whether it was killed."""
    env = {**os.environ, VARIABLE: at}
    command = [sys.executable, "-m", "tests.chaos.child", str(root), what, str(seed), *drives]
    child = subprocess.Popen(command, env=env, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
    assert child.stdout is not None
    child.stdout.readline()
    if not at:
        time.sleep(after)
        child.kill()
    _, errors = child.communicate(timeout=60)
    assert child.returncode in (0, -9), errors
    return child.returncode == -9


def one_run(root: Path, seed: int, point: str | None = None) -> list[str]:
    """Kill a random plan on a random tree below the new folder `root`, recover, undo or redo; return what is wrong."""
    chance = random.Random(seed)
    root.mkdir()
    (root / ".magpie").mkdir()
    with second_drive(root, chance.random() < 0.6) as drives:
        disk = Disk(str(root))
        make_tree(disk, chance, drives)
        planner = random.Random(seed)
        steps = Planner(disk, planner, drives).plan(planner.randrange(3, 25))
        before, allowed, tree = contents(disk), wanted(disk, steps), tree_of(disk)
        at = point or chance.choice(["", *POINTS])
        at = f"{at}:{chance.randrange(1, 8)}" if at else at
        killed(root, "apply", seed, drives, at, chance.random() * 0.02)
        if chance.random() < 0.5:
            at = f"{chance.choice(IN_RECOVERY)}:{chance.randrange(1, 4)}" if chance.random() < 0.7 else ""
            killed(root, "recover", seed, drives, at, chance.random() * 0.005)
        area = Area(disk)
        recover(area)
        wrong = faults(disk, before, allowed)
        if history(area):
            wrong += _completed(area, disk, chance, tree)
            wrong += [f"after undo or redo: {fault}" for fault in faults(disk, before, allowed)]
    return [f"seed {seed}, {at}: {fault}" for fault in wrong]


def _completed(area: Area, disk: Disk, chance: random.Random, tree: dict[str, object]) -> list[str]:
    """Redo (now and then) and undo; return what was not done, and what then differs from the tree before."""
    number = area.changes()[0]
    runs = [redo, undo] if chance.random() < 0.5 else [undo]
    wrong = []
    for run in runs:
        outcome = run(area, number)
        wrong += [f"{run.__name__} left {path}: {why}" for path, why in (*outcome.skipped, *outcome.failed)]
    after = tree_of(disk)
    wrong += [f"not as before: {path!r}" for path in tree.keys() | after.keys() if tree.get(path) != after.get(path)]
    return wrong
