"""[collection]: its name, which names are safe, what is left alone."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from lazy_magpie.config.config_text import ConfigText

KEYS = {"name": str, "safe_names": str, "leave": list, "inbox": str, "attic": str, "unplayable": str}
NAMED = False


@dataclass(frozen=True, slots=True)
class CollectionSettings:
    """What holds for the whole collection, as `Config` says."""

    name: str
    everywhere: bool
    leave: tuple[str, ...]
    inbox: str
    attic: str
    files_unplayable: bool


def read(table: Mapping[str, Any], source: ConfigText) -> CollectionSettings:
    """Return the settings. Raises ConfigError."""
    safe_names = table.get("safe_names", "everywhere")
    if safe_names not in ("everywhere", "linux"):
        what = f"safe_names is “everywhere” or “linux”, not “{safe_names}”."
        raise source.wrong(("collection", "safe_names"), what)
    unplayable = table.get("unplayable", "stay")
    if unplayable not in ("stay", "file"):
        raise source.wrong(("collection", "unplayable"), f"unplayable is “stay” or “file”, not “{unplayable}”.")
    return CollectionSettings(
        table.get("name", ""),
        safe_names == "everywhere",
        tuple(pattern.strip("/") for pattern in table.get("leave", [])),
        source.folder(("collection",), table.get("inbox", "Inbox"), "inbox"),
        source.folder(("collection",), table.get("attic", "Attic"), "attic"),
        unplayable == "file",
    )
