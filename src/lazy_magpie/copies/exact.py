"""Same bytes: files of one size, then of the same ends, then of the same whole; each file is read once, and remembered.

Hard links to one file are no copies of each other. What a person calls one thing is compared as one thing: an item
whose main files are all in another item is its copy; files that things have in common besides (a cover, a picture in
two kits) are no copies that could go.
"""

from __future__ import annotations

import os
from collections import defaultdict
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field

from lazy_magpie.catalogue import MAIN_ROOT, Catalogue, Sized
from lazy_magpie.hashing import END, SMALL, ends_of, whole_of
from lazy_magpie.model import Item, Kind

_BATCH = 2_000
_NEVER = (Kind.JUNK, Kind.UNFINISHED)
"""What is nobody's copy: junk, and downloads that have not ended."""
SURE = ("bytes", "contents")
"""How copies match that hold the same; all else is only alike."""
Progress = Callable[[int], None]


@dataclass(frozen=True)
class Copies:
    """Items that hold the same; `twins` maps each path of any of them to what is in it, a digest.

    With `part` the first holds all that the others hold, and more: it is the one that stays. `match` is "bytes", or the
    similarity method of what is only alike: then nothing is in `twins`, and without `sure` it is only perhaps so, `why`
    says what else they may be.
    """

    items: tuple[Item, ...]
    twins: dict[str, bytes]
    part: bool = False
    match: str = "bytes"
    sure: bool = True
    why: str = ""


@dataclass
class DuplicateReport:
    """What was found: the copies, what could not be read and why, and how many bytes were read for it."""

    copies: list[Copies] = field(default_factory=list)
    unreadable: list[tuple[str, str]] = field(default_factory=list)
    bytes_read: int = 0


def find_copies(
    catalogue: Catalogue, root: str, items: Iterable[Item], jobs: int = 0, progress: Progress = lambda count: None
) -> DuplicateReport:
    """Find which of `items` hold the same, all files of the collection's own root being compared.

    Digests are kept in the catalogue as they are found, so a search that was stopped goes on where it was.
    """
    found = DuplicateReport()
    reader = _DigestReader(catalogue, root, found, jobs, progress)
    whole = reader.digests(list(catalogue.digests.of_one_size()))
    things = [thing for item in items if (thing := _thing(item, whole))]
    by_contents: dict[frozenset[bytes], list[Item]] = defaultdict(list)
    for item, contents in things:
        by_contents[contents].append(item)
    for same in by_contents.values():
        found.copies += _copies(apart(same), whole)
    larger = _larger(by_contents)
    for contents, parts in by_contents.items():
        if contents in larger:
            holder = by_contents[larger[contents]][0]
            others = [item for item in apart(parts) if not _inodes(item) <= _inodes(holder)]
            found.copies += _copies([holder, *others], whole, part=True)
    return found


@dataclass(frozen=True)
class Elsewhere:
    """A file of the collection's own root, and a file on another root that holds the same; `away` says that is away."""

    path: str
    root: str
    other: str
    away: bool


def find_elsewhere(
    catalogue: Catalogue, tops: Mapping[int, str], names: Mapping[int, str], jobs: int, progress: Progress
) -> tuple[list[Elsewhere], DuplicateReport]:
    """Find which files of the own root also lie on other roots: by reading those that are there, by what is remembered
    of those that are away.

    `tops` are the folders of the roots that are there, `names` the names of all, by their numbers.
    """
    found = DuplicateReport()
    files: list[Sized] = []
    places: dict[str, tuple[int, str]] = {}
    for root, file in catalogue.digests.across_roots():
        if root not in tops and not file.whole:
            continue  # away, and nothing is remembered
        whole = os.path.join(tops.get(root, f"//{root}"), file.path)
        places[whole] = (root, file.path)
        files.append(file._replace(path=whole))
    reader = _DigestReader(catalogue, tops[MAIN_ROOT], found, jobs, progress)
    by_contents: dict[bytes, list[str]] = defaultdict(list)
    for path, file in reader.digests(files).items():
        by_contents[file.whole].append(path)
    lines = []
    for same in by_contents.values():
        own = sorted(places[path][1] for path in same if places[path][0] == MAIN_ROOT)
        others = sorted(places[path] for path in same if places[path][0] != MAIN_ROOT)
        lines += [Elsewhere(path, names[root], other, root not in tops) for path in own for root, other in others]
    return sorted(lines, key=lambda one: (one.path, one.root, one.other)), found


def _thing(item: Item, files: dict[str, Sized]) -> tuple[Item, frozenset[bytes]] | None:
    """Return an item with what its main files hold, None where none of it is anywhere else."""
    if item.root or item.kind in _NEVER:
        return None
    mains = [file.path for file in item.files if file.role == "main"]
    if not any(path in files for path in mains):
        return None
    return item, frozenset(files[path].whole if path in files else os.fsencode(path) for path in mains)


