"""Plans bringing downloads in: each thing into one clean folder in its place, or into the inbox with its question."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import suppress
from dataclasses import dataclass, field, replace
from functools import cached_property

from lazy_magpie.catalogue import All, Below, Catalogue, Is, Not
from lazy_magpie.change import Disk
from lazy_magpie.collection import Collection
from lazy_magpie.config import Shelf
from lazy_magpie.identify.kinds import BY_ENDING
from lazy_magpie.identify.titles import folded
from lazy_magpie.intake import (
    Already,
    Bundle,
    Heap,
    Makers,
    Named,
    Piece,
    Source,
    laid_out,
    look,
    named,
    named_all,
    sort_of,
)
from lazy_magpie.intake.bundles import is_wrapper
from lazy_magpie.model import Item, Kind, Left, Plan, State, Step, reason_of
from lazy_magpie.paths import is_below, join, name_of, parent, same_name, split_ending, written
from lazy_magpie.plans import answers
from lazy_magpie.plans.beside import Owners, companion_targets
from lazy_magpie.plans.bringing import HOLD, HOLD_ALL, Bringing, archive_steps, by, numbered, steps_for
from lazy_magpie.plans.emptied import emptied, made
from lazy_magpie.plans.homes import Homes
from lazy_magpie.plans.known_archives import KnownArchives, has_come_again
from lazy_magpie.plans.names import Names, listing_of
from lazy_magpie.plans.placed import archive_rule, by_rule, placed_in
from lazy_magpie.plans.places import Unplaced, Wish, kit_folder, other_container, wishes
from lazy_magpie.plans.placing import Placing, Told
from lazy_magpie.plans.questions import ASKS
from lazy_magpie.units import count_text

_WORDS = {Kind.KIT: "kits", Kind.DESIGN: "designs", Kind.FONT: "fonts", Kind.MOVIE: "films", Kind.EPISODE: "episodes"}
Key = tuple[Kind, str, str]


@dataclass
class _Thing:
    """What a maker sells: bundles that are one thing, each with the section that its name says."""

    kind: Kind
    maker: str
    title: str
    bundles: list[tuple[Bundle, str]] = field(default_factory=list)


class Intake:
    """Plans what becomes of the heaps in some folders."""

    def __init__(self, catalogue: Catalogue, collection: Collection, now: float, take: str = "") -> None:
        self.catalogue = catalogue
        self.collection = collection
        self.config = collection.config
        self.settings = replace(self.config.intake, take=take) if take else self.config.intake
        self.root = str(collection.root)
        self.disk = Disk(self.root)
        self.names = Names(listing_of(self.root))
        self.homes = Homes(self.config, self.names)
        self.makers = Makers(sorted(catalogue.items.makers()), self.config.makers)
        self.now = now
        self.told = Told()
        self._stems: dict[str, str] = {}
        self.bringing = Bringing()
        self.waiting = Bringing()

    def plan(self, tops: Sequence[str], progress: Callable[[int], None] = lambda count: None) -> Plan:
        """Return the plan for the heaps in `tops`, folders as steps name them."""
        self.owner: dict[Source, str] = {}
        files = 0
        heaps = []
        for top in tops:
            heaps.append(look(self.disk, top, self.now))
            files += heaps[-1].files
            progress(files)
        sizes = {size for heap in heaps for size in heap.sizes()}
        self.already = Already(self.catalogue, self.root, tops, sizes)
        self.known = KnownArchives(self.catalogue, placed_in(self.catalogue, self.collection).in_effect)
        self.bringing.listings = self.waiting.listings = self.known.listings
        self.placing = Placing(self.disk, self.names, self.already, self.bringing, self.told)
        for heap in heaps:
            self.told.left += (Left(path, why) for path, why in heap.left)
            self._heap(heap)
        known: set[str] = set()
        steps = [
            *self.known.doubled,
            *steps_for(self.bringing, self.disk, self.settings.take, known),
            *self._archives(known),
        ]
        steps += steps_for(self.waiting, self.disk, self.settings.take, known)
        steps += self._emptied(steps, tops)
        told = self.told
        told.passed["files in the heap"] = files
        return Plan("intake", numbered(steps), tuple(told.conflicts), tuple(told.left), dict(told.passed))

    # --- things that makers sell -------------------------------------------------------------------------------------

    def _heap(self, heap: Heap) -> None:
        things: dict[Key, _Thing] = {}
        free: list[tuple[str, Piece]] = [(piece.path, piece) for piece in heap.loose]
        sold: list[tuple[Bundle, Kind]] = []
        for bundle in sorted(heap.bundles, key=has_come_again):
            if bundle.archive and (why := self.known.why(bundle, bundle.archive, self.settings.take)):
                self.told.left.append(Left(bundle.archive.path, why))
                self.told.passed["taken in before"] += 1
            elif bundle.archive and is_wrapper(bundle):
                self._unwrap(bundle)
            elif kind := answers.kind_of(answers.of_bundle(self.catalogue, bundle), sort_of(bundle)):
                sold.append((bundle, kind))
            else:
                free += ((join(bundle.name, path), piece) for path, piece in _below_top(bundle))
        for (bundle, kind), name in zip(sold, named_all(self.disk, sold, self.makers), strict=True):
            if answer := answers.of_bundle(self.catalogue, bundle):
                name = answers.name_of_answer(answer.fields, name)
            if name.doubt or not name.title:
                self._to_inbox(bundle, name)
                continue
            key = (kind, folded(name.maker), folded(name.title))
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
        name = named(Bundle(stem, (piece,)), self.makers)
        key = (Kind.KIT, folded(name.maker), folded(name.title))
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
            self.told.left.append(Left(bundle.archive.path, why, asks=True))
            self.told.stuck.add(bundle.archive)
            return
        for piece in bundle.pieces:
            self.placing.place(home, piece.path, piece, home)
        why = f"it holds archives: next, magpie intake {written(self.config.inbox)}"
        self.told.left.append(Left(bundle.archive.path, why, asks=True))

    def _to_inbox(self, bundle: Bundle, name: Named) -> None:
        """Let a bundle wait in the inbox, as it is, with the question that would settle it."""
        reason = reason_of(name.doubt) or "no title"
        for source in bundle.sources:
            rest = name_of(source.path) if bundle.archive else self._rest(bundle, source)
            self._wait(source, rest, f"{name.doubt or reason} — {ASKS.get(reason, 'what is it?')}")

    def _rest(self, bundle: Bundle, source: Source) -> str:
        piece = next(piece for piece in bundle.pieces if piece.source == source)
        return join(bundle.name, piece.path)

    def _wait(self, source: Source, rest: str, why: str) -> None:
        """Let a file, with all its volumes, wait in the inbox, unless something of that name waits there."""
        self.told.left.append(Left(source.path, f"waits in {self.config.inbox}: {why}", asks=True))
        self.told.stuck.add(source)
        folder = parent(join(self.config.inbox, rest))
        targets = {join(folder, name_of(one.path)): one for one in (source, *source.more)}
        taken = any(map(self.placing.is_taken, targets))
        if taken or is_below(source.path, self.config.inbox):
            return
        for target, one in targets.items():
            self.placing.taken[same_name(target)] = ()
            piece = Piece(name_of(target), one.seen.size, None, one)
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
            self.told.left += (Left(source.path, why, asks=shelf is not None) for source in sources)
            self.told.stuck.update(sources)
            return
        sections = shelf.naming.sections if shelf and thing.kind is Kind.KIT else None
        laid = laid_out(thing.bundles, sections, self.already.crc)
        if where := self.already.all_there(list(laid.placed.values())):
            self.told.left += (Left(source.path, f"already there: “{written(where)}”") for source in sources)
            self.told.passed["already there"] += len(laid.placed)
            self.told.stuck.update(sources)
            return
        for source in sources:
            self.owner[source] = thing.maker
        assert shelf is not None or self._owned(thing)
        about = {"maker": thing.maker, "title": thing.title, "arrived": self._arrived(thing), "number": number}
        about["marks"] = self.homes.marks
        rule = by_rule(shelf, thing.kind, home, about) if shelf else {}
        self.placing.place_all(home, laid, rule)
        for piece, rest in laid.twice:
            self.told.passed["there twice, taken once"] += 1
            self.bringing.stands(home, rest, piece)
        for rest, pieces in laid.fights.items():
            self.placing.fight(join(home, rest), pieces)
        for bundle, _ in thing.bundles:
            for member in bundle.passed:
                if bundle.archive:
                    self.told.left.append(Left(join(bundle.archive.path, member), "left out: a system's own file"))
                    if self.settings.archives == HOLD_ALL:  # a person says that it may go with these
                        self.bringing.layouts[bundle.archive].setdefault(home, {})[member] = ""
            if bundle.passed and bundle.archive and self.settings.archives == HOLD:
                self.told.stuck.add(bundle.archive)
                why = f"not held: {count_text(len(bundle.passed), 'file')} in it were left out"
                self.told.left.append(Left(bundle.archive.path, why, asks=True))

    def _owned(self, thing: _Thing) -> str:
        """Return the folder of a kit that is in the collection already, to which an extra of it is joined."""
        if thing.kind is not Kind.KIT:
            return ""
        return self.owned.get((folded(thing.maker), folded(thing.title)), "")

    @cached_property
    def owned(self) -> dict[tuple[str, str], str]:
        """The folders of the kits that are in the collection, apart from the heaps, by maker and title."""
        found: dict[tuple[str, str], str] = {}
        heaps = (Below(top) for top in self.already.tops if not top.startswith(".."))
        for item in self.catalogue.items.ask(All((Is("kind", "kit"), *map(Not, heaps)))):
            if not item.root and not self.config.is_left(item.path):
                with suppress(Unplaced):
                    key = (folded(str(item.fields.get("maker", ""))), folded(str(item.fields.get("title", ""))))
                    found.setdefault(key, kit_folder(item))
        return found

    def _home(self, thing: _Thing, shelf: Shelf | None) -> tuple[str, int | None]:
        """Return the folder of a thing by its shelf's naming ("" where that gives none), and its running number."""
        if shelf is None:
            return "", None
        return self.homes.home(shelf, thing.kind, thing.maker, thing.title, self._arrived(thing))

    def _arrived(self, thing: _Thing) -> int:
        return min(source.seen.mtime for bundle, _ in thing.bundles for source in bundle.sources)

    # --- what speaks for itself --------------------------------------------------------------------------------------

    def _each_for_itself(self, free: Sequence[tuple[str, Piece]]) -> None:
        """Bring in films, episodes, songs, games, and loose files, each by what it is."""
        if not free:
            return
        from lazy_magpie.plans.loose import items_in

        pieces = dict(free)
        self.owners, beside = Owners(), []
        for item in items_in(pieces, self.config, self.catalogue, self.root):
            shelf = self.config.shelf_for(item.kind)
            if item.kind in (Kind.COMPANION, Kind.EXTRA):
                beside.append(item)
            elif item.state not in (State.CLEAR, State.SETTLED):
                self._doubtful(item, pieces)
            elif shelf is None:
                self._unshelved(item, pieces)
            elif where := self.already.all_there([pieces[file.path] for file in item.files if file.role == "main"]):
                self.told.passed["already there"] += len(item.files)
                for file in item.files:
                    self.told.left.append(Left(pieces[file.path].source.path, f"already there: “{written(where)}”"))
                    self.told.stuck.add(pieces[file.path].source)
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
        self.placing.place_together([(pieces[file.path], goal, parent(goal)) for file, goal in goals], {})

    def _is_in_another_container(self, item: Item, found: Sequence[Wish], pieces: dict[str, Piece]) -> bool:
        """Show as a conflict a film that is there, or comes in, in another container; say whether it is one."""
        for wish in found:
            key = same_name(split_ending(wish.target)[0])
            other, there = self._stems.get(key), other_container(wish.target, "", self.names)
            if there or (other is not None and other != wish.target):
                rest = [pieces[file.path] for file in item.files if file.path != wish.item.path]
                if there:
                    self.placing.fight(wish.target, [pieces[wish.item.path]], there)
                else:
                    self.placing.contend_with(wish.target, pieces[wish.item.path], other or "")
                self.placing.stay(rest)
                self.owners.add(item.path, "", "", item.kind)
                return True
        self._stems |= {same_name(split_ending(wish.target)[0]): wish.target for wish in found}
        return False

    def _item(self, item: Item, shelf: Shelf, pieces: dict[str, Piece]) -> None:
        try:
            found = wishes(item, shelf, self.config, self.names)
        except Unplaced as unplaced:
            self._leave(item, pieces, str(unplaced))
            return
        if item.kind in (Kind.MOVIE, Kind.EPISODE) and self._is_in_another_container(item, found, pieces):
            return
        places: list[tuple[str, str, str]] = []
        for wish in found:
            target, group = wish.target, wish.home or wish.group
            places.append((wish.item.path, target, group))
            self.owners.add(wish.item.path, parent(target) if wish.home else "", wish.home, item.kind)
            stem = split_ending(target)[0]
            beside = companion_targets(wish.item.path, stem, wish.item.files[1:], bool(wish.home))
            places += ((file.path, goal, group) for file, goal in beside)
        rule = by_rule(shelf, item.kind)
        self.placing.place_together([(pieces[path], target, group) for path, target, group in places], rule)

    def _doubtful(self, item: Item, pieces: dict[str, Piece]) -> None:
        """Let what is in doubt wait in the inbox; what belongs to nothing stays where it is."""
        if item.state is State.UNKNOWN or self.config.shelf_for(item.kind) is None:
            self._unshelved(item, pieces)
            return
        self.owners.add(item.path, "", "", item.kind)
        reason = reason_of(item.doubts[0]) if item.doubts else ""
        why = f"{'; '.join(item.doubts)} — {ASKS.get(reason, 'what is it?')}"
        for file in item.files:
            piece = pieces[file.path]
            rest = name_of(piece.source.path) if piece.member else file.path
            self._wait(piece.source, rest, why)

    def _unshelved(self, item: Item, pieces: dict[str, Piece]) -> None:
        self._leave(item, pieces, f"{item.kind.value}: no shelf is for it")

    def _leave(self, item: Item, pieces: dict[str, Piece], why: str) -> None:
        self.owners.add(item.path, "", "", item.kind)
        for file in item.files:
            self.told.stuck.add(pieces[file.path].source)
            self.told.left.append(Left(pieces[file.path].source.path, why, asks=True))

    # --- what becomes of the heap ------------------------------------------------------------------------------------

    def _archives(self, known: set[str]) -> Iterator[Step]:
        """Yield the steps for the archives of which everything has found its place."""
        for archive, layouts in self.bringing.layouts.items():
            if archive in self.told.stuck or not any(rest for layout in layouts.values() for rest in layout.values()):
                continue
            maker = self.owner.get(archive)
            home = next(iter(layouts))
            group, thing = self.bringing.groups.get(home, home), self.bringing.number_of(home)
            steps = list(archive_steps(archive, layouts, self.settings, maker, group, thing))
            steps = [by(step, archive_rule(self.settings)) if step.target else step for step in steps]
            targets = [step.target for step in steps if step.target]
            if other := next(filter(self.placing.is_taken, targets), ""):
                self.told.left.append(Left(archive.path, f"there is another “{written(other)}”"))
                continue
            self.placing.taken |= dict.fromkeys(map(same_name, targets), ())
            folders = made(self.disk, targets, group, known)
            known.update(folder.target for folder in folders)
            yield from folders
            yield from steps

    def _emptied(self, steps: Sequence[Step], tops: Sequence[str]) -> list[Step]:
        gone = [step.source for step in steps if step.target != step.source and step.do.value in ("move", "hold")]
        coming = [step.target for step in steps if step.target]
        inside = [top for top in tops if not top.startswith("..")]
        return [drop for top in inside for drop in emptied(self.disk, _on(gone, top), coming, top)]


def _on(paths: Iterable[str], top: str) -> list[str]:
    return [path for path in paths if is_below(path, top)]


def _below_top(bundle: Bundle) -> Iterator[tuple[str, Piece]]:
    """Yield the pieces of a bundle with their paths, without the one folder that is called as the bundle is."""
    top = bundle.top
    strip = len(top) + 1 if top and folded(top) == folded(bundle.name) else 0
    return ((piece.path[strip:], piece) for piece in bundle.pieces)
