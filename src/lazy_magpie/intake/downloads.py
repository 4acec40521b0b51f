"""Looks at a heap of downloads: loose files, and bundles, which are archives and folders, with what is in them.

Of an archive its directory is read, nothing is unpacked; one that can't be trusted is left, with the reason. Downloads
that have not ended, and files that were written to within the last minute, are left too.
"""

from __future__ import annotations

import hashlib
import os
import posixpath
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from itertools import repeat
from typing import NamedTuple

from lazy_magpie.change import Filesystem, Listed, StateFolders, plain_contents
from lazy_magpie.collection import CATALOGUE_NAME, STATE_DIR_NAME
from lazy_magpie.config import FILE_NAME
from lazy_magpie.identify.file_types import BY_ENDING, PARTS_OF_KITS, PICTURES, is_archive, junk_in
from lazy_magpie.intake.unfinished import Arrivals
from lazy_magpie.model import FileStamp, FileStatus, Kind
from lazy_magpie.passwords import PASSWORDS
from lazy_magpie.paths import join, name_of, read_back, split_ending, unpacked_name
from lazy_magpie.readers.worker_pool import LISTING, ask_all
from lazy_magpie.split_archives import cuts_in, whole_name
from lazy_magpie.streams import chunks
from lazy_magpie.words import is_junk

_READ = (".zip", ".7z", ".rar", ".tar", ".tgz", ".tbz2", ".txz", ".tar.gz", ".tar.bz2", ".tar.xz", ".tar.zst")


class Source(NamedTuple):
    """A file on the disk: its path as steps name it (from the root; outside it begins with ".."), and how it looked.

    `more` are the other volumes of an archive that is in several.
    """

    path: str
    stamp: FileStamp
    more: tuple[Source, ...] = ()

    @property
    def is_outside(self) -> bool:
        """Whether it lies outside the collection's root: then it is only read."""
        return self.path.startswith("..")


class Piece(NamedTuple):
    """A file of the heap: its path below its bundle, its size, its CRC-32 (None: not known), the file that it is in.

    `member` is its name inside that archive, "" where it is a file of its own.
    """

    path: str
    size: int
    crc: int | None
    source: Source
    member: str = ""


@dataclass(frozen=True)
class Bundle:
    """An archive (`archive` is its file) or a folder of the heap, with what is in it; `name` is what it is called.

    `passed` are members that nobody needs: what operating systems leave behind. `listing` tells an archive from any
    that holds something else.
    """

    name: str
    pieces: tuple[Piece, ...]
    archive: Source | None = None
    passed: tuple[str, ...] = ()
    listing: str = ""

    @property
    def sources(self) -> list[Source]:
        """The files on the disk that it is, each once."""
        return [self.archive] if self.archive else list(dict.fromkeys(piece.source for piece in self.pieces))

    @cached_property
    def top(self) -> str:
        """The one folder that all of it lies in, "" where there is none."""
        return self.common.partition("/")[0]

    @cached_property
    def common(self) -> str:
        """The deepest folder that all of it lies in, "" where there is none."""
        return posixpath.commonpath([posixpath.dirname(piece.path) for piece in self.pieces]) if self.pieces else ""

    @cached_property
    def kinds(self) -> Counter[Kind | None]:
        """How many of its files are of which kind, by their endings; what kits hold besides pictures counts as such."""
        found: Counter[Kind | None] = Counter()
        for tail, count in Counter([piece.path[piece.path.rfind(".") :] for piece in self.pieces]).items():
            ending = split_ending(f"_{tail}")[1].lower()
            found[Kind.PICTURE if ending in PARTS_OF_KITS or ending in PICTURES else BY_ENDING.get(ending)] += count
        return found


@dataclass
class Downloads:
    """What was found: bundles, loose files, and what is left and why; `packed` are archives not yet looked into."""

    bundles: list[Bundle] = field(default_factory=list)
    packed: list[Piece] = field(default_factory=list)
    loose: list[Piece] = field(default_factory=list)
    unmoved: list[tuple[str, str]] = field(default_factory=list)
    files: int = 0

    def sizes(self) -> set[int]:
        """Return the sizes that its files have, unpacked, in bytes."""
        return {piece.size for pieces in (self.loose, *(bundle.pieces for bundle in self.bundles)) for piece in pieces}


def read_downloads(disk: Filesystem, top: str, now: float) -> Downloads:
    """Look at what lies in the folder `top` (as steps name paths); `now` is the time in seconds."""
    heap = Downloads()
    arrivals = Arrivals(now)
    for entry in _entries(disk, top):
        if entry.status.is_folder and is_collection(disk, entry.path):
            heap.unmoved.append((entry.path, "a collection of its own"))
        elif entry.status.is_folder:
            _folder(disk, heap, entry.path, arrivals)
        elif (piece := _piece(disk, heap, entry, name_of(entry.path), arrivals)) and not _is_archive(heap, piece):
            heap.loose.append(piece)
    for piece, listed in zip(heap.packed, _listed(disk, [piece.source.path for piece in heap.packed]), strict=True):
        _bundle(disk, heap, piece, listed)
    return heap


class _Entry(NamedTuple):
    """What lies in a folder under one name, or an archive in several volumes: the one it is opened by, and the others.

    `missing` is the number of a volume that is not there, 0 where all seem to be.
    """

    path: str
    status: FileStatus
    more: tuple[Source, ...] = ()
    missing: int = 0


def is_collection(disk: Filesystem, folder: str) -> bool:
    """Say whether a folder is a collection of its own: nothing is taken out of it."""
    return folder != "" and all(
        map(disk.status, (join(folder, FILE_NAME), join(folder, f"{STATE_DIR_NAME}/{CATALOGUE_NAME}")))
    )


