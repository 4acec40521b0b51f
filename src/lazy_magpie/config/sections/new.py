"""[new.NAME]: folders for work to come, by a template of one's own."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from lazy_magpie.config.config_text import ConfigText
from lazy_magpie.errors import TemplateError
from lazy_magpie.naming import template_of
from lazy_magpie.naming.safe import is_safe
from lazy_magpie.naming.template import Template

KEYS = {"path": str, "folders": list, "in": str}
NAMED = True
_PATH = "{today, date} {title}"


@dataclass(frozen=True, slots=True)
class NewFolder:
    """How a folder for work to come is made: its path below `home` ("" is the root), and the folders in it."""

    name: str
    path: Template
    folders: tuple[str, ...] = ()
    home: str = ""


USUAL = NewFolder("project", template_of(_PATH))
"""What is made where magpie.toml says nothing."""


def read(tables: Mapping[str, Any], source: ConfigText, own: frozenset[str]) -> dict[str, NewFolder]:
    """Return the kinds of new folders by name; `own` are custom fields that templates may use. Raises ConfigError."""
    found = {}
    for name, table in tables.items():
        prefix = ("new", name)
        try:
            template = template_of(table.get("path", _PATH), own)
        except TemplateError as error:
            raise source.wrong((*prefix, "path"), f"{error}") from None
        folders = tuple(source.folder(prefix, folder, "folders") for folder in table.get("folders", ()))
        for folder in folders:
            if not all(is_safe(part, everywhere=True) for part in folder.split("/")):
                raise source.wrong((*prefix, "folders"), f"“{folder}” is a name that not every disk takes.")
        home = source.folder(prefix, table["in"], "in") if "in" in table else ""
        found[name] = NewFolder(name, template, folders, home)
    return found
