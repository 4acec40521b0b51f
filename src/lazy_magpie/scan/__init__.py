"""What is on disk into the catalogue: walking, noticing moves, grouping files into items."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, field

from lazy_magpie.catalogue import Catalogue
from lazy_magpie.collection import Collection
from lazy_magpie.scan import moves, notes
from lazy_magpie.scan.gather import ORDER, gather, identity_of, known_makers
from lazy_magpie.scan.reading import read_told
from lazy_magpie.scan.walk import tops_of, walk

__all__ = ["Scanned", "gather_again", "identity_of", "scan"]

_COMMIT_EVERY = 20_000

Progress = Callable[[str, int], None]
"""Is told what is being done ("walking", "identifying") and how many files are done."""


@dataclass(frozen=True, slots=True)
class Scanned:
    """What a scan did. `seconds` are those of walking and storing, reading, identifying, indexing, and all.

    `unreadable` are folders and files that the disk did not let be read, `refused` files that their reader could make
    nothing of: damaged, cut off, or not what they seem.
    """

    files: int
    new: int
    changed: int
    moved: int
    missing: int
    links: int
    bytes: int
    unreadable: Sequence[tuple[str, str]]
    refused: Sequence[tuple[str, str]]
    seconds: dict[str, float] = field(default_factory=dict)


def scan(
    catalogue: Catalogue,
    collection: Collection,
    paths: Sequence[str] = ("",),
    *,
    full: bool = False,
    jobs: int = 0,
    progress: Progress = lambda what, count: None,
) -> Scanned:
    """Bring the catalogue up to date with the disk, below `paths` (relative to the root; "" is all).

    `full` identifies everything anew, not only what changed. Files are read by `jobs` workers, 0: one a processor.
    """
    start = time.perf_counter()
    number = catalogue.next_scan()
    root = str(collection.root)
    walked = walk(catalogue, root, tops_of(paths, root), number, lambda count: progress("walking", count))
    stored = time.perf_counter()
    moved, folders = moves.follow(catalogue, number)
    catalogue.files.soil(catalogue.files.all_folders() if full else folders)
    catalogue.db.commit()
    dirty = catalogue.files.dirty_folders()
    refused = read_told(catalogue, root, dirty, jobs, lambda count: progress("reading", count))
    read = time.perf_counter()
    done = 0
    for count in _gathered(catalogue, collection, dirty):
        if (done + count) // _COMMIT_EVERY > done // _COMMIT_EVERY:
            catalogue.db.commit()
        done += count
        progress("identifying", done)
    catalogue.items.forget_ownerless()
    if number == 1:  # a new catalogue
        notes.take_back(catalogue, collection)
    catalogue.db.commit()
    identified = time.perf_counter()
    catalogue.items.index_stale()
    catalogue.db.commit()
    end = time.perf_counter()
    seconds = {
        "walk": stored - start,
        "read": read - stored,
        "identify": identified - read,
        "index": end - identified,
        "all": end - start,
    }
    return Scanned(
        files=walked.files,
        new=walked.new - moved,
        changed=walked.changed,
        moved=moved,
        missing=walked.missing - moved,
        links=walked.links,
        bytes=walked.bytes,
        unreadable=walked.unreadable,
        refused=refused,
        seconds={name: round(value, 4) for name, value in seconds.items()},
    )


def _gathered(catalogue: Catalogue, collection: Collection, dirty: Sequence[int]) -> Iterator[int]:
    """Gather the folders where anything is new; where makers are known now, those whose makers were in doubt again."""
    yield from gather(catalogue, collection.config, dirty)
    waiting = catalogue.items.folders_in_doubt(ORDER) if dirty else []
    if waiting and (makers := known_makers(catalogue)):
        yield from gather(catalogue, collection.config, waiting, makers)


def gather_again(catalogue: Catalogue, collection: Collection, folders: Iterable[int]) -> None:
    """Identify the files of `folders` (ids) anew, as a scan would that finds them changed."""
    for _ in gather(catalogue, collection.config, sorted(set(folders)), known_makers(catalogue)):
        pass
