"""What a person chooses to work on by hand, found in the catalogue and on the disk, and the plans for it."""

from __future__ import annotations

from collections.abc import Collection as Collection_
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import replace

from lazy_magpie.catalogue import Below, Catalogue, Condition, OneOf
from lazy_magpie.change import Filesystem
from lazy_magpie.collection import STATE_DIR_NAME, Collection
from lazy_magpie.config import FILE_NAME, Config
from lazy_magpie.config.sections.new import USUAL
from lazy_magpie.errors import UsageError
from lazy_magpie.formatting import now_text
from lazy_magpie.model import Item, Kind, Plan, Unmoved, in_path_order
from lazy_magpie.model.steps import FreePlace, Move, renumbered
from lazy_magpie.paths import above, is_below, parent, same_name, written
from lazy_magpie.planners.by_hand.chosen import Chosen, chosen_of
from lazy_magpie.planners.by_hand.hold import hold_by_hand
from lazy_magpie.planners.by_hand.identities import remembered
from lazy_magpie.planners.by_hand.move import move_back, move_into, move_to_attic, move_to_inbox
from lazy_magpie.planners.by_hand.new_folder import new_folder
from lazy_magpie.planners.by_hand.operations import Counter, Operation
from lazy_magpie.planners.by_hand.rename import rename
from lazy_magpie.planners.filing.destinations import Unplaced, kit_folder
from lazy_magpie.services.listing import listing_of
from lazy_magpie.services.placements import placed_in
from lazy_magpie.suggest import nearest

_WHOLE_BATCH = 500
_BESIDE_THINGS = (Kind.EXTRA, Kind.COMPANION, Kind.JUNK, Kind.PICTURE, Kind.DOCUMENT, Kind.UNKNOWN)
"""Kinds that go along in the folder of a thing."""


class Selection:
    """What a person has chosen: by paths, in the order in which these are named, or by a condition."""

    def __init__(
        self,
        collection: Collection,
        catalogue: Catalogue,
        paths: Sequence[str] | None,
        condition: Condition,
        order: str = "",
        *,
        down: bool = False,
    ) -> None:
        self.collection, self.catalogue = collection, catalogue
        self.paths, self.condition, self.order, self.down = paths, condition, order, down
        self.disk = Filesystem(str(collection.root))
        self.unmoved: list[Unmoved] = []

    def items(self) -> Iterator[Item]:
        """Yield the items that were chosen."""
        yield from self._ask(self.condition)

    def _ask(self, condition: Condition) -> Iterator[Item]:
        """Yield items in the order in which lists show them."""
        found = self.catalogue.items.ask(condition, self.order, down=self.down)
        return found if self.order else in_path_order(found, down=self.down)

    def files(self) -> list[Chosen]:
        """Return the files that were chosen, each with what goes along with it."""
        if self.paths is None:
            found = [one for item in self._ask(self.condition) for one in chosen_of(item)]
        else:
            found = list(self._at_paths(self.paths))
        return self._movable(found)

    def folders(self) -> list[Chosen]:
        """Return the folders that were chosen: those that were named, or those in which items lie."""
        if self.paths is not None:
            self.unmoved += [Unmoved(path, "no folder") for path in self.paths if not self._is_folder(path)]
            return self._movable(self._folder(path) for path in self.paths if self._is_folder(path))
        homes = {home: item for item in reversed(list(self._ask(self.condition))) if (home := own_folder(item))}
        return self._movable(self._folder(home, homes[home]) for home in reversed(homes))

    def packable(self) -> list[Chosen]:
        """Return what is packed into one archive each: folders that were named, and the files of items."""
        if self.paths is None:
            return self.files()
        found: list[Chosen] = []
        for path in self.paths:
            found += [self._folder(path)] if self._is_folder(path) else self._at_paths([path])
        return self._movable(found)

    def things(self) -> list[Chosen]:
        """Return what was chosen as whole things: files with what is their own, and folders of which all was chosen.

        A folder goes as a whole where it was named, and where all that is in it is of one thing: a kit, a film with its
        extras, a record, a show.
        """
        if self.paths is not None:
            return self.packable()
        found: list[Chosen] = []
        items = list(self._ask(self.condition))
        wholes = _WholeThings(self.catalogue, self.collection.config, {item.id for item in items})
        for item in items:
            home = "" if item.root else wholes.home_of(item)
            found += [self._folder(home, item)] if home else chosen_of(item)
        return self._movable(found)

    def _is_folder(self, path: str) -> bool:
        status = self.disk.status(path)
        return status is not None and status.is_folder and not status.is_link

    def _folder(self, path: str, item: Item | None = None) -> Chosen:
        status = self.disk.status(path)
        return Chosen(path, status.stamp if status else None, is_folder=True, item=item)

    def _at_paths(self, paths: Sequence[str]) -> Iterator[Chosen]:
        """Yield what lies at paths: in a folder all items, of a file itself, as main file with what is its own."""
        ids = {path: self.catalogue.items.having(path) for path in paths}
        known = {item.id: item for item in self._each({id for id in ids.values() if id})}
        for path in paths:
            if self._is_folder(path):
                yield from (one for item in self._ask(Below(path, 0)) for one in chosen_of(item))
                continue
            item = known.get(ids[path] or 0)
            main = next((one for one in chosen_of(item) if one.path == path), None) if item else None
            status = self.disk.status(path)
            yield main or Chosen(path, status.stamp if status else None)

    def _each(self, ids: Iterable[int]) -> Iterator[Item]:
        ordered = sorted(ids)
        for at in range(0, len(ordered), _WHOLE_BATCH):
            yield from self.catalogue.items.ask(OneOf(tuple(ordered[at : at + _WHOLE_BATCH])))

    def _movable(self, chosen: Iterable[Chosen]) -> list[Chosen]:
        """Return what may be worked on, each once; say of the others why not. Raises UsageError for our own things."""
        config = self.collection.config
        found: dict[str, Chosen] = {}
        for one in chosen:
            _check_own(one.path, config)
            if one.item is not None and one.item.root:
                self.unmoved.append(Unmoved(one.path, "on another root"))
            elif config.is_left(one.path):
                self.unmoved.append(Unmoved(one.path, "in a folder left alone"))
            else:
                found.setdefault(one.path, one)
        return list(found.values())


