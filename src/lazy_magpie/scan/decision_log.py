"""What a person decided, in plain JSON Lines on each root: a new catalogue takes it back from there.

`.magpie/notes.jsonl` only grows. A line tells of one item: where its main file was then, its size and time, and one of
what was settled (null: taken back), its tags, its values in custom fields; or of a folder (its size and time are 0) and
the role that it has; or of a path and the rules of `check` by which it is left as it is. Of each sort the last line
about a file or folder counts.
"""

from __future__ import annotations

import json
import os
from collections import Counter
from collections.abc import Callable, Hashable, Iterable, Mapping
from contextlib import suppress
from typing import Any, NamedTuple

from lazy_magpie.catalogue import All, Catalogue
from lazy_magpie.collection import STATE_DIR_NAME
from lazy_magpie.identify.roles.place import ROLES
from lazy_magpie.model import Answer, Item, Kind
from lazy_magpie.paths import name_of, read_back, written
from lazy_magpie.plain_json import json_text
from lazy_magpie.step_codec.parts import decode_answer, encode_answer

NAME = "notes.jsonl"
SETTLED, TAGS, CUSTOM, ROLE, LEFT = "settled", "tags", "own", "role", "left"
_KINDS = (SETTLED, TAGS, CUSTOM, ROLE, LEFT)
_OF_ITEMS = (SETTLED, TAGS, CUSTOM)


class Note(NamedTuple):
    """What a line tells: the file as it was, and what is told of it.

    That is, by its sort, the answer (None: taken back), the tags, or the values by field. `root` is the name of the
    root that it lies on, where the note is kept.
    """

    path: str
    size: int
    mtime: int
    root: str
    kind: str
    told: Any


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
        row[note.kind] = note.told
        at = (
            note.root
            if note.root in places and os.access(os.path.join(places[note.root], STATE_DIR_NAME), os.W_OK)
            else ""
        )
        if note.root and not at:
            row["root"] = note.root
        lines.setdefault(at, []).append(json_text(row, spaced=True))
    for root, texts in lines.items():
        with open(os.path.join(places[root], STATE_DIR_NAME, NAME), "a", encoding="utf-8") as file:
            file.write("".join(f"{text}\n" for text in texts))
            file.flush()
            os.fsync(file.fileno())


def read(places: Mapping[str, str]) -> list[Note]:
    """Return the last note of each sort about each file; a line that can't be read is passed over."""
    found: dict[tuple[str, str, int, int, str], Note] = {}
    for root, place in places.items():
        with (
            suppress(OSError),
            open(os.path.join(place, STATE_DIR_NAME, NAME), encoding="utf-8", errors="replace") as file,
        ):
            for line in file:
                try:
                    row = json.loads(line)
                    path, size, mtime = read_back(row["path"]), int(row["size"]), int(row["mtime"])
                    kind = next(kind for kind in _KINDS if kind in row)
                    note = Note(path, size, mtime, str(row.get("root", root)), kind, _CHECKED[kind](row[kind]))
                except (ValueError, KeyError, TypeError, AttributeError, StopIteration, OverflowError, RecursionError):
                    continue
                found[note.root, path, size, mtime, kind] = note
    return list(found.values())


def _answer(answer: Any) -> Any:
    """Return an answer as a person gave it, None where it was taken back. Raises ValueError for anything else."""
    if answer is None:
        return None
    fields = answer["fields"]
    if not isinstance(fields, dict) or not isinstance(answer["by"], str):
        raise ValueError("no answer")
    for value in fields.values():
        if not isinstance(value, str | int | float | list) or (isinstance(value, int) and abs(value) >= 1 << 53):
            raise ValueError("no value")
    return {**answer, "kind": Kind(answer["kind"]).value}


_CHECKED: Mapping[str, Callable[[Any], Any]] = {
    SETTLED: _answer,
    TAGS: lambda tags: [str(tag) for tag in tags],
    CUSTOM: lambda values: {str(field): value for field, value in values.items()},
    ROLE: lambda role: str(role) if role in ROLES else "",
    LEFT: lambda rules: [str(rule) for rule in rules],
}


def restore(catalogue: Catalogue, places: Mapping[str, str]) -> int:
    """Restore what a person decided from the notes; return how many notes counted."""
    notes = read(places)
    return sum(_take_back(catalogue, [note for note in notes if note.kind == kind]) for kind in _OF_ITEMS)


def restore_roles(catalogue: Catalogue, places: Mapping[str, str]) -> None:
    """Restore what a person said folders are for."""
    numbers = {root.name: root.number for root in catalogue.roots.all()}
    for note in read(places):
        if note.kind == ROLE and note.root in numbers:
            catalogue.roles.tell(numbers[note.root], note.path, note.told)


def restore_left(catalogue: Catalogue, places: Mapping[str, str]) -> None:
    """Restore which findings a person leaves as they are."""
    for note in read(places):
        if note.kind == LEFT:
            catalogue.left.put(note.path, note.told)


def _take_back(catalogue: Catalogue, waiting: list[Note]) -> int:
    """Apply the notes of one kind to items; for each item the surest note counts, and no older one beside it."""
    if not waiting:
        return 0
    known = [(note_of(item, None), item) for item in catalogue.items.ask(All())]
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
            count += bool(note.told) and _TAKE[note.kind](catalogue, item, note.told)
    return count


def _take_answer(catalogue: Catalogue, item: Item, answer: dict[str, Any]) -> bool:
    if catalogue.items.answer_of(item.id) is not None:
        return False
    catalogue.writer.settle(item.id, decode_answer(answer))
    return True


def _take_tags(catalogue: Catalogue, item: Item, tags: list[str]) -> bool:
    if item.tags:
        return False
    catalogue.tags.put(item.id, tags)
    return True


def _take_custom(catalogue: Catalogue, item: Item, values: dict[str, Any]) -> bool:
    for field, value in values.items():
        if field not in item.custom:
            catalogue.custom_fields.put(item.id, field, value)
    return True


_TAKE: Mapping[str, Callable[[Catalogue, Item, Any], bool]] = {
    SETTLED: _take_answer,
    TAGS: _take_tags,
    CUSTOM: _take_custom,
}


def note_of(item: Item, answer: Answer | None) -> Note:
    """Return the note that tells how an item was settled, or that it no longer is (None)."""
    return _note(item, SETTLED, encode_answer(answer))


def note_of_tags(item: Item) -> Note:
    """Return the note that tells which tags an item has now."""
    return _note(item, TAGS, list(item.tags))


def note_of_custom(item: Item) -> Note:
    """Return the note that tells what is filled in of an item now."""
    return _note(item, CUSTOM, dict(item.custom))


def note_of_role(path: str, root: str, role: str) -> Note:
    """Return the note that tells what a folder is for, by a person's word, "" for no longer."""
    return Note(path, 0, 0, root, ROLE, role)


def note_of_left(path: str, rules: Iterable[str]) -> Note:
    """Return the note that tells by which rules of `check` a path is left as it is."""
    return Note(path, 0, 0, "", LEFT, list(rules))


def _note(item: Item, kind: str, told: Any) -> Note:
    main = item.files[0]
    return Note(main.path, main.size, main.mtime, item.root, kind, told)
