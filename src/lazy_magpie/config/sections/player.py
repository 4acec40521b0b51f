"""[player.NAME]: what a player, a library or a device reads."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from lazy_magpie.config.config_text import ConfigText
from lazy_magpie.naming.safe import is_safe

KEYS = {"play_lists": list, "discs": str}
NAMED = True


@dataclass(frozen=True, slots=True)
class Player:
    """A player: the systems whose play lists it understands, and the folder of their discs then ("": none)."""

    name: str
    play_lists: tuple[str, ...] = ()
    discs: str = ""


def read(tables: Mapping[str, Any], source: ConfigText) -> dict[str, Player]:
    """Return the players by name. Raises ConfigError."""
    found = {}
    for name, table in tables.items():
        discs = table.get("discs", "")
        if discs and not is_safe(discs, everywhere=True):
            raise source.wrong(("player", name, "discs"), f"“{discs}” is no name of a folder that every disk takes.")
        found[name] = Player(name, tuple(table.get("play_lists", ())), discs)
    return found
