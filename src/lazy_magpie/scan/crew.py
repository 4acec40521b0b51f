"""Understands many units at once, in as many processes as are asked for; few of them here."""

from __future__ import annotations

import multiprocessing
import os
import signal
import sys
from collections import deque
from collections.abc import Iterable, Iterator, Sequence
from concurrent.futures import Future, ProcessPoolExecutor
from itertools import chain

from lazy_magpie.catalogue import Made
from lazy_magpie.config import Config
from lazy_magpie.scan.units import Unit, understood

_WORTH = 4_000
"""So many files at the least are worth starting processes for."""
_AT_ONCE = 400
"""Files that are handed over at a time."""

Result = tuple[Unit, list[Made]]


def understood_all(
    units: Iterable[Unit], config: Config, makers: frozenset[str] = frozenset(), jobs: int = 0
) -> Iterator[Result]:
    """Yield each unit with its items, in the order of the units; `jobs` 0: one process a processor."""
    count = jobs or os.cpu_count() or 1
    waiting = iter(units)
    first: list[Unit] = []
    while count > 1 and sum(map(_files, first)) < _WORTH and (unit := next(waiting, None)) is not None:
        first.append(unit)
    if sum(map(_files, first)) < _WORTH:
        yield from ((unit, understood(unit, config, makers)) for unit in chain(first, waiting))
        return
    way = "forkserver" if sys.platform == "linux" else "spawn"
    context = multiprocessing.get_context(way)
    with ProcessPoolExecutor(count, context, initializer=_begin, initargs=(config, makers)) as pool:
        try:
            yield from _handed_out(pool, _batches(chain(first, waiting)), count + 2)
        finally:
            pool.shutdown(wait=False, cancel_futures=True)


def _files(unit: Unit) -> int:
    return sum(len(folder.files) for folder in unit.folders)


def _batches(units: Iterable[Unit]) -> Iterator[list[Unit]]:
    batch: list[Unit] = []
    count = 0
    for unit in units:
        batch.append(unit)
        count += _files(unit) + 1
        if count >= _AT_ONCE:
            yield batch
            batch, count = [], 0
    if batch:
        yield batch


def _handed_out(pool: ProcessPoolExecutor, batches: Iterator[list[Unit]], most: int) -> Iterator[Result]:
    """Keep `most` batches at work, and yield what is done in their order."""
    at_work: deque[tuple[Sequence[Unit], Future[list[list[Made]]]]] = deque()
    for batch in batches:
        at_work.append((batch, pool.submit(_understand, batch)))
        if len(at_work) >= most:
            done, future = at_work.popleft()
            yield from zip(done, future.result(), strict=True)
    for done, future in at_work:
        yield from zip(done, future.result(), strict=True)


_KNOWN: dict[str, tuple[Config, frozenset[str]]] = {}
"""What a process of the crew works with, given to it once."""


def _begin(config: Config, makers: frozenset[str]) -> None:
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # who stops the scan ends its crew
    _KNOWN["crew"] = (config, makers)


def _understand(units: Sequence[Unit]) -> list[list[Made]]:
    config, makers = _KNOWN["crew"]
    return [understood(unit, config, makers) for unit in units]
