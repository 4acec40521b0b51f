"""[player.NAME]: what a player, a library or a device reads."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from lazy_magpie.config.config_text import ConfigText
from lazy_magpie.errors import TemplateError
from lazy_magpie.naming import Naming, template_of
from lazy_magpie.naming.safe import is_safe
from lazy_magpie.naming.template import Template
from lazy_magpie.suggest import nearest

KEYS = {
    "reads": list,
    "picture_codecs": list,
    "sound_codecs": list,
    "lines": str,
    "longest_name": int,
    "art": dict,
    "data": (str, dict),
    "play_lists": list,
    "discs": str,
    "naming": str,
    "beside": list,
    "folders": dict,
    "firmware": str,
}
NAMED = True
ROLES = ("cover", "backdrop", "thumbnail")
"""The pictures that a player may look for."""
THING = "thing"
ABOUT = (THING, "show", "album")
"""What data files may be about: each thing, and shows and albums as wholes."""
_FOLDER, _FORM, _WIDTH = "folder", "form", "width"
_FORMS = {"jpg": "jpeg", "jpeg": "jpeg", "png": "png", "webp": "webp"}
_LINES = re.compile(r"(?:up to )?(\d{3,4})p?")


@dataclass(frozen=True, slots=True)
class PictureShape:
    """The form ("jpeg", "png", "webp"; "": any) and the width in points (0: any) that pictures have at the most."""

    form: str = ""
    width: int = 0

    def ending(self, path: str) -> str:
        """Return the ending of a picture in this form, without its dot."""
        return {"jpeg": "jpg"}.get(self.form, self.form) or path.rpartition(".")[2].lower()


@dataclass(frozen=True, slots=True)
class Player:
    """A player: the endings (small letters, no dot) and codecs that it reads, none named for all of them.

    `lines` are the most that its pictures may have, `longest_name` the most bytes of a name, 0 for no matter.
    `art` are the names of pictures by their roles (cover, backdrop, thumbnail), `art_folder` is the folder beside a
    thing that they lie in ("": none), `art_shape` their form and size. `data` are the templates, or the open
    forms, of its data files, by what these are about (thing, show, album).
    `play_lists` are the systems whose play lists it understands, `discs` is the folder of their discs then ("": none).
    By `naming` the shelves are filed that name the player. `beside` are the roles of files that may lie beside a thing,
    None for all. `folders` are its own names for systems of games ("default": for all others, where {system}
    stands for the usual name), `firmware` is the folder of firmware on it, "" for none.
    """

    name: str
    reads: frozenset[str] = frozenset()
    picture_codecs: frozenset[str] = frozenset()
    sound_codecs: frozenset[str] = frozenset()
    lines: int = 0
    longest_name: int = 0
    art: Mapping[str, Template] = field(default_factory=dict)
    art_folder: str = ""
    data: Mapping[str, str] = field(default_factory=dict)
    play_lists: tuple[str, ...] = ()
    discs: str = ""
    naming: Naming | None = None
    art_shape: PictureShape = PictureShape()
    beside: frozenset[str] | None = None
    folders: Mapping[str, str] = field(default_factory=dict)
    firmware: str = ""


def read(tables: Mapping[str, Any], source: ConfigText, namings: Mapping[str, Naming]) -> dict[str, Player]:
    """Return the players by name. Raises ConfigError."""
    return {name: _player(name, table, source, namings) for name, table in tables.items()}


def _player(name: str, table: Mapping[str, Any], source: ConfigText, namings: Mapping[str, Naming]) -> Player:
    prefix = ("player", name)
    discs = table.get("discs", "")
    if discs and not is_safe(discs, everywhere=True):
        raise source.wrong((*prefix, "discs"), f"“{discs}” is no name of a folder that every disk takes.")
    said = table.get("lines", "")
    match = _LINES.fullmatch(said) if said else None
    if said and match is None:
        raise source.wrong((*prefix, "lines"), f"“lines” is like “up to 1080”, not “{said}”.")

    naming = table.get("naming", "")
    if naming and naming not in namings:
        hint = nearest(naming, namings, f"; there are {', '.join(namings)}.")
        raise source.wrong((*prefix, "naming"), f"there is no naming “{naming}”{hint}")

    def words(key: str) -> frozenset[str]:
        return frozenset(word.lower().removeprefix(".") for word in table.get(key, ()))

    art, art_folder, art_shape = _art(table.get("art", {}), (*prefix, "art"), source)
    return Player(
        name,
        words("reads"),
        words("picture_codecs"),
        words("sound_codecs"),
        int(match[1]) if match else 0,
        int(table.get("longest_name", 0)),
        art,
        art_folder,
        _data(table.get("data", {}), (*prefix, "data"), source),
        tuple(table.get("play_lists", ())),
        discs,
        namings[naming] if naming else None,
        art_shape,
        _beside(table.get("beside", ["all"])),
        _folders(table, prefix, source),
        table.get("firmware", ""),
    )


def _folders(table: Mapping[str, Any], prefix: tuple[str, ...], source: ConfigText) -> dict[str, str]:
    """Return the player's own names for systems. Raises ConfigError."""
    for own in (*table.get("folders", {}).values(), table.get("firmware", "")):
        if own and not is_safe(own.replace("{system}", "x"), everywhere=True):
            raise source.wrong((*prefix, "folders"), f"“{own}” is no name of a folder that every disk takes.")
    return dict(table.get("folders", {}))


def _data(said: str | Mapping[str, Any], keys: tuple[str, ...], source: ConfigText) -> dict[str, str]:
    """Return the forms of data files by what they are about; a form alone is that of things. Raises ConfigError."""
    if isinstance(said, str):
        return {THING: said} if said else {}
    for about in said:
        if about not in ABOUT:
            raise source.wrong(keys, f"there is no data about “{about}”{nearest(about, ABOUT)}")
    return dict(said)


def _beside(words: Sequence[str]) -> frozenset[str] | None:
    return None if "all" in words else frozenset(words) - {"none"}


def _art(
    table: Mapping[str, str], keys: tuple[str, ...], source: ConfigText
) -> tuple[dict[str, Template], str, PictureShape]:
    """Return the names of pictures by their roles, the folder that they lie in, and their shape. Raises ConfigError."""
    found: dict[str, Template] = {}
    for role, text in table.items():
        if role in (_FOLDER, _FORM, _WIDTH):
            continue
        if role not in ROLES:
            raise source.wrong(
                keys, f"there are no pictures called “{role}”{nearest(role, [*ROLES, _FOLDER, _FORM, _WIDTH])}"
            )
        try:
            found[role] = template_of(text, frozenset(["stem"]))
        except TemplateError as error:
            raise source.wrong(keys, f"{error}") from None
    folder = table.get(_FOLDER, "")
    if folder and not is_safe(folder, everywhere=True):
        raise source.wrong(keys, f"“{folder}” is no name of a folder that every disk takes.")
    form, width = table.get(_FORM, ""), table.get(_WIDTH, "0")
    if form and form not in _FORMS:
        raise source.wrong(keys, f"there is no form “{form}” for pictures; there are {', '.join(_FORMS)}.")
    if not width.isdecimal() or len(width) > 5:
        raise source.wrong(keys, f"“width” is a number of points, like “600”, not “{width}”.")
    return found, folder, PictureShape(_FORMS.get(form, ""), int(width))
