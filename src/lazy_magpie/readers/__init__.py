"""What files say of themselves, one family of formats a file; each has `ENDINGS` and `read(path) -> facts`.

`pool.read_all` runs them in worker processes, with limits, so that a damaged file costs one file and never the scan.
A family is added by a row here.
"""

from __future__ import annotations

from functools import cache
from importlib import import_module
from types import ModuleType

WAY = 2
"""The way in which files are read now: what was read in another way is read anew by the next scan."""
FAMILIES = (
    "audio",
    "video",
    "pictures",
    "fonts",
    "embroidery",
    "archives",
    "discs",
    "cartridge_headers",
    "data_files",
    "documents",
    "scores",
    "modules",
    "chip_music",
    "drawings",
    "camera_raw",
    "type1_fonts",
)
"""The modules of the families, in the order in which they are asked for an ending."""


def all_endings() -> frozenset[str]:
    """Return the endings of all files that a reader can say something of."""
    return frozenset(ending for family in FAMILIES for ending in import_module(f"{__name__}.{family}").ENDINGS)


def reader_for(ending: str) -> ModuleType | None:
    """Return the module that reads files with this ending (small letters, with its dot), None where none does."""
    at = family_of(ending)
    return import_module(f"{__name__}.{FAMILIES[at]}") if at < len(FAMILIES) else None


@cache
def family_of(ending: str) -> int:
    """Return which of the families reads files with this ending, the number of families where none does."""
    modules = (import_module(f"{__name__}.{family}") for family in FAMILIES)
    return next((at for at, module in enumerate(modules) if ending in module.ENDINGS), len(FAMILIES))
