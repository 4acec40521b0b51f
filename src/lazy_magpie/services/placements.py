"""What changes have placed by a naming: kept in the catalogue after each change, restored from the journals."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping

from lazy_magpie.catalogue import Catalogue, Placement
from lazy_magpie.change import Filesystem, JournalStore, history, placements_in_effect
from lazy_magpie.collection import Collection
from lazy_magpie.model import Step
from lazy_magpie.model.steps import FreePlace, Move, Unpack, filing_of
from lazy_magpie.paths import join, parent
from lazy_magpie.planners.filing.placement_rules import Placed, answer_text


def placed_in(catalogue: Catalogue, collection: Collection) -> Placed:
    """Return the placements of a collection that are in effect; a new catalogue learns them from the journals."""
    store = JournalStore(Filesystem(str(collection.root)))
    if catalogue.writable and not catalogue.is_told("placements"):
        recall(catalogue, store)
        catalogue.set_told("placements")
    return Placed(catalogue, collection.config, {change.number for change in history(store) if change.in_effect})


def remember(catalogue: Catalogue, change: int, steps: Iterable[Step], moves: Mapping[str, str]) -> set[int]:
    """Keep what the steps of a change have placed or set free, and what they have unpacked from which archive.

    `moves` has where files went in the same change. The catalogue knows the files by now. Returns the folders (ids) of
    the archives, which are one thing with what came out of them from now on.
    """
    steps = list(steps)
    folders: set[int] = set()
    catalogue.placements.follow(change, moves.items())
    catalogue.placements.put(_placements(catalogue, change, steps, moves))
    for step in (step for step in steps if isinstance(step, Unpack)):
        for part in step.parts:
            home = step.filing.home if step.filing and step.filing.home else step.target
            catalogue.placements.put_taken(part.listing, home, change)
            archive = part.archive
            id = catalogue.files.id_at(moves.get(archive, archive), missing=True)
            targets = (join(step.target, rest) for rest in part.layout.values())
            files = (catalogue.files.id_at(moves.get(target, target)) for target in targets)
            if id is not None:
                catalogue.placements.put_came_from(id, [file for file in files if file is not None], change)
                folder = catalogue.files.folder_id(parent(moves.get(archive, archive)))
                folders |= {folder} if folder is not None else set()
    return folders


def _placements(
    catalogue: Catalogue, change: int, steps: Iterable[Step], moves: Mapping[str, str]
) -> Iterator[Placement]:
    homes: set[str] = set()
    for step in steps:
        filing = filing_of(step)
        if filing is None:
            continue
        if filing.home:
            if filing.home not in homes:
                homes.add(filing.home)
                yield Placement(filing.home, change, filing.rule, filing.kind, filing.values)
            continue
        for path in _targets(step):
            now = moves.get(path, path)
            item = catalogue.items.at(now)
            answer = answer_text(catalogue.items.answer_of(item) if item else None)
            yield Placement(now, change, filing.rule, filing.kind, None, answer)


def _targets(step: Step) -> Iterator[str]:
    """Yield the files that a step has placed."""
    if isinstance(step, FreePlace):
        yield step.source
        return
    if not isinstance(step, Unpack):
        yield step.target
        return
    for part in step.parts:
        yield from (join(step.target, rest) for rest in part.layout.values())


def recall(catalogue: Catalogue, store: JournalStore) -> None:
    """Restore into a new catalogue what the journals say was placed."""
    by_change: dict[int, list[Step]] = {}
    for number, step in placements_in_effect(store):
        by_change.setdefault(number, []).append(step)
    for number, steps in by_change.items():
        moves = {step.source: step.target for step in steps if isinstance(step, Move)}
        remember(catalogue, number, steps, moves)
