"""Holds what is there against reference lists: of every listed file, where its content lies, and where it belongs.

A list's sets become packages: what lies together in one archive or folder. Mostly a set is a package; clones may share
their parent's. Of every package it is said how it stands now, and what it would need, so that a plan can put it right.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from itertools import groupby

from lazy_magpie.catalogue import MAIN_ROOT, Catalogue
from lazy_magpie.catalogue.reference_lists import FoundRow
from lazy_magpie.catalogue.sums import Place
from lazy_magpie.config import Config
from lazy_magpie.config.sections.list import LOOSE, MERGED, SPLIT, WHOLE, ZIP
from lazy_magpie.identify.file_types import is_archive
from lazy_magpie.lists.disc_images import is_disc_image
from lazy_magpie.lists.loading import ReferenceList
from lazy_magpie.lists.matched import FileMatch, Holding, ListedGame, MatchState, Package, Stranger, Wanted
from lazy_magpie.naming.safe import safe_part
from lazy_magpie.paths import is_below, join, name_of, parent, read_back, split_ending

_ARCHIVES = (".zip", ".7z", ".rar")
_ROOM = 8
"""Bytes kept free behind a game's name, for the ending of its archive."""
_STRANGE = ("game", "firmware", "archive", "unknown")
"""Kinds that have no place in a list's folder where no list has them; what else lies there lies beside a game."""


