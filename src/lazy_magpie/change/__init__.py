"""Applying plans: the only room that touches a person's files, and only by the steps of a plan.

`apply`, `undo` and `redo` run steps under a journal, `recover` puts right what a crash left half done, `history`
lists the changes. All take an `Area` and expect the collection's lock (`locked`) to be held.
"""

from __future__ import annotations

from lazy_magpie.change.disk import Disk
from lazy_magpie.change.engine import Area, Outcome, Watch
from lazy_magpie.change.history import Change, history
from lazy_magpie.change.lock import locked
from lazy_magpie.change.recovery import Recovered, recover, unfinished
from lazy_magpie.change.undo import apply, redo, undo

__all__ = [
    "Area",
    "Change",
    "Disk",
    "Outcome",
    "Recovered",
    "Watch",
    "apply",
    "history",
    "locked",
    "recover",
    "redo",
    "undo",
    "unfinished",
]
