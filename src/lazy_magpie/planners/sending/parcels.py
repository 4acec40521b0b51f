"""What of a thing goes to a target, in which form and under which name: files that go together or not at all."""

from __future__ import annotations

import sys
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass

from lazy_magpie.checks.player import why_unread
from lazy_magpie.config import Config, Target
from lazy_magpie.config.sections.target import MAKE, PACK, UNPACK
from lazy_magpie.identify.file_types import is_archive
from lazy_magpie.labels import label
from lazy_magpie.model import File, Item, Kind, PathStamp, Step
from lazy_magpie.model.converter import Converter
from lazy_magpie.model.sends import Extract
from lazy_magpie.model.steps import Convert, Copy, Pack, PackMember, Write
from lazy_magpie.naming import MissingField, UnusableName, path_for
from lazy_magpie.paths import is_below, join, name_of, parent, split_ending
from lazy_magpie.planners.filing.play_lists import discs_of, opened, without_disc

_MADE_LARGER = 2
"""How much larger than what it is made from a converted file may be."""
_STITCHED = ("dst", "pes", "jef", "exp", "vp3", "u01", "pec", "xxx")
"""The forms of designs that can be made from others."""


@dataclass(frozen=True, slots=True)
class Parcel:
    """A file to be put on a target: what it is known by, where it would go there, the step that makes it, its bytes."""

    key: str
    path: str
    by: Step
    size: int


@dataclass(frozen=True, slots=True)
class Package:
    """A thing with its parcels; `why` says why none of it can go, "" where it can."""

    item: Item
    name: str
    parcels: tuple[Parcel, ...] = ()
    why: str = ""

    @property
    def size(self) -> int:
        """The bytes of all its files."""
        return sum(one.size for one in self.parcels)


Members = Callable[[str], Sequence[tuple[str, int]]]
"""Returns the members of an archive with their sizes; none where it can't be read."""


