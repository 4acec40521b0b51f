"""Where a collection's changes are kept, and which is the newest."""

from __future__ import annotations

from lazy_magpie import targets
from lazy_magpie.catalogue import SavedPlan
from lazy_magpie.change import Filesystem, JournalStore, history
from lazy_magpie.collection import Collection


def journal_store(collection: Collection) -> JournalStore:
    """Return where the collection's changes are kept."""
    return JournalStore(Filesystem(str(collection.root), targets.located(collection)))


def newest_change(collection: Collection) -> int:
    """Return the number of the newest change, 0 for none."""
    return max(journal_store(collection).changes(), default=0)


def newer_change(collection: Collection, plan: SavedPlan) -> int:
    """Return the change that was made, undone or redone after a plan was made, 0 for none."""
    newer = [
        one.number
        for one in history(journal_store(collection))
        if (plan.since is not None and one.number > plan.since) or one.ended > plan.made
    ]
    return max(newer, default=0)
