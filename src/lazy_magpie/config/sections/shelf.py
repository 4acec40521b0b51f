"""[shelf.NAME]: the folders that things of one kind are filed in."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from lazy_magpie.config.config_text import ConfigText
from lazy_magpie.config.sections.player import Player
from lazy_magpie.model import Kind
from lazy_magpie.naming import KINDS, Naming, conventions
from lazy_magpie.naming.safe import is_safe
from lazy_magpie.paths import same_name
from lazy_magpie.suggest import nearest

KEYS = {"kind": str, "folder": str, "naming": str, "root": str, "without": str, "folders": dict, "player": str}
NAMED = True
_USUAL = ("screen", "maker", "dated")
"""The namings that a shelf is filed by where it names none: the first that has a template for its kind."""
WITHOUT = ("stay", "inbox")
"""What may become of things that lack a field which their naming needs."""


@dataclass(frozen=True, slots=True)
class Shelf:
    """A folder below which everything is of one kind, and the naming that its things are filed by.

    `root` is the name of the root that it is on, "" for the collection's own. `without` says what becomes of things
    that lack a field which the naming needs: "stay", or "inbox". `folders` are its own names for systems of games.
    `player` is the player for which `tidy` puts pictures and data files beside its things, too, "" for none.
    """

    name: str
    kind: Kind
    folder: str
    naming: Naming
    root: str = ""
    without: str = "stay"
    folders: Mapping[str, str] = field(default_factory=dict)
    player: str = ""


def read(
    tables: Mapping[str, Any],
    source: ConfigText,
    namings: Mapping[str, Naming],
    players: Mapping[str, Player],
    roots: Sequence[str],
) -> tuple[Shelf, ...]:
    """Return the shelves, in their order. Raises ConfigError."""
    shelves: list[Shelf] = []
    for name, table in tables.items():
        shelves.append(_shelf(name, table, source, namings, players, roots, shelves))
    return tuple(shelves)


def _shelf(
    name: str,
    table: Mapping[str, Any],
    source: ConfigText,
    namings: Mapping[str, Naming],
    players: Mapping[str, Player],
    roots: Sequence[str],
    others: Sequence[Shelf],
) -> Shelf:
    prefix = ("shelf", name)
    for key in ("kind", "folder"):
        if key not in table:
            raise source.wrong(prefix, f"[shelf.{name}] has no “{key}”.")
    if table["kind"] not in KINDS:
        hint = nearest(table["kind"], KINDS, f"; there are {', '.join(KINDS)}.")
        raise source.wrong((*prefix, "kind"), f"no shelf can be of kind “{table['kind']}”{hint}")
    player = table.get("player", "")
    if player and player not in players:
        hint = nearest(player, players, f"; there are {', '.join(players) or 'none'}.")
        raise source.wrong((*prefix, "player"), f"there is no player “{player}”{hint}")
    naming = table.get("naming") or _usual_naming(table["kind"], players.get(player))
    if naming not in namings:
        hint = nearest(naming, namings, f"; there are {', '.join(namings)}.")
        raise source.wrong((*prefix, "naming"), f"there is no naming “{naming}”{hint}")
    if table["kind"] not in namings[naming].templates:
        what = f"the naming “{naming}” has no template for “{table['kind']}”."
        raise source.wrong((*prefix, "naming"), what)
    folder = source.folder(prefix, table["folder"])
    root = table.get("root", "")
    if root and root not in roots:
        hint = nearest(root, roots, f"; there are {', '.join(roots) or 'none'}.")
        raise source.wrong((*prefix, "root"), f"there is no root “{root}”{hint}")
    for other in others:
        if other.root == root and same_name(other.folder) == same_name(folder):
            raise source.wrong((*prefix, "folder"), f"[shelf.{other.name}] has the folder “{folder}” already.")
    without = table.get("without", "stay")
    if without not in WITHOUT:
        hint = nearest(without, WITHOUT, f"; there are {', '.join(WITHOUT)}.")
        raise source.wrong((*prefix, "without"), f"“without” can't be “{without}”{hint}")
    folders = table.get("folders", {})
    for own in folders.values():
        if not is_safe(own, everywhere=True):
            raise source.wrong((*prefix, "folders"), f"“{own}” is no name of a folder that every disk takes.")
    return Shelf(name, Kind(table["kind"]), folder, namings[naming], root, without, folders, player)


def _usual_naming(kind: str, player: Player | None) -> str:
    if player and player.naming and kind in player.naming.templates:
        return player.naming.name
    return next(name for name in _USUAL if kind in conventions()[name].templates)
