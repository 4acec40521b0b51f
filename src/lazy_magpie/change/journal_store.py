"""Where the journals of a collection's changes lie, one file a change, numbered from 1."""

from __future__ import annotations

from dataclasses import dataclass

from lazy_magpie.change import records
from lazy_magpie.change.filesystem.access import Filesystem
from lazy_magpie.change.records import ChangeHead

JOURNALS = ".magpie/journal"


@dataclass(frozen=True)
class JournalStore:
    """Where a collection's changes are kept, and the disk that they work on."""

    disk: Filesystem

    def journal(self, change: int) -> str:
        """Return the file of a change's journal."""
        return f"{JOURNALS}/{change:06}.log"

    def head(self, change: int) -> ChangeHead | None:
        """Return what a change is, None where no whole record of it is left."""
        return records.ends(self.disk, self.journal(change)).head

    def changes(self) -> list[int]:
        """Return the numbers of all changes, oldest first."""
        if self.disk.status(JOURNALS) is None:
            return []
        names = self.disk.names(JOURNALS)
        return sorted(int(name[:-4]) for name in names if name.endswith(".log") and name[:-4].isdecimal())

    def is_open(self, change: int) -> bool:
        """Say whether the last run of a change has no end: a crash has left it, or it is under way."""
        return records.ends(self.disk, self.journal(change)).end is None

    def any_open(self) -> bool:
        """Say whether there is such a change."""
        return any(self.is_open(change) for change in self.changes())
