"""Plans names and places by the shelves' namings: each clear item goes to its shelf, and what is its own along."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Collection, Iterable, Mapping
from dataclasses import dataclass, field, replace
from sys import intern

from lazy_magpie.catalogue import All, Catalogue, Condition
from lazy_magpie.config import Config
from lazy_magpie.copies import unpacked_beside
from lazy_magpie.identify import disc_folder
from lazy_magpie.identify.file_types import BY_ENDING
from lazy_magpie.identify.folders import FolderRole, is_heap, understand
from lazy_magpie.model import Conflict, File, Item, Kind, Plan, State, Step, Unmoved, Value
from lazy_magpie.model.steps import FilingRule, Move
from lazy_magpie.paths import is_below, join, name_of, parent, same_name, split_ending, written
from lazy_magpie.planners.directory_index import Listing, Names
from lazy_magpie.planners.filing.companions import Owners, behind_stem, companion_targets
from lazy_magpie.planners.filing.destinations import Destination, Unplaced, destinations_for, in_place, other_container
from lazy_magpie.planners.filing.differences import Measure, differences
from lazy_magpie.planners.filing.known_places import KnownPlaces
from lazy_magpie.planners.filing.placement_rules import BY_HAND, Placed, is_by_hand
from lazy_magpie.planners.filing.whole_folders import WholeFolders
from lazy_magpie.planners.questions import in_doubt
from lazy_magpie.planners.step_order import ordered_steps

_UNPACKED = (Kind.DESIGN, Kind.FONT)
"""Kinds whose archives are kept beside what came out of them."""
_BESIDE = (Kind.EXTRA, Kind.COMPANION)
_WORDS = {Kind.MOVIE: "film", Kind.EPISODE: "episode"}
_LEFT = {Kind.JUNK: "junk", Kind.UNFINISHED: "an unfinished download"}
_MEASURED_CONFLICTS = 40
_LISTED = (Kind.GAME, Kind.FIRMWARE, Kind.ARCHIVE)
"""Kinds that reference lists file, in the folders of the lists."""
_PLAYED = (Kind.MOVIE, Kind.EPISODE, Kind.TRACK)
_NOTHING: Mapping[str, Value] = {}
_NO_SHELF = "of a kind without a shelf"
_PLACED = "stay where intake put them"
_KEPT = "are kept as you named or placed them (magpie rename --free lets tidy file them)"


@dataclass
class _TidyDraft:
    """A plan in the making."""

    places: KnownPlaces
    versions: Mapping[str, str]
    destinations: list[Destination] = field(default_factory=list)
    packed: list[Item] = field(default_factory=list)
    moves: list[Step] = field(default_factory=list)
    taken: set[str] = field(default_factory=set)
    conflicts: list[Conflict] = field(default_factory=list)
    unmoved: list[Unmoved] = field(default_factory=list)
    passed: Counter[str] = field(default_factory=Counter)
    owners: Owners = field(default_factory=Owners)
    rules: dict[str, FilingRule | None] = field(default_factory=dict)

    def wish(self, found: Iterable[Destination]) -> None:
        """Keep where files would go, without what only said where: a plan of very many needs the memory."""
        for destination in found:
            item = destination.item
            stays_alone = item.path == destination.target and len(item.files) == 1
            files = () if stays_alone else item.files
            slim = replace(item, fields=_NOTHING, facts=_NOTHING, doubts=(), custom=_NOTHING, files=files)
            target = item.path if item.path == destination.target else destination.target  # one text for both
            self.destinations.append(replace(destination, item=slim, target=target, home=intern(destination.home)))

    def leave(self, item: Item, why: str) -> None:
        """Leave a main file where it is; what lies beside it then has no owner that goes anywhere."""
        self.unmoved.append(Unmoved(item.path, why, asks=True))
        self.owners.add(item.path, "", "", item.kind)


@dataclass(frozen=True)
class TidySources:
    """What the planner looks at: names in folders, what differs between files that want one name, what was placed.

    `places` are the items that are known to be in their places; the plan adds those that it finds. `versions` tell
    films apart that would have one name, by their paths: they are kept as they are named by them. `listed` are the
    folders that reference lists say what lies in.
    """

    listing: Listing
    measure: Measure
    places: KnownPlaces
    placed: Placed | None = None
    versions: Mapping[str, str] = field(default_factory=dict)
    listed: Collection[str] = ()


def tidy(
    catalogue: Catalogue,
    config: Config,
    sources: TidySources,
    condition: Condition | None = None,
    progress: Callable[[int], None] = lambda count: None,
) -> Plan:
    """Plan the tidying of all items that meet `condition`; what was placed by today's rules stays.

    `sources` are the only looks at the disk. Items in doubt, without a needed field, or whose new name would be read
    otherwise than it is meant are left, each with the reason; kinds without a shelf and folders left alone are counted
    in `passed`.
    """
    draft = _TidyDraft(sources.places, sources.versions)
    names, placed = Names(sources.listing), sources.placed
    beside: list[Item] = []
    things = WholeFolders(placed, config, names) if placed else None
    for done, item in enumerate(catalogue.items.ask(condition or All()), start=1):
        if item.kind in _LISTED and any(is_below(item.path, folder) for folder in sources.listed):
            draft.passed["filed by reference lists"] += 1
            draft.taken.update(same_name(file.path) for file in item.files)
        elif things is None or not _stays_or_moves(item, things, draft):
            _classify(item, config, names, draft, beside)
        progress(done)
    unpacked = unpacked_beside(catalogue, {item.path for item in draft.packed})
    for item in draft.packed:
        if item.path in unpacked:
            draft.passed["archives of what lies unpacked beside them"] += 1
        else:
            _add_destination(item, config, names, draft)
    _settle_conflicts(draft, names, sources.measure)
    _move_mains(draft, names, placed)
    _take_along(draft, beside, names)
    shelves = [shelf.folder for shelf in config.shelves]
    return Plan(
        command="tidy",
        steps=ordered_steps(draft.moves, sources.listing, shelves),
        conflicts=tuple(draft.conflicts),
        unmoved=tuple(sorted(draft.unmoved, key=lambda left: left.path)),
        passed=dict(draft.passed),
        read_back=True,
    )


def _stays_or_moves(item: Item, things: WholeFolders, draft: _TidyDraft) -> bool:
    """Leave what was placed where it is, or move the thing that it is part of as a whole; False where neither fits."""
    one = things.placed.at(item.path)
    if one is None or item.root or is_below(item.path, things.placed.config.attic):
        return False
    if things.placed.holds(one, item):
        home = one.path if one.values is not None else ""
        draft.owners.add(item.path, parent(item.path) if home else "", home, item.kind)
        draft.taken.update(same_name(file.path) for file in item.files)
        draft.passed[_KEPT if is_by_hand(one) else _PLACED] += 1
        return True
    destinations, rule = things.destinations(one, item)
    draft.wish(destinations)
    draft.rules |= dict.fromkeys((destination.target for destination in destinations), rule)
    return bool(destinations)


def _classify(item: Item, config: Config, names: Names, draft: _TidyDraft, beside: list[Item]) -> None:
    """Find out where a film or episode would go; keep what lies beside them for later; leave or count the rest."""
    shelved = {shelf.kind for shelf in config.shelves if not shelf.root}
    if passed := _exclusion_reason(item, config):
        draft.passed[passed] += 1
    elif item.kind in _LEFT:
        draft.unmoved.append(Unmoved(item.path, _LEFT[item.kind]))
    elif item.kind in _BESIDE and shelved:
        beside.append(item)
    elif item.kind not in shelved and understand(name_of(parent(item.path))).role is FolderRole.COMPANIONS:
        draft.unmoved.append(Unmoved(item.path, "lies among a film's companions, and is none that is known", asks=True))
    elif item.kind not in shelved:
        draft.passed[_NO_SHELF] += 1
    elif not config.files_unplayable and (why := _unplayable(item)):
        draft.leave(item, why)
    elif item.state not in (State.CLEAR, State.SETTLED):
        draft.leave(item, _doubt(item))
    elif item.kind in _UNPACKED and BY_ENDING.get(split_ending(item.path)[1].lower()) is Kind.ARCHIVE:
        draft.packed.append(item)
    else:
        _add_destination(item, config, names, draft)


def _unplayable(item: Item) -> str:
    """Say why nothing of a film or song can be played, "" where nothing speaks against it."""
    if item.kind not in _PLAYED:
        return ""
    if not all(file.size for file in item.files if file.role == "main"):
        return "can't be played: it is empty"
    why = item.facts.get("unreadable")
    return f"can't be played: {why}" if why else ""


def _exclusion_reason(item: Item, config: Config) -> str:
    """Say why an item lies outside the plan's business, "" where it does not."""
    if item.root:
        return "on another root"
    if is_below(item.path, config.attic):
        return "in the attic"
    return "in folders left alone" if config.leave and config.is_left(item.path) else ""