class _WholeThings:
    """The topmost folders that have nothing in them but one thing of which all was chosen."""

    def __init__(self, catalogue: Catalogue, config: Config, chosen: Collection_[int]) -> None:
        self._catalogue, self._config, self._chosen = catalogue, config, chosen
        self._known: dict[str, str | None] = {}

    def home_of(self, item: Item) -> str:
        """Return the folder of an item that goes as a whole, "" where it has none."""
        home = ""
        for folder in above(item.path):
            if folder not in self._known:
                self._known[folder] = self._thing_in(folder)
            if self._known[folder] != _thing_of(item):
                break
            home = folder
        return home

    def _thing_in(self, folder: str) -> str | None:
        """Return the one thing that is in a folder, all of it chosen; None where there is more, or less."""
        if any(is_below(same_name(shelf.folder), same_name(folder)) for shelf in self._config.shelves):
            return None
        found: set[str] = set()
        for item in self._catalogue.items.ask(Below(folder, 0)):
            if item.kind in _BESIDE_THINGS:
                continue
            found.add(_thing_of(item))
            if item.id not in self._chosen or len(found) > 1:
                return None
        return found.pop() if found else None


def _thing_of(item: Item) -> str:
    """Return what stands for the thing that an item is part of: a show, a record, a maker's pack; else itself."""
    fields = {Kind.EPISODE: ("show", "show_year"), Kind.TRACK: ("album",), Kind.DESIGN: ("maker", "title")}
    said = [item.fields.get(name) for name in fields.get(item.kind, ())]
    return f"{item.kind} {said}" if said and said[0] else str(item.id)


def own_folder(item: Item) -> str:
    """Return the folder that an item lies in, a kit's own; "" where that is the root."""
    if item.kind is Kind.KIT:
        try:
            return kit_folder(item)
        except Unplaced:
            pass
    return parent(item.path)


