"""Gathers the files of a folder into items: each main file with the companions that belong to it."""

from __future__ import annotations

import dataclasses
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field

from lazy_magpie.catalogue import Catalogue, Filed
from lazy_magpie.catalogue.files import Row
from lazy_magpie.config import Config
from lazy_magpie.identify import Around, identify, siblings_of
from lazy_magpie.identify.beside import PICTURE_ROLES
from lazy_magpie.identify.places import Sort, understand
from lazy_magpie.identify.titles import folded
from lazy_magpie.identify.words import COMPANION_FOLDERS
from lazy_magpie.model import Identity, Kind
from lazy_magpie.paths import join, name_of, parent, read_back, split_ending
from lazy_magpie.scan.reading import measured

ORDER = "order of names"
"""The doubt that a known maker settles."""
MAINS = (Kind.MOVIE, Kind.EPISODE)
"""Kinds that companions beside them belong to."""


@dataclass
class _Folder:
    """A folder's files with their identities, and the main files among them by their stems."""

    path: str
    rows: list[tuple[Row, Identity]]
    by_stem: dict[str, list[Row]] = field(default_factory=dict)
    mains: list[Row] = field(default_factory=list)

    def __post_init__(self) -> None:
        for row, identity in self.rows:
            if identity.kind in MAINS:
                self.mains.append(row)
                self.by_stem.setdefault(split_ending(row.name)[0].lower(), []).append(row)

    def owner(self, name: str) -> Row | None:
        """Return the main file that a companion of this name belongs to.

        That is the one whose whole stem the name begins with, else the only one in the folder.
        """
        stem = split_ending(name)[0].lower()
        while stem:
            if found := self.by_stem.get(stem):
                return found[0] if len(found) == 1 else None
            cut = max(stem.rfind("."), stem.rfind("-"), stem.rfind("_"), stem.rfind(" "))
            stem = stem[: max(cut, 0)]
        return self.mains[0] if len(self.mains) == 1 else None


def gather(
    catalogue: Catalogue, config: Config, folders: Iterable[int], makers: frozenset[str] = frozenset()
) -> Iterator[int]:
    """Identify and group the files of `folders` (ids), yielding the number of files after each folder.

    `makers` are the names, folded, that are known to be makers or artists.
    Folders of companions (subtitles, covers) below one of them are gathered along with it.
    """
    paths = catalogue.files.folder_paths(folders)
    for id, path in _with_companion_folders(catalogue, paths).items():
        folder = _read(catalogue, config, id, path, makers)
        above = None
        if understand(name_of(path)).sort is Sort.COMPANIONS:
            above_id = catalogue.files.folder_id(parent(path))
            above = _read(catalogue, config, above_id, parent(path), makers) if above_id is not None else None
            if above is not None:
                catalogue.items.store(_filed(above, [pair for pair in above.rows if pair[1].kind in MAINS]))
        _store(catalogue, folder, above)
        catalogue.files.clean(id)
        yield len(folder.rows)


def _with_companion_folders(catalogue: Catalogue, paths: dict[int, str]) -> dict[int, str]:
    found = dict(paths)
    for id, path in catalogue.files.folders_named(sorted(COMPANION_FOLDERS)):
        if id not in found and catalogue.files.folder_id(parent(path)) in paths:
            found[id] = path
    return found


def _read(catalogue: Catalogue, config: Config, id: int, path: str, makers: frozenset[str]) -> _Folder:
    rows = [row for row in catalogue.files.in_folder(id) if not row.missing]
    names = [read_back(row.name) for row in rows]
    siblings, told = siblings_of(names), catalogue.files.told_in(id)
    found = []
    for row, name in zip(rows, names, strict=True):
        file = join(path, name)
        shelf = config.shelf_of(file) if config.shelves else None
        around = Around(siblings, told.get(row.id, {}), makers)
        identity = identify(file, shelf.kind if shelf else None, around)
        if around.tags:
            facts = {**identity.facts, **measured(identity.kind, around.tags)}
            identity = dataclasses.replace(identity, facts=facts)
        found.append((row, identity))
    return _Folder(path, found)


def identity_of(catalogue: Catalogue, config: Config, path: str) -> Identity:
    """Return what the file at `path` is taken for, with all the evidence that the catalogue has, settled or not."""
    id = catalogue.files.folder_id(parent(path))
    if id is not None:
        folder = _read(catalogue, config, id, parent(path), known_makers(catalogue))
        for row, identity in folder.rows:
            if join(folder.path, read_back(row.name)) == path:
                return identity
    shelf = config.shelf_of(path)
    return identify(path, shelf.kind if shelf else None)


def known_makers(catalogue: Catalogue) -> frozenset[str]:
    """Return the names, folded, of makers and artists that clear and settled items have."""
    return frozenset(folded(name) for name in catalogue.items.makers())


def _store(catalogue: Catalogue, folder: _Folder, above: _Folder | None) -> None:
    companions = []
    alone = []
    for row, identity in folder.rows:
        if identity.kind is Kind.COMPANION or (identity.kind is Kind.PICTURE and _is_cover(row, folder)):
            owner = folder.owner(row.name) or (above.owner(row.name) if above else None)
            if owner is not None:
                companions.append((row, str(identity.fields.get("role", "cover")), owner))
                continue
        alone.append((row, identity))
    catalogue.items.store(_filed(folder, alone))
    catalogue.items.attach((catalogue.items.owner(owner.id)[0], role, row.id) for row, role, owner in companions)


def _is_cover(row: Row, folder: _Folder) -> bool:
    """Say whether a picture is named as players name covers, and lies beside one film or episode alone."""
    stem, _ = split_ending(row.name)
    return len(folder.mains) == 1 and stem.lower() in PICTURE_ROLES


def _filed(folder: _Folder, rows: list[tuple[Row, Identity]]) -> Iterator[Filed]:
    for row, identity in rows:
        item = row.item if row.role == "main" else 0
        yield Filed(row.id, item, identity)
