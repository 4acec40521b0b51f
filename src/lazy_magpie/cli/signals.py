"""Ctrl-C, SIGTERM and a closed terminal as a wish to stop between two steps."""

from __future__ import annotations

import signal
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from types import FrameType

_WISHES = [getattr(signal, name) for name in ("SIGINT", "SIGTERM", "SIGHUP") if hasattr(signal, name)]


@contextmanager
def stoppable() -> Iterator[Callable[[], bool]]:
    """Yield a function that says whether such a wish has come since."""
    wished = False

    def wish(number: int, frame: FrameType | None) -> None:
        nonlocal wished
        wished = True

    before = {number: signal.signal(number, wish) for number in _WISHES}
    try:
        yield lambda: wished
    finally:
        for number, handler in before.items():
            signal.signal(number, handler)
