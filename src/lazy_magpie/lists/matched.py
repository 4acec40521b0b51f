"""How a reference list stands: its files, packages and games, each with its state, and in words what to do."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any, NamedTuple

from lazy_magpie.catalogue.sums import Place
from lazy_magpie.formatting import count_text
from lazy_magpie.lists.loading import ReferenceList
from lazy_magpie.model.reference import BAD, MISSING
from lazy_magpie.paths import name_of, parent, written


class MatchState(StrEnum):
    """How a listed file or game stands."""

    THERE = "there"
    ELSEWHERE = "elsewhere"
    MISNAMED = "misnamed"
    DAMAGED = "damaged"
    INCOMPLETE = "incomplete"
    ABSENT = "absent"
    UNKNOWN = "unknown"


_LOST = (MatchState.ABSENT, MatchState.DAMAGED)
_SHOWN = 3


class Holding(NamedTuple):
    """Where a listed content lies: in a file, or as a member of an archive ("" for the file itself).

    `skipped` are bytes of a header in front of it. `ours` says that it may be moved from there.
    """

    file: int
    place: Place
    member: str
    skipped: int
    ours: bool

    @property
    def path(self) -> str:
        """The file's path on its root."""
        return self.place.path


class Wanted(NamedTuple):
    """A listed file as a package needs it: its name there, and where its content lies, the best place first.

    `content` tells one content from others: what it is looked up by, and its bytes. `set` is the id of its set.
    """

    name: str
    size: int
    content: tuple[object, int]
    status: str
    set: int
    holdings: tuple[Holding, ...]


class FileMatch(NamedTuple):
    """How a listed file stands: `path` is where its content lies ("" for nowhere), `want` where it belongs.

    `really` is what a file that has its name really is, by a list.
    """

    wanted: Wanted
    state: MatchState
    path: str
    want: str
    really: str = ""


class ListedGame(NamedTuple):
    """A set as its list has it."""

    id: int
    name: str
    about: str
    parent: str
    line: int
    in_folder: bool
    spelling: str


@dataclass(frozen=True, slots=True)
class Package:
    """What lies together: `target` is its archive (`packed`), or the folder that its files are put into.

    Disc images lie loose in any case. `more` counts what its archive holds besides; `rivals` are the sets of other
    contents that want its name, each by its list and line.
    """

    list: ReferenceList
    games: tuple[ListedGame, ...]
    packed: bool
    target: str
    files: tuple[FileMatch, ...]
    more: int = 0
    rivals: tuple[str, ...] = ()

    @property
    def is_right(self) -> bool:
        """Whether all that is anywhere is where it belongs, and nothing else is in the archive."""
        return not self.more and all(one.state is MatchState.THERE or one.state in _LOST for one in self.files)

    def is_inside(self, match: FileMatch) -> bool:
        """Say whether a file of it belongs into its archive."""
        return self.packed and match.want == self.target


@dataclass(frozen=True, slots=True)
class GameMatch:
    """How a game stands, and in words what to do; `path` is where it, or most of it, lies."""

    list: ReferenceList
    game: ListedGame
    state: MatchState
    files: tuple[FileMatch, ...]
    path: str
    want: str
    text: str


class Stranger(NamedTuple):
    """What lies in a list's folder and has no place there; `twins` are where all it holds lies, too, by its members."""

    place: Place
    twins: dict[str, tuple[str, str]]


@dataclass
class Counts:
    """How a list stands: games by state, and the files and bytes that are there, of all."""

    games: Counter[str] = field(default_factory=Counter)
    files: int = 0
    all_files: int = 0
    bytes: int = 0
    all_bytes: int = 0
    unknown: int = 0

    def shape(self) -> dict[str, object]:
        """Return the counts as a plain value, which `read` takes."""
        return {name: dict(value) if isinstance(value, Counter) else value for name, value in vars(self).items()}

    @staticmethod
    def read(shape: Mapping[str, Any]) -> Counts:
        """Return the counts that `shape` gave."""
        return Counts(**{**shape, "games": Counter(shape["games"])})

    @property
    def all_games(self) -> int:
        """How many games there are in all."""
        return sum(self.games.values())

    def add_right(self, games: int, files: int, size: int) -> None:
        """Count games that are whole at their place, with their files and bytes."""
        self.games[MatchState.THERE.value] += games
        self.files += files
        self.all_files += files
        self.bytes += size
        self.all_bytes += size

    def add(self, match: GameMatch) -> None:
        """Count a game with its files."""
        self.games[match.state.value] += 1
        for one in match.files:
            if one.wanted.status == MISSING and one.state in _LOST:
                continue
            size = max(one.wanted.size, 0)
            self.all_files += 1
            self.all_bytes += size
            if one.state is MatchState.THERE:
                self.files += 1
                self.bytes += size