def _entries(disk: Filesystem, folder: str) -> Iterator[_Entry]:
    """Yield what lies in a folder, without links and what is magpie's own."""
    names = set(disk.names(folder))
    if STATE_DIR_NAME in names and folder in StateFolders(disk).tops():  # any other of that name is data
        names.remove(STATE_DIR_NAME)
    found = {name: disk.status(join(folder, name)) for name in sorted(names)}
    there = {name: status for name, status in found.items() if status is not None and not status.is_link}
    cuts = {cut.lead: cut for cut in cuts_in(name for name, status in there.items() if not status.is_folder)}
    others = {name for cut in cuts.values() for name in cut.names} - cuts.keys()
    for name, status in there.items():
        if name in others:
            continue
        cut = cuts.get(name)
        beside = [other for other in cut.names if other != name] if cut else []
        more = tuple(Source(join(folder, other), there[other].stamp) for other in beside)
        yield _Entry(join(folder, name), status, more, cut.missing if cut else 0)


def _folder(disk: Filesystem, heap: Downloads, path: str, arrivals: Arrivals) -> None:
    """Take a folder as a bundle; archives in it are bundles of their own."""
    pieces = []
    for entry in _files_below(disk, path):
        piece = _piece(disk, heap, entry, entry.path[len(path) + 1 :], arrivals)
        if piece and not _is_archive(heap, piece):
            pieces.append(piece)
    if pieces:
        heap.bundles.append(Bundle(name_of(path), tuple(pieces)))


def _files_below(disk: Filesystem, folder: str) -> Iterator[_Entry]:
    for entry in _entries(disk, folder):
        if entry.status.is_folder:
            if not is_collection(disk, entry.path):
                yield from _files_below(disk, entry.path)
        else:
            yield entry


def _piece(disk: Filesystem, heap: Downloads, entry: _Entry, below: str, arrivals: Arrivals) -> Piece | None:
    """Return a file as a piece, None where it is left."""
    path, status, more, missing = entry
    heap.files += 1 + len(more)
    name = name_of(path)
    volumes = (Source(path, status.stamp), *more)
    if is_junk(name):
        heap.unmoved.append((path, "junk"))
    elif why := next(filter(None, (arrivals.why_not(disk.path(at), *seen[:2]) for at, seen, _ in volumes)), ""):
        heap.unmoved.append((path, why))
    elif missing:
        heap.unmoved.append((path, f"an archive in several volumes, of which number {missing} is missing"))
    else:
        return Piece(below, status.size, None, Source(path, status.stamp, more))
    return None


def _is_archive(heap: Downloads, piece: Piece) -> bool:
    """Say whether a file is an archive; it is kept to be looked into, or left with the reason."""
    name = whole_name(name_of(piece.path))
    if not is_archive(name):
        return False
    if name.lower().endswith(_READ):
        heap.packed.append(piece)
    else:
        heap.unmoved.append((piece.source.path, "an archive of a kind that can't be unpacked here"))
    return True


def _listed(disk: Filesystem, archives: Sequence[str]) -> list[Listed | str]:
    """Return what each archive lists, or why it is left alone.

    The plain directory of a zip is read at a glance; all others by worker processes, which have limits.
    """
    found: list[Listed | str] = [plain_contents(disk, archive) or "" for archive in archives]
    asked = [at for at, listed in enumerate(found) if not listed]
    for number, answer in ask_all([[disk.root, archives[at], PASSWORDS.file] for at in asked], LISTING):
        why = answer.get("refused") or answer.get("unreadable")
        found[asked[number]] = str(why) if why else Listed(answer["names"], answer["sizes"], answer["crcs"])  # type: ignore[arg-type]
    return found


def _bundle(disk: Filesystem, heap: Downloads, piece: Piece, listed: Listed | str) -> None:
    """Take an archive as a bundle of what it lists, or leave it with the reason."""
    name = whole_name(name_of(piece.path))
    if isinstance(listed, str):
        cut = name != name_of(piece.path) and "damaged" in listed
        heap.unmoved.append((piece.source.path, f"{listed}; one of its volumes may be missing" if cut else listed))
        return
    paths, sizes, crcs = listed
    junk = junk_in(paths)
    pieces = [*map(Piece, paths, sizes, crcs, repeat(piece.source), paths)]
    if junk:
        passed = frozenset(junk)
        pieces = [piece for piece in pieces if piece.path not in passed]
    if pieces:
        digest = _listing(disk, piece.source, paths, sizes, crcs)
        heap.bundles.append(Bundle(unpacked_name(name), tuple(pieces), piece.source, tuple(junk), digest))
    else:
        heap.unmoved.append((piece.source.path, "an archive with nothing in it"))


def _listing(
    disk: Filesystem, source: Source, paths: Sequence[str], sizes: Sequence[int], crcs: Sequence[int | None]
) -> str:
    """Return what tells an archive from any that holds something else: names, sizes and checksums of its members.

    Of one whose format has no checksums, all of it is read instead.
    """
    rows = sorted(zip(paths, sizes, (crc or 0 for crc in crcs), strict=True))
    hasher = hashlib.blake2b(repr(rows).encode("utf-8", "surrogateescape"), digest_size=16)
    if None in crcs:
        for volume in (source, *source.more):
            with disk.open_old(volume.path) as file:
                for chunk in chunks(file):
                    hasher.update(chunk)
    return hasher.hexdigest()


def outside(root: str, folder: str) -> str:
    """Return a folder as steps name it: its path from the root, which begins with ".." where it lies outside."""
    path = os.path.relpath(os.path.realpath(folder), os.path.realpath(root))
    return "" if path == "." else read_back(path) if "\\" not in path else path