def _check_own(path: str, config: Config) -> None:
    """Raise UsageError for what is magpie's own, the whole collection, or a shelf's folder."""
    if not path:
        raise UsageError("The collection itself has its name and place from you; name what is in it.")
    if path == FILE_NAME or is_below(path, STATE_DIR_NAME):
        raise UsageError(f"“{written(path)}” is magpie's own; it stays where it is.")
    for shelf in config.shelves:
        if same_name(shelf.folder) == same_name(path) or is_below(same_name(shelf.folder), same_name(path)):
            raise UsageError(
                f"“{written(path)}” has the shelf “{shelf.name}” in it; change the folder in {FILE_NAME} first."
            )


def plan_rename(selection: Selection, operations: Sequence[Operation], counter: Counter, *, folders: bool) -> Plan:
    """Plan new names for what was chosen."""
    chosen = selection.folders() if folders else selection.files()
    root = str(selection.collection.root)
    plan = rename(chosen, operations, counter, selection.collection.config, listing_of(root))
    return _completed(plan, selection, chosen)


def plan_freeing(selection: Selection) -> Plan:
    """Plan setting free what was named or placed by hand, so that it is filed again."""
    placed = placed_in(selection.catalogue, selection.collection)
    paths: dict[str, int] = {}
    for item in selection.items():
        for file in item.files:
            if not item.root and placed.is_kept(file.path) and (one := placed.at(file.path)):
                paths.setdefault(one.path, item.id if one.path == file.path else 0)
    steps = [
        FreePlace(number=number, source=path, why="filed again", group=parent(path) or ".", item=item)
        for number, (path, item) in enumerate(paths.items(), start=1)
    ]
    return Plan("rename", tuple(steps))


def plan_move(selection: Selection, to: str, folder: str = "") -> Plan:
    """Plan moving what was chosen: `to` is "folder" (with `folder`), "attic", "back" or "inbox"."""
    config, listing = selection.collection.config, listing_of(str(selection.collection.root))
    things = selection.things()
    match to:
        case "attic":
            plan = move_to_attic(things, config, selection.disk, listing)
        case "back":
            plan = move_back(things, config, selection.disk, listing)
        case "inbox":
            plan = move_to_inbox(things, config, selection.disk, listing)
        case _:
            plan = move_into(things, folder, config, selection.disk, listing)
    return _completed(plan, selection, things)


def plan_hold(selection: Selection, why: str) -> Plan:
    """Plan holding what was chosen."""
    listing = listing_of(str(selection.collection.root))
    plan = hold_by_hand(selection.things(), selection.collection.config, selection.disk, listing, why)
    return _completed(plan, selection, ())


def plan_new(collection: Collection, name: str, title: str, values: Mapping[str, str]) -> tuple[str, Plan]:
    """Return the path of a new folder and the plan that makes it; `name` is its kind, "" the only one, or the usual.

    Raises UsageError where there is no such kind, or several.
    """
    known = collection.config.new
    if not name and len(known) > 1:
        raise UsageError(f"Say which: --as {' or '.join(known)}.")
    if name and name not in known:
        hint = nearest(name, known, f"; there are {', '.join(known)}." if known else "; write it into magpie.toml.")
        raise UsageError(f"There is no [new.{name}]{hint}")
    new = known[name] if name else next(iter(known.values()), USUAL)
    whole = {**values, "title": title, "today": now_text()[:10]}
    return new_folder(new, whole, listing_of(str(collection.root)), everywhere=collection.config.everywhere)


def _completed(plan: Plan, selection: Selection, chosen: Sequence[Chosen]) -> Plan:
    """Return a plan with what was left out of it, and with the answers by which things stay what they are."""
    came: dict[str, str] = {}  # what is at a path then: where it was
    for step in plan.steps:
        if isinstance(step, Move):  # names that change places take two steps
            came[step.target] = came.pop(step.source, step.source)
    now = {source: target for target, source in came.items()}
    items: dict[int, Item] = {}
    places: dict[str, str] = {}
    for one in chosen:
        if one.path not in now:
            continue
        inside = selection.catalogue.items.ask(Below(one.path, 0)) if one.is_folder else [one.item] if one.item else []
        for item in inside:
            items[item.id] = item
            places[item.path] = now[one.path] + item.path[len(one.path) :]
    answers = remembered(items.values(), places)
    unmoved = (*plan.unmoved, *selection.unmoved)
    return replace(plan, steps=renumbered([*plan.steps, *answers]), unmoved=unmoved)
