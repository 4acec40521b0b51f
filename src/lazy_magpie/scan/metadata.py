"""Reads what files say of themselves into the catalogue, in worker processes; each file once, until it changes."""

from __future__ import annotations

import os
from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass, field

from lazy_magpie.catalogue import Catalogue
from lazy_magpie.drives import MountedDrives
from lazy_magpie.model import Kind, Value
from lazy_magpie.readers import all_endings, audio
from lazy_magpie.readers.archives import CONTENTS
from lazy_magpie.readers.signatures import HEAD, refusal
from lazy_magpie.readers.worker_pool import LATER, read_all

_BATCH = 500
_FEW = 100
"""So many files are looked at here first: where none can be what it seems, no process is started."""
_SAID = audio.TAGS | {"family", "style", "title", "vendor"}
"""What says what a file is, and so is evidence for its identity, not a measured fact."""


def read_facts(
    catalogue: Catalogue,
    here: MountedDrives,
    folders: Collection[int],
    jobs: int = 0,
    progress: Callable[[int], None] = lambda count: None,
) -> tuple[list[tuple[str, str]], dict[str, int]]:
    """Read the files in `folders` that were not read as they are now; return (whole path, why) of those that refused.

    Beside it how many could not be looked at this time, by the reason: the next scan tries them again. What is empty is
    not opened. `jobs` workers read at a time, 0 means as many as there are processors.
    """
    reading = _FactReading(catalogue)
    wanted: dict[str, tuple[int, str, int, int]] = {}
    for id, whole, size, mtime in catalogue.files.untold(folders, all_endings(), here.tops):
        looked_at = len(wanted) + len(reading.refused) < _FEW
        if looked_at and (why := _refusal(whole)):
            reading.store((id, whole, size, mtime), {"unreadable": why})
        else:
            wanted[whole] = (id, whole, size, mtime)
    for count, (whole, facts) in enumerate(read_all(wanted, jobs), start=1):
        reading.store(wanted[whole], facts)
        progress(count)
    reading.flush()
    return sorted(reading.refused), {why: len(files) for why, files in reading.later.items()}


@dataclass
class _FactReading:
    """Gathers what files said, and stores it in batches; a scan that is stopped goes on behind the last one."""

    catalogue: Catalogue
    batch: list[tuple[int, int, int, Mapping[str, Value]]] = field(default_factory=list)
    refused: list[tuple[str, str]] = field(default_factory=list)
    later: dict[str, list[int]] = field(default_factory=dict)

    def store(self, file: tuple[int, str, int, int], facts: Mapping[str, Value]) -> None:
        """Take what a file (id, path, size, mtime) said of itself; a refusal that may end otherwise is not kept."""
        id, path, size, mtime = file
        if contents := facts.get(CONTENTS):
            self.catalogue.files.put_members(id, contents)  # type: ignore[arg-type]
            facts = {key: value for key, value in facts.items() if key != CONTENTS}
        if LATER in facts:
            self.later.setdefault(str(facts.get("unreadable", "")), []).append(id)
            return
        self.batch.append((id, size, mtime, facts))
        if "unreadable" in facts:
            self.refused.append((path, str(facts["unreadable"])))
        if len(self.batch) >= _BATCH:
            self.flush()

    def flush(self) -> None:
        """Store what was gathered."""
        self.catalogue.files.tell(self.batch)
        self.catalogue.commit()
        self.batch.clear()


def _refusal(path: str) -> str:
    """Say why a file can't be what it seems, by its first bytes; "" where a reader has to look."""
    try:
        with open(path, "rb") as file:
            return refusal(os.path.splitext(path)[1].lower(), file.read(HEAD))
    except OSError:
        return ""


def measured(kind: Kind, told: Mapping[str, Value]) -> dict[str, Value]:
    """Return the measured facts among what a file of a kind says of itself."""
    said = _SAID if kind in (Kind.TRACK, Kind.MOVIE, Kind.EPISODE, Kind.EXTRA, Kind.FONT) else frozenset(["title"])
    return {key: value for key, value in told.items() if key not in said}
