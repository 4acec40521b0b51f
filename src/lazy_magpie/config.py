"""magpie.toml into frozen values; every mistake is named with its key and line."""

from __future__ import annotations

import dataclasses
import fnmatch
import os
import re
import tomllib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from lazy_magpie.errors import ConfigError, TemplateError, UsageError
from lazy_magpie.fields import FIELDS, PLACES, OwnField, OwnSort
from lazy_magpie.model import Kind
from lazy_magpie.naming import KINDS, TEMPLATE_FIELDS, TEMPLATE_KEYS, Naming, conventions, from_table
from lazy_magpie.naming.levels import fronts, without_own
from lazy_magpie.paths import above, is_below, join, same_name
from lazy_magpie.suggest import nearest

FILE_NAME = "magpie.toml"
_FROM_NAMES = (Kind.MOVIE, Kind.EPISODE, Kind.PICTURE, Kind.DOCUMENT)
"""Kinds that are read alike whatever their shelf is called."""
WITHOUT = ("stay", "inbox")
"""What may become of things that lack a field which their naming needs."""


@dataclass(frozen=True, slots=True)
class Shelf:
    """A folder below which everything is of one kind, and the naming that its things are filed by.

    `root` is the name of the root that it is on, "" for the collection's own. `without` says what becomes of things
    that lack a field which the naming needs: "stay", or "inbox".
    """

    name: str
    kind: Kind
    folder: str
    naming: Naming
    root: str = ""
    without: str = "stay"


@dataclass(frozen=True, slots=True)
class Root:
    """A folder tree besides the collection's own, on another drive most likely; `folder` is where it was told to be."""

    name: str
    folder: str


@dataclass(frozen=True, slots=True)
class Intake:
    """How downloads come in: the folders they land in, whether files are moved or copied, what becomes of archives.

    `archives` says where an archive goes that was unpacked: "beside" what came out of it, "aside" into the folder
    `aside`, or "hold", into the holding area, once all of it was compared; "hold all" also holds one of which the files
    of some system were left out. `tag` is put on what has come in.
    """

    sources: tuple[str, ...] = ()
    take: str = "move"
    archives: str = "beside"
    aside: str = "Archives"
    tag: str = ""


_TAKES, _ARCHIVES = ("move", "copy"), ("beside", "aside", "hold", "hold all")


@dataclass(frozen=True, slots=True)
class Config:
    """What magpie.toml says. `leave` are patterns of folders that nothing is ever moved from or to.

    `systems` are systems of games by name, each with the names of its folders and with its endings (".trn").
    `fields` are fields of one's own, by name; `inbox` is the folder of what has no place yet.
    `tags_inside` says that tags are kept inside files, too, `tags_beside` in sidecars where a drive has no attributes.
    `makers` are known makers, each with the other spellings of the name. `files_unplayable` says that films and songs
    are filed that are empty, cut off, or can't be read.
    """

    name: str = ""
    everywhere: bool = True
    leave: tuple[str, ...] = ()
    shelves: tuple[Shelf, ...] = ()
    keep: tuple[str, ...] = ()
    namings: Mapping[str, Naming] = field(default_factory=conventions)
    roots: tuple[Root, ...] = ()
    systems: Mapping[str, tuple[tuple[str, ...], tuple[str, ...]]] = field(default_factory=dict)
    fields: Mapping[str, OwnField] = field(default_factory=dict)
    inbox: str = "Inbox"
    tags_inside: bool = False
    tags_beside: bool = False
    intake: Intake = field(default_factory=Intake)
    makers: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    files_unplayable: bool = False

    def shelf_of(self, path: str, root: str = "") -> Shelf | None:
        """Return the shelf that `path` on `root` lies on; the innermost where one shelf lies below another."""
        key = same_name(path)
        found = [shelf for shelf in self.shelves if shelf.root == root and is_below(key, same_name(shelf.folder))]
        return max(found, key=lambda shelf: len(shelf.folder), default=None)

    def shelf_for(self, kind: Kind) -> Shelf | None:
        """Return the shelf that things of `kind` on the collection's own root go to: the first one of that kind."""
        return next((shelf for shelf in self.shelves if shelf.kind is kind and not shelf.root), None)

    def as_read(self, path: str, shelf: Shelf | None) -> str:
        """Return a path as a name is read from it: what makers sell from its shelf on, without folders of one's own."""
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

    def is_left(self, path: str) -> bool:
        """Say whether `path` is one of the folders that are left alone, or lies below one."""
        return any(fnmatch.fnmatchcase(part, pattern) for pattern in self.leave for part in (path, *above(path)))


