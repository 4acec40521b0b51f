"""Finds the roots of a collection: each is known by the id that it carries, wherever its drive is mounted.

The id lies in `.magpie/root.json` at the root's top, with the id of the file system that it was made on. A medium that
can't be written to is known by its file system's id, label and size. A root that is nowhere is away: what the catalogue
has of it is kept.
"""

from __future__ import annotations

import json
import os
from collections.abc import Iterable, Iterator, Mapping
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

from lazy_magpie.catalogue import MAIN_ROOT, Catalogue, KnownRoot
from lazy_magpie.collection import STATE_DIR_NAME, Collection
from lazy_magpie.config import Root
from lazy_magpie.mounts import drives_mounted, top_of_drive, why_away

NAME = "root.json"
_BY_ID, _BY_LABEL = "/dev/disk/by-uuid", "/dev/disk/by-label"
_MEDIUM = "medium "


@dataclass(frozen=True)
class MountedDrives:
    """Where the roots are that are there now, by their numbers; and a sentence on each that needs the person's eye."""

    tops: Mapping[int, str]
    names: Mapping[int, str]
    notes: tuple[str, ...] = ()

    @property
    def places(self) -> dict[str, str]:
        """The folders of the roots that are there, by their names."""
        return {self.names[number]: top for number, top in self.tops.items()}


def located(catalogue: Catalogue, collection: Collection) -> MountedDrives:
    """Find every root that the configuration names, make new ones known, and note where each one is now."""
    tops, names, notes = {MAIN_ROOT: str(collection.root)}, {MAIN_ROOT: ""}, []
    for root in collection.config.roots:
        place, note = _place_of(root, catalogue.roots.named(root.name))
        if note:
            notes.append(note)
        if place:
            mark = mark_of(place) or mark_root(place)
            number = catalogue.roots.keep(root.name, mark, volume_of(place), place)
            tops[number], names[number] = place, root.name
    return MountedDrives(tops, names, tuple(notes))


def present(catalogue: Catalogue, collection: Collection) -> dict[str, str]:
    """Return where the roots are that are there now, by their names; nothing is written."""
    found = {"": str(collection.root)}
    for known in catalogue.roots.all():
        if known.number == MAIN_ROOT:
            continue
        if place := place_of_mark(known.mark, known.place):
            found[known.name] = place
    return found


def place_of_mark(mark: str, place: str) -> str:
    """Return where the root is that carries a mark and was at `place` last, "" where it is away."""
    if mark_of(place) == mark:
        return place
    return next(iter(_with_mark(mark, [place])), "")


def _place_of(root: Root, known: KnownRoot | None) -> tuple[str, str]:
    """Return where a configured root is ("" for away), and what the person should know of that."""
    there = mark_of(root.folder) if os.path.isdir(root.folder) else ""
    if known is None:
        if not os.path.isdir(root.folder):
            return "", f"The root {root.name} is away: there is no folder {root.folder}."
        why = why_away(root.folder)
        return ("", f"The root {root.name} is away: {why}") if why else (root.folder, "")
    if there == known.mark:
        volume = volume_of(root.folder)
        if not known.volume or not volume or volume == known.volume:
            return root.folder, ""
    places = _with_mark(known.mark, [root.folder, known.place])
    if len(places) > 1:
        return "", (
            f"The root {root.name} is there twice, so one must be a copy of the other: {' and '.join(places)}. Which "
            f"is it? Remove {STATE_DIR_NAME}/{NAME} from the one that you do not mean; nothing of it was scanned."
        )
    if places:
        return places[0], ""
    if there:
        return "", (
            f"The root {root.name} is away: {root.folder} is another one. If it takes its place, give it a name and "
            "section of its own."
        )
    return "", f"The root {root.name} is away; what is known of it is kept."


def _with_mark(mark: str, folders: Iterable[str]) -> list[str]:
    """Return the folders that carry an id, each once: the given ones, those beside them, those on mounted drives."""
    found: dict[tuple[int, int], str] = {}
    for folder in dict.fromkeys(_candidates([folder for folder in folders if folder])):
        if mark_of(folder) == mark:
            status = os.stat(folder)
            found.setdefault((status.st_dev, status.st_ino), folder)
    return list(found.values())


def _candidates(folders: list[str]) -> Iterator[str]:
    yield from folders
    for folder in folders:
        above = os.path.dirname(folder)
        with suppress(OSError), os.scandir(above) as entries:
            yield from (entry.path for entry in entries if entry.is_dir())
    for mount in drives_mounted():
        yield mount
        for folder in folders:
            parts = folder.strip("/").split("/")
            yield from (os.path.join(mount, *parts[-count:]) for count in (1, 2))


def mark_of(folder: str) -> str:
    """Return the id that a root carries, "" where there is none."""
    try:
        text = (Path(folder) / STATE_DIR_NAME / NAME).read_text("utf-8")
        return str(json.loads(text)["root"])
    except (OSError, ValueError, KeyError, TypeError, RecursionError):
        return _mark_of_medium(folder) if not os.access(folder, os.W_OK) else ""


def mark_root(folder: str) -> str:
    """Give a root an id to carry, and return it; of a medium that can't be written to what tells it from others."""
    mark = os.urandom(8).hex()
    own = Path(folder) / STATE_DIR_NAME
    try:
        own.mkdir(exist_ok=True)
        with (own / NAME).open("x", encoding="utf-8") as file:
            file.write(json.dumps({"root": mark, "volume": volume_of(folder)}) + "\n")
            file.flush()
            os.fsync(file.fileno())
    except OSError:
        return _mark_of_medium(folder)
    return mark


def _mark_of_medium(folder: str) -> str:
    """Return what tells a folder that can't be written to from others: its drive's id, label, size, its place there."""
    try:
        status = os.statvfs(folder)
        inside = os.path.relpath(folder, top_of_drive(folder))
    except (OSError, AttributeError):
        return ""
    size = status.f_blocks * status.f_frsize
    return f"{_MEDIUM}{volume_of(folder)} {_link_to(_BY_LABEL, folder)} {size} {inside}"


def volume_of(folder: str) -> str:
    """Return the id of the file system that a folder lies on, "" where the system does not tell."""
    return _link_to(_BY_ID, folder)


def _link_to(table: str, folder: str) -> str:
    """Return the name under which `table`, a folder of links to devices, has the device that `folder` lies on."""
    try:
        device = os.stat(folder).st_dev
        for name in os.listdir(table):
            if os.stat(os.path.join(table, name)).st_rdev == device:
                return name
    except OSError:
        pass
    return ""