def _add_destination(item: Item, config: Config, names: Names, draft: _TidyDraft) -> None:
    """Wish an item to where its shelf's naming puts it, or leave it with the reason."""
    shelf = config.shelf_of(item.path)
    if shelf is None or shelf.kind is not item.kind:
        shelf = config.shelf_for(item.kind)
    assert shelf is not None
    version = draft.versions.get(item.path)
    if version:
        item = replace(item, fields={**item.fields, "version": version})
    elif (home := draft.places.home_of(item)) is not None:
        draft.wish([in_place(item, shelf, home)])
        return
    try:
        found = destinations_for(item, shelf, config, names)
    except Unplaced as unplaced:
        draft.leave(item, str(unplaced))
        return
    draft.wish(found)
    if version:
        draft.rules |= {destination.target: BY_HAND for destination in found}
    elif len(found) == 1 and found[0] == in_place(item, shelf, found[0].home):
        draft.places.add(item, found[0].home)


def _doubt(item: Item) -> str:
    """Say why an item is in doubt, with the question that would settle it."""
    if not item.doubts:
        return f"{item.state}: nothing is known of it"
    return in_doubt(item.doubts[0])


def _settle_conflicts(draft: _TidyDraft, names: Names, measure: Measure) -> None:
    """Take out the wishes that want one name, or the name of a file that stays."""
    live: dict[str, Destination] = {}
    rivals: dict[str, list[Destination]] = {}
    for destination in draft.destinations:
        key = _claim(destination)
        if key in rivals:
            rivals[key].append(destination)
        elif key in live:
            rivals[key] = [live.pop(key), destination]
        else:
            live[key] = destination
    fights = {key: (wanting[0], [one.item.path for one in wanting]) for key, wanting in rivals.items()}
    _keep_together(live, {destination.original for wanting in rivals.values() for destination in wanting})
    while True:
        leaving = {same_name(w.item.path) for w in live.values() if w.item.path != w.target}
        blocked = {}
        for key, destination in live.items():
            occupant = names.existing(destination.target) or _other_container(destination, names)
            if (
                occupant
                and same_name(occupant) != same_name(destination.item.path)
                and same_name(occupant) not in leaving
            ):
                blocked[key] = (destination, [destination.item.path, occupant])
        if not blocked:
            break
        fights |= blocked
        originals = {live.pop(key).original for key in blocked}
        _keep_together(live, originals)
    for number, (_, (first, paths)) in enumerate(sorted(fights.items(), key=lambda fight: fight[0])):
        paths = list(dict.fromkeys(paths))
        why = differences(paths, measure if number < _MEASURED_CONFLICTS else _unmeasured)
        if len(containers := sorted({split_ending(path)[1].lower()[1:] for path in paths})) > 1:
            why = f"{why}; containers {' / '.join(containers)}"
        draft.conflicts.append(Conflict(first.target, tuple(paths), why))
        for path in paths:
            draft.owners.add(path, "", "", first.item.kind)
    draft.destinations = list(live.values())