_SECTIONS: Mapping[str, Mapping[str, type]] = {
    "collection": {"name": str, "safe_names": str, "leave": list, "inbox": str, "unplayable": str},
    "shelf": {"kind": str, "folder": str, "naming": str, "root": str, "without": str},
    "root": {"folder": str},
    "naming": {**dict.fromkeys(TEMPLATE_KEYS, str), "specials": str, "companions": bool, "sections": dict},
    "system": {"folders": list, "endings": list},
    "copies": {"keep": list},
    "tags": {"inside": bool, "sidecars": bool},
    "intake": {"from": list, "take": str, "archives": str, "aside": str, "tag": str},
    "maker": {"also": list},
    "field": {"type": str, "allowed": list, "needed": bool, "note": str, "from_tags": dict},
}
_NAMED = ("shelf", "naming", "root", "system", "field", "maker")
_TYPE_WORDS = {
    str: "a text in quotes",
    list: "a list of texts",
    bool: "true or false",
    dict: 'texts by words, like { new = "!" }',
}
_OWN_NAME = re.compile(r"[a-z][a-z_]{0,39}")


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
    """Check the text of a configuration; `source` names it in messages."""
    try:
        tables = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        raise ConfigError(f"{source} is not valid TOML: {error}. Correct that line.") from None
    return _Reader(text, source).config(tables)


