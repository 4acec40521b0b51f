"""Taking empty folders away without waiting until their disk has freed them."""

from __future__ import annotations

import os
import threading
from functools import cache
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from concurrent.futures import ThreadPoolExecutor

_MOST_WAITING = 200
"""So many folders at the most are still to be freed: each keeps a descriptor open."""
_room = threading.BoundedSemaphore(_MOST_WAITING)


def drop_folder(path: str) -> None:
    """Take away an empty folder.

    Its name is gone at once. To free what it was can take a disk a millisecond, and begins when nobody has the folder
    open any more: so it is held open until then, and let go beside what goes on.
    """
    handle = _held_open(path)
    try:
        os.rmdir(path)
    except OSError:
        if handle is not None:
            os.close(handle)
        raise
    if handle is None:
        return
    if _room.acquire(blocking=False):
        _beside().submit(_let_go, handle)
    else:
        os.close(handle)


def _held_open(path: str) -> int | None:
    """Return a descriptor that holds a folder and can do nothing with it, None where the system has no such thing."""
    if not hasattr(os, "O_PATH"):
        return None
    try:
        return os.open(path, os.O_PATH | os.O_DIRECTORY | os.O_NOFOLLOW)
    except OSError:  # what is wrong shows when it is taken away
        return None


def _let_go(handle: int) -> None:
    os.close(handle)
    _room.release()


@cache
def _beside() -> ThreadPoolExecutor:
    from concurrent.futures import ThreadPoolExecutor

    return ThreadPoolExecutor(1, "freeing folders")
