"""Holds a collection against its reference lists: reads what it must, says how each stands, plans what is to do."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator, Mapping, Sequence
from collections.abc import Collection as Collection_
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from lazy_magpie import __version__
from lazy_magpie.catalogue import MAIN_ROOT, Catalogue, OneOf
from lazy_magpie.catalogue.sums import Place
from lazy_magpie.collection import Collection
from lazy_magpie.config import FILE_NAME
from lazy_magpie.drives import present
from lazy_magpie.errors import UsageError
from lazy_magpie.lists.loading import ReferenceList, list_stamps, load_lists
from lazy_magpie.lists.matched import Counts, GameMatch, MatchState, Package, Stranger, games_of
from lazy_magpie.model.reference import ListedFile, ListedSet
from lazy_magpie.paths import join, name_of, split_ending
from lazy_magpie.stable_hash import stable_bytes
from lazy_magpie.suggest import nearest

if TYPE_CHECKING:  # a glance at how lists stand needs none of what reads and plans
    from lazy_magpie.lists.matching import Matcher
    from lazy_magpie.model import File, Plan


@dataclass
class Matching:
    """The lists of a collection held against it: `lists` are those that were chosen.

    `wrong` says which lists could not be read, `unreadable` which files, each with its reason.
    """

    collection: Collection
    catalogue: Catalogue
    lists: list[ReferenceList]
    every: list[ReferenceList]
    wrong: list[str]
    tops: Mapping[int, str]
    unreadable: list[tuple[str, str]] = field(default_factory=list)

    def read(self, jobs: int, progress: Callable[[int], None], *, anew: bool = False) -> None:
        """Read what has to be read of the files."""
        from lazy_magpie.lists.contents import read_contents

        report = read_contents(self.catalogue, self.tops, self.every, jobs, progress, anew=anew)
        self.unreadable += report.unreadable

    def results(self) -> Iterator[GameMatch | Stranger]:
        """Yield every game of the chosen lists with how it stands, then what no list has."""
        matcher = self._matcher()
        chosen = {one.known.id for one in self.lists}
        for one in self._sharing():
            for package in matcher.packages(one):
                if one.known.id in chosen:
                    yield from games_of(package)
        for folder in sorted({one.folder for one in self.lists}):
            yield from matcher.strangers(folder)

    def known_counts(self) -> dict[int, Counts] | None:
        """Return how each chosen list was found to stand, by its id; None where something may have changed since."""
        known = self.catalogue.lists.counts(basis_of(self.collection, self.catalogue))
        if not all(one.known.id in known for one in self.lists):
            return None
        return {one.known.id: Counts.read(known[one.known.id]) for one in self.lists}

    def counts(self) -> dict[int, Counts]:
        """Return how each chosen list stands, by its id, and keep that."""
        found = {one.known.id: Counts() for one in self.lists}
        matcher = self._matcher(only_counts=True)
        for one in self._sharing():
            if one.known.id in found and one.known.id in matcher.right:
                found[one.known.id].add_right(*matcher.right[one.known.id])
            for package in matcher.packages(one):
                if one.known.id in found:
                    for match in games_of(package):
                        found[one.known.id].add(match)
        strangers = {folder: sum(1 for _ in matcher.strangers(folder)) for folder in {one.folder for one in self.lists}}
        for one in self.lists:
            found[one.known.id].unknown = strangers[one.folder]
        basis = basis_of(self.collection, self.catalogue)
        self.catalogue.lists.put_counts(basis, {id: json.dumps(counts.shape()) for id, counts in found.items()})
        self.catalogue.commit()
        return found

    def plan(self) -> Plan:
        """Plan what puts the collection right by the chosen lists."""
        from lazy_magpie.change import Filesystem
        from lazy_magpie.planners.by_list.plan import ListPlanner
        from lazy_magpie.planners.by_list.sources import ListSources
        from lazy_magpie.services.listing import listing_of

        matcher = self._matcher()
        chosen = {one.known.id for one in self.lists}
        wrong: list[Package] = []
        settled: dict[int, str] = {}
        for one in self._sharing():
            for package in matcher.packages(one):
                is_right = package.is_right
                if one.known.id in chosen and not (is_right and not package.rivals):
                    wrong.append(package)
                for match in package.files:
                    is_there = match.state is MatchState.THERE and match.wanted.holdings
                    if is_there and (is_right or not package.is_inside(match)):
                        settled[match.wanted.holdings[0].file] = match.want
        strangers = [one for folder in sorted({one.folder for one in self.lists}) for one in matcher.strangers(folder)]
        root = str(self.collection.root)
        sources = ListSources(
            disk=Filesystem(root),
            listing=listing_of(root),
            named=self._named,
            members=lambda file: {path: size for path, size, _ in self.catalogue.files.members_of(file)},
            beside=self._beside,
            settled=settled,
        )
        return ListPlanner(self.collection.config, sources).plan(wrong, strangers)

    def item_at(self, path: str) -> int:
        """Return the item that a file of the own root is of, 0 for none."""
        return self.catalogue.items.having(path) or 0

    def _matcher(self, *, only_counts: bool = False) -> Matcher:
        from lazy_magpie.lists.matching import Matcher

        return Matcher(self.catalogue, self.collection.config, self._sharing(), only_counts=only_counts)

    def _sharing(self) -> list[ReferenceList]:
        """Return the chosen lists with those that end in the same folders: these are one list."""
        folders = {one.folder for one in self.lists}
        return [one for one in self.every if one.folder in folders]

    def _named(self, place: Place) -> str | None:
        if place.root == MAIN_ROOT:
            return place.path
        from lazy_magpie.intake.downloads import outside

        top = self.tops.get(place.root)
        return None if top is None else outside(str(self.collection.root), join(top, place.path))

    def _beside(self, item: int) -> Sequence[File]:
        found = next(iter(self.catalogue.items.ask(OneOf((item,)))), None)
        return [file for file in found.files if file.role != "main"] if found else ()


def basis_of(collection: Collection, catalogue: Catalogue) -> str:
    """Return what stands for all that is said by lists: files and members, the lists themselves, magpie.toml."""
    config = (collection.root / FILE_NAME).read_bytes()
    lists = [(one.section, one.path, one.size, one.mtime) for one in catalogue.lists.all()]
    files = [stamp for one in collection.config.lists.values() for stamp in list_stamps(str(collection.root), one)]
    state = (__version__, catalogue.scans(), catalogue.acts(), lists, files, config)
    return stable_bytes(state, 16).hex()


def open_lists(collection: Collection, catalogue: Catalogue, names: Sequence[str] = ()) -> Matching:
    """Return the lists of a collection, those that are called so (all, if no names are given).

    A name is that of a section of magpie.toml, or what the list calls itself. Raises UsageError where there are none.
    """
    if not collection.config.lists:
        raise UsageError("There is no reference list; name one in magpie.toml: [list.NAME] with file and folder.")
    loaded = load_lists(catalogue, collection.config, str(collection.root))
    chosen = []
    for name in names:
        found = [one for one in loaded.lists if name in (one.known.section, one.name)]
        if not found and name not in collection.config.lists:
            known = sorted({text for one in loaded.lists for text in (one.known.section, one.name)})
            there_are = f"; there are {', '.join(known)}." if known else "."
            raise UsageError(f"There is no list “{name}”{nearest(name, known, there_are)}")
        chosen += [one for one in found if one not in chosen]
    numbers = {known.name: known.number for known in catalogue.roots.all()}
    tops = {numbers[name]: top for name, top in present(catalogue, collection).items() if name in numbers}
    return Matching(collection, catalogue, chosen if names else loaded.lists, loaded.lists, loaded.wrong, tops)


def export_sets(
    matching: Matching, listed: bool, digests: Sequence[str], jobs: int, progress: Callable[[int], None]
) -> list[ListedSet]:
    """Return what there is as sets of a list: of the chosen lists (`listed`), or all games and firmware.

    What was not read yet for the `digests` is read.
    """
    from lazy_magpie.lists.contents import read_all_of

    catalogue = matching.catalogue
    wanted = frozenset(["crc", *digests])
    if listed:
        matching.read(jobs, progress)
        names = {
            (holding.file, holding.member): (one.game.name, match.wanted.name)
            for one in matching.results()
            if isinstance(one, GameMatch)
            for match in one.files
            if match.state is MatchState.THERE
            for holding in match.wanted.holdings[:1]
        }
        ids = {file for file, _ in names}
    else:
        ids, names = catalogue.sums.games(), {}
    matching.unreadable += read_all_of(catalogue, matching.tops, ids, wanted, jobs, progress).unreadable
    return list(_sets(catalogue, ids, names))


def _sets(
    catalogue: Catalogue, ids: Collection_[int], names: Mapping[tuple[int, str], tuple[str, str]]
) -> Iterator[ListedSet]:
    """Yield the contents of files as sets: by the names that lists give them, else by their own."""
    sets: dict[str, list[ListedFile]] = {}
    for file, path, member, sums in catalogue.sums.known(ids):
        own = name_of(path)
        if names and (file, member) not in names:
            continue
        game, name = names.get((file, member), (split_ending(own)[0], member or own))
        sets.setdefault(game, []).append(ListedFile(name, sums.size, sums.crc, sums.md5, sums.sha1, sums.sha256))
    for game, files in sets.items():
        yield ListedSet(game, tuple(files), in_folder=len(files) > 1)
