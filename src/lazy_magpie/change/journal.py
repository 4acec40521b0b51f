"""The journal: what a change is about to do and what it did, on disk before and after each batch.

One file a change, `.magpie/journal/000012.log`, kept for good: it is the change's history and what undo and redo
go by. Each record is a line with a checksum (`change.records`); a reader passes over one whose sum is wrong, and says
so. The record `change`, which says what the file is, stands in it twice at the beginning and is repeated in the last
record of each run, so that no single damage can make a change unreadable. A change has one or more runs (apply, undo,
redo), each made of

    run      which it is, when it began, in which format, which drives were mounted where
    step     one for each step, whole
    folders  how the folders looked that the steps touch, and the attributes of those that are dropped
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

import os

from lazy_magpie.change.codec import add_record
from lazy_magpie.change.filesystem.access import Filesystem
from lazy_magpie.change.journal_state import JournalState
from lazy_magpie.change.records import Record, decode_line, encode_line
from lazy_magpie.paths import above, name_of, parent


class Writer:
    """Appends records to a change's journal; `sync` makes them last."""

    def __init__(self, disk: Filesystem, path: str) -> None:
        self._disk = disk
        if disk.status(path) is None:
            _make_home(disk, path)
        else:
            cut_damaged_end(disk, path)
        self._file = disk.append(path)

    def write(self, record: Record) -> None:
        """Append a record."""
        self._file.write(encode_line(record))

    def note(self, record: Record) -> None:
        """Append a record that outlives this process, though not yet a power cut."""
        self.write(record)
        self._file.flush()

    def sync(self) -> None:
        """Make all records so far last through a power cut."""
        self._disk.sync_file(self._file)

    def close(self) -> None:
        """Close the file."""
        self._file.close()


def _make_home(disk: Filesystem, path: str) -> None:
    """Make a new, empty journal whose name lasts through a power cut."""
    missing = [folder for folder in above(path) if disk.status(folder) is None]
    for folder in reversed(missing):
        disk.make_folder(folder)
        disk.sync_folder(parent(folder))
    disk.append(path).close()
    disk.sync_folder(parent(path))


def cut_damaged_end(disk: Filesystem, path: str) -> None:
    """Cut an unfinished last line off, so that what is appended can be read; whole lines stay, damaged or not."""
    with disk.open_old(path) as file:
        end = file.seek(0, os.SEEK_END)
        step = min(end, 1 << 20)
        file.seek(end - step)
        tail = file.read()
    if tail and not tail.endswith(b"\n"):
        disk.truncate(path, end - step + tail.rfind(b"\n") + 1)


def read(disk: Filesystem, path: str) -> JournalState:
    """Read a journal. A damaged record is passed over, what is whole is used; `damaged` then names the first one.

    Raises MagpieError for one of a newer format.
    """
    state = JournalState()
    with disk.open_old(path) as file:
        for number, line in enumerate(file, start=1):
            record = decode_line(line)
            if record is None:
                state.damaged = state.damaged or f"record {number} of {name_of(path)} is damaged or cut off"
            else:
                add_record(record, state)
    state.runs = [run for run in state.runs if run.kind]  # a run without even that says nothing
    return state
