"""Reads the reference lists that magpie.toml names into the catalogue: those that are new, or have changed."""

from __future__ import annotations

import os
from contextlib import suppress
from dataclasses import dataclass, field

from lazy_magpie.catalogue import Catalogue, KnownList
from lazy_magpie.config import Config, ListConfig
from lazy_magpie.lists.checks import ListError
from lazy_magpie.lists.reading import lists_at, read_list
from lazy_magpie.model.reference import ListedSet, ListHeader
from lazy_magpie.naming.safe import safe_part
from lazy_magpie.naming.template import MissingField
from lazy_magpie.paths import name_of, parent, split_ending


@dataclass(frozen=True, slots=True)
class ReferenceList:
    """A reference list with the folder of the collection in which what it lists lies, and how it is declared."""

    known: KnownList
    config: ListConfig
    folder: str

    @property
    def name(self) -> str:
        """What it is called: its own name, else its file's."""
        return self.known.name or split_ending(name_of(self.known.path))[0]


@dataclass
class Loaded:
    """The lists that could be read, and what was wrong with the others, a sentence each."""

    lists: list[ReferenceList] = field(default_factory=list)
    wrong: list[str] = field(default_factory=list)


def load_lists(catalogue: Catalogue, config: Config, root: str) -> Loaded:
    """Return the lists that magpie.toml names; those that are new or have changed are read into the catalogue.

    One that can't be read is told of, and what the catalogue has of it goes: nothing is done by an old list in secret.
    """
    loaded = Loaded()
    known = {(one.section, one.path): one for one in catalogue.lists.all()}
    wanted: set[tuple[str, str]] = set()
    for section, one in config.lists.items():
        for path in _paths(root, one, loaded):
            key = (section, path)
            try:
                status = os.stat(os.path.join(root, path))
                stamp = (status.st_size, status.st_mtime_ns)
                there = known.get(key)
                if there is None or (there.size, there.mtime) != stamp:
                    with catalogue.db:  # all of it or nothing
                        if there is not None:
                            catalogue.lists.drop(there.id)
                        _read(catalogue, section, root, path, stamp)
                wanted.add(key)
            except (ListError, OSError) as error:
                loaded.wrong.append(str(error) if isinstance(error, ListError) else _unreadable(path, error))
    for key, old in known.items():
        if key not in wanted:
            with catalogue.db:
                catalogue.lists.drop(old.id)
    for read in catalogue.lists.all():
        try:
            loaded.lists.append(_placed(read, config))
        except MissingField as missing:
            what = f"[list.{read.section}] asks for {{{missing.field}}}, which the list {read.path} does not say."
            loaded.wrong.append(what)
    return loaded


def list_folders(catalogue: Catalogue, config: Config) -> set[str]:
    """Return the folders in which lists, as they were read last, say what lies where."""
    found = set()
    for read in catalogue.lists.all():
        if read.section in config.lists:
            with suppress(MissingField):
                found.add(_placed(read, config).folder)
    return found


def _placed(read: KnownList, config: Config) -> ReferenceList:
    declared = config.lists[read.section]
    return ReferenceList(read, declared, folder_of(read, declared, config))


def list_stamps(root: str, one: ListConfig) -> list[tuple[str, int, int]]:
    """Return the lists of a section as they are now: path, size, time; nothing for what can't be read."""
    try:
        found = [(path, os.stat(path)) for path in lists_at(os.path.join(root, os.path.expanduser(one.file)))]
    except OSError:
        return []
    return [(path, status.st_size, status.st_mtime_ns) for path, status in found]


def _paths(root: str, one: ListConfig, loaded: Loaded) -> list[str]:
    """Return the lists of a section, as paths from the root, or whole ones where they lie elsewhere."""
    try:
        found = lists_at(os.path.join(root, os.path.expanduser(one.file)))
    except OSError as error:
        loaded.wrong.append(_unreadable(one.file, error))
        return []
    if not found:
        loaded.wrong.append(f"There is no list in the folder {one.file} that [list.{one.name}] names.")
    return [os.path.relpath(path, root) if path.startswith(f"{root}/") else path for path in found]


def _unreadable(path: str, error: OSError) -> str:
    why = (error.strerror or "unreadable").lower()
    return f"The list {path} can't be read: {why}. Correct “file” in magpie.toml, or put the list there."


def folder_of(known: KnownList, declared: ListConfig, config: Config) -> str:
    """Return the folder of the collection in which what a list lists lies. Raises MissingField."""
    values = {
        "list": known.name or split_ending(name_of(known.path))[0],
        "about": known.about,
        "list_file": split_ending(name_of(known.path))[0],
        "list_folder": name_of(parent(known.path)),
    }
    parts = declared.folder.render(values).split("/")
    return "/".join(part for text in parts if (part := safe_part(text, everywhere=config.everywhere)))


def _read(catalogue: Catalogue, section: str, root: str, path: str, stamp: tuple[int, int]) -> None:
    read = read_list(os.path.join(root, path))
    header = next(read)
    assert isinstance(header, ListHeader)
    fields = (header.name, header.about, header.version, header.date)
    catalogue.lists.add(section, path, stamp, fields, (one for one in read if isinstance(one, ListedSet)))
