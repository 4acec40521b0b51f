"""Targets that things are sent to: which there are, where each is mounted now, and what was sent there.

A target is known by the id that it carries in `.magpie/root.json`, wherever it is mounted. `.magpie/targets.json` in
the collection has its id and where it was last; `.magpie/sent.jsonl` on the target itself says what magpie put there, a
line a file, the last one about a path counts.
"""

from __future__ import annotations

import json
import os
from collections.abc import Iterable, Iterator, Mapping
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from lazy_magpie.change import Filesystem, StateFolders
from lazy_magpie.collection import STATE_DIR_NAME, Collection
from lazy_magpie.drives import mark_of, mark_root, place_of_mark
from lazy_magpie.errors import MagpieError, UsageError
from lazy_magpie.model import FileStamp
from lazy_magpie.model.sends import Send
from lazy_magpie.model.stamps import is_kept_time
from lazy_magpie.mounts import why_away
from lazy_magpie.paths import read_back, target_path, written
from lazy_magpie.plain_json import json_text
from lazy_magpie.step_codec import step_from_whole, whole_step

_KNOWN, MANIFEST = "targets.json", "sent.jsonl"
LINE = 600
"""Bytes that a line of the manifest takes, or less."""
_SLACK = 3
"""So many times what it needs the manifest may take before it is written anew."""


@dataclass(frozen=True)
class SentFile:
    """A file that magpie put on a target: its path there, how it looks there, and the step that put it."""

    path: str
    size: int
    mtime: int
    step: Send

    def is_as_sent(self, stamp: FileStamp | None) -> bool:
        """Say whether what is there now is what was put there, by size and time."""
        if stamp is None or stamp.size != self.size:
            return False
        return is_kept_time(self.mtime, stamp.mtime)


def known(collection: Collection) -> dict[str, dict[str, str]]:
    """Return the id (mark) and the last place of every target that was ever there, by name."""
    try:
        found = json.loads((collection.state_dir / _KNOWN).read_text("utf-8"))
    except (OSError, ValueError, RecursionError):
        return {}
    if not isinstance(found, dict):
        return {}
    return {str(name): one for name, one in found.items() if isinstance(one, dict) and {"mark", "place"} <= one.keys()}


def located(collection: Collection) -> dict[str, str]:
    """Return the folders of the targets that are there now, by their names."""
    places = {name: place_of_mark(one["mark"], one["place"]) for name, one in known(collection).items()}
    return {name: place for name, place in places.items() if place}


def place_of(collection: Collection, name: str, folder: str) -> str:
    """Return where a target is now; one that is met at its `folder` for the first time becomes known.

    Raises UsageError where it is away, MagpieError where it can't be written to.
    """
    if place := located(collection).get(name, ""):
        return place
    if name in known(collection) or not os.path.isdir(folder):
        raise UsageError(f"{name} is away: there is no {folder} that is it. Plug it in.")
    if why := why_away(folder):
        raise UsageError(f"{name} is away: {why}")
    try:
        keep_target(collection, name, folder)
    except OSError as error:
        raise MagpieError(f"{folder} can't be written to: {(error.strerror or str(error)).lower()}.") from error
    return folder


def keep_target(collection: Collection, name: str, folder: str) -> None:
    """Make a folder known as a target: it gets an id to carry. Raises OSError where it can't be written to."""
    disk = Filesystem(str(collection.root), {name: folder})
    StateFolders(disk).make_ready(target_path(name))
    mark = mark_of(folder) or mark_root(folder)
    everything = {**known(collection), name: {"mark": mark, "place": folder}}
    path = collection.state_dir / _KNOWN
    part = path.with_suffix(".part")
    part.write_text(json.dumps(everything, indent=1) + "\n", encoding="utf-8")
    part.replace(path)


def manifest(folder: str) -> dict[str, SentFile]:
    """Return what magpie put on the target that is mounted at a folder, by its paths there."""
    found: dict[str, SentFile] = {}
    for record in _records(Path(folder) / STATE_DIR_NAME / MANIFEST):
        with suppress(KeyError, TypeError, ValueError, AttributeError):
            path = read_back(record["path"])
            if record.get("gone"):
                found.pop(path, None)
                continue
            by = step_from_whole(record["by"])
            step = Send(source=by.source, stamp=by.stamp, by=by, key=read_back(record["key"]))
            found[path] = SentFile(path, int(record["size"]), int(record["mtime"]), step)
    return found


def _records(path: Path) -> Iterator[dict[str, Any]]:
    with suppress(OSError), path.open(encoding="utf-8", errors="replace") as file:
        for line in file:
            with suppress(ValueError, RecursionError):
                record = json.loads(line)
                if isinstance(record, dict):
                    yield record


def note_sent(folder: str, put: Iterable[SentFile], gone: Iterable[str]) -> None:
    """Add to the manifest on a target what was put there and what was taken off, synced."""
    records: list[Mapping[str, object]] = [{"path": written(path), "gone": True} for path in gone]
    records += map(_record, put)
    path = Path(folder) / STATE_DIR_NAME / MANIFEST
    if not records:
        return
    _write(path, records, "a")
    there = manifest(folder)
    if path.stat().st_size > _SLACK * max(1, len(there)) * LINE:
        part = path.with_suffix(".part")
        _write(part, map(_record, there.values()), "w")
        part.replace(path)


def _record(one: SentFile) -> dict[str, object]:
    by, key = whole_step(one.step.by), written(one.step.key)
    return {"path": written(one.path), "size": one.size, "mtime": one.mtime, "key": key, "by": by}


def _write(path: Path, records: Iterable[Mapping[str, object]], mode: str) -> None:
    with path.open(mode, encoding="utf-8") as file:
        file.writelines(json_text(record, spaced=True) + "\n" for record in records)
        file.flush()
        os.fsync(file.fileno())
