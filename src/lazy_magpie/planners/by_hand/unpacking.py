"""Plans unpacking archives where they lie: into a folder of their name, or one file beside; then they are held."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from lazy_magpie.identify.file_types import junk_in
from lazy_magpie.model import Conflict, FileStamp, PathStamp, Plan, Step, Unmoved
from lazy_magpie.model.proofs import Unpacked
from lazy_magpie.model.steps import ArchivePart, DropFolder, Hold, Move, Unpack, renumbered
from lazy_magpie.paths import join, name_of, parent, unpacked_name
from lazy_magpie.planners.by_hand.free_names import FreeNames
from lazy_magpie.planners.directory_index import Listing
from lazy_magpie.split_archives import whole_name

_STAGE = ".magpie-unpack-"


@dataclass(frozen=True, slots=True)
class FoundArchive:
    """An archive to unpack: its first volume, the others, and the files in it with their bytes; or why it is left.

    `encoding` is that of its members' names, "" for the one that they most likely have.
    """

    path: str
    stamp: FileStamp | None
    volumes: tuple[PathStamp, ...] = ()
    names: Sequence[str] = ()
    sizes: Sequence[int] = ()
    why_not: str = ""
    encoding: str = ""


def unpack_by_hand(archives: Sequence[FoundArchive], listing: Listing, *, keep: bool) -> Plan:
    """Plan unpacking archives, each all or not at all; they are held once all of it is compared, unless `keep`.

    What operating systems leave behind in archives is not unpacked.
    """
    names = FreeNames(listing)
    steps: list[Step] = []
    conflicts: list[Conflict] = []
    unmoved: list[Unmoved] = []
    for bundle, archive in enumerate(archives, start=1):
        junk = frozenset(junk_in(archive.names))
        wanted = [name for name in archive.names if name not in junk]
        why = archive.why_not or ("" if wanted else "an archive with nothing in it")
        if why:
            unmoved.append(Unmoved(archive.path, why, asks=True))
            continue
        target, layout = _layout(archive.path, wanted)
        is_single = len(wanted) == 1 and "/" not in wanted[0]
        if conflict := names.claim(target, archive.path):
            conflicts.append(conflict)
            continue
        size = sum(archive.sizes)
        steps += _unpacked(archive, target, layout, bundle, size, is_single=is_single)
        if not keep:
            folder = parent(target) if is_single else target
            proof = Unpacked(folder, {**layout, **dict.fromkeys(junk, "")}, archive.encoding)
            steps += _held(archive, proof, bundle, target)
    return Plan("unpack", renumbered(steps), tuple(conflicts), tuple(unmoved))


def _layout(archive: str, wanted: Sequence[str]) -> tuple[str, dict[str, str]]:
    """Return what an archive is unpacked to, and where its members go below that (one file: below its folder)."""
    home = parent(archive)
    if len(wanted) == 1 and "/" not in wanted[0]:
        return join(home, wanted[0]), {wanted[0]: wanted[0]}
    tops = {name.partition("/")[0] if "/" in name else "" for name in wanted}
    top = tops.pop() if len(tops) == 1 else ""
    if top:  # it has its own folder
        return join(home, top), {name: name[len(top) + 1 :] for name in wanted}
    return join(home, unpacked_name(whole_name(name_of(archive)))), {name: name for name in wanted}


def _unpacked(
    archive: FoundArchive, target: str, layout: dict[str, str], bundle: int, size: int, *, is_single: bool
) -> Iterator[Step]:
    assert archive.stamp is not None
    part = ArchivePart(archive.path, archive.stamp, layout, volumes=archive.volumes, names=archive.encoding)
    group = parent(archive.path) or "."
    goal = join(parent(target), f"{_STAGE}{bundle}") if is_single else target
    yield Unpack(
        source=archive.path,
        target=goal,
        why=f"all of {name_of(archive.path)}",
        group=group,
        bundle=bundle,
        stamp=archive.stamp,
        parts=(part,),
        bytes=size,
    )
    if is_single:
        (name,) = layout.values()
        yield Move(source=join(goal, name), target=target, why="out of its archive", group=group, bundle=bundle)
        yield DropFolder(source=goal, why="left empty", group=group, bundle=bundle)


def _held(archive: FoundArchive, proof: Unpacked, bundle: int, target: str) -> Iterator[Step]:
    proofs: tuple[Unpacked, ...] = (proof,)
    assert archive.stamp is not None
    for one in (PathStamp(archive.path, archive.stamp), *archive.volumes):
        group = parent(archive.path) or "."
        why = f"unpacked and compared: {name_of(target)}"
        yield Hold(source=one.path, why=why, group=group, bundle=bundle, stamp=one.stamp, proofs=proofs)
        proofs = ()