@dataclass(frozen=True)
class Packer:
    """Makes packages of things for one target; `members` lists what is in archives."""

    target: Target
    config: Config
    members: Members

    def package_of(self, item: Item) -> Package:
        """Return what of a thing goes to a target, or why nothing of it does."""
        name = label(item.kind, item.fields) or name_of(item.path)
        if item.root:
            why = f"it lies on {item.root}: what goes is what lies in the collection's own folder"
            return Package(item, name, why=why)
        mains = self._in_form(item, [file for file in item.files if file.role == "main"])
        if isinstance(mains, str):
            return Package(item, name, why=mains)
        if why := self._too_large(item):
            return Package(item, name, why=why)
        home = self._home(item)
        parcels = [one for file in mains for one in self._main(item, file, home)]
        if self.target.archives == PACK and not any(is_archive(name_of(file.path)) for file in mains):
            parcels = _packed(item, parcels, home)
        parcels += self._companions(item, home)
        parcels += self._play_list(item, parcels, home)
        return Package(item, name, tuple(parcels))

    def _too_large(self, item: Item) -> str:
        """Say why a design does not fit into the hoop, "" where it does; it may be turned."""
        width, height = item.facts.get("width_mm"), item.facts.get("height_mm")
        if self.target.hoop is None or not isinstance(width, int | float) or not isinstance(height, int | float):
            return ""
        if min(width, height) <= min(self.target.hoop) and max(width, height) <= max(self.target.hoop):
            return ""
        return f"{width:.0f} × {height:.0f} mm does not fit the hoop of {self.target.hoop[0]} × {self.target.hoop[1]}"

    def _in_form(self, item: Item, mains: Sequence[File]) -> list[File] | str:
        """Return the main files that go, in forms that the player reads or can be given; or why none can."""
        if item.kind is Kind.DESIGN and self.target.formats:
            by_ending = {split_ending(file.path)[1].lower()[1:]: file for file in mains}
            for form in self.target.formats:
                if form in by_ending:
                    return [by_ending[form]]
            return (
                list(mains[:1])
                if MAKE in self.target.formats
                else f"it has none of the forms {', '.join(self.target.formats)}"
            )
        if self.target.player is None:
            return list(mains)
        why = why_unread(item, self.target.player)
        if why and not (len(mains) == 1 and self._converter(mains[0])):
            return f"{self.target.player.name} does not read it: {why}"
        return list(mains)

    def _converter(self, file: File) -> tuple[Converter, str] | None:
        """Return the declared program that turns a file into what the player reads, and the ending that it makes."""
        ending = split_ending(file.path)[1].lower()[1:]
        reads = self.target.player.reads if self.target.player else frozenset()
        if not reads or ending in reads:
            return None
        declared = self.config.convert.values()
        return next(((one.by, one.makes) for one in declared if ending in one.takes and one.makes in reads), None)

    def _stitcher(self, file: File) -> tuple[Converter, str] | None:
        """Return what turns a design into the first form that a target takes and that can be made."""
        ending = split_ending(file.path)[1].lower()[1:]
        form = next((one for one in self.target.formats if one in _STITCHED), "")
        if MAKE not in self.target.formats or ending in self.target.formats or not form:
            return None
        run = (sys.executable, "-m", "lazy_magpie.stitch_maker")
        return Converter(
            "stitches", (*run, "{source}", "{result}"), check=(*run, "--check", "{source}", "{result}")
        ), form

    def _home(self, item: Item) -> str:
        """Return the folder of a thing on the target, with the name of its main file behind it (without its ending)."""
        stem = split_ending(name_of(item.path))[0]
        player = self.target.player
        if item.kind is Kind.FIRMWARE and player and player.firmware:
            return join(player.firmware, stem)
        if item.kind in (Kind.GAME, Kind.FIRMWARE) and player and player.folders:
            system = str(item.fields.get("system", ""))
            named = player.folders.get(system) or player.folders.get("default", "{system}").replace("{system}", system)
            return join(named, stem) if named else stem
        shelf = self.config.shelf_of(item.path)
        if player and player.naming and item.kind.value in player.naming.templates:
            try:
                below = path_for(player.naming, item.kind, item.fields)
            except (MissingField, UnusableName):
                below = ""
            if below:
                return join(shelf.folder if shelf else item.kind.value.title(), below)
        return split_ending(item.path)[0]

    def _main(self, item: Item, file: File, home: str) -> Iterator[Parcel]:
        ending = split_ending(file.path)[1]
        path = _renamed(item, file, home)
        made = self._stitcher(file) if item.kind is Kind.DESIGN else self._converter(file)
        if made:
            by, makes = made
            inputs = (PathStamp(file.path, file.stamp),)
            step: Step = Convert(source=file.path, stamp=file.stamp, inputs=inputs, by=by)
            yield Parcel(f"{file.path}\0{makes}", f"{split_ending(path)[0]}.{makes}", step, file.size * _MADE_LARGER)
            return
        if self.target.archives == UNPACK and is_archive(name_of(file.path)) and (inside := self.members(file.path)):
            for member, size in inside:
                below = name_of(member) if len(inside) == 1 else join(name_of(split_ending(path)[0]), member)
                step = Extract(source=file.path, stamp=file.stamp, member=member)
                yield Parcel(f"{file.path}\0{member}", join(parent(path), below), step, size)
            return
        if item.kind is Kind.GAME and len(discs_of(item)) > 1 and self._discs(item):
            path = join(join(parent(path), self._discs(item)), name_of(path))
        yield Parcel(file.path, split_ending(path)[0] + ending, Copy(source=file.path, stamp=file.stamp), file.size)

    def _companions(self, item: Item, home: str) -> Iterator[Parcel]:
        """Yield what goes along beside: what the player wants, and nothing to a machine that names its forms."""
        wanted = self.target.player.beside if self.target.player else None
        if self.target.formats and item.kind is Kind.DESIGN:
            return
        for file in item.files:
            if file.role != "main" and (wanted is None or file.role in wanted):
                by = Copy(source=file.path, stamp=file.stamp)
                path = _renamed(item, file, home)
                if item.kind is Kind.GAME and len(discs_of(item)) > 1 and file.part and self._discs(item):
                    path = join(join(parent(path), self._discs(item)), name_of(path))
                yield Parcel(file.path, path, by, file.size)

    def _play_list(self, item: Item, parcels: Sequence[Parcel], home: str) -> Iterator[Parcel]:
        """Yield the play list of a game on several discs, where the player understands those of its system."""
        player = self.target.player
        if player is None or item.kind is not Kind.GAME or item.fields.get("system") not in player.play_lists:
            return
        parts = {file.path: file.part for file in item.files if file.part}
        discs: dict[int, list[str]] = {}
        for one in parcels:
            if part := parts.get(one.by.source):
                discs.setdefault(part, []).append(one.path)
        if len(discs) < 2:
            return
        top = parent(home)
        lines = [opened(paths)[len(top) + 1 if top else 0 :] for _, paths in sorted(discs.items())]
        text = "".join(f"{line}\n" for line in lines)
        name = without_disc(name_of(home)) or str(item.fields.get("title"))
        yield Parcel(f"{item.path}\0m3u", join(top, f"{name}.m3u"), Write(text=text), len(text.encode()))

    def _discs(self, item: Item) -> str:
        player = self.target.player
        return player.discs if player and item.fields.get("system") in player.play_lists else ""


def _packed(item: Item, parcels: Iterable[Parcel], home: str) -> list[Parcel]:
    """Return one parcel: the files of a thing in a zip."""
    copies = [one for one in parcels if isinstance(one.by, Copy)]
    if item.kind is not Kind.GAME or not copies:
        return list(parcels)
    packed = tuple(PackMember(name_of(one.path), one.by.source, one.by.stamp) for one in copies)
    by = Pack(source=copies[0].by.source, stamp=copies[0].by.stamp, members=packed)
    return [Parcel(f"{copies[0].by.source}\0zip", f"{home}.zip", by, sum(one.size for one in copies))]


def _renamed(item: Item, file: File, home: str) -> str:
    """Return where a file of a thing goes: beside its main file, called after that where it is called so now."""
    own, stem = split_ending(name_of(item.path))[0], split_ending(name_of(file.path))[0]
    ending = split_ending(file.path)[1]
    below = parent(file.path)[len(parent(item.path)) + 1 :] if is_below(parent(file.path), parent(item.path)) else ""
    rest = stem[len(own) :] if stem.startswith(own) else None
    name = f"{name_of(home)}{rest}{ending}" if rest is not None else name_of(file.path)
    return join(join(parent(home), below), name) if below else join(parent(home), name)