class Matcher:
    """Matches lists against the catalogue as it is, once what had to be read was read.

    `packages` yields all that a list has. Where only counts are wanted, sets that are whole in archives of their names
    are found at once, and left out: `right` has how many there are, their files and bytes, by their lists. Once all
    lists of a folder were gone through, `strangers` knows what lies in it and belongs to none of them.
    """

    def __init__(
        self, catalogue: Catalogue, config: Config, lists: Sequence[ReferenceList], *, only_counts: bool = False
    ) -> None:
        self._catalogue, self._config = catalogue, config
        self._names = {one.known.id: one.name for one in lists}
        self.right: dict[int, tuple[int, int, int]] = {}
        catalogue.sums.begin()
        for one in lists if only_counts else ():
            if one.config.clones == WHOLE and one.config.pack != LOOSE:
                self.right[one.known.id] = catalogue.sums.find_right(one.known.id, one.folder)
        catalogue.sums.find()
        self._places = catalogue.sums.places()
        self._ours: dict[str, bool] = {}
        self._below = {folder: catalogue.sums.below(folder) for folder in {one.folder for one in lists}}
        self._members = {folder: catalogue.sums.members_in(folder) for folder in self._below}
        self._there = {folder: {one.path: id for id, one in here.items()} for folder, here in self._below.items()}
        self._usual = {
            folder: [is_archive(name_of(place.path)) for place in here.values() if place.kind in _STRANGE]
            for folder, here in self._below.items()
        }
        self._rivals = {
            folder: self._rivals_in([one.known.id for one in lists if one.folder == folder]) for folder in self._below
        }
        self._seen = catalogue.sums.right_files()
        self._placed: dict[tuple[object, ...], tuple[str, str]] = {}

    def _rivals_in(self, lists: Sequence[int]) -> dict[str, dict[tuple[int, int, int], frozenset[object]]]:
        """Return the spellings that sets of several contents have in these lists of one folder, with those sets."""
        doubled = self._catalogue.lists.same_names(lists)
        found = self._catalogue.lists.contents_of(lists, doubled) if doubled else {}
        return {spelling: sets for spelling, sets in found.items() if len(set(sets.values())) > 1}

    def packages(self, one: ReferenceList) -> Iterator[Package]:
        """Yield what a list has, package by package, in its order."""
        rows = self._catalogue.lists.found(one.known.id)
        for _, family in groupby(rows, key=lambda row: row.family):
            yield from self._family(one, list(family))

    def _family(self, one: ReferenceList, rows: list[FoundRow]) -> Iterator[Package]:
        games = {row.set: row for row in rows}
        files = self._wanted(rows)
        if len(games) == 1:
            yield self._package(one, tuple(map(_game, games.values())), files)
            return
        how = one.config.clones
        top = rows[0].family
        if how == MERGED:
            ordered = sorted(games.values(), key=lambda row: row.set != top)
            yield self._package(one, tuple(map(_game, ordered)), _merged(files, games, top))
            return
        of_parent = {file.content for file in files if file.set == top} if how == SPLIT else set()
        for id, row in games.items():
            own = [file for file in files if file.set == id and (id == top or file.content not in of_parent)]
            yield self._package(one, (_game(row),), own)

    def _wanted(self, rows: list[FoundRow]) -> list[Wanted]:
        found = []
        for listed, some in groupby(rows, key=lambda row: row.listed):
            if listed is None:  # a set without files
                continue
            places = list(some)
            row = places[0]
            holdings = tuple(self._holding(place) for place in places if place.file is not None)
            content = (row.key if row.key is not None else listed, row.size)
            found.append(Wanted(read_back(row.name), row.size, content, row.status, row.set, holdings))
        return found

    def _holding(self, row: FoundRow) -> Holding:
        assert row.file is not None
        place = self._places[row.file]
        return Holding(row.file, place, read_back(row.member), row.skipped, self._is_ours(place))

    def _is_ours(self, place: Place) -> bool:
        folder = parent(place.path)
        if folder not in self._ours:
            self._ours[folder] = not self._config.is_left(folder)
        return place.root == MAIN_ROOT and self._ours[folder] and not self._config.is_left(place.path)

    def _package(self, one: ReferenceList, games: tuple[ListedGame, ...], files: list[Wanted]) -> Package:
        """Return how a package stands: each of its files at its best place."""
        head = games[0]
        stem = join(one.folder, _safe_path(head.name, self._config, _ROOM))
        packed, archive = self._form(one, stem, files)
        folder = stem if head.in_folder else one.folder
        target = archive if packed else folder
        here = self._there[one.folder]
        matches = []
        for file in files:
            inside = packed and not is_disc_image(file.name)
            matches.append(self._match(one, file, inside, archive if inside else folder, here))
        if any(match.wanted.holdings for match in matches):  # what is empty can be made
            matches = [
                match._replace(state=MatchState.MISNAMED)
                if not match.wanted.size and match.state is MatchState.ABSENT
                else match
                for match in matches
            ]
        more = 0
        if packed and target in here:
            more = self._more(one.folder, here[target], target, matches)
        self._note(matches, here)
        rivals = self._rivals[one.folder].get(head.spelling, {})
        others = tuple(f"“{self._names[list_id]}”, line {line}" for list_id, id, line in rivals if id != head.id)
        return Package(one, games, packed, target, tuple(matches), more, others)

    def _form(self, one: ReferenceList, stem: str, files: list[Wanted]) -> tuple[bool, str]:
        """Return whether a package is packed, and its archive: as the list wants it, else as what is there is.

        Disc images are packed already, and players read them as they are: they lie in a folder beside the archive.
        """
        archive = f"{stem}.zip"
        files = [file for file in files if not is_disc_image(file.name)]
        if not files:
            return False, ""
        if one.config.pack == ZIP:
            return True, archive
        if one.config.pack == LOOSE:
            return False, ""
        there = (f"{stem}{ending}" for ending in _ARCHIVES if f"{stem}{ending}" in self._there[one.folder])
        if own := next(there, ""):
            return True, own
        inside = [holding for file in files for holding in file.holdings[:1] if is_below(holding.path, one.folder)]
        packed = [bool(holding.member) for holding in inside]
        if not packed:  # as most of what the folder has
            packed = self._usual[one.folder] or [bool(h.member) for file in files for h in file.holdings[:1]]
        return sum(packed) * 2 > len(packed), archive

    def _match(self, one: ReferenceList, file: Wanted, packed: bool, target: str, here: Mapping[str, int]) -> FileMatch:
        want = target if packed else join(target, _safe_path(file.name, self._config))
        member = file.name if packed else ""
        if not file.size:
            return FileMatch(file, self._empty(want, member, here), want if want in here else "", want)
        if file.holdings:

            def rank(holding: Holding) -> tuple[int, str, str]:
                if holding.ours and holding.path == want:
                    return int(holding.member != member), "", holding.member
                if holding.ours:
                    return (2 if is_below(holding.path, one.folder) else 3), holding.path, holding.member
                return 4 + (holding.place.root not in (MAIN_ROOT,)), holding.path, holding.member

            if len(file.holdings) > 1:
                file = file._replace(holdings=tuple(sorted(file.holdings, key=rank)))
            best = file.holdings[0]
            return FileMatch(file, _STATES[rank(best)[0]], best.path, want)
        damaged = self._named_so(one, file, want, packed, here)
        if not damaged:
            return FileMatch(file, MatchState.ABSENT, "", want)
        really = self._catalogue.lists.name_of_content(here[damaged]) if here[damaged] in self._places else ""
        return FileMatch(file, MatchState.DAMAGED, damaged, want, really)

    def _named_so(self, one: ReferenceList, file: Wanted, want: str, packed: bool, here: Mapping[str, int]) -> str:
        """Return the file that is called as a listed one and holds something else, "" for none."""
        if want in here and not (packed and self._lacks(here[want], file.name)):
            return want
        name = _safe_path(file.name, self._config)
        loose = (path for path in (join(one.folder, name), join(split_ending(want)[0], name)) if path in here)
        return next((path for path in loose if here[path] not in self._places), "")

    def _empty(self, want: str, member: str, here: Mapping[str, int]) -> MatchState:
        """Say how a file of 0 bytes stands: any such file is the same, so only its name counts."""
        if want not in here:
            return MatchState.ABSENT
        if member:
            inside = {path: size for path, size, _ in self._catalogue.files.members_of(here[want])}
            return MatchState.THERE if inside.get(member) == 0 else MatchState.ABSENT
        places = next(some for some in self._below.values() if here[want] in some)
        return MatchState.THERE if places[here[want]].stamp.size == 0 else MatchState.DAMAGED

    def _lacks(self, archive: int, member: str) -> bool:
        """Say whether an archive can be read, and has no member of this name."""
        names = [path for path, _, _ in self._catalogue.files.members_of(archive)]
        return bool(names) and member not in names

    def _more(self, folder: str, archive: int, target: str, matches: Sequence[FileMatch]) -> int:
        """Return how many members an archive has besides what its package needs of it."""
        needed = set()
        for match in matches:
            best = match.wanted.holdings[0] if match.wanted.holdings else None
            if best is not None and best.path == target:
                needed.add(best.member)
            elif best is None and match.state in (MatchState.DAMAGED, MatchState.THERE):
                needed.add(match.wanted.name)
        return max(self._members[folder].get(archive, 0) - len(needed), 0) if needed else 0

    def _note(self, matches: Sequence[FileMatch], here: Mapping[str, int]) -> None:
        """Note which files have a place by a list, and where the contents are that lie in several places."""
        for match in matches:
            holdings = match.wanted.holdings
            if holdings:
                self._seen.add(holdings[0].file)
                if len(holdings) > 1:
                    best = holdings[0]
                    self._placed.setdefault((*match.wanted.content, best.skipped), (best.path, best.member))
            elif match.path in here:
                self._seen.add(here[match.path])

    def strangers(self, folder: str) -> Iterator[Stranger]:
        """Yield what lies in a list's folder and has no place there by any list."""
        for id, place in sorted(self._below[folder].items(), key=lambda one: one[1].path):
            if id not in self._seen and place.kind in _STRANGE:
                yield Stranger(place, self._twins(id))

    def _twins(self, file: int) -> dict[str, tuple[str, str]]:
        """Return where all that a file holds lies by a list, too, {} where that is not so."""
        members = [path for path, size, _ in self._catalogue.files.members_of(file) if size] or [""]
        found: dict[str, tuple[str, str]] = {}
        for member, *content in self._catalogue.lists.found_in(file):
            if tuple(content) in self._placed:
                found[member] = self._placed[tuple(content)]
        return found if all(member in found for member in members) else {}


