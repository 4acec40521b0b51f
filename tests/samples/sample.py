"""A sample, and what those of several sorts are made with."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, NamedTuple


class Sample(NamedTuple):
    """What a file holds, and the facts that it has to have, exactly."""

    data: Callable[[], bytes]
    facts: dict[str, Any]


def gzipped(data: Callable[[], bytes]) -> Callable[[], bytes]:
    """Return what makes the same, packed."""

    def packed() -> bytes:
        import gzip

        return gzip.compress(data(), mtime=0)

    return packed
