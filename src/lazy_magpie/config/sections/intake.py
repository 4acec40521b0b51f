"""[intake]: how downloads come in."""

from __future__ import annotations

import os
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from lazy_magpie.config.config_text import ConfigText
from lazy_magpie.suggest import nearest

KEYS = {"from": list, "take": str, "archives": str, "aside": str, "tag": str, "passwords": str}
NAMED = False


@dataclass(frozen=True, slots=True)
class IntakeConfig:
    """How downloads come in: the folders they land in, whether files are moved or copied, what becomes of archives.

    `archives` says where an archive goes that was unpacked: "beside" what came out of it, "aside" into the folder
    `aside`, or "hold", into the holding area, once all of it was compared; "hold all" also holds one if files
    of some system were left out. `tag` is put on what has come in. `passwords` is a file with
    passwords of archives, "" for none.
    """

    sources: tuple[str, ...] = ()
    take: str = "move"
    archives: str = "beside"
    aside: str = "Archives"
    tag: str = ""
    passwords: str = ""


_TAKES, _ARCHIVES = ("move", "copy"), ("beside", "aside", "hold", "hold all")


def read(table: Mapping[str, Any], source: ConfigText) -> IntakeConfig:
    """Return how downloads come in. Raises ConfigError."""
    for key, allowed in (("take", _TAKES), ("archives", _ARCHIVES)):
        if key in table and table[key] not in allowed:
            hint = nearest(table[key], allowed, f"; there are {', '.join(allowed)}.")
            raise source.wrong(("intake", key), f"“{key}” can't be “{table[key]}”{hint}")
    aside = source.folder(("intake",), table.get("aside", "Archives"), "aside")
    sources = tuple(os.path.expanduser(path) for path in table.get("from", ()))
    take, archives = table.get("take", "move"), table.get("archives", "beside")
    passwords = os.path.expanduser(table.get("passwords", ""))
    return IntakeConfig(sources, take, archives, aside, table.get("tag", ""), passwords)
