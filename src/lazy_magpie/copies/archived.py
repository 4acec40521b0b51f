"""Same contents in another wrapping: an archive and the folder it was unpacked to, two archives with the same members.

What an archive holds is known from its directory (names, sizes, CRC-32); of the files in a folder the CRC-32 is worked
out once and remembered. Formats without checksums (tar) are compared by names and sizes here, and like all others byte
for byte before anything is taken away.
"""

from __future__ import annotations

import os
from collections import defaultdict
from collections.abc import Collection, Iterator
from typing import NamedTuple

from lazy_magpie.catalogue import Catalogue
from lazy_magpie.model import File
from lazy_magpie.paths import is_below, join, name_of, parent, split_ending, unpacked_name
from lazy_magpie.streams import crc_of

Member = tuple[str, int, int | None]


class Packed(NamedTuple):
    """An archive: its file, and what it holds."""

    file: File
    members: tuple[Member, ...]


class Wrapped(NamedTuple):
    """The same contents twice: an archive and the folder that holds all of it, or several archives (None).

    `more` says how many members the folder lacks: then the archive is no copy of it. `is_known` says that magpie has
    unpacked it: archive and folder are one thing then, and no copies of each other.
    """

    archives: tuple[Packed, ...]
    folder: str | None = None
    more: int = 0
    is_known: bool = False


class Inside(NamedTuple):
    """A file that also lies inside an archive; both are paths."""

    file: str
    archive: str


def top_of(packed: Packed) -> str:
    """Return the one folder that all members of an archive lie in, "" if there is none."""
    tops = {path.partition("/")[0] if "/" in path else "" for path, _, _ in packed.members}
    return tops.pop() if len(tops) == 1 else ""


def find_wrapped(catalogue: Catalogue, root: str) -> tuple[list[Wrapped], list[Inside], int]:
    """Return what is there in two wrappings, which files lie in archives too, and how many bytes were read for it."""
    ours = catalogue.placements.archives()
    archives = dict(catalogue.digests.archives())
    packed = [Packed(file, tuple(catalogue.files.members_of(id))) for id, file in archives.items()]
    unpacked = {file.path for id, file in archives.items() if id in ours}
    reader = _ListingReader(catalogue, root)
    found = [
        one._replace(is_known=one.archives[0].file.path in unpacked) for one in _unpacked(catalogue, packed, reader)
    ]
    by_contents: dict[frozenset[Member], list[Packed]] = defaultdict(list)
    for one in packed:
        if all(crc is not None for _, _, crc in one.members):
            by_contents[frozenset(one.members)].append(one)
    for same in by_contents.values():
        if len({one.file.inode for one in same}) > 1:
            found.append(Wrapped(tuple(same)))
    known = {one.file.path for each in found for one in each.archives} | unpacked
    inside = list(_inside(catalogue, [one for one in packed if one.file.path not in known], reader))
    catalogue.commit()
    return found, inside, reader.bytes_read


def unpacked_beside(catalogue: Catalogue, paths: Collection[str]) -> set[str]:
    """Return which of some archives are unpacked in folders next to them, whatever their files are called there.

    Sizes and endings alone are compared: enough to leave an archive where it is, and for nothing else.
    """
    if not paths:
        return set()
    held = {
        file.path: {(_ending(path), size) for path, size, _ in catalogue.files.members_of(id) if size}
        for id, file in catalogue.digests.archives()
        if file.path in paths
    }
    there = catalogue.digests.paths_of({size for members in held.values() for _, size in members}) if held else {}

    def lies_beside(archive: str, ending: str, size: int) -> bool:
        beside = parent(archive)
        return any(
            _ending(path) == ending and is_below(path, beside) and parent(path) != beside
            for path in there.get(size, ())
        )

    return {path for path, members in held.items() if members and all(lies_beside(path, *one) for one in members)}


def _ending(path: str) -> str:
    return split_ending(name_of(path))[1].lower()


def _inside(catalogue: Catalogue, packed: list[Packed], reader: _ListingReader) -> Iterator[Inside]:
    """Yield the files that archives hold too, by name, size and checksum; without a checksum nothing is said."""
    members = [(one, member) for one in packed for member in one.members if member[1] and member[2] is not None]
    places = catalogue.digests.places_of({(name_of(path), size) for _, (path, size, _) in members})
    for one, (path, size, crc) in members:
        name = name_of(path)
        for folder in places.get((name, size), ()):
            if reader.has(folder, (name, size, crc)):
                yield Inside(join(folder, name), one.file.path)


def _unpacked(catalogue: Catalogue, packed: list[Packed], reader: _ListingReader) -> Iterator[Wrapped]:
    """Yield each archive with the folder that holds what it holds, or most of it."""
    largest = {one: max(one.members, key=lambda member: member[1]) for one in packed if one.members}
    places = catalogue.digests.places_of({(name_of(path), size) for path, size, _ in largest.values()})
    for one, (path, size, _) in largest.items():
        best: Wrapped | None = None
        for folder in places.get((name_of(path), size), ()):
            for base in _bases(folder, parent(path)):
                lacking = sum(1 for member in one.members if not reader.has(base, member))
                if best is None or lacking < best.more:
                    best = Wrapped((one,), base, lacking)
        if best and (not best.more or _is_beside(best)):
            yield best


def _bases(folder: str, inside: str) -> Iterator[str]:
    """Yield the folders below which a member in the folder `inside` would lie in `folder`, with its top or without."""
    if not inside:
        yield folder
    elif folder == inside or folder.endswith("/" + inside):
        yield folder[: -len(inside)].rstrip("/")


def _is_beside(found: Wrapped) -> bool:
    """Say whether a folder that lacks something is still what was unpacked: by its name, and by half of it at least."""
    one = found.archives[0]
    beside = join(parent(one.file.path), unpacked_name(name_of(one.file.path)))
    return beside == join(found.folder or "", top_of(one)) and found.more * 2 < len(one.members)


class _ListingReader:
    """Says whether a member of an archive lies in a folder, reading each file once at the most."""

    def __init__(self, catalogue: Catalogue, root: str) -> None:
        self.catalogue = catalogue
        self.root = root
        self.bytes_read = 0

    def has(self, base: str, member: Member) -> bool:
        """Say whether the file of a member lies below `base`, with its size and its checksum."""
        path, size, crc = member
        known = self.catalogue.digests.file_at(join(base, path))
        if known is None or known[1] != size:
            return False
        if crc is None:
            return True
        id, _, mtime, own = known
        if own is None:
            own = self._crc(join(base, path))
            if own is not None:
                self.catalogue.digests.put_crc(id, size, mtime, own)
        return own == crc

    def _crc(self, path: str) -> int | None:
        try:
            with open(os.path.join(self.root, path), "rb") as file:
                crc = crc_of(file)
                self.bytes_read += file.tell()
        except OSError:
            return None
        return crc
