"""What a person decided, in plain JSON Lines beside the catalogue: a new catalogue takes it back from there.

`.magpie/notes.jsonl` only grows. A line tells of one item: when, where its main file was then, its size and time, and
what was settled (null: taken back). The last line about a file counts.
"""

from __future__ import annotations

import json
import os
from collections import Counter
from collections.abc import Callable, Hashable, Iterable
from typing import Any, NamedTuple

from lazy_magpie.catalogue import All, Catalogue
from lazy_magpie.collection import Collection
from lazy_magpie.model import Item
from lazy_magpie.paths import name_of, read_back, written

NAME = "notes.jsonl"


class Note(NamedTuple):
    """What a line tells: the file as it was, and the answer (kind, fields, by, at), None where it was taken back."""

    path: str
    size: int
    mtime: int
    answer: dict[str, Any] | None


_KEYS: tuple[Callable[[Any], Hashable], ...] = (
    lambda file: (file.path, file.size, file.mtime),
    lambda file: (name_of(file.path), file.size, file.mtime),
    lambda file: (file.size, file.mtime) if file.size > 0 else None,
)
"""What a note and a file have in common, the surest first; it counts only where it is unique on both sides."""


def write(collection: Collection, notes: Iterable[Note]) -> None:
    """Append notes, synced."""
    lines = [
        json.dumps({"path": written(n.path), "size": n.size, "mtime": n.mtime, "settled": n.answer}, ensure_ascii=False)
        for n in notes
    ]
    if not lines:
        return
    with open(collection.own / NAME, "a", encoding="utf-8") as file:
        file.write("".join(f"{line}\n" for line in lines))
        file.flush()
        os.fsync(file.fileno())


def read(collection: Collection) -> list[Note]:
    """Return the last note about each file; a line that can't be read is passed over."""
    found: dict[tuple[str, int, int], Note] = {}
    try:
        with open(collection.own / NAME, encoding="utf-8", errors="replace") as file:
            for line in file:
                try:
                    row = json.loads(line)
                    note = Note(read_back(row["path"]), int(row["size"]), int(row["mtime"]), row["settled"])
                except (ValueError, KeyError, TypeError):
                    continue
                found[note.path, note.size, note.mtime] = note
    except FileNotFoundError:
        pass
    return list(found.values())


def take_back(catalogue: Catalogue, collection: Collection) -> int:
    """Settle in a new catalogue what the notes say was settled; return how many items that were."""
    waiting = read(collection)
    if not waiting:
        return 0
    items = {item.files[0].path: item for item in catalogue.items.ask(All())}
    count = 0
    for key in _KEYS:
        files = Counter(key(item.files[0]) for item in items.values())
        by_key = {key(item.files[0]): item for item in items.values()}
        notes = Counter(key(note) for note in waiting)
        for note in list(waiting):
            common = key(note)
            if common is None or files[common] != 1 or notes[common] != 1:
                continue
            waiting.remove(note)
            item = by_key[common]
            if note.answer is not None and _is_open(catalogue, item):
                catalogue.items.settle(item.id, note.answer)
                count += 1
    return count


def _is_open(catalogue: Catalogue, item: Item) -> bool:
    return catalogue.items.answer_of(item.id) is None
