"""Unpacks archives into a new folder, and says whether a folder, or another archive, holds what an archive holds."""

from __future__ import annotations

import os
import shutil
from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import IO, NamedTuple

from lazy_magpie.change.archives.contents import check_members, open_archive
from lazy_magpie.change.archives.packed import Member, Packed
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
    folders: set[str] = set()
    unsynced: list[str] = []
    for part in parts:
        with open_archive(disk, part.archive, part.names) as packed:
            placed = _all_placed(packed, part.layout)
            members: Iterable[tuple[Member, str]] = list(placed) if packed.indexed else placed
            if not folders:
                disk.make_folder(folder)
                folders.add(folder)
            if not packed.by_one:
                whole = list(members)
                _extract(disk, packed, [(m, join(folder, path)) for m, path in whole if m.size >= 0], folder)
                members = [(m, path) for m, path in whole if m.size < 0]
                for _, path in whole:
                    _make_folders(disk, folder, parent(path), folders)
                _put_in_place(disk, [(m, join(folder, path)) for m, path in whole if m.size >= 0], folder)
            for member, path in members:
                _make_folders(disk, folder, path if member.size < 0 else parent(path), folders)
                if member.size >= 0:
                    _write(disk, packed, member, join(folder, path))
                    unsynced.append(join(folder, path))
                    failpoint("unpack-member")
    for path in unsynced:  # at the end, when the disk has written most of them
        with disk.open_old(path) as file:
            disk.sync_file(file)
    for made in sorted(folders, reverse=True):
        disk.sync_folder(made)


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


def is_in_archive(disk: Filesystem, archive: str, other: str) -> bool:
    """Say whether `other` holds all that `archive` holds, whatever its order. Raises Skip for a damaged one."""
    with open_archive(disk, archive) as packed, open_archive(disk, other) as around:
        there = {member.path: member for member in check_members(around)}
        for member in check_members(packed):
            if member.size < 0:
                continue
            twin = there.get(member.path)
            if twin is None or twin.size != member.size:
                return False
            if not packed.by_one or not around.by_one:
                if member.crc is None or member.crc != twin.crc:
                    return False
                continue
            with packed.open(member) as source, around.open(twin) as file:
                if not hold_the_same(source, file):
                    return False
    return True


def _extract(disk: Filesystem, packed: Packed, targets: Sequence[tuple[Member, str]], folder: str) -> None:
    """Unpack members at once into a folder beside, from which each is put into its place."""
    stage = join(folder, _STAGE)
    disk.make_folder(stage)
    packed.extract([member for member, _ in targets], disk.path(stage))
    for member, _ in targets:
        status = disk.status(join(stage, member.path))
        if status is None or status.is_link or status.is_folder or status.size != member.size:
            raise DamagedArchive(f"its member “{written(member.path)}” is damaged or cut off")


def _put_in_place(disk: Filesystem, targets: Sequence[tuple[Member, str]], folder: str) -> None:
    """Give what was unpacked at once its places; what nobody wanted goes."""
    stage = join(folder, _STAGE)
    for member, target in targets:
        made = join(stage, member.path)
        with disk.open_old(made) as file:
            disk.sync_file(file)
        disk.rename(made, target)
        disk.set_mode(target, 0o644)
        failpoint("unpack-member")
    shutil.rmtree(os.path.join(disk.root, stage))


def _make_folders(disk: Filesystem, top: str, path: str, made: set[str]) -> None:
    here = top
    for part in path.split("/") if path else ():
        here = join(here, part)
        if here not in made:
            disk.make_folder(here)
            made.add(here)


def _write(disk: Filesystem, packed: Packed, member: Member, target: str) -> None:
    left = member.size
    with packed.open(member) as source, disk.open_new(target) as file:
        for chunk in chunks(source):
            left -= len(chunk)
            if left < 0:
                raise Skip(f"its member “{written(member.path)}” is larger than the archive says")
            file.write(chunk)
        if left:
            raise DamagedArchive(f"its member “{written(member.path)}” is cut off")
        disk.set_mode(target, 0o644)  # before it is synced: the disk then has one thing to write
        disk.begin_sync(file)
