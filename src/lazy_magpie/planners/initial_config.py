"""What `start` proposes for a folder: shelves from the folders it finds, backups left alone, a commented file."""

from __future__ import annotations

import json
import re
from collections.abc import Sequence
from typing import NamedTuple

from lazy_magpie.identify.folders import FolderRole, understand
from lazy_magpie.model import Kind

_BACKUP = re.compile(r"(?i)^(?:old )?(?:back[ _-]?ups?|mirror|snapshots?)\b.*|.*\b(?:back[ _-]?ups?)$")
_NAMES = {Kind.MOVIE.value: ("films", "Films"), Kind.EPISODE.value: ("series", "Series")}
_WHERE_THERE = {
    Kind.TRACK.value: "music",
    Kind.GAME.value: "games",
    Kind.KIT.value: "kits",
    Kind.DESIGN.value: "designs",
    Kind.FONT.value: "fonts",
}
"""Shelves that are proposed only where there is a folder for them, by kind."""
WORDS = {Kind.MOVIE.value: "films", Kind.EPISODE.value: "episodes", Kind.TRACK.value: "songs"} | {
    kind: name for kind, name in _WHERE_THERE.items() if kind != Kind.TRACK.value
}
"""What a shelf's kind is called in a sentence."""


class ProposedShelf(NamedTuple):
    """A shelf to write: its name, its kind, its folder, and whether that has to be made."""

    name: str
    kind: str
    folder: str
    is_new: bool


class Proposal(NamedTuple):
    """What to write into magpie.toml, and the whole text."""

    shelves: tuple[ProposedShelf, ...]
    leave: tuple[str, ...]
    text: str


def propose(name: str, folders: Sequence[str]) -> Proposal:
    """Propose the configuration of a collection called `name` whose root holds `folders`."""
    leave = tuple(folder for folder in folders if _BACKUP.match(folder))
    open_folders = [folder for folder in folders if folder not in leave]
    shelves = [_shelf(kind, open_folders) for kind in _NAMES]
    for kind, shelf in _WHERE_THERE.items():
        if folder := _folder_of(kind, open_folders):
            shelves.append(ProposedShelf(shelf, kind, folder, False))
    return Proposal(tuple(shelves), leave, _text(name, shelves, leave))


def _shelf(kind: str, folders: Sequence[str]) -> ProposedShelf:
    name, folder = _NAMES[kind]
    if found := _folder_of(kind, folders):
        return ProposedShelf(name, kind, found, False)
    return ProposedShelf(name, kind, folder, folder not in folders)


def _folder_of(kind: str, folders: Sequence[str]) -> str:
    """Return the folder whose name says that it is of a kind, "" where there is none."""
    meanings = ((folder, understand(folder)) for folder in folders)
    return next((folder for folder, read in meanings if read.role is FolderRole.SHELF and read.kind == kind), "")


_NAMING = (
    '# "screen": a folder for each film, show and season; "plain": few folders, all in the file\'s name',
    'naming = "screen"',
)


def _quoted(text: str) -> str:
    return json.dumps(text.encode("utf-8", "replace").decode(), ensure_ascii=False)


def _text(name: str, shelves: Sequence[ProposedShelf], leave: Sequence[str]) -> str:
    lines = [
        "# The collection's configuration. Lines that begin with # are remarks.",
        "",
        "[collection]",
        f"name = {_quoted(name)}",
        '# Names that every disk takes, also exFAT and network shares; "linux" refuses only what Linux does.',
        'safe_names = "everywhere"',
        "# Folders that nothing is ever moved from or to: backups, other people's things. * stands for any text.",
        f"leave = [{', '.join(map(_quoted, leave))}]",
        "",
        "# A shelf is a folder below which everything is of one kind. What is of that kind goes there from",
        "# wherever in the collection it lies; kinds without a shelf stay where they are.",
    ]
    for shelf in shelves:
        lines += [
            f"[shelf.{shelf.name}]",
            f'kind = "{shelf.kind}"',
            f"folder = {_quoted(shelf.folder)}",
            *(_NAMING if shelf.kind in _NAMES else ('naming = "maker"',)),
            "",
        ]
    lines += [
        '# A naming of your own: name it above in place of "screen". A part in <…> is left out where it is empty.',
        "# [naming.mine]",
        '# movie = "{title, letter}/{title} ({year})/{title} ({year})< - {edition}>"',
        '# episode = "{show}/{show} {season}x{episode:02}< - {episode_title}>"',
        '# specials = "Specials"',
        "",
        "# A drive besides: its things are listed with the others, also while it is away.",
        "# [root.attic]",
        '# folder = "/media/attic"',
        "",
        "# A system of games that magpie does not know, by its folders and the endings of its images.",
        "# [system.tern8]",
        '# folders = ["Tern 8"]',
        '# endings = ["trn"]',
        "",
    ]
    return "\n".join(lines)
