"""magpie.toml into frozen values; every mistake is named with its key and line."""

from __future__ import annotations

import fnmatch
import tomllib
from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path

from lazy_magpie.config.check import check_sections
from lazy_magpie.config.config_text import ConfigText
from lazy_magpie.config.sections import (
    collection,
    convert,
    copies,
    intake,
    maker,
    mirror,
    naming,
    new,
    player,
    prefer,
    root,
    shelf,
    standard,
    system,
    tags,
    target,
    titles,
    words,
)
from lazy_magpie.config.sections import field as custom_field
from lazy_magpie.config.sections import list as reference_list
from lazy_magpie.config.sections.convert import ConvertConfig
from lazy_magpie.config.sections.intake import IntakeConfig
from lazy_magpie.config.sections.list import ListConfig
from lazy_magpie.config.sections.mirror import Mirror
from lazy_magpie.config.sections.new import NewFolder
from lazy_magpie.config.sections.player import THING, PictureShape, Player
from lazy_magpie.config.sections.prefer import Prefer
from lazy_magpie.config.sections.root import Root
from lazy_magpie.config.sections.shelf import WITHOUT, Shelf
from lazy_magpie.config.sections.standard import Standard
from lazy_magpie.config.sections.target import Target
from lazy_magpie.errors import ConfigError
from lazy_magpie.fields import CustomField
from lazy_magpie.model import Kind
from lazy_magpie.naming import Naming, conventions
from lazy_magpie.naming.levels import fronts, without_own
from lazy_magpie.paths import CONFIG_NAME, above, is_below, join, same_name

__all__ = [
    "FILE_NAME",
    "THING",
    "WITHOUT",
    "Config",
    "ConvertConfig",
    "IntakeConfig",
    "ListConfig",
    "Mirror",
    "NewFolder",
    "PictureShape",
    "Player",
    "Prefer",
    "Root",
    "Shelf",
    "Standard",
    "Target",
    "load",
    "parse",
]

FILE_NAME = CONFIG_NAME
_FROM_NAMES = (Kind.MOVIE, Kind.EPISODE, Kind.PICTURE, Kind.DOCUMENT)
"""Kinds that are read alike whatever their shelf is called."""


@dataclass(frozen=True, slots=True)
class Config:
    """What magpie.toml says. `leave` are patterns of folders that nothing is ever moved from or to.

    `systems` are systems of games by name, each with the names of its folders and with its endings (".trn").
    `fields` are custom fields, by name; `inbox` is the folder of what has no place yet, `attic` of what was put away.
    `tags_inside` says that tags are kept inside files, too, `tags_beside` in sidecars where a drive has no attributes.
    `makers` are known makers, each with the other spellings of the name. `files_unplayable` says that films and songs
    are filed that are empty, cut off, or can't be read. `title_language` is the language whose title is taken where a
    list has several, "" for the one that it puts first. `words` are a person's own, by concept or role of folders;
    `new` are the kinds of folders for work to come, `convert` the outside programs that turn files into others, `lists`
    the reference lists; `prefer` says which version of a game is preferred, `players` what players read,
    `standards` what things of a kind should be, `targets` what things are sent to, `mirrors` the backups.
    """

    name: str = ""
    everywhere: bool = True
    leave: tuple[str, ...] = ()
    shelves: tuple[Shelf, ...] = ()
    keep: tuple[str, ...] = ()
    namings: Mapping[str, Naming] = field(default_factory=conventions)
    roots: tuple[Root, ...] = ()
    systems: Mapping[str, tuple[tuple[str, ...], tuple[str, ...]]] = field(default_factory=dict)
    fields: Mapping[str, CustomField] = field(default_factory=dict)
    inbox: str = "Inbox"
    attic: str = "Attic"
    tags_inside: bool = False
    tags_beside: bool = False
    intake: IntakeConfig = field(default_factory=IntakeConfig)
    makers: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    files_unplayable: bool = False
    title_language: str = ""
    words: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    new: Mapping[str, NewFolder] = field(default_factory=dict)
    convert: Mapping[str, ConvertConfig] = field(default_factory=dict)
    lists: Mapping[str, ListConfig] = field(default_factory=dict)
    prefer: Prefer = field(default_factory=Prefer)
    players: Mapping[str, Player] = field(default_factory=dict)
    standards: Mapping[str, Standard] = field(default_factory=dict)
    targets: Mapping[str, Target] = field(default_factory=dict)
    mirrors: Mapping[str, Mirror] = field(default_factory=dict)

    def shelf_of(self, path: str, root: str = "") -> Shelf | None:
        """Return the shelf that `path` on `root` lies on; the innermost where one shelf lies below another."""
        key = same_name(path)
        found = [shelf for shelf in self.shelves if shelf.root == root and is_below(key, same_name(shelf.folder))]
        return max(found, key=lambda shelf: len(shelf.folder), default=None)

    def shelf_name(self, path: str, root: str = "") -> str:
        """Return the name of the shelf that `path` on `root` lies on, "" for none."""
        found = self.shelf_of(path, root)
        return found.name if found else ""

    def shelf_for(self, kind: Kind) -> Shelf | None:
        """Return the shelf that things of `kind` on the collection's own root go to: the first one of that kind."""
        return next((shelf for shelf in self.shelves if shelf.kind is kind and not shelf.root), None)

    def as_read(self, path: str, shelf: Shelf | None) -> str:
        """Return a path as a name is read from it: what makers sell from its shelf on, without custom folders."""
        if shelf is None:
            return path
        template = shelf.naming.templates.get(shelf.kind.value)
        own = bool(self.fields or fronts(template))
        if shelf.kind in _FROM_NAMES and not own:
            return path
        below = path[len(shelf.folder) + 1 :]
        if own:
            below = without_own(below, template, self.fields, is_folder=shelf.kind is Kind.KIT)
        return join(shelf.folder, below) if shelf.kind in _FROM_NAMES else below

    @property
    def standing(self) -> list[str]:
        """The folders that stay where they are empty: those of the shelves, the inbox, the attic."""
        return [*(shelf.folder for shelf in self.shelves), self.inbox, self.attic]

    def is_left(self, path: str) -> bool:
        """Say whether `path` is one of the folders that are left alone, or lies below one."""
        return any(fnmatch.fnmatchcase(part, pattern) for pattern in self.leave for part in (path, *above(path)))


