"""Reads what has to be read so that lists can be matched: nothing whose size, or whose archive's directory, says no.

Each content is read once for all checksums that any list asks for, and what was worked out is remembered.
"""

from __future__ import annotations

import os
import tempfile
from collections.abc import Callable, Collection, Iterable, Iterator, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from functools import partial
from itertools import groupby, islice
from typing import IO

from lazy_magpie.catalogue import Catalogue
from lazy_magpie.catalogue.sums import INSIDE, Content
from lazy_magpie.change import Filesystem, Skip
from lazy_magpie.change.archives.contents import open_archive
from lazy_magpie.change.archives.packed import AtOnce, Member, OneByOne, Packed
from lazy_magpie.checksums import Sums, sums_of
from lazy_magpie.lists.disc_images import DISC_IMAGES, sha1_in
from lazy_magpie.lists.disc_images import HEAD as DISC_HEAD
from lazy_magpie.lists.image_headers import HEAD, header_of, image_headers
from lazy_magpie.lists.loading import ReferenceList
from lazy_magpie.model.reference import UNKNOWN_SIZE

_BATCH = 256
_NO_CRC = -1
_UNREADABLE = Sums(-1, 0)
"""What stands for a member that can't be read: it is nothing that a list has."""
Progress = Callable[[int], None]
_Read = tuple[Content, list[tuple[int, Sums]]]


@dataclass
class ContentReport:
    """How many bytes were read, and what could not be read: its path, and why."""

    bytes_read: int = 0
    unreadable: list[tuple[str, str]] = field(default_factory=list)


def read_contents(
    catalogue: Catalogue,
    tops: Mapping[int, str],
    lists: Sequence[ReferenceList],
    jobs: int,
    progress: Progress,
    *,
    anew: bool = False,
) -> ContentReport:
    """Read what may be listed and is not known; `tops` are the folders of the roots that are there, by their numbers.

    With `anew` all that lies in the lists' folders is read again.
    """
    report = ContentReport()
    wanted = frozenset(["crc", *(name for one in lists for name in one.known.digests)])
    sizes = catalogue.lists.sizes()
    folders = sorted({one.folder for one in lists})
    reader = _Reader(catalogue, tops, wanted, sizes, report, jobs or os.cpu_count() or 1, progress)
    reader.read_loose(_not_known(catalogue.sums.loose(folders, any_size=UNKNOWN_SIZE in sizes), wanted), anew=anew)
    behind = {size + one.length for size in sizes if size > 0 for one in image_headers()} - sizes
    for some in _batches(sorted(behind)):
        reader.read_loose(_not_known(catalogue.sums.of_sizes(some), wanted))
        reader.read_members(_not_known(catalogue.sums.members_of_sizes(some), wanted))
    reader.read_discs(catalogue.sums.with_ending([one.ending for one in DISC_IMAGES]))
    if anew:
        for folder in folders:
            here = [one for one in catalogue.sums.below(folder).items() if one[1].stamp.size > 0]
            loose = [Content(id, one.root, one.path, one.stamp.size, one.stamp.mtime) for id, one in here]
            reader.read_loose(loose, anew=True)
            reader.read_members(catalogue.sums.members_below(folder))
    reader.read_members(_not_known(catalogue.sums.members(), wanted))
    catalogue.commit()
    return report


def read_all_of(
    catalogue: Catalogue,
    tops: Mapping[int, str],
    files: Collection[int],
    wanted: frozenset[str],
    jobs: int,
    progress: Progress,
) -> ContentReport:
    """Read what is not known of these files, by their ids: of archives their members."""
    report = ContentReport()
    reader = _Reader(catalogue, tops, wanted, set(), report, jobs or os.cpu_count() or 1, progress)
    contents = _not_known(catalogue.sums.of_files(files), wanted)
    reader.read_loose([one for one in contents if not one.member])
    reader.read_members([one for one in contents if one.member])
    catalogue.commit()
    return report


def _not_known(contents: Iterable[Content], wanted: frozenset[str]) -> list[Content]:
    return [one for one in contents if not wanted <= one.known]


def _batches(sizes: Sequence[int]) -> Iterator[list[int]]:
    for at in range(0, len(sizes), _BATCH):
        yield list(sizes[at : at + _BATCH])


def _open(path: str) -> IO[bytes]:
    return open(path, "rb", buffering=0)


class _Behind:
    """What a file holds behind its first bytes, some of which were read already."""

    def __init__(self, file: IO[bytes], first: bytes) -> None:
        self._file, self._first = file, first

    def read(self, size: int) -> bytes:
        """Return the next bytes, b"" at the end."""
        first, self._first = self._first, b""
        return first or self._file.read(size)


