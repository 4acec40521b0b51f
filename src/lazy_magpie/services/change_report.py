"""What one change did, file by file: where each came from, and where it is now, whatever was changed since."""

from __future__ import annotations

import os
from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

from lazy_magpie.catalogue import Catalogue, OneOf
from lazy_magpie.change import Change, ChangedFile, Relocation, files_of, history, moves_in_effect
from lazy_magpie.collection import Collection
from lazy_magpie.errors import UsageError
from lazy_magpie.model import Item
from lazy_magpie.paths import is_below, join
from lazy_magpie.services.journals import journal_store


@dataclass(frozen=True)
class ChangeReport:
    """A change with every file of it.

    `now` says for each file where it is, "" where it is gone; `items` are those that lie there, in that order.
    """

    change: Change
    files: Sequence[ChangedFile]
    now: Sequence[str]
    items: Sequence[Item]


def report_on(collection: Collection, catalogue: Catalogue, number: int) -> ChangeReport:
    """Return what a change did. Raises UsageError where there is no such change."""
    store = journal_store(collection)
    change = next((one for one in history(store) if one.number == number), None)
    if change is None:
        raise UsageError(f"There is no change {number}; “magpie history” lists them.")
    root = str(collection.root)
    files = [one for file in files_of(store, number) for one in _each(root, file)]
    places = _followed([_left_at(one) for one in files], moves_in_effect(store, number))
    now = [path if path and os.path.lexists(os.path.join(root, path)) else "" for path in places]
    ids = dict.fromkeys(id for path in now if path and (id := catalogue.items.having(path)))
    found = {item.id: item for item in catalogue.items.ask(OneOf(tuple(ids)))} if ids else {}
    return ChangeReport(change, files, now, [found[id] for id in ids if id in found])


def _each(root: str, file: ChangedFile) -> Iterator[ChangedFile]:
    """Yield the files of a folder that was moved, as they are there now; else the file itself."""
    top = os.path.join(root, file.went)
    if not (file.is_folder and file.state == "done" and os.path.isdir(top)):
        yield file
        return
    for folder, _, names in os.walk(top):
        for name in sorted(names):
            rest = os.path.relpath(os.path.join(folder, name), top)
            yield file._replace(came=join(file.came, rest), went=join(file.went, rest), is_folder=False)


def _left_at(file: ChangedFile) -> str:
    """Return where the change left a file: at its new place; at its old one where it has none, or was not moved."""
    return file.went or file.came if file.state == "done" else file.came


def _followed(paths: Sequence[str], moves: Iterable[Relocation]) -> list[str]:
    """Return where what lay at some paths lies after moves, each taken in its turn: a name may be taken again later."""
    at: dict[str, list[int]] = defaultdict(list)
    for number, path in enumerate(paths):
        at[path].append(number)
    for source, target, is_folder in moves:
        moved = [path for path in at if is_below(path, source)] if is_folder else [source] if source in at else []
        for path in moved:
            at[target + path[len(source) :]] += at.pop(path)
    found = list(paths)
    for path, numbers in at.items():
        for number in numbers:
            found[number] = path
    return found
