"""The names in folders as the disk has them, for planners, which look at nothing themselves."""

from __future__ import annotations

import os
from functools import lru_cache

from lazy_magpie.errors import MagpieError
from lazy_magpie.paths import written
from lazy_magpie.planners.directory_index import Listing


def listing_of(root: str) -> Listing:
    """Return the listing of the real disk below `root`; a folder that can't be read is a MagpieError."""

    @lru_cache(maxsize=256)
    def listing(folder: str) -> frozenset[str]:
        try:
            return frozenset(os.listdir(os.path.join(root, folder)))
        except (FileNotFoundError, NotADirectoryError):
            return frozenset()
        except PermissionError as error:
            raise MagpieError(
                f"The folder {written(folder) or root} can't be read: no permission. Check its permissions, or name it "
                "under “leave” in magpie.toml."
            ) from error

    return listing
