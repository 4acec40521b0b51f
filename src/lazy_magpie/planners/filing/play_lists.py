"""Play lists of games on several discs: one entry for all, which names the discs by relative paths (M3U, UTF-8).

They are made for systems whose player understands them, adopted and repaired where there is one already, and never made
for one disc. Where the player wants it so, the discs lie in a folder of their own, out of sight.
"""

from __future__ import annotations

import os
import re
from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import replace

from lazy_magpie.config import Config, Player
from lazy_magpie.model import File, Item, Kind, Plan, Step, Unmoved
from lazy_magpie.model.steps import Move, RewriteText, Write, renumbered
from lazy_magpie.paths import join, name_of, parent, same_name, split_ending
from lazy_magpie.planners.disk_view import DiskView

ENDINGS = (".m3u", ".m3u8")
_SHEETS = (".cue", ".gdi", ".ccd", ".mds")
"""Endings of what a player opens instead of the tracks beside it."""
_DISC = r"(?:dis[ck]|cd)[ ._-]?"
_DISC_MARK = re.compile(rf"(?i)[ ._-]*(?:[(\[]{_DISC}[0-9a-h]+[^)\]]*[)\]]|[ ._-]{_DISC}\d+)")
_LARGEST = 1 << 16
_SAME = ("title", "system", "regions", "languages", "revision", "status")


def player_of(config: Config, system: object) -> Player | None:
    """Return a player that understands play lists of a system, None where there is none."""
    return next((one for one in config.players.values() if system in one.play_lists), None)


def discs_of(item: Item) -> set[int]:
    """Return the numbers of the discs that an item has."""
    discs = {file.part for file in item.files if file.role == "main" and file.part}
    alone = item.fields.get("disc")
    return discs or ({alone} if isinstance(alone, int) else set())


def disc_folder_of(item: Item, config: Config) -> str:
    """Return the folder that the discs of a game go to, below where it lies; "" where they lie there themselves."""
    if item.kind is not Kind.GAME or len(discs_of(item)) < 2:
        return ""
    player = player_of(config, item.fields.get("system"))
    return player.discs if player else ""


def with_play_lists(plan: Plan, games: Iterable[Item], config: Config, disk: DiskView) -> Plan:
    """Return a plan with the steps that give each game of several discs its play list, once it is carried out."""
    moved = {step.source: step.target for step in plan.steps if isinstance(step, Move)}
    kept = {conflict for one in plan.conflicts for conflict in one.items}
    steps: list[Step] = list(plan.steps)
    unmoved = list(plan.unmoved)
    for several in _together(games, config):
        if kept.intersection(file.path for item in several for file in item.files):
            continue
        target, found, missing = _play_list(several, moved, config, disk)
        ours = {target, *(step.source for step in found)} - {""}
        steps = [step for step in steps if not (isinstance(step, RewriteText | Move) and _is_ours(step, ours))]
        steps += found
        unmoved = [left for left in unmoved if left.path not in ours] + missing
    return replace(plan, steps=renumbered(steps), unmoved=tuple(unmoved))


def _is_ours(step: Step, ours: set[str]) -> bool:
    return split_ending(step.target)[1].lower() in ENDINGS and (step.target in ours or step.source in ours)


def _together(games: Iterable[Item], config: Config) -> Iterator[list[Item]]:
    """Yield the items of each game that lies on several discs, for which a player understands play lists."""
    by_game: dict[object, list[Item]] = defaultdict(list)
    for item in games:
        is_there = item.kind is Kind.GAME and not item.root and not item.missing and not config.is_left(item.path)
        if is_there and discs_of(item) and player_of(config, item.fields.get("system")):
            by_game[tuple(str(item.fields.get(name)) for name in _SAME)].append(item)
    for several in by_game.values():
        if len(set().union(*map(discs_of, several))) > 1:
            yield several


def _play_list(
    several: Sequence[Item], moved: Mapping[str, str], config: Config, disk: DiskView
) -> tuple[str, list[Step], list[Unmoved]]:
    """Return where a game's play list is to be, the steps for it, and which discs it lacks."""
    player = player_of(config, several[0].fields.get("system"))
    assert player is not None
    files = [(file, moved.get(file.path, file.path), item) for item in several for file in item.files]
    discs: dict[int, list[str]] = defaultdict(list)
    images: set[int] = set()
    for file, path, item in files:
        number = file.part or item.fields.get("disc")
        if isinstance(number, int) and number and split_ending(path)[1].lower() not in ENDINGS:
            discs[number].append(path)
            images |= {number} if file.role == "main" else set()
    discs = {number: paths for number, paths in discs.items() if number in images}
    if len(discs) < 2:
        return "", [], []
    entries = [opened(paths) for _, paths in sorted(discs.items())]
    home = os.path.commonpath([parent(path) for path in entries]) if all(map(parent, entries)) else ""
    if player.discs and name_of(home) == player.discs:
        home = parent(home)
    stem = without_disc(split_ending(name_of(entries[0]))[0]) or str(several[0].fields["title"])
    target = join(home, f"{stem}.m3u")
    text = "".join(f"{os.path.relpath(path, home or '.')}\n" for path in entries)
    lacking = [number for number in range(1, max(discs)) if number not in discs]
    missing = [Unmoved(several[0].path, f"disc {number} is missing", asks=True) for number in lacking]
    group, why = name_of(home) or ".", f"one entry for {len(entries)} discs"
    names = {name_of(path) for path in entries} | {name_of(file.path) for file, _, _ in files}
    old = _found({home, *(parent(file.path) for file, _, _ in files)}, target, names, disk)
    return target, _steps(old, target, text, why, group, disk), missing


def _found(folders: Iterable[str], target: str, names: set[str], disk: DiskView) -> File | None:
    """Return the play list of a game that is there already: under its name, or one that names any of its discs."""
    for folder in sorted(folders, key=len):
        for name in sorted(disk.names(folder), key=lambda name: join(folder, name) != target):
            path = join(folder, name)
            status = disk.status(path) if split_ending(name)[1].lower() in ENDINGS else None
            if status is None or status.is_folder or status.size > _LARGEST:
                continue
            with disk.open_old(path) as file:
                lines = file.read().decode("utf-8-sig", "surrogateescape").splitlines()
            if path == target or any(name_of(line.replace("\\", "/")) in names for line in lines):
                return File(path, status.size, status.mtime, status.inode)
    return None


def _steps(old: File | None, target: str, text: str, why: str, group: str, disk: DiskView) -> list[Step]:
    """Return the steps that write a play list, or give the one that is there its name and its text."""
    if old is None:
        return [Write(target=target, why=why, group=group, text=text)]
    steps: list[Step] = []
    if same_name(old.path) != same_name(target):
        if disk.status(target) is not None:
            return []
        steps.append(Move(source=old.path, target=target, why=why, group=group, stamp=old.stamp))
    else:
        target = old.path
    with disk.open_old(old.path) as file:
        if file.read(_LARGEST) != text.encode("utf-8", "surrogateescape"):
            steps.append(RewriteText(target=target, why=f"{why}, as they lie now", group=group, text=text))
    return steps


def without_disc(stem: str) -> str:
    """Return the name of a disc's file without the number of the disc."""
    return _DISC_MARK.sub("", stem).strip(" ._-")


def opened(paths: Sequence[str]) -> str:
    """Return what of a disc's files a player opens: the sheet that names the tracks, else the first file."""

    def order(path: str) -> tuple[int, str]:
        ending = split_ending(path)[1].lower()
        return (_SHEETS.index(ending) if ending in _SHEETS else len(_SHEETS)), path

    return min(paths, key=order)