class _Reader:
    """Turns checked tables into values, and names the line of what is wrong in them."""

    def __init__(self, text: str, source: str) -> None:
        self.text = text
        self.source = source

    def wrong(self, keys: tuple[str, ...], what: str) -> ConfigError:
        """Return the error for the value under `keys`."""
        return ConfigError(f"{self.source}, line {_line_of(self.text, keys)}: {what}")

    def config(self, tables: Mapping[str, Any]) -> Config:
        """Check the sections, then their keys, then what they mean together."""
        for section, table in tables.items():
            self._check_section(section, table)
        head = tables.get("collection", {})
        safe_names = head.get("safe_names", "everywhere")
        if safe_names not in ("everywhere", "linux"):
            what = f"safe_names is “everywhere” or “linux”, not “{safe_names}”."
            raise self.wrong(("collection", "safe_names"), what)
        unplayable = head.get("unplayable", "stay")
        if unplayable not in ("stay", "file"):
            raise self.wrong(("collection", "unplayable"), f"unplayable is “stay” or “file”, not “{unplayable}”.")
        fields = {name: self._field(name, table) for name, table in tables.get("field", {}).items()}
        namings = {**conventions(), **self._namings(tables.get("naming", {}), frozenset(fields))}
        roots = self._roots(tables.get("root", {}))
        return Config(
            name=head.get("name", ""),
            everywhere=safe_names == "everywhere",
            leave=tuple(pattern.strip("/") for pattern in head.get("leave", [])),
            shelves=self._shelves(tables.get("shelf", {}), namings, [root.name for root in roots]),
            roots=roots,
            systems={name: _system(table) for name, table in tables.get("system", {}).items()},
            keep=tuple(tables.get("copies", {}).get("keep", [])),
            namings=namings,
            fields=fields,
            intake=self._intake(tables.get("intake", {})),
            makers={name: tuple(table.get("also", ())) for name, table in tables.get("maker", {}).items()},
            tags_inside=tables.get("tags", {}).get("inside", False),
            tags_beside=tables.get("tags", {}).get("sidecars", False),
            inbox=self._folder(("collection",), head.get("inbox", "Inbox"), "inbox"),
            files_unplayable=unplayable == "file",
        )

    def _check_section(self, section: str, table: object) -> None:
        if section not in _SECTIONS:
            raise self.wrong((section,), f"there is no section “{section}”{nearest(section, _SECTIONS)}")
        if not isinstance(table, dict):
            raise self.wrong((section,), f"“{section}” is a section: write [{section}] on a line of its own.")
        named = table.items() if section in _NAMED else [("", table)]
        for name, inner in named:
            prefix = (section, name) if name else (section,)
            if not isinstance(inner, dict):
                raise self.wrong(prefix, f"write [{section}.{name}] on a line of its own, with its keys below.")
            for key, value in inner.items():
                self._check_key(prefix, key, value)

    def _check_key(self, prefix: tuple[str, ...], key: str, value: object) -> None:
        known = _SECTIONS[prefix[0]]
        if key not in known:
            raise self.wrong((*prefix, key), f"[{'.'.join(prefix)}] has no key “{key}”{nearest(key, known)}")
        wanted = known[key]
        fits = isinstance(value, wanted)
        if fits and wanted in (list, dict):
            parts = value.values() if isinstance(value, dict) else value
            fits = all(isinstance(part, str) for part in parts)  # type: ignore[attr-defined]
        if not fits:
            raise self.wrong((*prefix, key), f"“{key}” is {_TYPE_WORDS[wanted]}.")

    def _intake(self, table: Mapping[str, Any]) -> Intake:
        for key, allowed in (("take", _TAKES), ("archives", _ARCHIVES)):
            if key in table and table[key] not in allowed:
                hint = nearest(table[key], allowed, f"; there are {', '.join(allowed)}.")
                raise self.wrong(("intake", key), f"“{key}” can't be “{table[key]}”{hint}")
        aside = self._folder(("intake",), table.get("aside", "Archives"), "aside")
        sources = tuple(os.path.expanduser(path) for path in table.get("from", ()))
        take, archives = table.get("take", "move"), table.get("archives", "beside")
        return Intake(sources, take, archives, aside, table.get("tag", ""))

    def _field(self, name: str, table: Mapping[str, Any]) -> OwnField:
        prefix = ("field", name)
        if not _OWN_NAME.fullmatch(name):
            raise self.wrong(prefix, f"“{name}” can't be a field's name: small letters and _, no more than 40.")
        if name in FIELDS or name in PLACES or name in TEMPLATE_FIELDS or name in ("id", "what", "tags"):
            raise self.wrong(prefix, f"there is a field “{name}” already; call yours otherwise.")
        sorts = [sort.value for sort in OwnSort]
        sort = table.get("type", OwnSort.TEXT.value)
        if sort not in sorts:
            hint = nearest(sort, sorts, f"; there are {', '.join(sorts)}.")
            raise self.wrong((*prefix, "type"), f"there is no type “{sort}”{hint}")
        allowed = tuple(table.get("allowed", ()))
        own = OwnField(name, OwnSort(sort), (), table.get("needed", False), table.get("note", ""))
        for key, words in (("allowed", allowed), ("from_tags", tuple(table.get("from_tags", {}).values()))):
            for word in words:
                try:
                    if not word.strip() or own.value(word) in ([], "") or (sort == OwnSort.WORDS and "," in word):
                        raise UsageError(f"“{word}” can't be one word of “{name}”")
                except UsageError as error:
                    raise self.wrong((*prefix, key), f"{error}.") from None
        return dataclasses.replace(own, allowed=allowed, from_tags=table.get("from_tags", {}))

    def _namings(self, tables: Mapping[str, Any], own: frozenset[str]) -> dict[str, Naming]:
        found = {}
        for name, table in tables.items():
            for key in TEMPLATE_KEYS:
                if key in table:
                    try:
                        from_table(name, {key: table[key]}, own)
                    except TemplateError as error:
                        raise self.wrong(("naming", name, key), f"{error}") from None
            if "/" in table.get("specials", ""):
                raise self.wrong(("naming", name, "specials"), "“specials” is the name of one folder, without “/”.")
            found[name] = from_table(name, table, own)
        return found

    def _roots(self, tables: Mapping[str, Any]) -> tuple[Root, ...]:
        """Check the drives: each a whole path, none inside another or around the collection's own root."""
        own = os.path.abspath(os.path.dirname(self.source))
        found: dict[str, str] = {}
        for name, table in tables.items():
            prefix = ("root", name)
            if "folder" not in table:
                raise self.wrong(prefix, f"[root.{name}] has no “folder”.")
            folder = os.path.normpath(os.path.expanduser(table["folder"]))
            if not os.path.isabs(folder):
                what = f"the folder “{table['folder']}” is no whole path; write it from the top: “/media/attic/Films”."
                raise self.wrong((*prefix, "folder"), what)
            for other, place in {"the collection": own, **found}.items():
                if is_below(folder, place) or is_below(place, folder):
                    named = other if other == "the collection" else f"[root.{other}]"
                    what = f"the folder “{folder}” and that of {named} lie one in the other; a root stands for itself."
                    raise self.wrong((*prefix, "folder"), what)
            found[name] = folder
        return tuple(Root(name, folder) for name, folder in found.items())

    def _shelves(
        self, tables: Mapping[str, Any], namings: Mapping[str, Naming], roots: Sequence[str]
    ) -> tuple[Shelf, ...]:
        shelves: list[Shelf] = []
        for name, table in tables.items():
            prefix = ("shelf", name)
            for key in ("kind", "folder"):
                if key not in table:
                    raise self.wrong(prefix, f"[shelf.{name}] has no “{key}”.")
            if table["kind"] not in KINDS:
                hint = nearest(table["kind"], KINDS, f"; there are {', '.join(KINDS)}.")
                raise self.wrong((*prefix, "kind"), f"no shelf can be of kind “{table['kind']}”{hint}")
            naming = table.get("naming", _usual_naming(table["kind"]))
            if naming not in namings:
                hint = nearest(naming, namings, f"; there are {', '.join(namings)}.")
                raise self.wrong((*prefix, "naming"), f"there is no naming “{naming}”{hint}")
            if table["kind"] not in namings[naming].templates:
                what = f"the naming “{naming}” has no template for “{table['kind']}”."
                raise self.wrong((*prefix, "naming"), what)
            folder = self._folder(prefix, table["folder"])
            root = table.get("root", "")
            if root and root not in roots:
                hint = nearest(root, roots, f"; there are {', '.join(roots) or 'none'}.")
                raise self.wrong((*prefix, "root"), f"there is no root “{root}”{hint}")
            for other in shelves:
                if other.root == root and same_name(other.folder) == same_name(folder):
                    raise self.wrong((*prefix, "folder"), f"[shelf.{other.name}] has the folder “{folder}” already.")
            without = table.get("without", "stay")
            if without not in WITHOUT:
                hint = nearest(without, WITHOUT, f"; there are {', '.join(WITHOUT)}.")
                raise self.wrong((*prefix, "without"), f"“without” can't be “{without}”{hint}")
            shelves.append(Shelf(name, Kind(table["kind"]), folder, namings[naming], root, without))
        return tuple(shelves)

    def _folder(self, prefix: tuple[str, ...], text: str, key: str = "folder") -> str:
        folder = text.rstrip("/")
        parts = folder.split("/")
        if not folder or text.startswith(("/", "~")) or ".." in parts or "\\" in text:
            what = f"the {key} “{text}” is not inside the collection; write a path below its root, like “Films”."
            raise self.wrong((*prefix, key), what)
        return "/".join(part for part in parts if part not in ("", "."))


