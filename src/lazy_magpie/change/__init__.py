"""Applying plans: the only package that touches a person's files, and only by the steps of a plan.

`apply`, `undo` and `redo` run steps under a journal, `recover` puts right what a crash left half done, `history`
lists the changes. All take a `JournalStore` and expect the collection's lock (`lock.locked`) to be held.

What stands here is loaded when it is asked for: to see that nothing is to be recovered takes no engine.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from lazy_magpie.on_demand import on_demand

if TYPE_CHECKING:
    from lazy_magpie.change.archives.contents import contents, head_of, plain_contents
    from lazy_magpie.change.archives.zip_directory import Listed
    from lazy_magpie.change.archives.zip_writer import is_written_so
    from lazy_magpie.change.engine import RunControl
    from lazy_magpie.change.filesystem.access import Filesystem
    from lazy_magpie.change.filesystem.rename import rename_no_replace
    from lazy_magpie.change.holding_area import Held, delete_held, held_things, is_held, older_than, restoring
    from lazy_magpie.change.journal_store import JournalStore
    from lazy_magpie.change.outcome import Outcome, Relocation
    from lazy_magpie.change.past_changes import (
        Change,
        ChangedFile,
        answers_in_effect,
        files_of,
        history,
        moves_in_effect,
        of_item,
        placements_in_effect,
        texts_written,
    )
    from lazy_magpie.change.recovery import Recovered, last_run, recover, unfinished
    from lazy_magpie.change.run_context import Skip
    from lazy_magpie.change.runs import apply, redo, undo
    from lazy_magpie.change.state_folders import StateFolders

__all__ = [
    "Change",
    "ChangedFile",
    "Filesystem",
    "Held",
    "JournalStore",
    "Listed",
    "Outcome",
    "Recovered",
    "Relocation",
    "RunControl",
    "Skip",
    "StateFolders",
    "answers_in_effect",
    "apply",
    "contents",
    "delete_held",
    "files_of",
    "head_of",
    "held_things",
    "history",
    "is_held",
    "is_written_so",
    "last_run",
    "moves_in_effect",
    "of_item",
    "older_than",
    "placements_in_effect",
    "plain_contents",
    "recover",
    "redo",
    "rename_no_replace",
    "restoring",
    "texts_written",
    "undo",
    "unfinished",
]

__getattr__ = on_demand(
    __name__,
    {
        "archives.contents": "contents head_of plain_contents",
        "archives.zip_directory": "Listed",
        "archives.zip_writer": "is_written_so",
        "engine": "RunControl",
        "outcome": "Outcome Relocation",
        "filesystem.access": "Filesystem",
        "filesystem.rename": "rename_no_replace",
        "past_changes": (
            "Change ChangedFile answers_in_effect files_of history moves_in_effect of_item placements_in_effect "
            "texts_written"
        ),
        "holding_area": "Held delete_held held_things is_held older_than restoring",
        "journal_store": "JournalStore",
        "recovery": "Recovered last_run recover unfinished",
        "run_context": "Skip",
        "state_folders": "StateFolders",
        "runs": "apply redo undo",
    },
)
