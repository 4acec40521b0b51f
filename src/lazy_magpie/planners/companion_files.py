"""Plans what a player reads beside things: pictures under the names that it looks for, data files; nothing twice."""

from __future__ import annotations

import posixpath
from collections import Counter
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass

from lazy_magpie.companion_files import DataForm, FoundPicture, Work, WorkKind, work_of, works_in
from lazy_magpie.config import THING, Config, Player
from lazy_magpie.identify.file_types import PICTURES, is_archive
from lazy_magpie.inner_tags import Inside
from lazy_magpie.model import File, FileStamp, Item, Kind, Plan, State, Step, Unmoved
from lazy_magpie.model.steps import Copy, Move, RewriteText, Write, renumbered
from lazy_magpie.naming import MissingField
from lazy_magpie.naming.safe import safe_part
from lazy_magpie.paths import join, name_of, parent, same_name, split_ending, written
from lazy_magpie.planners.directory_index import Listing, Names
from lazy_magpie.planners.directory_steps import make_missing
from lazy_magpie.planners.disk_view import DiskView
from lazy_magpie.planners.inside import ending_of, inside_steps

KINDS = (Kind.MOVIE, Kind.EPISODE, Kind.TRACK, Kind.GAME, Kind.KIT, Kind.DESIGN, Kind.FONT)
"""Kinds of things beside which a player reads something."""
_LARGEST = 1 << 20
_MADE = ("cover", "thumbnail")
"""The roles in which a picture made from a thing will do."""


@dataclass(frozen=True)
class CompanionSources:
    """What the planner looks at: the disk, the names in folders, what makes data files, pictures that lie elsewhere.

    `picture` finds a picture for an item among those, with how it looks and whether it lies outside the root. `made`
    gives the path of a picture made from an item that has no other, for a path without ending, if there is one.
    `shaped` gives the path of a picture in a player's form and size, made from another one; None where that one is
    right as it is. `things_of` gives all things of a show or an album, `was` where what will be at a path lies
    now. `inside` is what is inside main files, by their paths, where fields and covers are to be written there; else
    None.
    """

    disk: DiskView
    listing: Listing
    data: Mapping[str, DataForm]
    picture: Callable[[Item], FoundPicture | None] = lambda item: None
    made: Callable[[Item, str], str | None] = lambda item, stem: None
    stamp: Callable[[str], FileStamp | None] = lambda path: None
    shaped: Callable[[str, Player], str | None] = lambda path, player: None
    things_of: Callable[[WorkKind, str], Iterable[Item]] = lambda kind, title: ()
    was: Callable[[str], str] = lambda path: path
    inside: Mapping[str, Inside] | None = None
    again: bool = False