def _claim(destination: Destination) -> str:
    """Return what only one thing can have: its new name, of a film or an episode whatever its container."""
    is_film = destination.item.kind in (Kind.MOVIE, Kind.EPISODE) and not disc_folder(destination.target)
    return same_name(split_ending(destination.target)[0] if is_film else destination.target)


def _other_container(destination: Destination, names: Names) -> str:
    """Return a film that is there under a wish's new name with another ending, "" where none is."""
    if destination.item.kind not in (Kind.MOVIE, Kind.EPISODE):
        return ""
    return other_container(destination.target, destination.item.path, names)


def _keep_together(live: dict[str, Destination], originals: set[int]) -> None:
    """Take out the other files of things that have a file which can't go."""
    if stuck := originals - {0}:
        for key in [key for key, destination in live.items() if destination.original in stuck]:
            del live[key]


def _unmeasured(path: str) -> dict[str, Value]:
    return {}


def _move_mains(draft: _TidyDraft, names: Names, placed: Placed | None) -> None:
    """Turn the wishes into moves, each film or episode with its companions, but for those kept by hand."""
    draft.taken.update(same_name(one.target) for one in draft.destinations if one.item.path != one.target)
    for destination in draft.destinations:
        item, target = destination.item, destination.target
        draft.owners.add(item.path, parent(target) if destination.home else "", destination.home, item.kind)
        if item.path != target:
            moved = parent(item.path) != parent(target)
            naming = destination.shelf.naming.name
            why = f"shelf “{destination.shelf.name}”, scheme “{naming}”" if moved else f"scheme “{naming}”"
            draft.moves.append(_move(item.files[0], target, why, destination.group, item.id, draft.rules.get(target)))
        if not destination.shelf.naming.companions:
            draft.unmoved += [Unmoved(file.path, "this naming takes no companions") for file in item.files[1:]]
            continue
        stem = target if disc_folder(target) else split_ending(target)[0]
        beside = [file for file in item.files[1:] if not (placed and placed.is_kept(file.path))]
        for file, goal in companion_targets(item.path, stem, beside, own_folder=bool(destination.home)):
            why = f"goes with its {_WORDS.get(item.kind, item.kind.value)}"
            _move_beside(draft, names, _move(file, goal, why, destination.group, item.id))


