"""The catalogue follows what a change moves: beside the change, in a process of its own, where that is worth it.

Moves that are done, synced and noted in the journal are told to the helper, which follows some at a time and notes how
many that are. What it has not followed when the change ends, or when it was killed, is followed by whoever takes over:
the note decides, in one transaction with the moves that it counts, so that none is ever followed twice.
"""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import AbstractContextManager, suppress
from multiprocessing.connection import Connection
from multiprocessing.process import BaseProcess
from typing import TYPE_CHECKING

from lazy_magpie import helper_processes
from lazy_magpie.catalogue import Catalogue, Followed, FollowedMoves, opened
from lazy_magpie.collection import Collection
from lazy_magpie.errors import MagpieError

if TYPE_CHECKING:
    from lazy_magpie.change import Outcome, Relocation

_WORTH = 1_000
"""So many moves at the least are worth starting a process for."""
_AT_ONCE = 2_000
"""Moves that are followed in one transaction."""


class Follower(AbstractContextManager["Follower"]):
    """What hears of a change's moves while it is at work; at the end of its context it follows no further.

    `first` keeps the first path of each item, `trusted` says that new names were read as what they are.
    """

    def __init__(self, collection: Collection, catalogue: Catalogue, *, first: bool, trusted: bool) -> None:
        self._collection, self._catalogue = collection, catalogue
        self._first, self._trusted = first, trusted
        self._told = 0
        self._followed: Followed | None = None
        self._helper: _Helper | None = None

    def noted(self, outcome: Outcome) -> None:
        """Hear what of a change is done by now."""
        if self._followed is None:
            self._followed = Followed(outcome.change, os.getpid(), 0)
            with self._catalogue.db:
                self._catalogue.note_followed(self._followed)
        waiting = len(outcome.moves) - self._told
        if self._helper is None and waiting >= _WORTH and (os.cpu_count() or 1) > 1:
            self._helper = _Helper(self._collection, self._followed, first=self._first, trusted=self._trusted)
        if self._helper and waiting:
            self._helper.tell(outcome.moves[self._told :])
            self._told = len(outcome.moves)

    def unknown(self) -> list[str]:
        """Wait until all that was told is followed; return where files are now that the catalogue did not know."""
        return self._helper.end() if self._helper else []

    def __exit__(self, *raised: object) -> None:
        if self._helper:
            self._helper.stop()


class _Helper:
    """A process that follows what it is told. Where it is killed, what it has not followed is followed without it."""

    def __init__(self, collection: Collection, followed: Followed, *, first: bool, trusted: bool) -> None:
        processes = helper_processes.helpers()
        self._line, line = processes.Pipe()
        self._process: BaseProcess = processes.Process(  # type: ignore[attr-defined]
            target=_follow, args=(collection, followed, line, first, trusted), daemon=True
        )
        self._process.start()
        line.close()

    def tell(self, moves: list[Relocation] | None) -> None:
        """Tell more moves, in their order, or that these were all."""
        with suppress(OSError):
            self._line.send(moves)

    def end(self) -> list[str]:
        """Wait for the end, and return where files are now that the catalogue did not know."""
        self.tell(None)
        with suppress(EOFError, OSError):
            unknown: list[str] = self._line.recv()
            return unknown
        return []

    def stop(self) -> None:
        """End the process, which has nothing more to do."""
        self._process.kill()
        self._process.join()
        self._line.close()


def _follow(collection: Collection, followed: Followed, line: Connection, first: bool, trusted: bool) -> None:
    """Follow what is told until all was, in the helper's own process; then answer what was not known.

    Where the catalogue can't be written, the process that is helped meets the same and says it.
    """
    helper_processes.begin()
    with suppress(MagpieError, EOFError, OSError), opened(collection, write=True) as catalogue:
        moves = FollowedMoves(catalogue.files, first=first)
        for some, is_last in _portions(line):
            with catalogue.db:
                catalogue.db.execute("BEGIN IMMEDIATE")
                if catalogue.followed() != followed:  # another process has taken over
                    return
                moves.follow(some)
                if is_last and trusted:
                    moves.trust()
                catalogue.writer.index_stale()
                followed = followed._replace(moves=followed.moves + len(some))
                catalogue.note_followed(followed)
        line.send(moves.unknown)


def _portions(line: Connection) -> Iterator[tuple[list[Relocation], bool]]:
    """Yield what is told, so much at a time as is worth a transaction, and whether it is the last."""
    waiting: list[Relocation] = []
    while (some := line.recv()) is not None:
        waiting += some
        if len(waiting) >= _AT_ONCE:
            yield waiting, False
            waiting = []
    yield waiting, True
