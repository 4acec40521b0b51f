"""Unpacks archives into a new folder, and says whether a folder, or another archive, holds what an archive holds."""

from __future__ import annotations

import shutil
from collections.abc import Iterable, Iterator, Mapping, Sequence
from contextlib import ExitStack
from typing import IO, NamedTuple

from lazy_magpie.change.archives.contents import check_members, open_archive
from lazy_magpie.change.archives.packed import AtOnce, Member, OneByOne, Packed
from lazy_magpie.change.failpoints import failpoint
from lazy_magpie.change.filesystem.access import Filesystem
from lazy_magpie.change.run_context import DamagedArchive, Skip
from lazy_magpie.paths import join, parent, written
from lazy_magpie.streams import chunks, hold_the_same

_STAGE = ".unpacking"


class Part(NamedTuple):
    """An archive to unpack: where it is, and where its members go below the new folder; None: where they say.

    With a layout, members that are not in it stay in the archive. `names` is the encoding of its members' names.
    """

    archive: str
    layout: Mapping[str, str] | None = None
    names: str = ""


def unpack(disk: Filesystem, parts: Sequence[Part], folder: str) -> None:
    """Unpack archives into the new `folder`, everything synced. Raises Skip, with the reason.

    What lists its members is looked at whole before anything is made; a tar is read once, each member looked at before
    it is written.
    """
    target = _Target(disk, folder)
    for part in parts:
        with open_archive(disk, part.archive, part.names) as packed:
            placed = _all_placed(packed, part.layout)
            members: Iterable[tuple[Member, str]] = list(placed) if packed.indexed else placed
            target.make()
            if isinstance(packed, AtOnce):
                _extract(target, packed, list(members))
            else:
                assert isinstance(packed, OneByOne)
                _open_each(target, packed, members)
    target.sync()


class _Target:
    """The new folder that archives are unpacked into, and what was made in it."""

    def __init__(self, disk: Filesystem, folder: str) -> None:
        self.disk, self.folder = disk, folder
        self._folders: set[str] = set()
        self._unsynced: list[str] = []

    def make(self) -> None:
        """Make the folder itself, once something is sure to come into it."""
        if not self._folders:
            self.disk.make_folder(self.folder)
            self._folders.add(self.folder)

    def place(self, path: str, *, is_folder: bool) -> str:
        """Return where something goes below it, with the folders made that it needs."""
        here = self.folder
        for part in (path if is_folder else parent(path)).split("/"):
            if part and (here := join(here, part)) not in self._folders:
                self.disk.make_folder(here)
                self._folders.add(here)
        return join(self.folder, path)

    def written(self, path: str) -> None:
        """Note a file that has its contents and is not synced yet."""
        self.disk.set_mode(path, 0o644)  # before it is synced: the disk then has one thing to write
        self._unsynced.append(path)
        failpoint("unpack-member")

    def sync(self) -> None:
        """Let all of it last: at the end, when the disk has written most of it."""
        self.disk.sync_files(self._unsynced)
        self.disk.sync_folders(sorted(self._folders, reverse=True))


def _open_each(target: _Target, packed: OneByOne, members: Iterable[tuple[Member, str]]) -> None:
    """Write members one by one, in their order."""
    for member, path in members:
        place = target.place(path, is_folder=member.size < 0)
        if member.size >= 0:
            _write(target.disk, packed, member, place)
            target.written(place)


def _extract(target: _Target, packed: AtOnce, members: Sequence[tuple[Member, str]]) -> None:
    """Unpack members at once into a folder beside, from which each is put into its place; what nobody wanted goes."""
    disk, stage = target.disk, join(target.folder, _STAGE)
    files = [(member, path) for member, path in members if member.size >= 0]
    disk.make_folder(stage)
    packed.extract([member for member, _ in files], disk.path(stage))
    for member, _ in files:
        status = disk.status(join(stage, member.path))
        if status is None or status.is_link or status.is_folder or status.size != member.size:
            raise DamagedArchive(f"its member “{written(member.path)}” is damaged or cut off")
    for member, path in members:
        place = target.place(path, is_folder=member.size < 0)
        if member.size >= 0:
            disk.rename(join(stage, member.path), place)
            target.written(place)
    shutil.rmtree(disk.path(stage))


def _all_placed(packed: Packed, layout: Mapping[str, str] | None) -> Iterator[tuple[Member, str]]:
    """Yield members with where they go. Raises Skip at the end where one that has a place was not there."""
    found = set()
    for member, path in _placed(check_members(packed), layout):
        found.add(member.path)
        yield member, path
    if layout is not None and len(found) < len(layout):
        raise Skip(f"it no longer holds “{written(min(layout.keys() - found))}”")