class _Reader:
    """Reads contents side by side, and keeps their checksums batch by batch."""

    def __init__(
        self,
        catalogue: Catalogue,
        tops: Mapping[int, str],
        wanted: frozenset[str],
        sizes: set[int],
        report: ContentReport,
        jobs: int,
        progress: Progress,
    ) -> None:
        self._catalogue, self._tops, self._wanted, self._sizes = catalogue, tops, wanted, sizes
        self._report, self._jobs, self._progress = report, jobs, progress
        self._count = 0
        self._done: set[int] = set()

    def read_loose(self, contents: Iterable[Content], *, anew: bool = False) -> None:
        """Read files, each once in a run."""
        waiting = iter([one for one in contents if one.file not in self._done and one.root in self._tops])
        with ThreadPoolExecutor(self._jobs) as pool:
            while batch := list(islice(waiting, _BATCH)):
                for content, read in pool.map(self._loose, batch):
                    self._done.add(content.file)
                    self._keep(content, read, anew=anew)
                self._catalogue.commit()

    def _loose(self, content: Content) -> _Read:
        path = os.path.join(self._tops[content.root], content.path)
        try:
            with open(path, "rb", buffering=0) as file:
                status = os.fstat(file.fileno())
                if (status.st_size, status.st_mtime_ns) != (content.size, content.mtime):
                    self._report.unreadable.append((content.path, "it has changed since the last scan"))
                    return content, []
            return content, self._sums(content.size, partial(_open, path))
        except OSError as error:
            self._report.unreadable.append((content.path, (error.strerror or "unreadable").lower()))
            return content, []

    def _sums(self, size: int, opened: Callable[[], IO[bytes]]) -> list[tuple[int, Sums]]:
        """Return the checksums of a content, and of what lies behind a header in it, each with the header's length."""
        found = []
        if any(size - one.length in self._sizes for one in image_headers()):
            with opened() as file:
                header = header_of(head := file.read(HEAD))
                if header and size - header.length in self._sizes:
                    rest = _Behind(file, head[header.length :])
                    found.append((header.length, sums_of(rest, self._wanted, size=size)))  # type: ignore[arg-type]
        with opened() as file:
            return [(0, sums_of(file, self._wanted, size=size)), *found]

    def read_discs(self, contents: Iterable[Content]) -> None:
        """Read what images of discs say of what is packed in them."""
        for content in [one for one in contents if one.root in self._tops]:
            try:
                with _open(os.path.join(self._tops[content.root], content.path)) as file:
                    said = sha1_in(file.read(DISC_HEAD))
            except OSError:
                continue
            self._catalogue.sums.put(content, Sums(content.size, _NO_CRC, sha1=said), INSIDE)
        self._catalogue.commit()

    def read_members(self, contents: Iterable[Content]) -> None:
        """Read members of archives, archive by archive."""
        by_archive = groupby((one for one in contents if one.root in self._tops), key=lambda one: one.file)
        for _, members in by_archive:
            for content, read in self._members(list(members)):
                self._keep(content, read)
            self._catalogue.commit()

    def _members(self, contents: Sequence[Content]) -> Iterator[_Read]:
        first = contents[0]
        disk = Filesystem(self._tops[first.root])
        wanted = {one.member: one for one in contents}
        try:
            with open_archive(disk, first.path) as packed:
                members = [one for one in packed.members() if one.path in wanted]
                yield from self._each(packed, members, wanted)
        except (Skip, OSError) as error:
            why = str(error) if isinstance(error, Skip) else (error.strerror or "unreadable").lower()
            self._report.unreadable.append((first.path, why))
        for content in wanted.values():
            yield content, [(0, _UNREADABLE)]

    def _each(self, packed: Packed, members: Sequence[Member], wanted: dict[str, Content]) -> Iterator[_Read]:
        """Yield the members that were read; they are wanted no more."""
        if isinstance(packed, OneByOne):
            for member in members:
                sums = self._sums(member.size, partial(packed.open, member))
                yield wanted.pop(member.path), sums
            return
        assert isinstance(packed, AtOnce)
        with tempfile.TemporaryDirectory() as stage:
            packed.extract(members, stage)
            for member in members:
                here = os.path.join(stage, member.path)
                sums = self._sums(member.size, partial(_open, here))
                yield wanted.pop(member.path), sums

    def _keep(self, content: Content, read: Sequence[tuple[int, Sums]], *, anew: bool = False) -> None:
        self._count += 1
        self._progress(self._count)
        self._report.bytes_read += sum(sums.size for skipped, sums in read if not skipped)
        for skipped, sums in read:
            self._catalogue.sums.put(content, sums, skipped)
        if anew and not read:
            self._catalogue.sums.put(content, _UNREADABLE)
