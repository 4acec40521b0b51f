"""The text of magpie.toml, and the line on which a mistake in it stands."""

from __future__ import annotations

import re
from dataclasses import dataclass

from lazy_magpie.errors import ConfigError

Keys = tuple[str, ...]
"""Where a value stands: ("shelf", "films", "folder")."""


@dataclass(frozen=True)
class ConfigText:
    """A configuration as it was written; `name` names it in messages."""

    text: str
    name: str

    def wrong(self, keys: Keys, what: str) -> ConfigError:
        """Return the error for the value under `keys`."""
        return ConfigError(f"{self.name}, line {_line_of(self.text, keys)}: {what}")

    def folder(self, prefix: Keys, text: str, key: str = "folder") -> str:
        """Return a folder of the collection as steps name it. Raises ConfigError for one that lies outside."""
        folder = text.rstrip("/")
        parts = folder.split("/")
        if not folder or text.startswith(("/", "~")) or ".." in parts or "\\" in text:
            what = f"the {key} “{text}” is not inside the collection; write a path below its root, like “Films”."
            raise self.wrong((*prefix, key), what)
        return "/".join(part for part in parts if part not in ("", "."))


_HEADER = re.compile(r"^\s*\[\s*([^\[\]]+?)\s*\]\s*(?:#.*)?$")
_KEY = re.compile(r"""^\s*("[^"]*"|'[^']*'|[\w-]+(?:\s*\.\s*[\w-]+)*)\s*=""")


def _line_of(text: str, keys: Keys) -> int:
    """Return the line (from 1) where `keys` stands, or the nearest section above it."""
    best, depth = 1, 0
    section: Keys = ()
    for number, line in enumerate(text.splitlines(), start=1):
        if match := _HEADER.match(line):
            section = _key_parts(match.group(1))
            here = section
        elif match := _KEY.match(line):
            here = (*section, *_key_parts(match.group(1)))
        else:
            continue
        if here == keys:
            return number
        common = len(here) if here == keys[: len(here)] else 0
        if common > depth:
            best, depth = number, common
    return best


def _key_parts(text: str) -> Keys:
    return tuple(part.strip().strip("\"'") for part in re.findall(r"\"[^\"]*\"|'[^']*'|[^.\s]+", text))
