"""The reference lists of the demo, made from the contents of its games: XML as publishers of sets share it, and CSV."""

from __future__ import annotations

import hashlib
import zlib
from collections.abc import Iterable, Mapping
from typing import NamedTuple


class Game(NamedTuple):
    """A game of a list: its name, its files with their contents, the game that it is a clone of."""

    name: str
    files: Mapping[str, bytes]
    parent: str


def xml(name: str, version: str, games: Iterable[Game]) -> str:
    """Return a list as XML."""
    lines = ['<?xml version="1.0" encoding="UTF-8"?>', "<datafile>", "  <header>", f"    <name>{name}</name>"]
    lines += [f"    <description>All games of the {name}</description>", f"    <version>{version}</version>"]
    lines += ["    <author>Gullwick Kite Society</author>", "  </header>"]
    for game in games:
        clone = f' cloneof="{game.parent}"' if game.parent else ""
        lines += [f'  <game name="{game.name}"{clone}>', f"    <description>{game.name}</description>"]
        for file, data in game.files.items():
            sums = f'crc="{zlib.crc32(data):08x}" sha1="{hashlib.sha1(data, usedforsecurity=False).hexdigest()}"'
            lines.append(f'    <rom name="{file}" size="{len(data)}" {sums}/>')
        lines.append("  </game>")
    return "\n".join([*lines, "</datafile>", ""])


def table(name: str, games: Iterable[Game]) -> str:
    """Return a list as CSV."""
    lines = ["set,game,file,size,crc32,sha256"]
    for game in games:
        for file, data in game.files.items():
            sums = f"{zlib.crc32(data):08x},{hashlib.sha256(data).hexdigest()}"
            lines.append(f"{name},{game.name},{file},{len(data)},{sums}")
    return "\n".join([*lines, ""])
