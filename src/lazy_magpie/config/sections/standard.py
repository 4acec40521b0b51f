"""[standard.KIND]: what things of a kind should be; what is below it is a finding of `check`."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from lazy_magpie.config.config_text import ConfigText
from lazy_magpie.suggest import nearest

KEYS = {"bitrate": str, "lines": int, "subtitles": list}
NAMED = True
_OF_FILM = ("lines", "bitrate", "subtitles")
_OF_KIND = {"movie": _OF_FILM, "episode": _OF_FILM, "track": ("bitrate",)}
_CODE = re.compile("[a-z]{2}")
_BITRATE = re.compile(r"(?i)(\d+)\s*(k|m)?")


@dataclass(frozen=True, slots=True)
class Standard:
    """What a thing should have: bits a second and lines of its picture at the least; 0 for no matter.

    `subtitles` are the languages (ISO 639-1) of which its subtitles should have one; none for no matter.
    """

    bitrate: int = 0
    lines: int = 0
    subtitles: tuple[str, ...] = ()


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
        languages = tuple(table.get("subtitles", ()))
        if unknown := [language for language in languages if not _CODE.fullmatch(language)]:
            raise source.wrong((*prefix, "subtitles"), f"“{unknown[0]}” is no code of a language; write it as “en”.")
        found[kind] = Standard(int(match[1]) * scale, int(table.get("lines", 0)), languages)
    return found
