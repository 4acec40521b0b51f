"""The names in folders as the disk has them, for planners, which look at nothing themselves."""

from __future__ import annotations

import os
from functools import lru_cache

from lazy_magpie.errors import MagpieError
from lazy_magpie.mounts import mounts_inside
from lazy_magpie.paths import written
from lazy_magpie.planners.directory_index import MOUNTED, Listing


def listing_of(root: str) -> Listing:
    """Return the listing of the real disk below `root`; a folder that can't be read is a MagpieError."""
    mounted = frozenset(mounts_inside(root) or ())

    @lru_cache(maxsize=256)
    def listing(folder: str) -> frozenset[str]:
        itself = [MOUNTED] if folder in mounted else []
        try:
            return frozenset([*os.listdir(os.path.join(root, folder)), *itself])
        except (FileNotFoundError, NotADirectoryError):
            return frozenset()
        except PermissionError as error:
            raise MagpieError(
                f"The folder {written(folder) or root} can't be read: no permission. Check its permissions, or name it "
                "under “leave” in magpie.toml."
            ) from error

    return listing
