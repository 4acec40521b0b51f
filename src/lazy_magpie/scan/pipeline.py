"""Gathers the files of folders into items and stores them: each folder with those below that belong to it."""

from __future__ import annotations

import json
from collections.abc import Callable, Collection, Iterable, Iterator, Mapping, Set

from lazy_magpie.catalogue import MAIN_ROOT, Catalogue, KnownFile
from lazy_magpie.config import Config
from lazy_magpie.identify import identify
from lazy_magpie.identify.file_types import BY_ENDING
from lazy_magpie.identify.roles import FolderReading
from lazy_magpie.identify.title_text import match_key
from lazy_magpie.model import Identity, Item, Kind
from lazy_magpie.paths import join, name_of, parent, read_back, unpacked_name, written
from lazy_magpie.scan.folder_roles import FolderRoles
from lazy_magpie.scan.folder_unit import FolderListing, Knowledge, Unit, groups_of, home_of, taken_out
from lazy_magpie.scan.grouping import OTHER

Place = tuple[int, str]
"""A folder: the id of its root, its path there."""
KnownIn = Callable[[int], Mapping[int, KnownFile]]
"""Says what the files of a folder (an id) were identified as before."""


def nothing_known(folder: int) -> Mapping[int, KnownFile]:
    """Know nothing of a folder's files: all are identified."""
    return {}


def identify_folders(
    catalogue: Catalogue,
    knowledge: Knowledge,
    folders: Iterable[int],
    known: KnownIn,
    jobs: int = 0,
) -> Iterator[int]:
    """Identify and group the files of `folders` (ids), yielding the number of files after each part of the work.

    `known` says what the files of a folder were identified as before: that stands where it rests on the same as now.
    `jobs` processes work at a time.
    """
    from lazy_magpie.scan.process_pool import understood_all

    wanted: dict[Place, list[int]] = {}
    for id, (root, path) in catalogue.files.places(folders).items():
        wanted.setdefault((root, home_of(path)), []).append(id)
    held: dict[Place, set[int]] = {}
    places = iter(list(wanted))
    archives = _Archives(catalogue)
    for unit, made in understood_all(_units(catalogue, wanted, held, known), knowledge, jobs):
        place = next(places)
        kits = {_kit_key(one.fields) for one in made if one.kind == Kind.KIT}
        catalogue.writer.store(taken_out(made), held.pop(place))
        archives.attach(place, kits)
        catalogue.files.mark_clean(wanted[place])
        yield sum(len(folder.files) for folder in unit.folders)


def _units(
    catalogue: Catalogue, wanted: Mapping[Place, Collection[int]], held: dict[Place, set[int]], known_in: KnownIn
) -> Iterator[Unit]:
    """Yield the units of folders; `held` is given those of their files that belong to an item already.

    `wanted` has, by the folder of each unit, those of its folders (ids) that are known to belong to it.
    """
    names = {root.number: root.name for root in catalogue.roots.all()}
    roles = FolderRoles(catalogue)
    known = {id for inside in wanted.values() for id in inside}
    for (root, home), ids in wanted.items():
        inside = set(ids)
        below = catalogue.files.folders_below(root, home)
        folders = [
            _read(catalogue, id, path, known_in, roles.above(root, path))
            for id, path in below
            if id in inside or (id not in known and (path == home or home_of(path) == home))
        ]
        held[root, home] = set().union(*(known for _, known in folders))
        yield Unit(names[root], tuple(folder for folder, _ in folders))


def _read(
    catalogue: Catalogue, id: int, path: str, known_in: KnownIn, roles: Mapping[str, FolderReading]
) -> tuple[FolderListing, set[int]]:
    """Return a folder as a unit has it, and those of its files that belong to an item already."""
    rows = [row for row in catalogue.files.in_folder(id) if not row[5]]
    files = tuple((row[0], read_back(row[1]), row[2], row[3]) for row in rows)
    held = {row[0] for row in rows if row[6]}
    first = catalogue.files.first_in(id) if held else {}
    return FolderListing(path, files, catalogue.files.told_in(id), first, known_in(id) if held else {}, roles), held


def identity_of(catalogue: Catalogue, config: Config, item: Item) -> Identity:
    """Return what an item is taken for, with all the evidence, settled or not; what lies beside it stands as known."""
    path, root = item.path, catalogue.roots.named(item.root)
    held: dict[Place, set[int]] = {}
    knowledge = _knowledge_at_rest(catalogue, config)

    def known(folder: int) -> Mapping[int, KnownFile]:
        return {id: one for id, one in catalogue.known.in_folder(folder).items() if one.item != item.id}

    home = (root.number if root else MAIN_ROOT, home_of(parent(path)))
    for unit in _units(catalogue, {home: ()}, held, known):
        for group in groups_of(unit, knowledge):
            if any(member.file.path == path for member in group.members):
                return group.identity
    shelf = config.shelf_of(path, item.root)
    return identify(config.as_read(path, shelf), shelf.kind if shelf else None)


