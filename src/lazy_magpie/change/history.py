"""The changes so far, from the first and last records of their journals."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from lazy_magpie.change import journal
from lazy_magpie.change.effect import effects, notes
from lazy_magpie.change.engine import Area, Move, Outcome, tell
from lazy_magpie.model import Do, Step

DAMAGED = "damaged"


class Change(NamedTuple):
    """A change as a list shows it.

    `state` is done, stopped (between two steps), undone, part undone, unfinished (after a crash), or damaged: its
    journal can't be read, and nothing is known of it.
    """

    number: int
    made: str
    ended: str
    who: str
    command: str
    plan: int
    state: str
    done: int
    skipped: int
    failed: int

    @property
    def in_effect(self) -> bool:
        """Say whether any of it is in effect."""
        return self.state in ("done", "stopped")

    @property
    def complete(self) -> bool:
        """Say whether all of it that could be done is."""
        return self.state == "done"


def history(area: Area) -> list[Change]:
    """Return all changes, oldest first."""
    found = []
    for number in area.changes():
        head, last = journal.ends(area.disk, area.journal(number))
        if last.get("state") == "void":
            continue
        if not head:
            if _says_anything(area, number):
                found.append(Change(number, "", "", "", "", 0, DAMAGED, 0, 0, 0))
            continue
        counts = last if last.get("r") == "end" else {}  # other records have lists of that name
        found.append(
            Change(
                number,
                str(head.get("made", "")),
                str(last.get("at", "")),
                str(head.get("who", "")),
                str(head.get("command", "")),
                int(head.get("plan", 0)),
                _state(last),
                int(counts.get("done", 0)),
                int(counts.get("skipped", 0)),
                int(counts.get("failed", 0)),
            )
        )
    return found


def _says_anything(area: Area, number: int) -> bool:
    """Say whether a journal without a whole head has more in it than a first record that was cut off."""
    with area.disk.open_old(area.journal(number)) as file:
        return file.readline().endswith(b"\n")


def of_item(area: Area, item: int) -> Iterator[tuple[Change, list[Step]]]:
    """Yield the changes in which steps for an item were planned, oldest first, with these steps."""
    mark = f'"item":{item},'.encode()
    for change in history(area):
        with area.disk.open_old(area.journal(change.number)) as file:
            records = [record for line in file if mark in line and (record := journal.record_of(line))]
        steps = {record["k"]: journal.step_of(record) for record in records if record.get("r") == "step"}
        if steps:
            yield change, list(steps.values())


def all_notes(area: Area) -> Iterator[Step]:
    """Yield the answers and tags of all changes as they are in effect, in the order of the changes."""
    for number in area.changes():
        yield from notes(journal.read(area.disk, area.journal(number)))


def all_moves(area: Area) -> Iterator[Move]:
    """Yield what all changes moved, as they are in effect, in their order."""
    for number in area.changes():
        for effect in effects(journal.read(area.disk, area.journal(number))).values():
            if effect.forward and effect.last and effect.planned.do is Do.MOVE:
                heard = Outcome(number)
                tell(heard, *effect.last)
                yield from heard.moves


def all_placed(area: Area) -> Iterator[tuple[int, Step]]:
    """Yield the steps of all changes that placed things by a naming, as they are in effect, each with its change."""
    for number in area.changes():
        for effect in effects(journal.read(area.disk, area.journal(number))).values():
            if effect.forward and "placed" in effect.planned.data:
                yield number, effect.planned


def texts_written(area: Area) -> Iterator[tuple[str, str]]:
    """Yield the small files that all changes wrote, as they are in effect: path and text, in their order."""
    for number in area.changes():
        for effect in effects(journal.read(area.disk, area.journal(number))).values():
            if effect.forward and effect.planned.do is Do.WRITE:
                yield effect.planned.target, str(effect.planned.data["text"])


def _state(last: journal.Record) -> str:
    if last.get("r") != "end":
        return "unfinished"
    return str(last["state"])
