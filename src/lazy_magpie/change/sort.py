"""What a sort of step is, and what the sorts share."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from lazy_magpie.change import transfer
from lazy_magpie.change.crash import point
from lazy_magpie.change.journal import Record
from lazy_magpie.change.world import Skip, World
from lazy_magpie.model import Do, Seen, Step
from lazy_magpie.paths import parent

Inverse = list[Step]


@dataclass(frozen=True, slots=True)
class Sort:
    """How steps of one sort are done, mended and taken back.

    `act` does the step and returns what taking it back needs to know; `mend` looks at the disk after a crash, finishes
    what was half done or cleans it up, and says whether the step is done (what `act` would have returned) or not
    (None); `inverse` gives the steps that take it back.
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


def seen_of(info: Record) -> Seen | None:
    """Return how what a step made looked, as its record has it."""
    return Seen(*info["made"]) if "made" in info else None


def put_in_place(world: World, step: Step, make: Callable[[str], None]) -> Seen:
    """Make something under a temporary name beside its destination, then rename it there; return how it looks.

    What `make` has made is taken away again where anything goes wrong, and nothing is ever replaced.
    """
    if world.disk.status(step.target):
        raise Skip("something of that name is there now")
    temporary = world.temporary(step)
    try:
        make(temporary)
        world.disk.rename(temporary, step.target)
    except BaseException:
        transfer.take_away(world, temporary)
        raise
    world.touched.add(parent(step.target))
    return made_at(world, step.target)


def copy_into_place(world: World, step: Step) -> Seen:
    """Copy a step's source to its destination, compared; it lasts when this returns."""
    made = put_in_place(world, step, lambda temporary: transfer.copy(world, step.source, temporary))
    world.sync()  # also the folders above, which may be new: the copy must last before its source goes
    point("copy-in-place")
    return made


def made_at(world: World, path: str) -> Seen:
    """Return how what was just made looks."""
    status = world.disk.status(path)
    if status is None:
        raise Skip("it vanished as soon as it was made")
    return status.seen