def knowledge_of(catalogue: Catalogue, config: Config) -> Knowledge:
    """Return all that files are understood by: a configuration, and what the catalogue has learned from others."""
    return Knowledge.of(config, known_makers(catalogue), known_namesakes(catalogue))


def _knowledge_at_rest(catalogue: Catalogue, config: Config) -> Knowledge:
    """Return the same where no scan is under way: the makers are read from the index, not from every item."""
    makers = frozenset(map(match_key, catalogue.items.folded_makers()))
    return Knowledge.of(config, makers, known_namesakes(catalogue))


def known_namesakes(catalogue: Catalogue) -> dict[str, tuple[int, ...]]:
    """Return the shows of one name, as the last scan knew them."""
    return {name: tuple(years) for name, years in json.loads(catalogue.noted("namesakes") or "{}").items()}


def known_makers(catalogue: Catalogue) -> frozenset[str]:
    """Return the names, folded, of makers and artists that clear and settled items have."""
    return frozenset(match_key(name) for name in catalogue.items.makers())


# --- the archive that a folder came from -----------------------------------------------------------------------------

_ARCHIVES = tuple(ending for ending, kind in BY_ENDING.items() if kind is Kind.ARCHIVE)


class _Archives:
    """Lets an archive belong to what was unpacked from it, which lies beside it.

    That is the one thing in the folder that has the archive's name, or the kit of the archive's maker and title. Where
    it is known what the archive holds, the thing's files must be among that.
    """

    def __init__(self, catalogue: Catalogue) -> None:
        self.catalogue = catalogue
        self._in: dict[Place, dict[str, list[int]]] = {}
        self._kits: dict[Place, dict[tuple[str, str], list[tuple[str, int]]]] = {}

    def attach(self, place: Place, kits: Set[tuple[str, str]]) -> None:
        """Look for the archives in a folder that was stored, and for those beside it that it may have come from.

        `kits` are the kits in the folder, by maker and title.
        """
        root, folder = place
        wanted = [(folder, target, id) for target, ids in self._of(place).items() for id in ids]
        beside = self._of((root, parent(folder))) if folder else {}
        wanted += [(parent(folder), folder, id) for id in beside.get(folder, ())]
        if kits:
            named = self._named((root, parent(folder)))
            wanted += [(parent(folder), target, id) for key in kits for target, id in named.get(key, ())]
        wanted += [(home, folder, id) for home, id in self.catalogue.placements.archives_of(root, folder)]
        if not wanted:
            return
        self.catalogue.writer.flush()
        found = {id: self._owner(root, home, target, id) for home, target, id in wanted}
        whole = self.catalogue.items.whole_groups({id for id, item in found.items() if item})
        self.catalogue.writer.attach([(item, OTHER, id) for id, item in found.items() if item and id in whole])

    def _of(self, place: Place) -> dict[str, list[int]]:
        """Return the archives in a folder, by the folder that each would be unpacked to."""
        if place not in self._in:
            found: dict[str, list[int]] = {}
            for id, name in self.catalogue.files.ending_in(*place, _ARCHIVES):
                found.setdefault(join(place[1], unpacked_name(name)), []).append(id)
            self._in[place] = found
        return self._in[place]

    def _named(self, place: Place) -> dict[tuple[str, str], list[tuple[str, int]]]:
        """Return the archives in a folder that are kits, by maker and title, each with its folder and id."""
        if place not in self._kits:
            found: dict[tuple[str, str], list[tuple[str, int]]] = {}
            for target, ids in self._of(place).items():
                for id in ids:
                    if fields := self.catalogue.items.kit_fields(id):
                        found.setdefault(_kit_key(fields), []).append((target, id))
            self._kits[place] = found
        return self._kits[place]

    def _owner(self, root: int, folder: str, target: str, archive: int) -> int:
        """Return the item that came from an archive, 0 where none did for sure."""
        if came := self.catalogue.placements.item_from(archive):
            return came  # magpie has unpacked it: whatever was renamed since, they are one thing
        items = self.catalogue.items
        item = items.alone_below(root, written(target)) or items.kit_beside(root, folder, archive)
        return item if item and _came_from(self.catalogue, item, archive) else 0


def _kit_key(fields: str) -> tuple[str, str]:
    """Return what kits of one name share, by an item's fields (JSON)."""
    values = json.loads(fields)
    return match_key(str(values.get("maker", ""))), match_key(str(values.get("title", "")))


def _came_from(catalogue: Catalogue, item: int, archive: int) -> bool:
    """Say whether an item came from an archive, by names and sizes: all of it, or all that the archive holds.

    True where it is not known what the archive holds.
    """
    held = {(name_of(path), size) for path, size, _ in catalogue.files.members_of(archive)}
    mains = {(name_of(path), size) for path, size in catalogue.files.mains_of(item)}
    return not held or mains <= held or held <= mains