class _Planner:
    """A plan in the making: its steps, what is left, the names that are taken by now."""

    def __init__(self, config: Config, sources: CompanionSources) -> None:
        self._config = config
        self._sources = sources
        self._names = Names(sources.listing)
        self._claimed: set[str] = set()
        self._pictured: set[str] = set()
        self._works: dict[tuple[str, WorkKind, str], Player] = {}
        self.steps: list[Step] = []
        self.unmoved: list[Unmoved] = []
        self.passed: Counter[str] = Counter()

    def add(self, item: Item, players: Sequence[Player]) -> None:
        """Plan what players read beside an item, and what goes inside it."""
        before = len(self.steps)
        for player in players:
            self._pictures(item, player)
            if form := player.data.get(THING):
                made = self._sources.data[form]
                self._data(item, item.path, join(*home_and_stem(item)) + made.ending, made, player)
            if (work := work_of(item)) and work[0] in player.data:
                self._works.setdefault((player.name, *work), player)
        if self._sources.inside is not None:
            new = next((step.target for step in self.steps[before:] if _is_picture(step.target)), "")
            cover = new or self._cover_of(item)
            self.steps += inside_steps(item, self._sources.inside, cover, self._sources.stamp)

    def _pictures(self, item: Item, player: Player) -> None:
        """Plan the pictures of an item: what lies beside it under the name looked for, else one from elsewhere."""
        home, stem = home_and_stem(item)
        home = join(home, player.art_folder) if player.art_folder else home
        for role, template in player.art.items():
            try:
                said = template.render({**item.fields, "stem": stem})
            except MissingField as missing:
                why = f"the name of its {role} needs {missing.field.replace('_', ' ')}, which is not known"
                self.unmoved.append(Unmoved(item.path, why, asks=True))
                continue
            wanted = join(home, safe_part(said, everywhere=self._config.everywhere))
            if not self._is_there(wanted) and (step := self._picture(item, player, role, wanted)):
                self.steps.append(step)
                self._pictured.add(same_name(wanted))

    def _picture(self, item: Item, player: Player, role: str, wanted: str) -> Step | None:
        """Return the step that gives an item a picture at a path without ending; None where there is none to be had."""
        sources = self._sources
        if own := _own(item, role):
            if shaped := sources.shaped(own.path, player):
                return self._made(item, shaped, wanted, f"its {role}, as the player takes it")
            return self._moved(item, own, wanted, f"its {role}, as the player looks for it")
        if same_name(wanted) in self._pictured:
            return None  # songs of one album may share its cover
        if role == "cover" and (found := sources.picture(item)):
            if not found.is_sure:
                why = f"its picture may be {written(found.path)} (--ask asks)"
                self.unmoved.append(Unmoved(item.path, why, asks=True))
                return None
            why = f"called as it is: {written(name_of(found.path))}"
            if shaped := sources.shaped(found.path, player):
                return self._made(item, shaped, wanted, why)
            return self._copied(item, found.path, wanted, why)
        if role in _MADE and (made := sources.made(item, wanted)):
            return self._made(item, made, wanted, f"a {role} made from it")
        return None

    def _moved(self, item: Item, own: File, stem: str, why: str) -> Step | None:
        target = stem + ending_of(own.path)
        if not self._claim(target, own.path):
            return None
        return Move(source=own.path, target=target, why=why, group=_group(item), item=item.id, stamp=own.stamp)

    def _made(self, item: Item, made: str, stem: str, why: str) -> Step | None:
        """Return the step that brings a picture made for an item to its place."""
        target = stem + ending_of(made)
        if not self._claim(target, item.path):
            return None
        return Move(source=made, target=target, why=why, group=_group(item), stamp=self._sources.stamp(made))

    def _copied(self, item: Item, path: str, stem: str, why: str) -> Step | None:
        target = stem + ending_of(path)
        if not self._claim(target, item.path):
            return None
        stamp, outside = self._sources.stamp(path), path.startswith("..")
        return Copy(source=path, target=target, why=why, group=_group(item), stamp=stamp, outside=outside)

    def add_works(self) -> None:
        """Plan the data files of the shows and albums that the items are of, about all of their things."""
        for (_, kind, title), player in self._works.items():
            form = self._sources.data[player.data[kind]]
            things = (one for one in self._sources.things_of(kind, title) if _is_meant(one, self._config))
            for work in works_in(one for one in things if work_of(one) == (kind, title)):
                name = form.name or name_of(work.folder) + form.ending
                self._data(work, work.folder, join(work.folder, name), form, player)

    def _data(self, about: Item | Work, path: str, target: str, form: DataForm, player: Player) -> None:
        """Plan the data file about what lies at a path; one that is there stays, unless it is to be written again."""
        text = form.text(about)
        group = about.title if isinstance(about, Work) else _group(about)
        there = self._names.existing(target)
        if not there:
            if self._claim(target, path):
                self.steps.append(Write(target=target, why=f"data for {player.name}", group=group, text=text))
            return
        with self._sources.disk.open_old(self._sources.was(there)) as file:
            same = file.read(_LARGEST) == text.encode("utf-8", "surrogateescape")
        if same:
            return
        if self._sources.again:
            why = f"data for {player.name}, as it is now"
            self.steps.append(RewriteText(target=there, why=why, group=group, text=text))
        else:
            self.unmoved.append(Unmoved(there, "a data file is there already (--again writes it anew)"))

    def _claim(self, target: str, source: str) -> bool:
        key = same_name(target)
        if key in self._claimed or self._names.existing(target):
            why = f"there is another file for the name “{written(target)}”"
            self.unmoved.append(Unmoved(source, why, asks=True))
            return False
        self._claimed.add(key)
        return True

    def _is_there(self, stem: str) -> bool:
        """Say whether a picture of this name is there, with any ending."""
        return any(map(_is_picture, self._names.with_stem(parent(stem), name_of(stem))))

    def _cover_of(self, item: Item) -> str:
        """Return the cover that lies beside an item, its own or (a song's) that of its album; "" for none."""
        if own := _own(item, "cover"):
            return own.path
        shared = self._names.with_stem(parent(item.path), "cover") if item.kind is Kind.TRACK else ()
        return next((join(parent(item.path), name) for name in shared if _is_picture(name)), "")


def companion_files(
    items: Iterable[Item], players: Callable[[Item], Sequence[Player]], config: Config, sources: CompanionSources
) -> Plan:
    """Plan the pictures and data files of items, for the players that each is asked about."""
    planner = _Planner(config, sources)
    for item in items:
        if _is_meant(item, config):
            planner.add(item, players(item))
        elif _is_within(item, config):
            planner.passed["in doubt"] += 1
    planner.add_works()
    steps = [*make_missing(sources.disk, (step.target for step in planner.steps)), *planner.steps]
    return Plan("companions", renumbered(steps), unmoved=tuple(planner.unmoved), passed=dict(planner.passed))


def _is_within(item: Item, config: Config) -> bool:
    return item.kind in KINDS and not item.root and not config.is_left(item.path)


def _is_meant(item: Item, config: Config) -> bool:
    return _is_within(item, config) and item.state in (State.CLEAR, State.SETTLED)


def home_and_stem(item: Item) -> tuple[str, str]:
    """Return the folder of an item, and what its companions are called: as its file, or (those of a kit) its folder."""
    if item.kind is Kind.KIT and len(item.files) > 1 and not is_archive(name_of(item.path)):
        home = posixpath.commonpath([parent(file.path) for file in item.files])
        return home, name_of(home)
    return parent(item.path), split_ending(name_of(item.path))[0]


def _is_picture(path: str) -> bool:
    return ending_of(path) in PICTURES


def _own(item: Item, role: str) -> File | None:
    """Return the picture that an item has in a role, beside it and for itself alone; None for none."""
    return next((file for file in item.files if file.role == role and _is_picture(file.path)), None)


def _group(item: Item) -> str:
    return str(item.fields.get("show") or item.fields.get("artist") or name_of(parent(item.path)) or ".")
