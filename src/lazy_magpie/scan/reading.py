"""Reads what files say of themselves, where it says what they are, into the catalogue."""

from __future__ import annotations

import os
from collections.abc import Callable, Collection

from lazy_magpie.catalogue import Catalogue
from lazy_magpie.readers import music
from lazy_magpie.readers.pool import read_all

_BATCH = 500


def read_told(
    catalogue: Catalogue, root: str, folders: Collection[int], progress: Callable[[int], None] = lambda count: None
) -> list[tuple[str, str]]:
    """Read the tags of the songs in `folders` that were not read as they are now; return (path, why) of refusals.

    Nothing else is opened: of all kinds only songs are known by their tags better than by their names.
    """
    refused = []
    batch = []
    wanted = {
        os.path.join(root, path): (id, path, size, mtime)
        for id, path, size, mtime in catalogue.files.untold(folders, music.ENDINGS)
    }
    for count, (whole, facts) in enumerate(read_all(wanted), start=1):
        id, path, size, mtime = wanted[whole]
        batch.append((id, size, mtime, facts))
        if "unreadable" in facts:
            refused.append((path, str(facts["unreadable"])))
        if len(batch) >= _BATCH:
            catalogue.files.tell(batch)
            batch.clear()
        progress(count)
    catalogue.files.tell(batch)
    catalogue.db.commit()
    return refused
