"""The journal: what a change is about to do and what it did, on disk before and after each batch.

One file a change, `.magpie/journal/000012.log`, kept for good: it is the change's history and what undo and redo
go by. A record is a line of a CRC-32 in eight hex digits, a space, and a JSON object; a reader passes
over a record whose sum is wrong, and says so. The record `change`, which says what the file is, stands in it twice at
the beginning and is repeated in the last record of each run, so that no single damage can make a change unreadable. A
change has one or more runs (apply, undo, redo), each made of

    run      which it is, when it began, which drives were mounted where
    step     one for each step, whole
    folders  how the folders looked that the steps touch: {path: [mtime, mode]}; the marks of those that are dropped
    ready    the steps are complete, and nothing has been done yet
    go       from this step to that step will now be done (synced before the first of them)
    placing  what a step has made, before it gets its name
    claim    a name is claimed, on drives that can't rename otherwise without replacing; then how the empty file looks
    was      the attribute with a file's tags, before a step changes it
    kept     what an interrupted step left that nobody understands, and where it is held
    did      what became of them: done with what undo needs, skipped, failed
    end      all batches are through, or the run was stopped; the counts
"""

from __future__ import annotations

import json
import os
import zlib
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any, NamedTuple

from lazy_magpie.change.disk import Disk
from lazy_magpie.change.marks import Marks
from lazy_magpie.model import Do, Seen, Step
from lazy_magpie.paths import above, name_of, parent, read_back, written

Record = dict[str, Any]
FOLDER = ".magpie/journal"


_encode = json.JSONEncoder(ensure_ascii=False, separators=(",", ":")).encode
_decode = json.JSONDecoder().decode
_SORTS = {do.value: do for do in Do}


def line_of(record: Mapping[str, Any]) -> bytes:
    """Return a record as its line."""
    try:
        data = _encode(record).encode()
    except UnicodeEncodeError:  # bytes that are not UTF-8 in a step's data: escaped
        data = json.dumps(record, separators=(",", ":")).encode()
    return b"%08x %s\n" % (zlib.crc32(data), data)


def record_of(line: bytes) -> Record | None:
    """Return the record of a line, None if it is damaged or cut off."""
    if len(line) < 11 or line[8:9] != b" " or not line.endswith(b"\n"):
        return None
    data = line[9:-1]
    try:
        if int(line[:8], 16) != zlib.crc32(data):
            return None
        record = _decode(data.decode())
    except ValueError:
        return None
    return record if isinstance(record, dict) else None


class Writer:
    """Appends records to a change's journal; `sync` makes them last."""

    def __init__(self, disk: Disk, path: str) -> None:
        self._disk = disk
        if disk.status(path) is None:
            _make_home(disk, path)
        else:
            cut_damaged_end(disk, path)
        self._file = disk.append(path)

    def write(self, record: Mapping[str, Any]) -> None:
        """Append a record."""
        self._file.write(line_of(record))

    def note(self, record: Mapping[str, Any]) -> None:
        """Append a record that outlives this process, though not yet a power cut."""
        self.write(record)
        self._file.flush()

    def sync(self) -> None:
        """Make all records so far last through a power cut."""
        self._disk.sync_file(self._file)

    def close(self) -> None:
        """Close the file."""
        self._file.close()


def _make_home(disk: Disk, path: str) -> None:
    """Make a new, empty journal whose name lasts through a power cut."""
    missing = [folder for folder in above(path) if disk.status(folder) is None]
    for folder in reversed(missing):
        disk.make_folder(folder)
        disk.sync_folder(parent(folder))
    disk.append(path).close()
    disk.sync_folder(parent(path))


def cut_damaged_end(disk: Disk, path: str) -> None:
    """Cut an unfinished last line off, so that what is appended can be read; whole lines stay, damaged or not."""
    with disk.open_old(path) as file:
        end = file.seek(0, os.SEEK_END)
        step = min(end, 1 << 20)
        file.seek(end - step)
        tail = file.read()
    if tail and not tail.endswith(b"\n"):
        disk.truncate(path, end - step + tail.rfind(b"\n") + 1)


def step_record(step: Step) -> Record:
    """Return a step as its record."""
    record: Record = {
        "r": "step",
        "k": step.number,
        "do": step.do.value,
        "from": written(step.source),
        "to": written(step.target),
    }
    if step.item:
        record["item"] = step.item
    if step.seen:
        record["seen"] = list(step.seen)
    if step.data:
        record["data"] = dict(step.data)
    return record


def step_of(record: Record) -> Step:
    """Return the step of a record."""
    seen = record.get("seen")
    return Step(
        record["k"],
        _SORTS[record["do"]],
        read_back(record["from"]),
        read_back(record["to"]),
        "",
        item=record.get("item", 0),
        seen=Seen(*seen) if seen else None,
        data=record.get("data", {}),
    )


class Claim(NamedTuple):
    """A name that was claimed: since when (nanoseconds), and by what; None where a crash came before that was noted."""

    since: int
    seen: Seen | None


