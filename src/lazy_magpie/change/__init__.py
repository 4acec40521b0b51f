"""Applying plans: the only room that touches a person's files, and only by the steps of a plan.

`apply`, `undo` and `redo` run steps under a journal, `recover` puts right what a crash left half done, `history`
lists the changes. All take an `Area` and expect the collection's lock (`locked`) to be held.
"""

from __future__ import annotations

from lazy_magpie.change.archives import contents, head_of, plain_contents
from lazy_magpie.change.disk import Disk
from lazy_magpie.change.engine import Area, Move, Outcome, Watch
from lazy_magpie.change.history import Change, all_moves, all_notes, all_placed, history, of_item, texts_written
from lazy_magpie.change.holding import Held, delete, held, is_held, older_than, restoring
from lazy_magpie.change.lock import locked
from lazy_magpie.change.own_areas import Areas
from lazy_magpie.change.recovery import Recovered, recover, unfinished
from lazy_magpie.change.renaming import rename_without_replacing
from lazy_magpie.change.undo import apply, redo, undo
from lazy_magpie.change.world import Skip
from lazy_magpie.change.zips import Listed

__all__ = [
    "Area",
    "Areas",
    "Change",
    "Disk",
    "Held",
    "Listed",
    "Move",
    "Outcome",
    "Recovered",
    "Skip",
    "Watch",
    "all_moves",
    "all_notes",
    "all_placed",
    "apply",
    "contents",
    "delete",
    "head_of",
    "held",
    "history",
    "is_held",
    "locked",
    "of_item",
    "older_than",
    "plain_contents",
    "recover",
    "redo",
    "rename_without_replacing",
    "restoring",
    "texts_written",
    "undo",
    "unfinished",
]