def games_of(package: Package) -> Iterable[GameMatch]:
    """Yield how each game of a package stands."""
    for game in package.games:
        files = tuple(one for one in package.files if one.wanted.set == game.id)
        state = _state(package, files)
        path = next((one.path for one in files if one.path), "")
        want = package.target if package.packed or len(files) != 1 else files[0].want
        yield GameMatch(package.list, game, state, files, path, want, _text(package, state, files, path, want))


def _state(package: Package, files: tuple[FileMatch, ...]) -> MatchState:
    states = {one.state for one in files if not (one.wanted.status == MISSING and one.state in _LOST)}
    if not states:
        return MatchState.ABSENT if files else MatchState.THERE
    if states == {MatchState.THERE}:
        return MatchState.MISNAMED if package.more else MatchState.THERE
    if MatchState.DAMAGED in states:
        return MatchState.DAMAGED
    if MatchState.ABSENT in states:
        return MatchState.ABSENT if len(states) == 1 else MatchState.INCOMPLETE
    return MatchState.ELSEWHERE if MatchState.ELSEWHERE in states else MatchState.MISNAMED


def _text(package: Package, state: MatchState, files: tuple[FileMatch, ...], path: str, want: str) -> str:
    """Return what is to be said of a game, and done."""
    said = []
    if package.rivals:
        others = " and ".join(map(written, package.rivals))
        said.append(f"another game of this name is in {others}: nothing is done until one of them says otherwise")
    match state:
        case MatchState.ELSEWHERE:
            said.append(_where(files, path))
        case MatchState.MISNAMED:
            said.append(_misnamed(package, files, path, want))
        case MatchState.DAMAGED:
            really = next((one.really for one in files if one.really), "")
            what = f"really {written(really)}" if really else "not what the list has"
            which = f"{_names(files, MatchState.DAMAGED)}: " if len(files) > 1 else ""
            said.append(f"{which}{what}; look for a good copy")
        case MatchState.INCOMPLETE:
            said.append(f"absent: {_names(files, MatchState.ABSENT)}" + _rest(package))
        case MatchState.ABSENT if files and all(one.wanted.status == MISSING for one in files):
            said.append("no copy of it is known")
        case MatchState.ABSENT if any(one.wanted.status == BAD for one in files):
            said.append("only a bad copy of it is known")
        case MatchState.THERE if any(one.wanted.status == BAD for one in files):
            said.append("a bad copy, the only one that is known")
    return "; ".join(said)


def _rest(package: Package) -> str:
    return "" if package.is_right else "; --fix puts the rest in its place"


def _where(files: tuple[FileMatch, ...], path: str) -> str:
    best = next(one.wanted.holdings[0] for one in files if one.state is MatchState.ELSEWHERE)
    where = f"lies {'inside' if best.member else 'at'} {written(path)}"
    return f"{where}; --fix brings it here" if best.ours else f"{where}; --fix copies it: nothing is moved from there"


def _misnamed(package: Package, files: tuple[FileMatch, ...], path: str, want: str) -> str:
    if package.more:
        return f"its archive holds {count_text(package.more, 'file')} that the list does not name; --fix packs it anew"
    if path != want:
        how = "is called" if parent(path) == parent(want) else "lies as"
        return f"{how} {written(name_of(path))}; --fix puts it right"
    return "its files have other names inside; --fix packs it anew"


def _names(files: tuple[FileMatch, ...], state: MatchState) -> str:
    names = [written(one.wanted.name) for one in files if one.state is state]
    more = f" and {count_text(len(names) - _SHOWN, 'more file')}" if len(names) > _SHOWN else ""
    return ", ".join(names[:_SHOWN]) + more
