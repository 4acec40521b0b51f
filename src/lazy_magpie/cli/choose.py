"""Opening the collection, and choosing items: paths, find words, or both."""

from __future__ import annotations

import argparse
import os
from collections.abc import Sequence
from pathlib import Path

from lazy_magpie import change, find
from lazy_magpie import collection as collections
from lazy_magpie.catalogue import Catalogue, Condition, OneOf
from lazy_magpie.cli.terminal import Terminal
from lazy_magpie.collection import Collection
from lazy_magpie.errors import UsageError
from lazy_magpie.model import id_number
from lazy_magpie.plans.carry_out import area_of, recover


def collection_of(args: argparse.Namespace) -> Collection:
    """Return the collection that -C or the current folder names, with its configuration checked."""
    found = collections.find(Path(args.folder))
    _ = found.config
    return found


def condition_of(collection: Collection, catalogue: Catalogue, words: Sequence[str]) -> Condition:
    """Return the condition for items chosen by paths, find words, an id, or all of these."""
    if len(words) == 1 and (number := id_number(words[0])) and next(catalogue.items.ask(OneOf((number,))), None):
        return OneOf((number,))
    shelves = {shelf.name: shelf.folder for shelf in collection.config.shelves}
    return find.parse(words, lambda word: path_of(collection, word), shelves)


def path_of(collection: Collection, word: str) -> str | None:
    """Return the path below the root that a word names, None where it names none: from here, or from the root."""
    for candidate in (os.path.abspath(word), os.path.join(collection.root, word)):
        if os.path.lexists(candidate) and ("/" in word or os.path.exists(candidate)):
            inside = collection.relative(candidate)
            if inside is not None:
                return inside
    if word.startswith(("/", "./", "../")):
        raise UsageError(f"“{word}” is not in the collection {collection.root}.")
    return None


def told_of_crash(collection: Collection, terminal: Terminal) -> None:
    """Say that a crash has left a change unfinished: what a command that only reads does about it."""
    for found in change.unfinished(area_of(collection)):
        terminal.note(
            f"Change {found.number} ({found.command}) is unfinished after a crash; the next command that writes "
            "puts it right."
        )


def recovered(collection: Collection, catalogue: Catalogue, terminal: Terminal) -> None:
    """Put right what a crash left half done, and say what was done."""
    for found in recover(collection, catalogue):
        terminal.note(found.text)
