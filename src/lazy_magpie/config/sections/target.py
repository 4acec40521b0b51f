"""[target.NAME]: a device, a stick, a card that things are sent to, and what of the collection goes there."""

from __future__ import annotations

import os
import re
import shlex
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from lazy_magpie.config.config_text import ConfigText
from lazy_magpie.config.sections.player import Player
from lazy_magpie.suggest import nearest

KEYS = {
    "folder": str,
    "player": str,
    "items": str,
    "order": list,
    "by": str,
    "space": str,
    "leave": str,
    "unit": str,
    "archives": str,
    "formats": list,
    "hoop": str,
    "split": int,
    "short": bool,
}
NAMED = True
KEEP, UNPACK, PACK = "keep", "unpack", "pack"
_ARCHIVES = (KEEP, UNPACK, PACK)
MAKE = "make"
NEWEST = "newest"
_SIZE = re.compile(r"(?i)(\d+(?:\.\d+)?)\s*([kmgt]?)b?")
_SCALES = {"": 1, "k": 1 << 10, "m": 1 << 20, "g": 1 << 30, "t": 1 << 40}
_HOOP = re.compile(r"(\d{2,4})\s*[x×]\s*(\d{2,4})")


@dataclass(frozen=True, slots=True)
class Target:
    """A target: where it was last, for which player, and which items go there, by find words.

    `order` are the find words of what goes first where not all fits (NEWEST: by when it came), `by` a custom field
    whose sum is to be the greatest, "" for as many things as fit. `space` are the bytes that may be used, 0 for all
    that is free, `leave` those that stay free, `unit` those in which its space is given out (0: as its drive says).
    `archives` is KEEP, UNPACK or PACK. Of several `formats` of a design the first there is goes; MAKE at the end lets
    one be made. `hoop` is in millimetres. With `split`, at most so many files lie in a folder; with `short`, names have
    eight letters and three.
    """

    name: str
    folder: str
    player: Player | None = None
    items: tuple[str, ...] = ()
    order: tuple[tuple[str, ...], ...] = ()
    by: str = ""
    space: int = 0
    leave: int = 0
    unit: int = 0
    archives: str = KEEP
    formats: tuple[str, ...] = ()
    hoop: tuple[int, int] | None = None
    split: int = 0
    short: bool = False


def read(tables: Mapping[str, Any], source: ConfigText, players: Mapping[str, Player]) -> dict[str, Target]:
    """Return the targets by name. Raises ConfigError."""
    return {name: _target(name, table, source, players) for name, table in tables.items()}


def _target(name: str, table: Mapping[str, Any], source: ConfigText, players: Mapping[str, Player]) -> Target:
    prefix = ("target", name)
    if not table.get("folder"):
        raise source.wrong(prefix, f"[target.{name}] has no “folder”.")
    if "/" in name or name.startswith("."):
        raise source.wrong(prefix, f"“{name}” can't be a target's name; take letters and digits.")
    player = table.get("player", "")
    if player and player not in players:
        hint = nearest(player, players, f"; there are {', '.join(players) or 'none'}.")
        raise source.wrong((*prefix, "player"), f"there is no player “{player}”{hint}")
    archives = table.get("archives", KEEP)
    if archives not in _ARCHIVES:
        raise source.wrong((*prefix, "archives"), f"“archives” is {', '.join(_ARCHIVES)}, not “{archives}”.")
    hoop = _HOOP.fullmatch(table.get("hoop", "0000x0000"))
    if hoop is None:
        raise source.wrong((*prefix, "hoop"), f"“hoop” is like “130x180”, not “{table['hoop']}”.")
    sizes = {key: _size(table.get(key, "0"), key, source, prefix) for key in ("space", "leave", "unit")}
    folder = os.path.expanduser(table["folder"])
    return Target(
        name,
        os.path.normpath(os.path.join(os.path.dirname(os.path.abspath(source.name)), folder)),
        players.get(player),
        _words(table.get("items", ""), source, (*prefix, "items")),
        tuple(_words(text, source, (*prefix, "order")) for text in table.get("order", ())),
        table.get("by", ""),
        archives=archives,
        formats=tuple(form.lower().removeprefix(".") for form in table.get("formats", ())),
        hoop=(int(hoop[1]), int(hoop[2])) if "hoop" in table else None,
        split=max(0, int(table.get("split", 0))),
        short=bool(table.get("short", False)),
        **sizes,
    )


def _words(text: str, source: ConfigText, keys: tuple[str, ...]) -> tuple[str, ...]:
    """Return find words as they would be typed. Raises ConfigError."""
    try:
        return tuple(shlex.split(text))
    except ValueError:
        raise source.wrong(keys, f"a quotation mark is missing in “{text}”.") from None


def _size(text: str, key: str, source: ConfigText, prefix: tuple[str, ...]) -> int:
    if text == "all":
        return 0
    if (size := size_of(text)) is None:
        raise source.wrong((*prefix, key), f"“{key}” is a size like “64G”, not “{text}”.")
    return size


def size_of(text: str) -> int | None:
    """Return the bytes that a size like 64G or 500M stands for (1024), None for what is none."""
    match = _SIZE.fullmatch(text.strip())
    return int(float(match[1]) * _SCALES[match[2].lower()]) if match else None
