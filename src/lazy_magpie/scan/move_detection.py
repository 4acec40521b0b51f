"""Notices files that were moved by other hands, so that all that is known of them goes along."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Hashable
from typing import NamedTuple

from lazy_magpie.catalogue import Catalogue


class _MoveCandidate(NamedTuple):
    id: int
    root: int
    folder: int
    name: str
    size: int
    mtime: int
    inode: int


_KEYS: tuple[Callable[[_MoveCandidate], Hashable], ...] = (
    lambda file: (file.root, file.inode, file.size, file.mtime),
    lambda file: (file.name, file.size, file.mtime),
)
"""What two sightings of one file have in common: it counts only where it is unique on both sides."""


def follow(catalogue: Catalogue, scan: int) -> tuple[int, set[int]]:
    """Join missing files with those that `scan` found anew; return how many, and the folders concerned."""
    gone = {row[0]: _MoveCandidate(*row) for row in catalogue.files.missing()}
    if not gone:
        return 0, set()
    new = {row[0]: _MoveCandidate(*row) for row in catalogue.files.added_in(scan)}
    moved = 0
    folders: set[int] = set()
    for key in _KEYS:
        before, after = _by(gone, key), _by(new, key)
        for common in before.keys() & after.keys():
            if len(before[common]) == len(after[common]) == 1:
                old, found = before[common][0], after[common][0]
                catalogue.files.take_over(old.id, found.id)
                folders |= {old.folder, found.folder}
                del gone[old.id], new[found.id]
                moved += 1
    catalogue.commit()
    return moved, folders


def _by(
    files: dict[int, _MoveCandidate], key: Callable[[_MoveCandidate], Hashable]
) -> dict[Hashable, list[_MoveCandidate]]:
    found: dict[Hashable, list[_MoveCandidate]] = defaultdict(list)
    for file in files.values():
        found[key(file)].append(file)
    return found
