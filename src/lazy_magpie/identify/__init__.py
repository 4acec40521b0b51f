"""Names, folders and facts into identities, each with its evidence.

`identify` is the whole face of the package: a path goes in, an `Identity` comes out. A name is cut into tokens
(`tokenizer`), the folders above are understood (`folders`), whole candidates for the path are assembled and weighed
(`films`, `episodes`, `songs`, `games`, `kits`, `designs`, `fonts`), and the best one wins (`candidates`). What lies
beside a file, what it says of itself and which makers are known comes in as `Context`. Nothing here touches a disk.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from lazy_magpie.on_demand import on_demand

if TYPE_CHECKING:
    from lazy_magpie.identify.context import NO_CONTEXT, Context, Siblings, Systems, siblings_of, systems_of
    from lazy_magpie.identify.path_reader import disc_folder, identify, not_understood

__all__ = [
    "NO_CONTEXT",
    "Context",
    "Siblings",
    "Systems",
    "disc_folder",
    "identify",
    "not_understood",
    "siblings_of",
    "systems_of",
]

__getattr__ = on_demand(
    __name__,
    {
        "context": "NO_CONTEXT Context Siblings Systems siblings_of systems_of",
        "path_reader": "disc_folder identify not_understood",
    },
)
