"""What a person decided, in plain JSON Lines on each root: a new catalogue takes it back from there.

`.magpie/notes.jsonl` only grows. A line tells of one item: when, where its main file was then, its size and time, and
what was settled (null: taken back). The last line about a file counts.
"""

from __future__ import annotations

import json
import os
from collections import Counter
from collections.abc import Callable, Hashable, Iterable, Mapping
from contextlib import suppress
from typing import Any, NamedTuple

from lazy_magpie.catalogue import All, Catalogue
from lazy_magpie.collection import OWN_FOLDER
from lazy_magpie.model import Item
from lazy_magpie.paths import name_of, read_back, written

NAME = "notes.jsonl"


class Note(NamedTuple):
    """What a line tells: the file as it was, and the answer (kind, fields, by, at), None where it was taken back.

    `root` is the name of the root that it lies on, where the note is kept. A line about tags has `tags`, else None.
    """

    path: str
    size: int
    mtime: int
    answer: dict[str, Any] | None
    root: str = ""
    tags: tuple[str, ...] | None = None


_KEYS: tuple[Callable[[Any], Hashable], ...] = (
    lambda file: (file.root, file.path, file.size, file.mtime),
    lambda file: (name_of(file.path), file.size, file.mtime),
    lambda file: (file.size, file.mtime) if file.size > 0 else None,
)
"""What a note and a file have in common, the surest first; it counts only where it is unique on both sides."""


def write(places: Mapping[str, str], notes: Iterable[Note]) -> None:
    """Append notes, synced, each on its root; `places` are the folders of the roots that are there, by their names.

    What is about a root that is away, or can't be written to, is kept on the collection's own with the root's name.
    """
    lines: dict[str, list[str]] = {}
    for note in notes:
        row: dict[str, Any] = {"path": written(note.path), "size": note.size, "mtime": note.mtime}
        row |= {"settled": note.answer} if note.tags is None else {"tags": list(note.tags)}
        at = (
            note.root if note.root in places and os.access(os.path.join(places[note.root], OWN_FOLDER), os.W_OK) else ""
        )
        if note.root and not at:
            row["root"] = note.root
        lines.setdefault(at, []).append(json.dumps(row, ensure_ascii=False))
    for root, texts in lines.items():
        with open(os.path.join(places[root], OWN_FOLDER, NAME), "a", encoding="utf-8") as file:
            file.write("".join(f"{text}\n" for text in texts))
            file.flush()
            os.fsync(file.fileno())


def read(places: Mapping[str, str]) -> list[Note]:
    """Return the last answer and the last tags of each file; a line that can't be read is passed over."""
    found: dict[tuple[str, str, int, int, bool], Note] = {}
    for root, place in places.items():
        with suppress(OSError), open(os.path.join(place, OWN_FOLDER, NAME), encoding="utf-8", errors="replace") as file:
            for line in file:
                try:
                    row = json.loads(line)
                    path, size, mtime = read_back(row["path"]), int(row["size"]), int(row["mtime"])
                    tags = tuple(map(str, row["tags"])) if "tags" in row else None
                    answer = row["settled"] if tags is None else None
                    note = Note(path, size, mtime, answer, str(row.get("root", root)), tags)
                except (ValueError, KeyError, TypeError, AttributeError):
                    continue
                found[note.root, path, size, mtime, tags is None] = note
    return list(found.values())


def take_back(catalogue: Catalogue, places: Mapping[str, str]) -> int:
    """Settle and tag in a new catalogue what the notes say was settled and tagged; return how many notes counted."""
    notes = read(places)
    answers, tags = ([note for note in notes if (note.tags is None) is wanted] for wanted in (True, False))
    return sum(_take_back(catalogue, some) for some in (answers, tags) if some)


def _take_back(catalogue: Catalogue, waiting: list[Note]) -> int:
    """Let items have what notes of one sort tell; of an item the surest note counts, and no older one beside it."""
    known = [(_sighting(item), item) for item in catalogue.items.ask(All())]
    told: set[int] = set()
    count = 0
    for key in _KEYS:
        known = [(sighting, item) for sighting, item in known if item.id not in told]
        files = Counter(key(sighting) for sighting, _ in known)
        by_key = {key(sighting): item for sighting, item in known}
        notes = Counter(key(note) for note in waiting)
        for note in list(waiting):
            common = key(note)
            if common is None or files[common] != 1 or notes[common] != 1:
                continue
            waiting.remove(note)
            item = by_key[common]
            told.add(item.id)
            if note.tags and not catalogue.tags.of(item.id):
                catalogue.tags.put(item.id, note.tags)
                count += 1
            elif note.answer is not None and _is_open(catalogue, item):
                catalogue.writer.settle(item.id, note.answer)
                count += 1
    return count


def note_of(item: Item, answer: dict[str, Any] | None) -> Note:
    """Return the note that tells how an item was settled, or that it no longer is (None)."""
    main = item.files[0]
    return Note(main.path, main.size, main.mtime, answer, item.root)


def note_of_tags(item: Item) -> Note:
    """Return the note that tells which tags an item has now."""
    main = item.files[0]
    return Note(main.path, main.size, main.mtime, None, item.root, item.tags)


def _sighting(item: Item) -> Note:
    return note_of(item, None)


def _is_open(catalogue: Catalogue, item: Item) -> bool:
    return catalogue.items.answer_of(item.id) is None