@dataclass
class Run:
    """One run of a change, as its journal tells it. `done` maps a step's number to what undo needs to know.

    `kept` is what recovery brought into the holding area: where it came from, and where it is.
    """

    sort: str
    at: str
    drives: dict[str, str] | None = None
    steps: dict[int, Step] = field(default_factory=dict)
    folders: dict[str, tuple[int, int]] = field(default_factory=dict)
    marks: dict[str, Marks] = field(default_factory=dict)
    after: dict[str, int] = field(default_factory=dict)
    claims: dict[str, Claim] = field(default_factory=dict)
    was: dict[int, str | None] = field(default_factory=dict)
    kept: list[tuple[str, str]] = field(default_factory=list)
    ready: bool = False
    done: dict[int, Record] = field(default_factory=dict)
    begun: set[int] = field(default_factory=set)
    state: str = ""


@dataclass
class Told:
    """A change as its whole journal tells it. `damaged` says which record is, if one is and was not yet made up for."""

    head: Record
    runs: list[Run]
    damaged: str = ""

    @property
    def open_steps(self) -> list[Step]:
        """The steps of the last run that may have been done without a record of it."""
        run = self.runs[-1]
        if self.damaged:
            return [step for number, step in sorted(run.steps.items()) if number not in run.done]
        return [run.steps[number] for number in sorted(run.begun)]


def read(disk: Disk, path: str) -> Told:
    """Read a journal. A damaged record is passed over, what is whole is used; `damaged` then names the first one."""
    told = Told({}, [])
    with disk.open_old(path) as file:
        for number, line in enumerate(file, start=1):
            record = record_of(line)
            if record is None:
                told.damaged = told.damaged or f"record {number} of {name_of(path)} is damaged or cut off"
            else:
                _begin_lost_run(record, told)
                _take(record, told)
    told.runs = [run for run in told.runs if run.sort]  # one of which not even that is left says nothing
    return told


def _begin_lost_run(record: Record, told: Told) -> None:
    """Begin a run whose first record is damaged where another one of it is met; `ready` says which it was."""
    if told.damaged and record["r"] in ("step", "folders") and (not told.runs or told.runs[-1].ready):
        told.runs.append(Run("", ""))


def _take(record: Record, told: Told) -> None:
    sort = record["r"]
    if sort == "change" or not told.head:
        told.head.update(record if sort == "change" else record.get("change") or {})
    if sort == "change":
        return
    if sort == "run":
        drives = record.get("drives")
        known = None if drives is None else {read_back(folder): drive for folder, drive in drives.items()}
        told.runs.append(Run(record["run"], record["at"], known))
    elif told.runs:
        _take_in_run(sort, record, told.runs[-1])
        if record.get("looked"):
            told.damaged = ""


def _take_in_run(sort: str, record: Record, run: Run) -> None:
    if sort == "step":
        run.steps[record["k"]] = step_of(record)
    elif sort == "folders":
        run.folders = {read_back(path): (were[0], were[1]) for path, were in record["were"].items()}
        run.marks = {read_back(path): marks for path, marks in record.get("marks", {}).items()}
    elif sort == "ready":
        run.ready = True
        run.sort = run.sort or str(record.get("run", ""))
    elif sort == "go":
        run.begun = {k for k in range(record["first"], record["last"] + 1) if k in run.steps}
    elif sort == "claim":
        seen = Seen(*record["seen"]) if "seen" in record else None
        run.claims[read_back(record["at"])] = Claim(record["since"], seen)
    elif sort == "was":
        run.was[record["k"]] = record["raw"]
    elif sort == "kept":
        run.kept.append((read_back(record["from"]), read_back(record["at"])))
    elif sort == "did":
        for entry in record["done"]:
            number, info = (entry, {}) if isinstance(entry, int) else entry
            run.done[number] = info
        run.begun = set(record.get("open", ()))
        run.claims.clear()  # what a batch claimed is taken by its end
    elif sort == "end":
        run.state = str(record.get("state", ""))
        run.after = {read_back(path): mtime for path, mtime in record.get("after", {}).items()}


def write_steps(writer: Writer, sort: str, at: str, drives: Mapping[str, str] | None, steps: Iterable[Step]) -> None:
    """Write a run's head and steps."""
    record: Record = {"r": "run", "run": sort, "at": at}
    if drives is not None:
        record["drives"] = {written(folder): drive for folder, drive in drives.items()}
    writer.write(record)
    for step in steps:
        writer.write(step_record(step))


def ends(disk: Disk, path: str) -> tuple[Record, Record]:
    """Return what a change is, and the last whole record of its journal, without reading what lies between.

    {} where there is none; what a change is stands at both ends, and is taken from where it is whole.
    """
    first, last = _ends(disk, path)
    return first or dict(last.get("change") or {}), last


def _ends(disk: Disk, path: str) -> tuple[Record, Record]:
    with disk.open_old(path) as file:
        heads = [record for line in (file.readline(), file.readline()) if (record := record_of(line))]
        first = next((record for record in heads if record["r"] == "change"), {})
        end = file.seek(0, os.SEEK_END)
        size = 1 << 16
        while True:
            file.seek(max(end - size, 0))
            lines = file.read().splitlines(keepends=True)
            for line in reversed(lines[1:] if size < end else lines):
                if record := record_of(line):
                    return first, record
            if size >= end:
                return first, {}
            size *= 8
