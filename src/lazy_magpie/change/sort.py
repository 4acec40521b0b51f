"""What a sort of step is, and what the sorts share."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from lazy_magpie.change import transfer
from lazy_magpie.change.crash import point
from lazy_magpie.change.journal import Record
from lazy_magpie.change.world import Skip, World
from lazy_magpie.model import Do, Seen, Step
from lazy_magpie.paths import parent

Inverse = Step | None


@dataclass(frozen=True, slots=True)
class Sort:
    """How steps of one sort are done, mended and taken back.

    `act` does the step and returns what taking it back needs to know; `mend` looks at the disk after a crash, finishes
    what was half done or cleans it up, and says whether the step is done (what `act` would have returned) or not
    (None); `inverse` gives the one step that takes it back, None where there is nothing to take back. It is one step,
    so that it is done whole or not at all.
    """

    act: Callable[[World, Step], Record]
    mend: Callable[[World, Step], Record | None]
    inverse: Callable[[Step, Record], Inverse]


def again(seen: Seen | None) -> Seen | None:
    """Return how a thing must look when a step is taken back: a folder may have been made anew meanwhile."""
    return None if seen is None or seen.is_folder else seen


def step_of(do: Do, source: str, target: str, seen: Seen | None, data: Mapping[str, object] | None = None) -> Step:
    """Return a step that takes another back."""
    return Step(0, do, source, target, "", seen=seen, data=dict(data or {}))


def seen_in(data: Mapping[str, Any], key: str) -> Seen:
    """Return how a file looked that a step's data tells of."""
    return Seen(*data[key])


def seen_of(info: Mapping[str, Any]) -> Seen | None:
    """Return how what a step made looked, as its record has it; of a folder what is in it counts instead."""
    return again(Seen(*info["made"])) if "made" in info else None


def put_in_place(world: World, step: Step, make: Callable[[str], None]) -> Record:
    """Make something in our own folder, then give it its name; return how it looks, as a record.

    What `make` has made is taken away again where anything goes wrong, and nothing is ever replaced. The journal knows
    how it looks before it has its name.
    """
    if world.disk.status(step.target):
        raise Skip("something of that name is there now")
    made = world.new_work_path(step)
    try:
        make(made)
        info = made_at(world, made)
        world.note({"r": "placing", "k": step.number, **info})
        point("placing")
        world.rename(made, step.target)
    except BaseException:
        transfer.take_away(world, made)
        raise
    world.touched.add(parent(made))
    return info


def copy_into_place(world: World, step: Step) -> Record:
    """Copy a step's source to its destination, compared; it lasts when this returns."""
    info = put_in_place(world, step, lambda made: transfer.copy(world, step.source, made))
    world.sync()  # also the folders above, which may be new: the copy must last before its source goes
    point("copy-in-place")
    return info


def made_at(world: World, path: str) -> Record:
    """Return how what was just made looks; of a folder also all that is in it."""
    status = world.disk.status(path)
    if status is None:
        raise Skip("it vanished as soon as it was made")
    info: Record = {"made": list(status.seen)}
    if status.is_folder and not status.is_link:
        info["tree"] = transfer.tree_digest(world, path)
    return info
