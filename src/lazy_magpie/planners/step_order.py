"""Puts moves into an order in which each finds its destination free, with the folders they need made and dropped."""

from __future__ import annotations

import dataclasses
from collections.abc import Iterable, Sequence
from enum import Enum, auto
from heapq import heapify, heappop, heappush
from itertools import count

from lazy_magpie.model import Step
from lazy_magpie.model.steps import DropFolder, DropLink, MakeFolder, Move, RewriteText, renumbered
from lazy_magpie.paths import above, join, name_of, parent, same_name
from lazy_magpie.planners.directory_index import Listing

_ASIDE = ".aside-"


def ordered_steps(moves: Sequence[Step], listing: Listing, keep: Iterable[str] = ()) -> tuple[Step, ...]:
    """Return `moves` in an order that works, numbered from 1, between the folders made before and dropped after.

    A move whose destination another one leaves comes after it; a circle (A → B, B → A) goes by a name of its own
    beside. `keep` are folders that stay even when they become empty.
    """
    ordered = _ordered(moves)
    steps = [*_made(ordered, listing), *ordered, *_dropped(ordered, listing, keep)]
    return renumbered(steps)


def without_directories(steps: Iterable[Step]) -> list[Step]:
    """Return arranged steps without what is worked out of the others: folders, names aside, texts that follow."""
    aside: dict[str, Step] = {}
    found = []
    for step in steps:
        if isinstance(step, MakeFolder | DropFolder | DropLink | RewriteText):
            continue
        if isinstance(step, Move) and _ASIDE in step.target:
            aside[step.target] = step
        elif step.source in aside:
            found.append(dataclasses.replace(step, source=aside[step.source].source))
        else:
            found.append(step)
    return found


class _Visit(Enum):
    """How far the search for an order has come with a move."""

    WAITING = auto()
    ON_THE_WAY = auto()
    DONE = auto()


def _ordered(moves: Sequence[Step]) -> list[Step]:
    leaving = {same_name(step.source): index for index, step in enumerate(moves)}
    done: list[Step] = []
    state = [_Visit.WAITING] * len(moves)
    for start in range(len(moves)):
        chain = [start]
        while chain:
            index = chain[-1]
            if state[index] is _Visit.DONE:
                chain.pop()
                continue
            state[index] = _Visit.ON_THE_WAY
            blocker = leaving.get(same_name(moves[index].target))
            if blocker is None or blocker == index or state[blocker] is _Visit.DONE:
                state[index] = _Visit.DONE
                done.append(moves[index])
                chain.pop()
            elif state[blocker] is _Visit.WAITING:
                chain.append(blocker)
            else:  # a circle: the move that stands in the way first steps aside
                step = moves[blocker]
                aside = join(parent(step.target), f".{name_of(step.target)[:40]}{_ASIDE}{blocker}")
                done.append(dataclasses.replace(step, target=aside, why="steps aside: two names change places"))
                rest = [moves[at] for at in reversed(chain[chain.index(blocker) + 1 :])]
                done += rest
                done.append(dataclasses.replace(step, source=aside))
                for at in chain[chain.index(blocker) :]:
                    state[at] = _Visit.DONE
                chain.clear()
    return done


def _made(moves: Iterable[Step], listing: Listing) -> list[MakeFolder]:
    """The folders that the moves need and that are not there, each after the one it lies in."""
    made: dict[str, str] = {}
    for step in moves:
        missing = []
        for folder in above(step.target):
            if folder in made:
                break
            if name_of(folder) in listing(parent(folder)):
                break
            missing.append(folder)
        for folder in reversed(missing):
            made[folder] = step.group
    return [MakeFolder(target=folder, why="new folder", group=group) for folder, group in made.items()]


def _dropped(moves: Sequence[Step], listing: Listing, keep: Iterable[str]) -> list[DropFolder]:
    """The folders that the moves leave empty, each after what it holds."""
    gone: dict[str, set[str]] = {}
    come: dict[str, set[str]] = {}
    groups: dict[str, str] = {}
    for step in moves:
        gone.setdefault(parent(step.source), set()).add(name_of(step.source))
        come.setdefault(parent(step.target), set()).add(name_of(step.target))
        for folder in above(step.target):
            come.setdefault(parent(folder), set()).add(name_of(folder))
        groups.setdefault(parent(step.source), step.group)
    kept = {same_name(folder) for folder in keep}
    passed = {step.source for step in moves if _ASIDE in step.source}
    dropped = []
    order = count()  # of folders equally deep, the first one met goes first
    waiting = [(-folder.count("/"), next(order), folder) for folder in gone if folder]
    heapify(waiting)
    known = {folder for _, _, folder in waiting}
    while waiting:
        _, _, folder = heappop(waiting)
        coming = come.get(folder, set())
        left = listing(folder) - gone[folder] | coming
        left -= {name for name in coming & gone[folder] if join(folder, name) in passed}
        if left or same_name(folder) in kept:
            continue
        dropped.append(DropFolder(source=folder, why="left empty", group=groups.get(folder, "")))
        home = parent(folder)
        gone.setdefault(home, set()).add(name_of(folder))
        groups.setdefault(home, groups.get(folder, ""))
        if home and home not in known:
            known.add(home)
            heappush(waiting, (-home.count("/"), next(order), home))
    return dropped
