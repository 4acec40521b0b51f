"""Work on a collection that writes: under its lock, after putting right what a crash left half done."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager

from lazy_magpie.catalogue import Catalogue, opened
from lazy_magpie.collection import Collection
from lazy_magpie.lock import locked


@contextmanager
def writing(
    collection: Collection, command: str, report: Callable[[str], None], *, scanned: bool = True
) -> Iterator[Catalogue]:
    """Open the catalogue to write, as the one writer; `report` hears of each change that was recovered.

    `scanned` says that a catalogue must be there already. Raises BusyError where another process writes.
    """
    with locked(collection.state_dir, command), opened(collection, write=True, scanned=scanned) as catalogue:
        if (catalogue.acting and collection.has_journals()) or was_cut_off(collection):
            from lazy_magpie.services.execute import recover  # which loads all that changes files

            for recovered in recover(collection, catalogue):
                report(recovered.text)
        yield catalogue


def was_cut_off(collection: Collection) -> bool:
    """Say whether a crash has left a change open. Where nothing was ever changed, nothing is loaded."""
    if not collection.has_journals():
        return False
    from lazy_magpie.change import Filesystem, JournalStore

    return JournalStore(Filesystem(str(collection.root))).any_open()
