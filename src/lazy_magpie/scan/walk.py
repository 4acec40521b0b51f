"""Walks a root and stores what is on disk: new, changed and vanished files, folder by folder, in bounded memory."""

from __future__ import annotations

import errno
import os
from collections.abc import Callable, Collection, Iterable
from dataclasses import dataclass, field
from typing import NamedTuple

from lazy_magpie.catalogue import Catalogue, NewFile
from lazy_magpie.model import FOLDER_SIZE
from lazy_magpie.paths import is_below, parent
from lazy_magpie.scan.listing import FolderLister, ListedFile
from lazy_magpie.stable_hash import stable_bytes

_BATCH = 20_000


@dataclass
class Walked:
    """What a walk found. The folders in which anything is new, changed or gone are dirty in the catalogue then."""

    files: int = 0
    bytes: int = 0
    new: int = 0
    changed: int = 0
    missing: int = 0
    links: int = 0
    apart: list[str] = field(default_factory=list)
    unreadable: list[tuple[str, str]] = field(default_factory=list)

    def add(self, other: Walked) -> None:
        """Add what another walk found."""
        self.files += other.files
        self.bytes += other.bytes
        self.new += other.new
        self.changed += other.changed
        self.missing += other.missing
        self.links += other.links
        self.apart += other.apart
        self.unreadable += other.unreadable


class _Store:
    """Gathers rows and writes them in batches."""

    def __init__(self, catalogue: Catalogue, scan: int) -> None:
        self.catalogue = catalogue
        self.scan = scan
        self.new: list[NewFile] = []
        self.changed: list[tuple[int, int, int, int]] = []
        self.gone: list[int] = []
        self.digests: list[tuple[bytes, int]] = []
        self.dirty: set[int] = set()
        self.suspects: set[int] = set()
        self.empty: set[int] = set()

    def flush(self, *, limit: int = 0) -> None:
        """Write what has been gathered, if it is more than `limit` rows."""
        if len(self.new) + len(self.changed) + len(self.gone) + len(self.digests) <= limit:
            return
        files = self.catalogue.files
        files.add(self.new)
        files.change(self.changed)
        files.miss(self.gone, self.scan)
        files.mark_dirty(self.dirty)
        files.mark_tags_dirty(self.suspects)
        files.mark_clean(self.empty)
        files.digest(self.digests)
        self.catalogue.commit()
        self.new.clear()
        self.changed.clear()
        self.gone.clear()
        self.digests.clear()
        self.dirty.clear()
        self.suspects.clear()
        self.empty.clear()


class RootToWalk(NamedTuple):
    """A root: its number, where it is, and the folders that are no part of it (magpie's own, views that it made)."""

    number: int
    path: str
    passed: Collection[str] = ()


def walk(
    catalogue: Catalogue,
    root: RootToWalk,
    tops: Iterable[str],
    scan: int,
    progress: Callable[[int], None] = lambda count: None,
) -> Walked:
    """Bring the catalogue up to what lies at and below the folders `tops` of a root ("" is all).

    A folder that is a collection of its own is passed by, and named in `apart`. Symbolic links are counted, never
    followed, so that no loop can catch the walk. A folder that can't be read is named in `unreadable`, and nothing in
    it is taken for missing.
    """
    found = Walked()
    store = _Store(catalogue, scan)
    waiting = list(tops)
    whole = list(waiting)
    number = root.number
    lister = FolderLister(root.path)
    while waiting:
        folder = waiting.pop()
        if folder in root.passed:
            continue
        try:
            contents = lister.contents(folder, waiting, lambda count: progress(found.files + count))
        except OSError as error:
            _unreadable(catalogue, found, folder, error, scan, number)
            continue
        if contents.apart:
            found.apart.append(folder)
            continue
        id, is_new, before = catalogue.files.folder(folder, scan, number)
        listed = contents.files
        waiting += contents.folders
        found.links += contents.links
        found.unreadable += contents.unreadable
        found.files += len(listed)
        found.bytes += sum(size for _, size, _, _, _ in listed if size != FOLDER_SIZE)
        digest = _digest(listed)
        if digest == before:
            continue
        store.digests.append((digest, id))
        _compare(store, found, id, is_new=is_new, listed=listed)
        store.flush(limit=_BATCH)
    lister.close()
    store.flush()
    vanished, folders = catalogue.files.miss_unseen_folders(whole, scan, number)
    found.missing += vanished
    catalogue.files.mark_dirty(folders)
    catalogue.commit()
    return found


def _unreadable(catalogue: Catalogue, found: Walked, folder: str, error: OSError, scan: int, number: int) -> None:
    if error.errno in (errno.ENOENT, errno.ENOTDIR):  # vanished while we walked: the next scan will see
        return
    found.unreadable.append((folder or ".", error.strerror or "unreadable"))
    catalogue.files.see_folders(folder, scan, number)


def _digest(listed: list[ListedFile]) -> bytes:
    """Return what tells a folder's files from any others, or from themselves once they have changed."""
    listed.sort()
    return stable_bytes(listed, 12)


def _compare(store: _Store, found: Walked, folder: int, *, is_new: bool, listed: list[ListedFile]) -> None:
    """Note what differs between a folder's files on disk and in the catalogue."""
    if is_new:
        scan = store.scan
        store.new += [(folder, name, size, mtime, inode, scan) for name, size, mtime, inode, _ in listed]
        found.new += len(listed)
        if not listed:
            store.empty.add(folder)
        return  # a new folder is dirty from the beginning, but for one in which there is nothing to identify
    known = {row[1]: row for row in store.catalogue.files.in_folder(folder)}
    dirty = False
    for name, size, mtime, inode, _ in listed:
        row = known.pop(name, None)
        if row is None:
            store.new.append((folder, name, size, mtime, inode, store.scan))
            found.new += 1
            dirty = True
            continue
        id, _, old_size, old_mtime, old_inode, missing, _ = row
        if missing or old_size != size or old_mtime != mtime:
            store.changed.append((size, mtime, inode, id))
            found.changed += 1
            dirty = True
        elif old_inode != inode:
            store.changed.append((size, mtime, inode, id))
    gone = [row[0] for row in known.values() if not row[5]]
    store.gone += gone
    found.missing += len(gone)
    if dirty or gone:
        store.dirty.add(folder)
    else:  # something about a file has changed that is not its contents: its attributes, perhaps
        store.suspects.add(folder)


def tops_of(paths: Iterable[str], root: str) -> list[str]:
    """Return the folders to walk for `paths` below `root`: a file stands for its folder, and none lies in another."""
    tops = {path if not path or os.path.isdir(os.path.join(root, path)) else parent(path) for path in paths}
    return sorted(top for top in tops if not any(top != other and is_below(top, other) for other in tops))
