"""Unpacks archives into a new folder, and says whether a folder, or another archive, holds what an archive holds."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import NamedTuple

from lazy_magpie.change.archives.contents import (
    Archive,
    Member,
    Packed,
    SevenArchive,
    check_members,
    is_seven,
    open_archive,
    open_member,
)
from lazy_magpie.change.failpoints import failpoint
from lazy_magpie.change.filesystem.access import Filesystem
from lazy_magpie.change.run_context import DamagedArchive, Skip
from lazy_magpie.paths import above, join, parent, written
from lazy_magpie.streams import chunks, crc_of, hold_the_same

_STAGE = ".seven"


class Part(NamedTuple):
    """An archive to unpack: where it is, and where its members go below the new folder; None: where they say.

    With a layout, members that are not in it stay in the archive.
    """

    archive: str
    layout: Mapping[str, str] | None = None


def unpack(disk: Filesystem, parts: Sequence[Part], folder: str) -> None:
    """Unpack archives into the new `folder`, everything synced. Raises Skip, with the reason, before it is made."""
    folders: set[str] = set()
    for part in parts:
        with open_archive(disk, part.archive) as archive:
            packed = archive.packed
            members = _all_placed(archive, part.layout)
            if not folders:
                disk.make_folder(folder)
                folders.add(folder)
            for member, path in members:
                _make_folders(disk, folder, path if member.size < 0 else parent(path), folders)
            if is_seven(packed):
                _extract(disk, packed, [(m, join(folder, path)) for m, path in members if m.size >= 0], folder)
                continue
            for member, path in members:
                if member.size >= 0:
                    _write(disk, packed, member, join(folder, path))
                    failpoint("unpack-member")
    for made in sorted(folders, reverse=True):
        disk.sync_folder(made)


def _all_placed(archive: Archive, layout: Mapping[str, str] | None) -> list[tuple[Member, str]]:
    """Return members with where they go. Raises Skip where one that has a place is not there."""
    placed = list(_placed(check_members(archive), layout))
    if layout is not None and len(placed) < len(layout):
        missing = layout.keys() - {member.path for member, _ in placed}
        raise Skip(f"it no longer holds “{written(min(missing))}”")
    return placed


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
            with open_archive(disk, part.archive) as archive:
                placed = _all_placed(archive, part.layout)
        except (Skip, OSError):
            return False
        for member, path in placed:
            status = disk.status(join(folder, path))
            if member.size >= 0 and (status is None or status.size != member.size):
                return False
    return True


def is_in_folder(disk: Filesystem, archive: str, folder: str, layout: Mapping[str, str] | None = None) -> bool:
    """Say whether `folder` holds all that `archive` holds, compared byte for byte; of a 7z by its checksums.

    Raises Skip for a damaged one. With a layout, members that are not in it are compared with nothing: it is False;
    those that go nowhere by it ("") are passed by.
    """
    with open_archive(disk, archive) as whole:
        for member in check_members(whole):
            if layout is not None and (member.size < 0 or layout.get(member.path) == ""):
                continue
            if layout is not None and member.path not in layout:
                return False
            path = join(folder, member.path if layout is None else layout[member.path])
            status = disk.status(path)
            if status is None or status.is_folder != (member.size < 0):
                return False
            if member.size >= 0 and not _is_same(disk, whole.packed, member, path):
                return False
    return True


def _is_same(disk: Filesystem, packed: Packed, member: Member, path: str) -> bool:
    with disk.open_old(path) as file:
        if is_seven(packed):
            return member.crc is not None and crc_of(file) == member.crc
        with open_member(packed, member) as source:
            return hold_the_same(source, file)


def is_in_archive(disk: Filesystem, archive: str, other: str) -> bool:
    """Say whether `other` holds all that `archive` holds, whatever its order. Raises Skip for a damaged one."""
    with open_archive(disk, archive) as one, open_archive(disk, other) as another:
        packed, around = one.packed, another.packed
        there = {member.path: member for member in check_members(another)}
        for member in check_members(one):
            if member.size < 0:
                continue
            twin = there.get(member.path)
            if twin is None or twin.size != member.size:
                return False
            if is_seven(packed) or is_seven(around):
                if member.crc is None or member.crc != twin.crc:
                    return False
                continue
            with open_member(packed, member) as source, open_member(around, twin) as file:
                if not hold_the_same(source, file):
                    return False
    return True


def _extract(disk: Filesystem, packed: SevenArchive, targets: Sequence[tuple[Member, str]], folder: str) -> None:
    """Unpack members of a 7z: the package writes them into a folder beside, from which each is put into its place."""
    stage = join(folder, _STAGE)
    disk.make_folder(stage)
    packed.extract(path=disk.path(stage), targets=[str(member.key) for member, _ in targets])
    for member, target in targets:
        made = join(stage, member.path)
        status = disk.status(made)
        if status is None or status.is_link or status.is_folder or status.size != member.size:
            raise DamagedArchive(f"its member “{written(member.path)}” is damaged or cut off")
        with disk.open_old(made) as file:
            disk.sync_file(file)
        disk.rename(made, target)
        disk.set_mode(target, 0o644)
        failpoint("unpack-member")
    for left in sorted({join(stage, at) for member, _ in targets for at in above(member.path)}, reverse=True):
        disk.drop_folder(left)
    disk.drop_folder(stage)


def _make_folders(disk: Filesystem, top: str, path: str, made: set[str]) -> None:
    here = top
    for part in path.split("/") if path else ():
        here = join(here, part)
        if here not in made:
            disk.make_folder(here)
            made.add(here)


def _write(disk: Filesystem, packed: Packed, member: Member, target: str) -> None:
    left = member.size
    with open_member(packed, member) as source, disk.open_new(target) as file:
        for chunk in chunks(source):
            left -= len(chunk)
            if left < 0:
                raise Skip(f"its member “{written(member.path)}” is larger than the archive says")
            file.write(chunk)
        if left:
            raise DamagedArchive(f"its member “{written(member.path)}” is cut off")
        disk.set_mode(target, 0o644)  # before it is synced: the disk then has one thing to write
        disk.sync_file(file)
