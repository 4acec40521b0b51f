"""[mirror.NAME]: a backup of the collection, and what of the collection it holds."""

from __future__ import annotations

import os
import shlex
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from lazy_magpie.config.config_text import ConfigText

KEYS = {"folder": str, "items": str}
NAMED = True


@dataclass(frozen=True, slots=True)
class Mirror:
    """A backup: where it was last, and the find words for what it holds, none for all of the collection."""

    name: str
    folder: str
    items: tuple[str, ...] = ()


def read(tables: Mapping[str, Any], source: ConfigText) -> dict[str, Mirror]:
    """Return the mirrors by name. Raises ConfigError."""
    found = {}
    own = os.path.dirname(os.path.abspath(source.name))
    for name, table in tables.items():
        prefix = ("mirror", name)
        if not table.get("folder"):
            raise source.wrong(prefix, f"[mirror.{name}] has no “folder”.")
        if "/" in name or name.startswith("."):
            raise source.wrong(prefix, f"“{name}” can't be a mirror's name; take letters and digits.")
        try:
            words = tuple(shlex.split(table.get("items", "")))
        except ValueError:
            raise source.wrong((*prefix, "items"), f"a quotation mark is missing in “{table['items']}”.") from None
        folder = os.path.normpath(os.path.join(own, os.path.expanduser(table["folder"])))
        found[name] = Mirror(name, folder, words)
    return found
