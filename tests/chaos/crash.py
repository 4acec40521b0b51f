"""One crash on real file systems: a plan is killed in the middle, perhaps its recovery, undo or redo too."""

from __future__ import annotations

import os
import random
import shutil
import subprocess
import sys
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from lazy_magpie.change import Filesystem, JournalStore, history, recover, redo, undo
from lazy_magpie.change.failpoints import POINTS, VARIABLE
from tests.chaos import casefold
from tests.chaos.plans import Planner, contents, faults, make_tree, wanted

DRIVE = "Drive two"
IN_RECOVERY = [name for name in POINTS if name.startswith("recovery")]


@contextmanager
def second_drive(root: Path, kind: str) -> Iterator[tuple[str, ...]]:
    """Mount a file system of its own inside `root`, where this process may; yield the drives.

    `kind` is memory, casefold (it ignores case), or nothing.
    """
    folder = root / DRIVE
    folder.mkdir()
    if kind == "casefold" and casefold.is_possible():
        backing = root.with_name(f"{root.name} backing")
        backing.mkdir()
        with casefold.mounted(backing, folder) as is_there:
            yield (DRIVE,) if is_there else ()
        shutil.rmtree(backing, ignore_errors=True)
        return
    command = ["mount", "-t", "tmpfs", "-o", "size=64m", "tmpfs", str(folder)]
    mounted = (
        bool(kind) and os.geteuid() == 0 and not subprocess.run(command, check=False, capture_output=True).returncode
    )
    try:
        yield (DRIVE,) if mounted else ()
    finally:
        if mounted:
            subprocess.run(["umount", "-l", str(folder)], check=True)


def tree_of(disk: Filesystem, folder: str = "") -> dict[str, object]:
    """Return every path with what is there (bytes, time, mode, attributes, names), magpie's own left out."""
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
                found[path] = (file.read(), status.mtime, status.mode, _attributes(disk.path(path)), status.links)
    return found


def _attributes(path: str) -> dict[str, bytes]:
    try:
        return {name: os.getxattr(path, name) for name in os.listxattr(path)}
    except OSError:
        return {}


def killed(root: Path, what: str, seed: int, drives: tuple[str, ...], at: str, after: float) -> bool:
    """Run the child and kill it at a named point, or `after` seconds if none is named. Say whether it was killed."""
    env = {**os.environ, VARIABLE: at}
    command = [sys.executable, "-m", "tests.chaos.child", str(root), what, str(seed), *drives]
    child = subprocess.Popen(command, env=env, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
    assert child.stdout is not None
    child.stdout.readline()
    if not at:
        with suppress(subprocess.TimeoutExpired):
            child.wait(after)
        child.kill()
    _, errors = child.communicate(timeout=60)
    assert child.returncode in (0, -9), errors
    return child.returncode == -9


def one_run(root: Path, seed: int, point: str | None = None, drive: str | None = None) -> list[str]:
    """Kill a random plan on a random tree below the new folder `root`, recover, undo or redo; return what is wrong."""
    chance = random.Random(seed)
    root.mkdir()
    (root / ".magpie").mkdir()
    kind = chance.choice(["memory", "memory", "casefold", ""]) if drive is None else drive
    with second_drive(root, kind) as drives:
        disk = Filesystem(str(root))
        make_tree(disk, chance, drives)
        planner = random.Random(seed)
        steps = Planner(disk, planner, drives, ignores_case=kind == "casefold").plan(planner.randrange(3, 25))
        before, allowed, tree = contents(disk), wanted(disk, steps), tree_of(disk)
        at = point or chance.choice(["", *POINTS])
        at = f"{at}:{chance.randrange(1, 8)}" if at else at
        what = f"apply {kind}" if kind == "casefold" else "apply"
        killed(root, what, seed, drives, at, chance.random() * 0.02)
        if chance.random() < 0.5:
            _killed_somewhere(root, "recover", seed, drives, chance, IN_RECOVERY)
        store = JournalStore(disk)
        recover(store)
        wrong = faults(disk, before, allowed)
        for more in chance.choice([(), ("undo",), ("redo",), ("undo", "redo"), ("redo", "undo")]):
            if history(store):
                _killed_somewhere(root, more, seed, drives, chance, POINTS)
                recover(store)
                wrong += [f"after a killed {more}: {fault}" for fault in faults(disk, before, allowed)]
        if history(store):
            wrong += _completed(store, disk, chance, tree)
            wrong += [f"after undo or redo: {fault}" for fault in faults(disk, before, allowed)]
            wrong += _emptied(store, disk, root, seed, drives, chance)
    return [f"seed {seed}, {kind}, {at}: {fault}" for fault in wrong]


def _killed_somewhere(
    root: Path, what: str, seed: int, drives: tuple[str, ...], chance: random.Random, points: object
) -> None:
    """Kill the child at one of some points, or at a random instant."""
    at = f"{chance.choice(list(points))}:{chance.randrange(1, 4)}" if chance.random() < 0.7 else ""  # type: ignore[call-overload]
    killed(root, what, seed, drives, at, chance.random() * 0.01)


def _completed(store: JournalStore, disk: Filesystem, chance: random.Random, tree: dict[str, object]) -> list[str]:
    """Redo (now and then) and undo; return what was not done, and what then differs from the tree before."""
    number = store.changes()[0]
    runs = [redo, undo] if chance.random() < 0.5 else [undo]
    wrong = []
    for run in runs:
        outcome = run(store, number)
        wrong += [f"{run.__name__} left {path}: {why}" for path, why in (*outcome.skipped, *outcome.failed)]
    after = tree_of(disk)
    differ = [path for path in tree.keys() | after.keys() if tree.get(path) != after.get(path)]
    return wrong + [
        f"not as before: {path!r}: {_short(tree.get(path))}, now {_short(after.get(path))}" for path in differ
    ]


def _short(what: object) -> str:
    return repr((what[0][:20], *what[1:]) if isinstance(what, tuple) else what)


def _emptied(
    store: JournalStore, disk: Filesystem, root: Path, seed: int, drives: tuple[str, ...], chance: random.Random
) -> list[str]:
    """Do it again, empty the holding area, perhaps killed in the middle, take it back: what is in the tree stays."""
    redo(store)
    there = _in_tree(disk)
    if chance.random() < 0.5:
        killed(root, "empty", seed, drives, "", chance.random() * 0.01)
    killed(root, "empty", seed, drives, "", 10)
    wrong = [f"emptying took {data[:40]!r}" for data, count in there.items() if _in_tree(disk)[data] < count]
    undo(store)
    held_now = contents(disk)
    return wrong + [f"undo after emptying lost {data[:40]!r}" for data, count in there.items() if held_now[data] < 1]


def _in_tree(disk: Filesystem) -> Counter[bytes]:
    return Counter(what[0] for what in tree_of(disk).values() if isinstance(what, tuple) and isinstance(what[0], bytes))