def _usual_naming(kind: str) -> str:
    return "screen" if kind in conventions()["screen"].templates else "maker"


def _system(table: Mapping[str, list[str]]) -> tuple[tuple[str, ...], tuple[str, ...]]:
    endings = tuple(f".{ending.lower().lstrip('.')}" for ending in table.get("endings", []))
    return tuple(table.get("folders", [])), endings


_HEADER = re.compile(r"^\s*\[\s*([^\[\]]+?)\s*\]\s*(?:#.*)?$")
_KEY = re.compile(r"""^\s*("[^"]*"|'[^']*'|[\w-]+(?:\s*\.\s*[\w-]+)*)\s*=""")


def _line_of(text: str, keys: tuple[str, ...]) -> int:
    """Return the line (from 1) where `keys` stands, or the nearest section above it."""
    best, depth = 1, 0
    section: tuple[str, ...] = ()
    for number, line in enumerate(text.splitlines(), start=1):
        if match := _HEADER.match(line):
            section = _key_parts(match.group(1))
            here = section
        elif match := _KEY.match(line):
            here = (*section, *_key_parts(match.group(1)))
        else:
            continue
        if here == keys:
            return number
        common = len(here) if here == keys[: len(here)] else 0
        if common > depth:
            best, depth = number, common
    return best


def _key_parts(text: str) -> tuple[str, ...]:
    return tuple(part.strip().strip("\"'") for part in re.findall(r"\"[^\"]*\"|'[^']*'|[^.\s]+", text))
