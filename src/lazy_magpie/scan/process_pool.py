"""Understands many units at once, in as many processes as are asked for; few of them here."""

from __future__ import annotations

import os
from collections import deque
from collections.abc import Iterable, Iterator, Sequence
from concurrent.futures import BrokenExecutor, Future, ProcessPoolExecutor
from dataclasses import dataclass
from itertools import chain

from lazy_magpie import helper_processes, words
from lazy_magpie.catalogue import ItemRecord
from lazy_magpie.scan.folder_unit import Knowledge, Unit, understood

_WORTH = 4_000
"""So many files at the least are worth starting processes for."""
_AT_ONCE = 400
"""Files that are handed over at a time."""

Result = tuple[Unit, list[ItemRecord]]


def understood_all(units: Iterable[Unit], knowledge: Knowledge, jobs: int = 0) -> Iterator[Result]:
    """Yield each unit with its items, in the order of the units; `jobs` 0: one process a processor."""
    count = jobs or os.cpu_count() or 1
    waiting = iter(units)
    first: list[Unit] = []
    while count > 1 and sum(map(_files, first)) < _WORTH and (unit := next(waiting, None)) is not None:
        first.append(unit)
    if sum(map(_files, first)) < _WORTH:
        yield from ((unit, understood(unit, knowledge)) for unit in chain(first, waiting))
        return
    workers = _Workers(ProcessPoolExecutor(count, helper_processes.helpers(), _begin, (knowledge,)), knowledge)
    try:
        yield from workers.results(_batches(chain(first, waiting)), count + 2)
    finally:
        workers.pool.shutdown(wait=False, cancel_futures=True)


def _files(unit: Unit) -> int:
    """Return how many files of a unit have to be identified, as far as can be told."""
    return sum(len(folder.files) - len(folder.known) for folder in unit.folders)


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


@dataclass(frozen=True)
class _Workers:
    """Processes at work. Where one of them is killed, what is left is done here."""

    pool: ProcessPoolExecutor
    knowledge: Knowledge

    def results(self, batches: Iterator[list[Unit]], most: int) -> Iterator[Result]:
        """Keep `most` batches at work, and yield what is done in their order."""
        at_work: deque[tuple[list[Unit], Future[list[list[ItemRecord]]]]] = deque()
        for batch in batches:
            at_work.append((batch, self._hand_over(batch)))
            if len(at_work) >= most:
                yield from self._done(*at_work.popleft())
        for batch, future in at_work:
            yield from self._done(batch, future)

    def _hand_over(self, batch: list[Unit]) -> Future[list[list[ItemRecord]]]:
        try:
            return self.pool.submit(_understand, batch)
        except BrokenExecutor as error:
            broken: Future[list[list[ItemRecord]]] = Future()
            broken.set_exception(error)
            return broken

    def _done(self, batch: list[Unit], future: Future[list[list[ItemRecord]]]) -> Iterator[Result]:
        try:
            yield from zip(batch, future.result(), strict=True)
        except BrokenExecutor:
            yield from ((unit, understood(unit, self.knowledge)) for unit in batch)


_KNOWN: dict[str, Knowledge] = {}
"""What a process of the workers works with, given to it once."""


def _begin(knowledge: Knowledge) -> None:
    helper_processes.begin()
    _KNOWN["workers"] = knowledge
    words.use(knowledge.config.words)


def _understand(units: Sequence[Unit]) -> list[list[ItemRecord]]:
    return [understood(unit, _KNOWN["workers"]) for unit in units]
