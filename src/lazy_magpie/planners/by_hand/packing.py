"""Plans packing: one zip a thing or folder, written the same way every time, read back before anything is held."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence

from lazy_magpie.identify.file_types import is_archive
from lazy_magpie.model import Conflict, FileStamp, Plan, Step, Unmoved
from lazy_magpie.model.proofs import InArchive, Repacked
from lazy_magpie.model.steps import DropFolder, Hold, Pack, PackMember, Replace, renumbered
from lazy_magpie.paths import join, name_of, parent, split_ending, unpacked_name
from lazy_magpie.planners.by_hand.chosen import Chosen
from lazy_magpie.planners.by_hand.free_names import FreeNames
from lazy_magpie.planners.directory_index import Listing
from lazy_magpie.planners.disk_view import DiskView, tree_below
from lazy_magpie.split_archives import whole_name

_NEW = ".magpie-packed"
_PLAY_LISTS = (".m3u", ".m3u8", ".pls")
IsPacked = Callable[[str], bool]
"""Says whether an archive is a zip that is written as we write it."""


class _Packing:
    """A plan in the making."""

    def __init__(self, listing: Listing) -> None:
        self.names = FreeNames(listing)
        self.steps: list[Step] = []
        self.conflicts: list[Conflict] = []
        self.unmoved: list[Unmoved] = []
        self.bundle = 0

    def is_free(self, target: str, source: str) -> bool:
        """Say whether a name is free, and take it; else note the conflict."""
        if conflict := self.names.claim(target, source):
            self.conflicts.append(conflict)
            return False
        self.bundle += 1
        return True

    def plan(self) -> Plan:
        """Return the plan."""
        return Plan("pack", renumbered(self.steps), tuple(self.conflicts), tuple(self.unmoved))


def pack_by_hand(
    things: Sequence[Sequence[Chosen]],
    disk: DiskView,
    listing: Listing,
    *,
    store: bool,
    keep: bool,
) -> Plan:
    """Plan one zip for each of `things` (a folder, or the files of one thing); what was packed is held, unless `keep`.

    With `store` nothing is compressed.
    """
    packing = _Packing(listing)
    for files in things:
        first = files[0]
        if split_ending(first.path)[1].lower() in _PLAY_LISTS:
            packing.unmoved.append(Unmoved(first.path, "a play list, which players read as it is"))
            continue
        if not first.is_folder and is_archive(name_of(first.path)):
            packing.unmoved.append(Unmoved(first.path, "an archive already (--again packs it anew)"))
            continue
        base = first.path if first.is_folder else parent(first.path)
        stem = first.path if first.is_folder else split_ending(first.path)[0]
        members = list(_below(base, disk)) if first.is_folder else [_member(one, base) for one in _files(files)]
        real = [one for one in members if one.path]
        if not real:
            packing.unmoved.append(Unmoved(first.path, "a folder with nothing in it", asks=True))
        elif packing.is_free(f"{stem}.zip", first.path):
            _add(packing, f"{stem}.zip", tuple(members), first, keep=keep, store=store)
    return packing.plan()


def _add(
    packing: _Packing, target: str, members: tuple[PackMember, ...], first: Chosen, *, keep: bool, store: bool
) -> None:
    """Add the steps that pack members, and hold them where they are not kept."""
    group, bundle = parent(target) or ".", packing.bundle
    count = sum(1 for one in members if one.path)
    what = f"{count:,} files" if count > 1 else "one file"
    packing.steps.append(
        Pack(
            source=first.path,
            target=target,
            why=f"{what} in a zip",
            group=group,
            bundle=bundle,
            stamp=first.stamp,
            members=members,
            store=store,
        )
    )
    if keep:
        return
    for one in members:
        if one.path:
            proofs = (InArchive(target, one.name),)
            why = f"packed and compared: {name_of(target)}"
            packing.steps.append(
                Hold(source=one.path, why=why, group=group, bundle=bundle, stamp=one.stamp, proofs=proofs)
            )
    if first.is_folder:
        inner = [join(first.path, one.name.rstrip("/")) for one in members if not one.path]
        for folder in (*sorted(inner, key=lambda folder: -folder.count("/")), first.path):
            packing.steps.append(DropFolder(source=folder, why="left empty", group=group, bundle=bundle))


def _files(files: Sequence[Chosen]) -> list[Chosen]:
    """Return the files of one thing with what is called as they are, each once."""
    found = {one.path: one for one in files}
    for one in files:
        for file, _ in one.along():
            found.setdefault(file.path, Chosen(file.path, file.stamp))
    return list(found.values())


def _member(one: Chosen, base: str) -> PackMember:
    return PackMember(one.path[len(base) + 1 if base else 0 :], one.path, one.stamp)


def _below(base: str, disk: DiskView) -> Iterator[PackMember]:
    """Yield all that lies in a folder, the folders too; a link is not packed."""
    for path, status in tree_below(disk, base):
        name = path[len(base) + 1 :]
        if status.is_folder and not status.is_link:
            yield PackMember(f"{name}/")
        elif not status.is_link:
            yield PackMember(name, path, status.stamp)


def pack_again(
    archives: Sequence[tuple[str, FileStamp | None]],
    listing: Listing,
    is_packed: IsPacked,
    *,
    store: bool,
) -> Plan:
    """Plan packing archives anew, as zips that are written as we write them; those that are stay as they are."""
    packing = _Packing(listing)
    for path, stamp in archives:
        target = join(parent(path), f"{unpacked_name(whole_name(name_of(path)))}.zip")
        if path == target and is_packed(path):
            packing.unmoved.append(Unmoved(path, "packed so already"))
            continue
        if path != target and not packing.is_free(target, path):
            continue
        if path == target:
            packing.bundle += 1
        group, bundle = parent(path) or ".", packing.bundle
        made = f"{target}{_NEW}" if path == target else target
        why = "the same contents, packed as a zip is packed here"
        packing.steps.append(
            Pack(source=path, target=made, why=why, group=group, bundle=bundle, stamp=stamp, store=store)
        )
        if path == target:
            packing.steps.append(
                Replace(source=made, target=target, why="packed anew", group=group, bundle=bundle, stamp=stamp)
            )
        else:
            why = f"packed anew and compared: {name_of(target)}"
            proofs = (Repacked(target),)
            packing.steps.append(Hold(source=path, why=why, group=group, bundle=bundle, stamp=stamp, proofs=proofs))
    return packing.plan()
