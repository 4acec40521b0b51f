"""Plans bringing downloads in: each thing into one clean folder in its place, or into the inbox with its question."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import suppress
from dataclasses import dataclass, field, replace
from functools import cached_property

from lazy_magpie.catalogue import All, Below, Catalogue, Is, Not
from lazy_magpie.config import Config, Shelf
from lazy_magpie.formatting import count_text
from lazy_magpie.identify.file_types import BY_ENDING
from lazy_magpie.identify.title_text import match_key
from lazy_magpie.intake import (
    Bundle,
    BundleIdentity,
    Downloads,
    Piece,
    Source,
    identify_bundle,
    layout_of,
    sort_of,
)
from lazy_magpie.intake.bundles import is_program, is_wrapper
from lazy_magpie.model import Item, Kind, Plan, State, Step, Unmoved, reason_of
from lazy_magpie.model.steps import FolderValues, Hold, Move, renumbered
from lazy_magpie.paths import is_below, join, name_of, parent, same_name, split_ending, written
from lazy_magpie.planners.directory_index import Names
from lazy_magpie.planners.directory_steps import drop_emptied, make_missing
from lazy_magpie.planners.filing.companions import Owners, companion_targets
from lazy_magpie.planners.filing.destinations import (
    Destination,
    Unplaced,
    destinations_for,
    kit_folder,
    other_container,
)
from lazy_magpie.planners.filing.folder_naming import FolderNaming
from lazy_magpie.planners.filing.placement_rules import by_rule
from lazy_magpie.planners.intake import intake_answers
from lazy_magpie.planners.intake.intake_conflicts import ConflictResolver, IntakeReport
from lazy_magpie.planners.intake.intake_items import folder_of, items_of, pieces_below_top
from lazy_magpie.planners.intake.intake_sources import IntakeSources
from lazy_magpie.planners.intake.intake_steps import (
    HOLD,
    HOLD_ALL,
    PlannedTransfers,
    archive_steps,
    steps_for,
)
from lazy_magpie.planners.intake.known_archives import KnownArchives, has_come_again
from lazy_magpie.planners.questions import in_doubt

_WORDS = {Kind.KIT: "kits", Kind.DESIGN: "designs", Kind.FONT: "fonts", Kind.MOVIE: "films", Kind.EPISODE: "episodes"}
Key = tuple[Kind, str, str]


@dataclass
class _Thing:
    """What a maker sells: bundles that are one thing, each with the section that its name says."""

    kind: Kind
    maker: str
    title: str
    bundles: list[tuple[Bundle, str]] = field(default_factory=list)


class IntakePlanner:
    """Plans what becomes of the heaps in some folders."""

    def __init__(self, catalogue: Catalogue, config: Config, sources: IntakeSources, take: str = "") -> None:
        self.catalogue = catalogue
        self.config = config
        self.sources = sources
        self.settings = replace(config.intake, take=take) if take else config.intake
        self.disk = sources.disk
        self.names = Names(sources.listing)
        self.homes = FolderNaming(self.config, self.names)
        self.makers = sources.makers
        self.report = IntakeReport()
        self._stems: dict[str, str] = {}
        self.transfers = PlannedTransfers()
        self.waiting = PlannedTransfers()

    def plan(self) -> Plan:
        """Return the plan for the downloads."""
        self.owner: dict[Source, str] = {}
        downloads = self.sources.downloads
        self.existing = self.sources.existing
        self.known = KnownArchives(self.catalogue, self.sources.in_effect)
        self.transfers.listings = self.waiting.listings = self.known.listings
        self.conflicts = ConflictResolver(self.disk, self.names, self.existing, self.transfers, self.report)
        for heap in downloads:
            self.report.unmoved += (Unmoved(path, why) for path, why in heap.unmoved)
            self._heap(heap)
        known: set[str] = set()
        steps = [
            *self.known.doubled,
            *steps_for(self.transfers, self.disk, self.settings.take, known),
            *self._archives(known),
        ]
        steps += steps_for(self.waiting, self.disk, self.settings.take, known)
        steps += self._emptied(steps, self.existing.tops)
        report = self.report
        report.passed["files in the heap"] = sum(heap.files for heap in downloads)
        return Plan("intake", renumbered(steps), tuple(report.conflicts), tuple(report.unmoved), dict(report.passed))

    # --- things that makers sell -------------------------------------------------------------------------------------

    def _heap(self, heap: Downloads) -> None:
        things: dict[Key, _Thing] = {}
        free: list[tuple[str, Piece]] = [(piece.path, piece) for piece in heap.loose]
        sold: list[tuple[Bundle, Kind]] = []
        for bundle in sorted(heap.bundles, key=has_come_again):
            if bundle.archive and (why := self.known.why(bundle, bundle.archive, self.settings.take)):
                self.report.unmoved.append(Unmoved(bundle.archive.path, why))
                self.report.passed["taken in before"] += 1
            elif is_program(bundle):
                path = bundle.archive.path if bundle.archive else folder_of(bundle)
                self.report.unmoved.append(Unmoved(path, "a program, or the source of one: it stays whole"))
                self.report.stuck.update(bundle.sources)
            elif bundle.archive and is_wrapper(bundle):
                self._unwrap(bundle)
            elif kind := intake_answers.kind_of(intake_answers.of_bundle(self.catalogue, bundle), sort_of(bundle)):
                sold.append((bundle, kind))
            else:
                free += ((join(bundle.name, path), piece) for path, piece in pieces_below_top(bundle))
        for (bundle, kind), name in zip(sold, self.sources.identify(sold), strict=True):
            if answer := intake_answers.of_bundle(self.catalogue, bundle):
                name = intake_answers.name_of_answer(answer.fields, name)
            if name.doubt or not name.title:
                self._to_inbox(bundle, name)
                continue
            key = (kind, match_key(name.maker), match_key(name.title))
            thing = things.setdefault(key, _Thing(kind, name.maker, name.title))
            thing.bundles.append((bundle, name.section))
        for extra in [(path, piece) for path, piece in free if "/" not in path]:
            if (kit := self._extra_of(extra[1], things)) is not None:
                things[kit].bundles.append((Bundle(extra[0], (extra[1],)), "add-on"))
                free.remove(extra)
        for thing in things.values():
            self._thing(thing)
        self._each_for_itself(free)

    def _extra_of(self, piece: Piece, things: dict[Key, _Thing]) -> Key | None:
        """Return the kit that a loose picture is a free extra of: one of the heap, or one that is owned; else None."""
        stem, ending = split_ending(piece.path)
        if BY_ENDING.get(ending.lower()) is not Kind.PICTURE:
            return None
        name = identify_bundle(Bundle(stem, (piece,)), self.makers)
        key = (Kind.KIT, match_key(name.maker), match_key(name.title))
        if name.doubt or not (key in things or key[1:] in self.owned):
            return None
        things.setdefault(key, _Thing(Kind.KIT, name.maker, name.title))
        return key

    def _unwrap(self, bundle: Bundle) -> None:
        """Bring what an archive of archives holds into the inbox, from where it can be taken in."""
        assert bundle.archive is not None
        home = join(self.config.inbox, bundle.name)
        if self.disk.status(home) is not None:
            why = f"it holds archives, and “{written(home)}” is there"
            self.report.unmoved.append(Unmoved(bundle.archive.path, why, asks=True))
            self.report.stuck.add(bundle.archive)
            return
        for piece in bundle.pieces:
            self.conflicts.place(home, piece.path, piece, home)
        why = f"it holds archives: next, magpie intake {written(self.config.inbox)}"
        self.report.unmoved.append(Unmoved(bundle.archive.path, why, asks=True))

    def _to_inbox(self, bundle: Bundle, name: BundleIdentity) -> None:
        """Plan a bundle for the inbox, as it is, with the question that would settle it."""
        reason = reason_of(name.doubt) or "no title"
        for source in bundle.sources:
            rest = name_of(source.path) if bundle.archive else self._rest(bundle, source)
            self._wait(source, rest, in_doubt(name.doubt or reason))

    def _rest(self, bundle: Bundle, source: Source) -> str:
        piece = next(piece for piece in bundle.pieces if piece.source == source)
        return join(bundle.name, piece.path)

    def _wait(self, source: Source, rest: str, why: str) -> None:
        """Plan a file, with all its volumes, for the inbox, unless something of that name waits there."""
        self.report.unmoved.append(Unmoved(source.path, f"waits in {self.config.inbox}: {why}", asks=True))
        self.report.stuck.add(source)
        folder = parent(join(self.config.inbox, rest))
        targets = {join(folder, name_of(one.path)): one for one in (source, *source.more)}
        taken = any(map(self.conflicts.is_taken, targets))
        if taken or is_below(source.path, self.config.inbox):
            return
        for target, one in targets.items():
            self.conflicts.taken[same_name(target)] = ()
            piece = Piece(name_of(target), one.stamp.size, None, one)
            self.waiting.bring(folder, {name_of(target): piece}, self.config.inbox)

    def _thing(self, thing: _Thing) -> None:
        """Bring one thing into its folder, new or owned already."""
        sources = dict.fromkeys(source for bundle, _ in thing.bundles for source in bundle.sources)
        shelf = self.config.shelf_for(thing.kind)
        home, number = self._owned(thing), None
        if not home:
            home, number = self._home(thing, shelf)
        if not home:
            why = f"no shelf for {_WORDS.get(thing.kind, thing.kind.value)}: a [shelf.NAME] of that kind would take it"
            why = "no folder can be named after it: give it another name" if shelf else why
            self.report.unmoved += (Unmoved(source.path, why, asks=shelf is not None) for source in sources)
            self.report.stuck.update(sources)
            return
        sections = shelf.naming.sections if shelf and thing.kind is Kind.KIT else None
        laid = layout_of(thing.bundles, sections, self.existing.crc)
        if where := self.existing.all_there(list(laid.placed.values())):
            self.report.unmoved += (Unmoved(source.path, f"already there: “{written(where)}”") for source in sources)
            self.report.passed["already there"] += len(laid.placed)
            self.report.stuck.update(sources)
            return
        for source in sources:
            self.owner[source] = thing.maker
        assert shelf is not None or self._owned(thing)
        values = FolderValues(thing.maker, thing.title, self._arrived(thing), number, self.homes.custom)
        rule = by_rule(shelf, thing.kind, home, values) if shelf else None
        self.conflicts.place_all(home, laid, rule)
        for piece, rest in laid.twice:
            self.report.passed["there twice, taken once"] += 1
            self.transfers.stands(home, rest, piece)
        for rest, pieces in laid.fights.items():
            self.conflicts.fight(join(home, rest), pieces)
        for bundle, _ in thing.bundles:
            for member in bundle.passed:
                if bundle.archive:
                    self.report.unmoved.append(
                        Unmoved(join(bundle.archive.path, member), "left out: a system's own file")
                    )
                    if self.settings.archives == HOLD_ALL:  # a person says that it may go with these
                        self.transfers.layouts[bundle.archive].setdefault(home, {})[member] = ""
            if bundle.passed and bundle.archive and self.settings.archives == HOLD:
                self.report.stuck.add(bundle.archive)
                why = f"not held: {count_text(len(bundle.passed), 'file')} in it were left out"
                self.report.unmoved.append(Unmoved(bundle.archive.path, why, asks=True))

    def _owned(self, thing: _Thing) -> str:
        """Return the folder of a kit that is in the collection already, to which an extra of it is joined."""
        if thing.kind is not Kind.KIT:
            return ""
        return self.owned.get((match_key(thing.maker), match_key(thing.title)), "")

    @cached_property
    def owned(self) -> dict[tuple[str, str], str]:
        """The folders of the kits that are in the collection, apart from the heaps, by maker and title."""
        found: dict[tuple[str, str], str] = {}
        heaps = (Below(top) for top in self.existing.tops if not top.startswith(".."))
        for item in self.catalogue.items.ask(All((Is("kind", "kit"), *map(Not, heaps)))):
            if not item.root and not self.config.is_left(item.path):
                with suppress(Unplaced):
                    key = (match_key(str(item.fields.get("maker", ""))), match_key(str(item.fields.get("title", ""))))
                    found.setdefault(key, kit_folder(item))
        return found

    def _home(self, thing: _Thing, shelf: Shelf | None) -> tuple[str, int | None]:
        """Return the folder of a thing by its shelf's naming ("" where that gives none), and its running number."""
        if shelf is None:
            return "", None
        return self.homes.home(
            shelf, thing.kind, FolderValues(thing.maker, thing.title, self._arrived(thing), custom=self.homes.custom)
        )

    def _arrived(self, thing: _Thing) -> int:
        return min(source.stamp.mtime for bundle, _ in thing.bundles for source in bundle.sources)

    # --- what speaks for itself --------------------------------------------------------------------------------------

    def _each_for_itself(self, free: Sequence[tuple[str, Piece]]) -> None:
        """Bring in films, episodes, songs, games, and loose files, each by what it is."""
        if not free:
            return
        pieces = dict(free)
        self.owners, beside = Owners(), []
        for item in items_of(pieces, self.config, self.catalogue, self.sources.read_facts):
            shelf = self.config.shelf_for(item.kind)
            if item.kind in (Kind.COMPANION, Kind.EXTRA):
                beside.append(item)
            elif item.state not in (State.CLEAR, State.SETTLED):
                self._doubtful(item, pieces)
            elif shelf is None:
                self._unshelved(item, pieces)
            elif where := self.existing.all_there([pieces[file.path] for file in item.files if file.role == "main"]):
                self.report.passed["already there"] += len(item.files)
                for file in item.files:
                    self.report.unmoved.append(
                        Unmoved(pieces[file.path].source.path, f"already there: “{written(where)}”")
                    )
                    self.report.stuck.add(pieces[file.path].source)
            else:
                self._item(item, shelf, pieces)
        for item in beside:
            self._beside(item, pieces)

    def _beside(self, item: Item, pieces: dict[str, Piece]) -> None:
        """Bring in what belongs to a whole folder, a record's cover, a show's extras, along with what lies there."""
        target = self.owners.target(item.path)
        if not target or item.fields.get("extra") == "sample":
            self._unshelved(item, pieces)
            return
        goals = ((file, join(parent(target), name_of(file.path))) for file in item.files)
        self.conflicts.place_together([(pieces[file.path], goal, parent(goal)) for file, goal in goals], None)

    def _is_in_another_container(self, item: Item, found: Sequence[Destination], pieces: dict[str, Piece]) -> bool:
        """Show as a conflict a film that is there, or comes in, in another container; say whether it is one."""
        for destination in found:
            key = same_name(split_ending(destination.target)[0])
            other, there = self._stems.get(key), other_container(destination.target, "", self.names)
            if there or (other is not None and other != destination.target):
                rest = [pieces[file.path] for file in item.files if file.path != destination.item.path]
                if there:
                    self.conflicts.fight(destination.target, [pieces[destination.item.path]], there)
                else:
                    self.conflicts.contend_with(destination.target, pieces[destination.item.path], other or "")
                self.conflicts.stay(rest)
                self.owners.add(item.path, "", "", item.kind)
                return True
        self._stems |= {same_name(split_ending(destination.target)[0]): destination.target for destination in found}
        return False

    def _item(self, item: Item, shelf: Shelf, pieces: dict[str, Piece]) -> None:
        try:
            found = destinations_for(item, shelf, self.config, self.names)
        except Unplaced as unplaced:
            self._leave(item, pieces, str(unplaced))
            return
        if item.kind in (Kind.MOVIE, Kind.EPISODE) and self._is_in_another_container(item, found, pieces):
            return
        places: list[tuple[str, str, str]] = []
        for destination in found:
            target, group = destination.target, destination.home or destination.group
            places.append((destination.item.path, target, group))
            self.owners.add(
                destination.item.path, parent(target) if destination.home else "", destination.home, item.kind
            )
            stem = split_ending(target)[0]
            beside = companion_targets(
                destination.item.path, stem, destination.item.files[1:], own_folder=bool(destination.home)
            )
            places += ((file.path, goal, group) for file, goal in beside)
        rule = by_rule(shelf, item.kind)
        self.conflicts.place_together([(pieces[path], target, group) for path, target, group in places], rule)

    def _doubtful(self, item: Item, pieces: dict[str, Piece]) -> None:
        """Plan what is in doubt for the inbox; what belongs to nothing stays where it is."""
        if item.state is State.UNKNOWN or self.config.shelf_for(item.kind) is None:
            self._unshelved(item, pieces)
            return
        self.owners.add(item.path, "", "", item.kind)
        why = in_doubt(item.doubts[0] if item.doubts else "")
        for file in item.files:
            piece = pieces[file.path]
            rest = name_of(piece.source.path) if piece.member else file.path
            self._wait(piece.source, rest, why)

    def _unshelved(self, item: Item, pieces: dict[str, Piece]) -> None:
        self._leave(item, pieces, f"{item.kind.value}: no shelf is for it")

    def _leave(self, item: Item, pieces: dict[str, Piece], why: str) -> None:
        self.owners.add(item.path, "", "", item.kind)
        for file in item.files:
            self.report.stuck.add(pieces[file.path].source)
            self.report.unmoved.append(Unmoved(pieces[file.path].source.path, why, asks=True))

    # --- what becomes of the heap ------------------------------------------------------------------------------------

    def _archives(self, known: set[str]) -> Iterator[Step]:
        """Yield the steps for the archives whose members have all found their places."""
        for archive, layouts in self.transfers.layouts.items():
            if archive in self.report.stuck or not any(rest for layout in layouts.values() for rest in layout.values()):
                continue
            maker = self.owner.get(archive)
            home = next(iter(layouts))
            group, bundle = self.transfers.groups.get(home, home), self.transfers.number_of(home)
            steps = list(archive_steps(archive, layouts, self.settings, maker, group, bundle))
            targets = [step.target for step in steps if step.target]
            if other := next(filter(self.conflicts.is_taken, targets), ""):
                self.report.unmoved.append(Unmoved(archive.path, f"there is another “{written(other)}”"))
                continue
            self.conflicts.taken |= dict.fromkeys(map(same_name, targets), ())
            folders = make_missing(self.disk, targets, group, known)
            known.update(folder.target for folder in folders)
            yield from folders
            yield from steps

    def _emptied(self, steps: Sequence[Step], tops: Sequence[str]) -> list[Step]:
        gone = [step.source for step in steps if isinstance(step, Move | Hold)]
        coming = [step.target for step in steps if step.target]
        inside = [top for top in tops if not top.startswith("..")]
        dropped: list[Step] = []
        for top in inside:
            dropped += drop_emptied(self.disk, (path for path in gone if is_below(path, top)), coming, top)
        return dropped
