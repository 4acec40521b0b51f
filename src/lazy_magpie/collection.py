"""A collection: where it is, what its configuration says, where its own files lie."""

from __future__ import annotations

import os
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING

from lazy_magpie.errors import UsageError
from lazy_magpie.paths import CONFIG_NAME

if TYPE_CHECKING:
    from lazy_magpie.config import Config

CATALOGUE_NAME = "catalogue.db"
HELD_NAME, MANIFEST_NAME = "held", "manifest.jsonl"
"""The holding area in magpie's own folder, and what is told of it there for people."""
STATE_DIR_NAME = ".magpie"
"""The folder in the root that holds magpie's own files; no scan goes into it, and no plan brings anything there."""
PICTURES_DIR = f"{STATE_DIR_NAME}/pictures"
"""Where pictures made from things wait for the plan that brings them beside these."""


@dataclass(frozen=True)
class Collection:
    """A folder tree with a magpie.toml at its top."""

    root: Path

    @cached_property
    def config(self) -> Config:
        """What magpie.toml says, read once; names are read with its words from here on. Raises ConfigError."""
        from lazy_magpie import config, words

        found = config.load(self.root / CONFIG_NAME)
        words.use(found.words)
        return found

    @property
    def state_dir(self) -> Path:
        """Where magpie's own files lie."""
        return self.root / STATE_DIR_NAME

    def has_journals(self) -> bool:
        """Say whether any change was ever made, by what lies in magpie's own folder."""
        return any((self.state_dir / "journal").glob("*"))

    @property
    def catalogue_path(self) -> Path:
        """The catalogue's file."""
        return self.state_dir / CATALOGUE_NAME

    @property
    def name(self) -> str:
        """The collection's name: as configured, else its folder's."""
        return self.config.name or self.root.name

    def relative(self, path: str) -> str | None:
        """Return a path given on the command line relative to the root ("" for the root), None if it is outside.

        Symbolic links above the last part are followed, the last part is taken as it is.
        """
        whole = os.path.abspath(path)
        root = os.path.realpath(self.root)
        folder, name = os.path.split(whole)
        for candidate in (whole, os.path.join(os.path.realpath(folder), name)):
            for top in (str(self.root), root):
                if candidate == top:
                    return ""
                if candidate.startswith(top.rstrip("/") + "/"):
                    return candidate[len(top.rstrip("/")) + 1 :]
        return None


def find(start: Path) -> Collection:
    """Return the collection that `start` lies in. Raises UsageError where there is none."""
    if not start.is_dir():
        raise UsageError(f"There is no folder {start}; name an existing one with -C.")
    here = start.resolve()
    for folder in (here, *here.parents):
        if (folder / CONFIG_NAME).is_file():
            return Collection(folder)
    raise UsageError(
        f"No collection here: neither {here} nor a folder above it holds a {CONFIG_NAME}. "
        "Go into one, name one with -C, or make one with “magpie start”."
    )