def _placed(members: Iterator[Member], layout: Mapping[str, str] | None) -> Iterator[tuple[Member, str]]:
    """Yield members with where they go below the new folder."""
    for member in members:
        if layout is None:
            yield member, member.path
        elif member.size >= 0 and member.path in layout:
            yield member, layout[member.path]


def holds(disk: Filesystem, parts: Sequence[Part], folder: str) -> bool:
    """Say whether `folder` holds every member of the archives with its size."""
    for part in parts:
        try:
            with open_archive(disk, part.archive, part.names) as packed:
                placed = list(_all_placed(packed, part.layout))
        except (Skip, OSError):
            return False
        for member, path in placed:
            status = disk.status(join(folder, path))
            if member.size >= 0 and (status is None or status.size != member.size):
                return False
    return True


def is_in_folder(disk: Filesystem, part: Part, folder: str) -> bool:
    """Say whether `folder` holds all that an archive holds, compared byte for byte; of a 7z by its checksums.

    Raises Skip for a damaged one. With a layout, members that are not in it are compared with nothing: it is False;
    those that go nowhere by it ("") are passed by.
    """
    layout = part.layout
    with open_archive(disk, part.archive, part.names) as whole:
        for member in check_members(whole):
            if layout is not None and (member.size < 0 or layout.get(member.path) == ""):
                continue
            if layout is not None and member.path not in layout:
                return False
            path = join(folder, member.path if layout is None else layout[member.path])
            status = disk.status(path)
            if status is None or status.is_folder != (member.size < 0):
                return False
            if member.size >= 0:
                with disk.open_old(path) as file:
                    if not whole.is_same(member, file):
                        return False
    return True


def has_member(disk: Filesystem, archive: str, name: str, file: IO[bytes]) -> bool:
    """Say whether an archive has a member of this name that holds what a file does."""
    with open_archive(disk, archive) as packed:
        found = next((member for member in packed.members() if member.path == name and member.size >= 0), None)
        return found is not None and packed.is_same(found, file)


def is_spread(disk: Filesystem, archive: str, places: Mapping[str, tuple[str, str]], *, some: bool = False) -> bool:
    """Say whether every file of an archive is in its place: a path, and a member of it ("": the file itself).

    With `some`, members that have no place do not count; an empty file is nowhere missed. Raises Skip for a damaged
    archive.
    """
    with ExitStack() as files, open_archive(disk, archive) as packed:
        opened: dict[str, tuple[Packed, dict[str, Member]]] = {}
        for member in check_members(packed):
            if member.size <= 0 or (some and member.path not in places):
                continue
            path, inside = places.get(member.path, ("", ""))
            status = disk.status(path) if path else None
            if status is None or status.is_folder:
                return False
            if not inside:
                with disk.open_old(path) as file:
                    if not packed.is_same(member, file):
                        return False
                continue
            if path not in opened:
                other = files.enter_context(open_archive(disk, path))
                opened[path] = other, {one.path: one for one in check_members(other)}
            around, there = opened[path]
            if inside not in there or not _are_same(packed, member, around, there[inside]):
                return False
    return True


def _are_same(packed: Packed, member: Member, around: Packed, twin: Member) -> bool:
    """Say whether two members of two archives hold the same; where they can't be read, by their checksums."""
    if twin.size != member.size:
        return False
    if not isinstance(packed, OneByOne) or not isinstance(around, OneByOne):
        return member.crc is not None and member.crc == twin.crc
    with packed.open(member) as source, around.open(twin) as file:
        return hold_the_same(source, file)


def is_in_archive(disk: Filesystem, archive: str, other: str) -> bool:
    """Say whether `other` holds all that `archive` holds, whatever its order. Raises Skip for a damaged one."""
    with open_archive(disk, archive) as packed, open_archive(disk, other) as around:
        there = {member.path: member for member in check_members(around)}
        for member in check_members(packed):
            if member.size < 0:
                continue
            twin = there.get(member.path)
            if twin is None or not _are_same(packed, member, around, twin):
                return False
    return True


def _write(disk: Filesystem, packed: OneByOne, member: Member, target: str) -> None:
    left = member.size
    with packed.open(member) as source, disk.open_new(target) as file:
        for chunk in chunks(source):
            left -= len(chunk)
            if left < 0:
                raise Skip(f"its member “{written(member.path)}” is larger than the archive says")
            file.write(chunk)
        if left:
            raise DamagedArchive(f"its member “{written(member.path)}” is cut off")
        disk.begin_sync(file)