def load(path: Path) -> Config:
    """Read and check the configuration at `path`. Raises ConfigError with the line of the mistake."""
    try:
        text = path.read_text("utf-8")
    except UnicodeDecodeError as error:
        raise ConfigError(f"{path} is not UTF-8 (byte {error.start}); save it as UTF-8 text.") from None
    except OSError as error:
        raise ConfigError(f"{path} can't be read: {error.strerror}. Check its permissions.") from None
    return parse(text, str(path))


def parse(text: str, source: str = FILE_NAME) -> Config:
    """Check the text of a configuration; `source` names it in messages. Raises ConfigError."""
    try:
        tables = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        raise ConfigError(f"{source} is not valid TOML: {error}. Correct that line.") from None
    written = ConfigText(text, source)
    check_sections(tables, written)
    head = collection.read(tables.get("collection", {}), written)
    fields = custom_field.read(tables.get("field", {}), written)
    namings = naming.read(tables.get("naming", {}), written, frozenset(fields))
    roots = root.read(tables.get("root", {}), written)
    players = player.read(tables.get("player", {}), written, namings)
    shelves = shelf.read(tables.get("shelf", {}), written, namings, players, [one.name for one in roots])
    tags_inside, tags_beside = tags.read(tables.get("tags", {}))
    return Config(
        name=head.name,
        everywhere=head.everywhere,
        leave=head.leave,
        shelves=shelves,
        keep=copies.read(tables.get("copies", {})),
        namings=namings,
        roots=roots,
        systems=system.with_folders(system.read(tables.get("system", {})), [one.folders for one in shelves]),
        fields=fields,
        inbox=head.inbox,
        attic=head.attic,
        tags_inside=tags_inside,
        tags_beside=tags_beside,
        intake=intake.read(tables.get("intake", {}), written),
        makers=maker.read(tables.get("maker", {})),
        files_unplayable=head.files_unplayable,
        title_language=titles.read(tables.get("titles", {}), written),
        words=words.read(tables.get("words", {})),
        convert=convert.read(tables.get("convert", {}), written),
        lists=reference_list.read(tables.get("list", {}), written),
        prefer=prefer.read(tables.get("prefer", {}), written),
        players=players,
        mirrors=mirror.read(tables.get("mirror", {}), written),
        targets=target.read(tables.get("target", {}), written, players),
        standards=standard.read(tables.get("standard", {}), written),
        new=new.read(tables.get("new", {}), written, frozenset(fields)),
    )
