"""What changes have placed by a naming stays there until the naming, or a person's answer, says otherwise.

So what brings things in and what tidies never disagree. A step that places something says in its data by which rule:

    rule   stands for the shelf and its naming
    kind   what it was placed as
    home   the folder of a thing (a kit, a pack of designs), all of which stays together (written form)
    thing  its values for the naming: maker, title, when it arrived, its running number
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Collection as Collection_
from collections.abc import Iterable, Iterator, Mapping
from typing import Any

from lazy_magpie.catalogue import Catalogue, Placement, bare
from lazy_magpie.change import Area, Disk, all_placed, history
from lazy_magpie.collection import Collection
from lazy_magpie.config import Config, Intake, Shelf
from lazy_magpie.model import Do, Item, Kind, State, Step, Value
from lazy_magpie.paths import above, join, parent, read_back, written
from lazy_magpie.plans.own import values_of


def rule_of(shelf: Shelf) -> str:
    """Return what stands for a shelf's folder and naming: another one places things otherwise."""
    naming = shelf.naming
    templates = sorted((key, template.text) for key, template in naming.templates.items())
    rule = (shelf.folder, shelf.kind.value, templates, naming.specials, sorted(naming.sections.items()))
    return hashlib.blake2b(repr(rule).encode(), digest_size=8).hexdigest()


def by_rule(shelf: Shelf, kind: Kind, home: str = "", thing: Mapping[str, Any] | None = None) -> dict[str, Any]:
    """Return what a step says of a file, or of the whole thing at `home`, that it places on a shelf."""
    placed: dict[str, Any] = {"rule": rule_of(shelf), "kind": kind.value}
    return {**placed, "home": written(home), "thing": dict(thing or {})} if home else placed


def archive_rule(settings: Intake) -> dict[str, Any]:
    """Return what a step says of an archive that it puts where the configuration wants archives."""
    return {"rule": _archives_rule(settings), "kind": Kind.ARCHIVE.value}


def _archives_rule(settings: Intake) -> str:
    return f"{settings.archives} {settings.aside if settings.archives == 'aside' else ''}".strip()


class Placed:
    """The placements that are in effect; `in_effect` are the numbers of the changes that are."""

    def __init__(self, catalogue: Catalogue, config: Config, in_effect: Collection_[int]) -> None:
        self.config = config
        self.in_effect = in_effect
        self._known = {one.path: one for one in catalogue.placements.all() if one.change in in_effect}
        self._answer = catalogue.items.answer_of

    def at(self, path: str) -> Placement | None:
        """Return how a file was placed: itself, or with the thing whose folder it lies in; None where it was not."""
        if not self._known:
            return None
        return next((one for place in (path, *above(path)) if (one := self._known.get(place))), None)

    def shelf_of(self, one: Placement) -> Shelf | None:
        """Return the shelf that something was placed on, or that its kind goes to now."""
        kind = Kind(one.kind)
        shelf = self.config.shelf_of(one.path)
        return shelf if shelf is not None and shelf.kind is kind else self.config.shelf_for(kind)

    def holds(self, one: Placement, item: Item) -> bool:
        """Say whether what was placed stays: its rule is today's, and no person has answered otherwise since."""
        if one.kind == Kind.ARCHIVE:
            return one.rule == _archives_rule(self.config.intake)
        shelf = self.shelf_of(one)
        if shelf is None or rule_of(shelf) != one.rule or not self.is_as_answered(one, item):
            return False
        marks = self.marks_of(one, item)
        return marks == (one.thing or {}).get("marks", {}) if one.thing is not None else not marks

    def marks_of(self, one: Placement, item: Item) -> dict[str, Value]:
        """Return the values of fields of one's own that an item has now, those that its naming may use."""
        shelf = self.shelf_of(one)
        template = shelf.naming.templates.get(one.kind) if shelf else None
        used = template.fields() & self.config.fields.keys() if template else ()
        values = values_of(item, self.config.fields) if used else {}
        return {name: values[name] for name in used if name in values}

    def is_as_answered(self, one: Placement, item: Item) -> bool:
        """Say whether a person has said nothing else of an item than when it was placed."""
        return item.state is not State.SETTLED or _answer_text(self._answer(item.id)) == one.answer


def placed_in(catalogue: Catalogue, collection: Collection) -> Placed:
    """Return the placements of a collection that are in effect; a new catalogue learns them from the journals."""
    area = Area(Disk(str(collection.root)))
    if catalogue.writable and not catalogue.is_told("placements"):
        recall(catalogue, area)
        catalogue.set_told("placements")
    return Placed(catalogue, collection.config, {change.number for change in history(area) if change.in_effect})


def _answer_text(answer: Mapping[str, Any] | None) -> str:
    return json.dumps(bare(dict(answer)) if answer else None, sort_keys=True)


def remember(catalogue: Catalogue, change: int, steps: Iterable[Step], moves: Mapping[str, str]) -> set[int]:
    """Keep what the steps of a change have placed, and what they have unpacked from which archive.

    `moves` has where files went in the same change. The catalogue knows the files by now. Returns the folders (ids) of
    the archives, which are one thing with what came out of them from now on.
    """
    steps = list(steps)
    folders: set[int] = set()
    catalogue.placements.put(_placements(catalogue, change, steps, moves))
    for step in steps:
        for part in step.data.get("parts", ()):
            home = read_back(str(step.data["placed"].get("home") or written(step.target)))
            catalogue.placements.put_taken(str(part["listing"]), home, change)
            archive = read_back(part["archive"])
            id = catalogue.files.id_at(moves.get(archive, archive), missing=True)
            targets = (join(step.target, read_back(rest)) for rest in part["layout"].values())
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
        placed = step.data["placed"]
        if home := read_back(str(placed.get("home", ""))):
            if home not in homes:
                homes.add(home)
                yield Placement(home, change, placed["rule"], placed["kind"], placed["thing"])
            continue
        for path in _targets(step):
            now = moves.get(path, path)
            item = catalogue.items.at(now)
            answer = _answer_text(catalogue.items.answer_of(item) if item else None)
            yield Placement(now, change, placed["rule"], placed["kind"], None, answer)


def _targets(step: Step) -> Iterator[str]:
    """Yield the files that a step has placed."""
    if step.do is not Do.UNPACK:
        yield step.target
        return
    for part in step.data["parts"]:
        yield from (join(step.target, read_back(rest)) for rest in part["layout"].values())


def recall(catalogue: Catalogue, area: Area) -> None:
    """Let a new catalogue know again what the journals say was placed."""
    by_change: dict[int, list[Step]] = {}
    for number, step in all_placed(area):
        by_change.setdefault(number, []).append(step)
    for number, steps in by_change.items():
        moves = {step.source: step.target for step in steps if step.do is Do.MOVE}
        remember(catalogue, number, steps, moves)