_STATES = (
    MatchState.THERE,
    MatchState.MISNAMED,
    MatchState.MISNAMED,
    MatchState.ELSEWHERE,
    MatchState.ELSEWHERE,
    MatchState.ELSEWHERE,
)
"""The state of a file by the rank of the best place in which its content lies."""


def _game(row: FoundRow) -> ListedGame:
    name, parent_name = read_back(row.set_name), read_back(row.parent)
    return ListedGame(row.set, name, row.about, parent_name, row.line, bool(row.in_folder), row.spelling)


def _merged(files: Sequence[Wanted], games: Mapping[int, FoundRow], top: int) -> list[Wanted]:
    """Return the files of a whole family for one archive: each content once, and no name for two of them."""
    found: dict[str, Wanted] = {}
    contents: set[object] = set()
    for file in sorted(files, key=lambda file: file.set != top):
        if file.content in contents and file.size:
            continue
        contents.add(file.content)
        name = file.name
        if name in found:
            name = f"{read_back(games[file.set].set_name)}/{name}"
        found[name] = file._replace(name=name)
    return list(found.values())


def _safe_path(path: str, config: Config, room: int = 0) -> str:
    """Return a path that every disk takes, where that is wanted; `room` bytes are kept free behind each name."""
    return "/".join(safe_part(part, everywhere=config.everywhere, room=room) for part in path.split("/"))