def _move(file: File, target: str, why: str, group: str, item: int, filing: FilingRule | None = None) -> Move:
    return Move(source=file.path, target=target, why=why, group=group, item=item, stamp=file.stamp, filing=filing)


def _move_beside(draft: _TidyDraft, names: Names, move: Move) -> None:
    """Move what lies beside a film or episode, unless its new name is taken."""
    key = same_name(move.target)
    occupant = names.existing(move.target)
    if move.source == move.target:
        draft.taken.add(key)
    elif key in draft.taken or (occupant and same_name(occupant) != same_name(move.source)):
        draft.unmoved.append(Unmoved(move.source, f"there is another file for the name “{written(move.target)}”"))
    else:
        draft.taken.add(key)
        draft.moves.append(move)


def _take_along(draft: _TidyDraft, beside: list[Item], names: Names) -> None:
    """Move extras, and companions that belong to a whole folder, along with the film or show they lie with."""
    folders = {parent(item.path) for item in beside}
    stems = {
        (parent(destination.item.path), split_ending(name_of(destination.item.path))[0].lower()): destination
        for destination in draft.destinations
        if parent(destination.item.path) in folders
    }
    for item in beside:
        if item.fields.get("extra") == "sample":
            draft.unmoved.append(Unmoved(item.path, "a sample"))
            continue
        is_loose = item.kind is Kind.COMPANION and is_heap(name_of(parent(item.path)))
        target, group = "" if is_loose else draft.owners.target(item.path), ""
        stem, _ = split_ending(name_of(item.path))
        if destination := stems.get((parent(item.path), stem.lower().rpartition("-")[0].rstrip())):
            rest = behind_stem(split_ending(name_of(destination.item.path))[0], name_of(item.path))
            target, group = split_ending(destination.target)[0] + rest, destination.group
        if not target and not draft.owners.knows(item.path):
            draft.passed[_NO_SHELF] += 1
            continue
        if not target:
            draft.unmoved.append(Unmoved(item.path, "what it belongs to is not filed, or not known"))
            continue
        for file in item.files:
            goal = target if file.path == item.path else join(parent(target), name_of(file.path))
            why = f"goes along with its {'film or show' if item.kind is Kind.EXTRA else 'folder'}"
            _move_beside(draft, names, _move(file, goal, why, group or target.split("/")[1], item.id))