def _larger(by_contents: dict[frozenset[bytes], list[Item]]) -> dict[frozenset[bytes], frozenset[bytes]]:
    """Return for contents that are all held by a thing that holds more what that thing holds."""
    holders: dict[bytes, list[frozenset[bytes]]] = defaultdict(list)
    for contents in by_contents:
        if len(contents) > 1:
            for digest in contents:
                holders[digest].append(contents)
    found = {}
    for contents in by_contents:
        around = [other for other in holders[next(iter(contents))] if contents < other]
        if around:
            found[contents] = max(around, key=len)
    return found


def _copies(items: Sequence[Item], files: dict[str, Sized], *, part: bool = False) -> list[Copies]:
    if len(items) < 2:
        return []
    twins = {file.path: files[file.path].whole for item in items for file in item.files if file.path in files}
    return [Copies(tuple(items), twins, part)]


def apart(items: Sequence[Item]) -> list[Item]:
    """Return the items without those whose files are hard links to the files of another."""
    seen: dict[frozenset[int], Item] = {}
    for item in items:
        seen.setdefault(_inodes(item), item)
    return list(seen.values())


def _inodes(item: Item) -> frozenset[int]:
    return frozenset(file.inode for file in item.files if file.role == "main")


class _DigestReader:
    """Reads what has to be read, in the order in which it lies on the disk, and keeps what it finds."""

    def __init__(self, catalogue: Catalogue, root: str, found: DuplicateReport, jobs: int, progress: Progress) -> None:
        self.catalogue = catalogue
        self.root = root
        self.found = found
        self.jobs = jobs or os.cpu_count() or 1
        self.progress = progress
        self.read = 0

    def digests(self, files: list[Sized]) -> dict[str, Sized]:
        """Return the files that have a twin, by path, with the digest of the whole."""
        large = [file for file in _in_company(files, _by_size) if file.size > SMALL]
        small = [file for file in _in_company(files, _by_size) if file.size <= SMALL]
        ended = [*(f for f in large if f.ends), *self._read([f for f in large if not f.ends], "ends")]
        wanted = [*small, *_in_company(ended, lambda file: (file.size, file.ends))]
        done = [*(f for f in wanted if f.whole), *self._read([f for f in wanted if not f.whole], "whole")]
        return {file.path: file for file in _in_company(done, lambda file: (file.size, file.whole), links=True)}

    def _read(self, files: list[Sized], which: str) -> Iterator[Sized]:
        """Read the ends or the whole of files; of hard links the first alone."""
        first: dict[tuple[int, int, int], Sized] = {}
        links: dict[tuple[int, int, int], list[Sized]] = defaultdict(list)
        for file in sorted(files, key=_as_one):
            if _as_one(file) in first:
                links[_as_one(file)].append(file)
            else:
                first[_as_one(file)] = file
        with ThreadPoolExecutor(self.jobs) as pool:
            waiting = list(first.values())
            for at in range(0, len(waiting), _BATCH):
                batch = waiting[at : at + _BATCH]
                done = []
                for read, got in pool.map(lambda file: self._one(file, which), batch):
                    self.read += 1
                    self.progress(self.read)
                    self.found.bytes_read += read
                    done += [got] if got else []
                every = [
                    other._replace(ends=file.ends, whole=file.whole)
                    for file in done
                    for other in (file, *links[_as_one(file)])
                ]
                self.catalogue.digests.put(every)
                self.catalogue.commit()
                yield from every

    def _one(self, file: Sized, which: str) -> tuple[int, Sized | None]:
        """Return how many bytes were read of a file, and the file with its digest.

        None, with the reason noted, where it can't be read or is not what the scan saw.
        """
        path = os.path.join(self.root, file.path)
        try:
            digest = ends_of(path, file.size) if which == "ends" else whole_of(path)
            status = os.stat(path, follow_symlinks=False)
        except OSError as error:
            self.found.unreadable.append((file.path, (error.strerror or "unreadable").lower()))
            return 0, None
        read = min(file.size, 2 * END) if which == "ends" else file.size
        if (status.st_size, status.st_mtime_ns) != (file.size, file.mtime):
            self.found.unreadable.append((file.path, "it has changed since the last scan"))
            return read, None
        return read, file._replace(ends=digest) if which == "ends" else file._replace(whole=digest)


def _as_one(file: Sized) -> tuple[int, int, int]:
    """Return what hard links to one file have in common; it sorts files by where they lie on the disk, nearly."""
    return file.inode, file.size, file.mtime


def _by_size(file: Sized) -> object:
    return file.size


def _in_company(files: Iterable[Sized], key: Callable[[Sized], object], *, links: bool = False) -> list[Sized]:
    """Return the files that share their key with another file; hard links to one file are one, unless `links`."""
    by_key: dict[object, list[Sized]] = defaultdict(list)
    for file in files:
        by_key[key(file)].append(file)
    return [
        file
        for same in by_key.values()
        if len(same) > 1 and (links or len({_as_one(file) for file in same}) > 1)
        for file in same
    ]
