"""[root.NAME]: folder trees besides the collection's own."""

from __future__ import annotations

import os
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from lazy_magpie.config.config_text import ConfigText
from lazy_magpie.paths import is_below

KEYS = {"folder": str}
NAMED = True


@dataclass(frozen=True, slots=True)
class Root:
    """A folder tree besides the collection's own, on another drive most likely; `folder` is where it was told to be."""

    name: str
    folder: str


def read(tables: Mapping[str, Any], source: ConfigText) -> tuple[Root, ...]:
    """Return the roots: each a whole path, none in another or around the collection's own. Raises ConfigError."""
    own = os.path.abspath(os.path.dirname(source.name))
    found: dict[str, str] = {}
    for name, table in tables.items():
        prefix = ("root", name)
        if "folder" not in table:
            raise source.wrong(prefix, f"[root.{name}] has no “folder”.")
        folder = os.path.normpath(os.path.expanduser(table["folder"]))
        if not os.path.isabs(folder):
            what = f"the folder “{table['folder']}” is no whole path; write it from the top: “/media/attic/Films”."
            raise source.wrong((*prefix, "folder"), what)
        for other, place in {"the collection": own, **found}.items():
            if is_below(folder, place) or is_below(place, folder):
                named = other if other == "the collection" else f"[root.{other}]"
                what = f"the folder “{folder}” and that of {named} lie one in the other; a root stands for itself."
                raise source.wrong((*prefix, "folder"), what)
        found[name] = folder
    return tuple(Root(name, folder) for name, folder in found.items())
