"""The changes so far, from the first and last records of their journals."""

from __future__ import annotations

from collections.abc import Iterator
from typing import BinaryIO, NamedTuple

from lazy_magpie.change import journal, records
from lazy_magpie.change.codec import decode_step
from lazy_magpie.change.effects import effects, notes
from lazy_magpie.change.journal_store import JournalStore
from lazy_magpie.change.outcome import Outcome, Relocation, report_step
from lazy_magpie.change.records import RunEnd, decode_line
from lazy_magpie.model import Step
from lazy_magpie.model.steps import (
    Convert,
    DropFolder,
    MakeFolder,
    Move,
    Pack,
    SetField,
    SetTags,
    Settle,
    SettleFolder,
    Unpack,
    Write,
    filing_of,
)
from lazy_magpie.paths import join

DAMAGED = "damaged"
VOID = "void"
"""The state of a change that did nothing."""
_BLOCK = 1 << 20


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


def history(store: JournalStore) -> list[Change]:
    """Return all changes, oldest first."""
    found = []
    for number in store.changes():
        head, end = records.ends(store.disk, store.journal(number))
        if end is not None and end.state == VOID:
            continue
        if not head:
            if _says_anything(store, number):
                found.append(Change(number, "", "", "", "", 0, DAMAGED, 0, 0, 0))
            continue
        closed = end or RunEnd("", "unfinished")
        found.append(
            Change(
                number,
                head.made,
                closed.at,
                head.who,
                head.command,
                head.plan,
                closed.state,
                closed.done,
                closed.skipped,
                closed.failed,
            )
        )
    return found


def _says_anything(store: JournalStore, number: int) -> bool:
    """Say whether a journal without a whole head has more in it than a first record that was cut off."""
    with store.disk.open_old(store.journal(number)) as file:
        return file.readline().endswith(b"\n")


def of_item(store: JournalStore, item: int) -> Iterator[tuple[Change, list[Step]]]:
    """Yield the changes in which steps for an item were planned, oldest first, with these steps."""
    mark = f'"item":{item},'.encode()
    for change in history(store):
        with store.disk.open_old(store.journal(change.number)) as file:
            records = [record for line in _lines_with(file, mark) if (record := decode_line(line))]
        steps = [decode_step(record) for record in records if record.get("r") == "step"]
        if steps:
            yield change, list({step.number: step for step in steps}.values())


def _lines_with(file: BinaryIO, mark: bytes) -> Iterator[bytes]:
    """Yield the whole lines in which `mark` stands, without cutting all the others out of their blocks."""
    rest = b""
    while block := file.read(_BLOCK):
        block = rest + block
        end = block.rfind(b"\n") + 1
        at = block.find(mark, 0, end)
        while at >= 0:
            close = block.index(b"\n", at) + 1
            yield block[block.rfind(b"\n", 0, at) + 1 : close]
            at = block.find(mark, close, end)
        rest = block[end:]


def answers_in_effect(store: JournalStore) -> Iterator[Step]:
    """Yield the answers and tags of all changes as they are in effect, in the order of the changes."""
    for number in store.changes():
        yield from notes(journal.read(store.disk, store.journal(number)))


def moves_in_effect(store: JournalStore, after: int = 0) -> Iterator[Relocation]:
    """Yield what the changes behind `after` moved, as they are in effect, in their order."""
    for number in store.changes():
        if number <= after:
            continue
        for effect in effects(journal.read(store.disk, store.journal(number))).values():
            if effect.forward and effect.last and isinstance(effect.planned, Move):
                heard = Outcome(number)
                report_step(heard, *effect.last)
                yield from heard.moves


class ChangedFile(NamedTuple):
    """What a change did with one file or folder: where it came from, and where it was brought ("" for nowhere).

    `did` is the kind of the step, `state` done, undone or not done; `says` what was given to it, where that is no
    place. What was unpacked as it is stands as a folder.
    """

    did: str
    state: str
    came: str
    went: str
    is_folder: bool = False
    says: str = ""


def files_of(store: JournalStore, number: int) -> Iterator[ChangedFile]:
    """Yield what a change did, file by file, in its order; steps that only make or drop folders are left out."""
    for effect in effects(journal.read(store.disk, store.journal(number))).values():
        state = "done" if effect.forward else "undone" if effect.last else "not done"
        unpacked = isinstance(effect.planned, Unpack) and not effect.planned.parts
        is_folder = unpacked or bool(effect.last and effect.last[1].is_folder)
        for came, went, says in _places(effect.planned):
            yield ChangedFile(effect.planned.kind.value, state, came, went, is_folder, says)


def _places(step: Step) -> Iterator[tuple[str, str, str]]:
    """Yield where each file of a step comes from and goes to, and what is said of it."""
    match step:
        case MakeFolder() | DropFolder() | SettleFolder():
            return
        case Unpack(parts=parts) if parts:
            for part in parts:
                for member, place in part.layout.items():
                    yield f"{part.archive}: {member}", join(step.target, place), ""
        case Pack(members=members):
            yield from ((member.path, step.target, "") for member in members if member.path)
        case Convert(inputs=inputs):
            yield step.source, step.target, ""
            yield from ((one.path, step.target, "") for one in inputs if one.path != step.source)
        case SetTags():
            yield step.source, step.source, f"tags: {', '.join(step.new) or 'none'}"
        case SetField():
            yield step.source, step.source, f"{step.field}: {'' if step.new is None else step.new}"
        case Settle():
            said = step.new.fields.items() if step.new else ()
            yield step.source, step.source, ", ".join(f"{name}: {value}" for name, value in said) or "as it is read"
        case _:
            yield step.source, step.target, ""


def placements_in_effect(store: JournalStore) -> Iterator[tuple[int, Step]]:
    """Yield the steps of all changes that moved or placed things, as they are in effect, each with its change."""
    for number in store.changes():
        for effect in effects(journal.read(store.disk, store.journal(number))).values():
            if effect.forward and (isinstance(effect.planned, Move) or filing_of(effect.planned)):
                yield number, effect.planned


def texts_written(store: JournalStore) -> Iterator[tuple[str, str]]:
    """Yield the small files that all changes wrote, as they are in effect: path and text, in their order."""
    for number in store.changes():
        for effect in effects(journal.read(store.disk, store.journal(number))).values():
            if effect.forward and isinstance(effect.planned, Write):
                yield effect.planned.target, effect.planned.text
