"""The records of a journal as lines, and those that stand at its two ends: what a change is, how its last run ended.

A record is a line of a CRC-32 in eight hex digits, a space, and a JSON object; its key `r` says what it is. Paths stand
in their written form. What a step is, and what became of it, is in `codec`; a glance at a change needs none of that.
"""

from __future__ import annotations

import json
import os
import zlib
from collections.abc import Mapping
from typing import Any, NamedTuple

from lazy_magpie.change.filesystem.access import Filesystem
from lazy_magpie.paths import written
from lazy_magpie.plain_json import json_text

Record = dict[str, Any]

_decode = json.JSONDecoder().decode


class ChangeHead(NamedTuple):
    """What a change is: its number, the command and plan (0: none) that made it, when (ISO 8601), and who."""

    number: int
    command: str
    plan: int
    made: str
    who: str
    version: str


class RunEnd(NamedTuple):
    """How a run ended: when, the state of the change then, and the counts of its steps."""

    at: str
    state: str
    done: int = 0
    skipped: int = 0
    failed: int = 0


class Ends(NamedTuple):
    """What the ends of a journal tell without what lies between; `end` is None where its last run is not closed."""

    head: ChangeHead | None
    end: RunEnd | None


def encode_line(record: Record) -> bytes:
    """Return a record as its line."""
    data = json_text(record).encode()
    return b"%08x %s\n" % (zlib.crc32(data), data)


def decode_line(line: bytes) -> Record | None:
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


def head_record(head: ChangeHead) -> Record:
    """Return the record that says what a change is."""
    return {
        "r": "change",
        "change": head.number,
        "command": head.command,
        "plan": head.plan,
        "made": head.made,
        "who": head.who,
        "version": head.version,
    }


def decode_head(record: Mapping[str, Any] | None) -> ChangeHead | None:
    """Return what a change is, from its first record or from what its last ones repeat; None where it is not told."""
    if not record:
        return None
    return ChangeHead(
        int(record.get("change", 0)),
        str(record.get("command", "")),
        int(record.get("plan", 0)),
        str(record.get("made", "")),
        str(record.get("who", "")),
        str(record.get("version", "")),
    )


def end_record(end: RunEnd, head: ChangeHead | None, left: int, after: Mapping[str, int], *, looked: bool) -> Record:
    """Return the record that ends a run.

    `left` steps were not reached, `after` is how folders look now; `looked` says that what damaged records would have
    told was looked up on the disk.
    """
    return {
        "r": "end",
        "at": end.at,
        "state": end.state,
        "done": end.done,
        "skipped": end.skipped,
        "failed": end.failed,
        "left": left,
        "after": {written(folder): mtime for folder, mtime in after.items()},
        "looked": looked,
        "change": head_record(head) if head else {},
    }


def decode_end(record: Record) -> RunEnd | None:
    """Return how a run ended, None for a record that ends none."""
    if record.get("r") != "end":
        return None
    counts = (int(record.get(name, 0)) for name in ("done", "skipped", "failed"))
    return RunEnd(str(record.get("at", "")), str(record.get("state", "")), *counts)


def ends(disk: Filesystem, path: str) -> Ends:
    """Return what a change is, and how its last run ended, without reading what lies between.

    What a change is stands at both ends, and is taken from where it is whole.
    """
    first, last = _ends(disk, path)
    return Ends(decode_head(first or last.get("change")), decode_end(last))


def _ends(disk: Filesystem, path: str) -> tuple[Record, Record]:
    with disk.open_old(path) as file:
        heads = [record for line in (file.readline(), file.readline()) if (record := decode_line(line))]
        first = next((record for record in heads if record["r"] == "change"), {})
        end = file.seek(0, os.SEEK_END)
        size = 1 << 16
        while True:
            file.seek(max(end - size, 0))
            lines = file.read().splitlines(keepends=True)
            for line in reversed(lines[1:] if size < end else lines):
                if record := decode_line(line):
                    return first, record
            if size >= end:
                return first, {}
            size *= 8
