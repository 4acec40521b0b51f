"""Where the journals of a collection's changes lie, one file a change, numbered from 1."""

from __future__ import annotations

from dataclasses import dataclass

from lazy_magpie.change import journal
from lazy_magpie.change.filesystem.access import Filesystem
from lazy_magpie.change.journal_state import ChangeHead


@dataclass(frozen=True)
class JournalStore:
    """Where a collection's changes are kept, and the disk that they work on."""

    disk: Filesystem

    def journal(self, change: int) -> str:
        """Return the file of a change's journal."""
        return f"{journal.FOLDER}/{change:06}.log"

    def head(self, change: int) -> ChangeHead | None:
        """Return what a change is, None where no whole record of it is left."""
        return journal.ends(self.disk, self.journal(change)).head

    def changes(self) -> list[int]:
        """Return the numbers of all changes, oldest first."""
        if self.disk.status(journal.FOLDER) is None:
            return []
        names = self.disk.names(journal.FOLDER)
        return sorted(int(name[:-4]) for name in names if name.endswith(".log") and name[:-4].isdecimal())

    def is_open(self, change: int) -> bool:
        """Say whether the last run of a change has no end: a crash has left it, or it is under way."""
        return journal.ends(self.disk, self.journal(change)).end is None
