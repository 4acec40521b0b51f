"""What is on disk into the catalogue: walking, noticing moves, grouping files into items."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

from lazy_magpie.catalogue import Catalogue
from lazy_magpie.collection import Collection
from lazy_magpie.scan import moves
from lazy_magpie.scan.gather import gather
from lazy_magpie.scan.walk import tops_of, walk

__all__ = ["Scanned", "scan"]

_COMMIT_EVERY = 20_000

Progress = Callable[[str, int], None]
"""Is told what is being done ("walking", "identifying") and how many files are done."""


@dataclass(frozen=True, slots=True)
class Scanned:
    """What a scan did. `seconds` are those of walking and storing, reading, identifying, indexing, and all."""

    files: int
    new: int
    changed: int
    moved: int
    missing: int
    links: int
    bytes: int
    unreadable: Sequence[tuple[str, str]]
    seconds: dict[str, float] = field(default_factory=dict)


def scan(
    catalogue: Catalogue,
    collection: Collection,
    paths: Sequence[str] = ("",),
    *,
    full: bool = False,
    progress: Progress = lambda what, count: None,
) -> Scanned:
    """Bring the catalogue up to date with the disk, below `paths` (relative to the root; "" is all).

    `full` identifies everything anew, not only what changed.
    """
    start = time.perf_counter()
    number = catalogue.next_scan()
    root = str(collection.root)
    walked = walk(catalogue, root, tops_of(paths, root), number, lambda count: progress("walking", count))
    stored = time.perf_counter()
    moved, folders = moves.follow(catalogue, number)
    dirty = catalogue.files.all_folders() if full else walked.dirty | folders
    done = 0
    for count in gather(catalogue, collection.config, sorted(dirty)):
        if (done + count) // _COMMIT_EVERY > done // _COMMIT_EVERY:
            catalogue.db.commit()
        done += count
        progress("identifying", done)
    catalogue.items.forget_ownerless()
    catalogue.db.commit()
    end = time.perf_counter()
    seconds = {
        "walk": stored - start,
        "read": 0.0,
        "identify": end - stored,
        "index": 0.0,
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
        seconds={name: round(value, 4) for name, value in seconds.items()},
    )
