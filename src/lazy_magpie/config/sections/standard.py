"""[standard.KIND]: what things of a kind should be; what is below it is a finding of `check`."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from lazy_magpie.config.config_text import ConfigText
from lazy_magpie.suggest import nearest

KEYS = {"bitrate": str, "lines": int}
NAMED = True
_OF_KIND = {"movie": ("lines", "bitrate"), "episode": ("lines", "bitrate"), "track": ("bitrate",)}
_BITRATE = re.compile(r"(?i)(\d+)\s*(k|m)?")


@dataclass(frozen=True, slots=True)
class Standard:
    """The least that a thing should have: bits a second, lines of its picture; 0 for no matter."""

    bitrate: int = 0
    lines: int = 0


def read(tables: Mapping[str, Any], source: ConfigText) -> dict[str, Standard]:
    """Return the standards by kind. Raises ConfigError."""
    found = {}
    for kind, table in tables.items():
        prefix = ("standard", kind)
        if kind not in _OF_KIND:
            raise source.wrong(prefix, f"there is no standard for “{kind}”{nearest(kind, _OF_KIND)}")
        if wrong := [key for key in table if key not in _OF_KIND[kind]]:
            raise source.wrong((*prefix, wrong[0]), f"a {kind} has no “{wrong[0]}” to be measured by.")
        said = table.get("bitrate", "0")
        match = _BITRATE.fullmatch(said)
        if match is None:
            raise source.wrong((*prefix, "bitrate"), f"“{said}” is no bit rate; write it as “256k”.")
        scale = {"k": 1000, "m": 1_000_000}.get((match[2] or "").lower(), 1)
        found[kind] = Standard(int(match[1]) * scale, int(table.get("lines", 0)))
    return found
