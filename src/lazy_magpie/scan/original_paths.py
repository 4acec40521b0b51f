"""Lets a new catalogue know where files first came from: the journals of the changes tell it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence

from lazy_magpie.catalogue import Catalogue
from lazy_magpie.change import Filesystem, JournalStore, Relocation, moves_in_effect
from lazy_magpie.collection import Collection


def restore(catalogue: Catalogue, collection: Collection) -> list[int]:
    """Restore the first path of each item from the journals; return the folders (ids) of those that have one."""
    moves = list(moves_in_effect(JournalStore(Filesystem(str(collection.root)))))
    if not moves:
        return []
    catalogue.files.keep_first(first_paths(moves, catalogue.files.main_paths()))
    return catalogue.files.folders_with_first()


def first_paths(moves: Sequence[Relocation], paths: Iterable[str]) -> Iterator[tuple[str, str]]:
    """Yield each of `paths` that was moved, with the path that it had before the first of `moves`, oldest first."""
    now = {path: path for path in paths}  # where a file was then: where it is
    for source, target, is_folder in reversed(moves):
        if is_folder:
            below = [path for path in now if path.startswith(f"{target}/")]
            now |= {source + path[len(target) :]: now.pop(path) for path in below}
        elif target in now:
            now[source] = now.pop(target)
    yield from ((path, first) for first, path in now.items() if path != first)
