"""Makes pictures for things: from those that have none (a cover inside, a still, letters, stitches), and others in the
form and size that a player takes.

They lie in magpie's own folder, called by what they were made from, until a plan moves them beside their things; what
is undone comes back there.
"""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable, Iterator, Sequence
from typing import TypeVar

from lazy_magpie.collection import PICTURES_DIR, Collection
from lazy_magpie.config import PictureShape
from lazy_magpie.model import FileStamp, Item, Kind
from lazy_magpie.paths import join, name_of, written
from lazy_magpie.planners.companion_files import home_and_stem
from lazy_magpie.report import fitted, portraits
from lazy_magpie.report.picture_store import keep_whole
from lazy_magpie.stable_hash import stable_bytes

QuestionT = TypeVar("QuestionT")


def pictures_made(
    collection: Collection, wanted: Iterable[tuple[Item, str]], tick: Callable[[int], None]
) -> dict[str, str]:
    """Return the path of the picture made for each (item, path it gets, without ending), by that path.

    What can't be drawn is not in it. `tick` is told how many are done. Raises OSError where the pictures can't be kept.
    """

    def draw(lacking: Sequence[tuple[Item, str]]) -> Iterator[tuple[int, bytes]]:
        return portraits([(item.kind, os.path.join(collection.root, _drawn_from(item))) for item, _ in lacking])

    asked = [(_name((written(stem), _files(item)), "jpg"), (item, stem)) for item, stem in wanted]
    found = _kept(collection, asked, draw, tick)
    return {stem: found[name] for name, (_, stem) in asked if name in found}


def pictures_shaped(
    collection: Collection,
    wanted: Iterable[tuple[str, PictureShape, FileStamp | None]],
    tick: Callable[[int], None] = lambda count: None,
) -> dict[tuple[str, PictureShape], str]:
    """Return the path of each picture (path, shape, how it looks) in that shape; what has it already is not in it.

    What can't be read is not in it either. Raises OSError where the pictures can't be kept.
    """

    def shape(lacking: Sequence[tuple[str, PictureShape]]) -> Iterator[tuple[int, bytes]]:
        return fitted([(os.path.join(collection.root, path), one.form, one.width) for path, one in lacking])

    asked = [
        (_name((written(path), tuple(stamp or ()), one.form, one.width), one.ending(path)), (path, one))
        for path, one, stamp in dict.fromkeys(wanted)
    ]
    found = _kept(collection, asked, shape, tick)
    return {question: found[name] for name, question in asked if name in found}


def _kept(
    collection: Collection,
    asked: Sequence[tuple[str, QuestionT]],
    make: Callable[[Sequence[QuestionT]], Iterator[tuple[int, bytes]]],
    tick: Callable[[int], None],
) -> dict[str, str]:
    """Make the pictures that are not there under their names; return the paths of those that are, by their names."""
    folder = os.path.join(collection.root, PICTURES_DIR)
    os.makedirs(folder, exist_ok=True)
    there = set(os.listdir(folder))
    missing = [(name, question) for name, question in asked if name not in there]
    for count, (at, picture) in enumerate(make([question for _, question in missing]), start=1):
        tick(count)
        keep_whole(os.path.join(folder, missing[at][0]), picture)
        there.add(missing[at][0])
    return {name: join(PICTURES_DIR, name) for name, _ in asked if name in there}


def _name(told: object, ending: str) -> str:
    """Return the name of a picture in the making: another one where what it is made from is another."""
    return f"{stable_bytes(told, 16).hex()}.{ending}"


def _files(item: Item) -> list[tuple[str, tuple[int, ...]]]:
    return [(written(file.path), tuple(file.stamp)) for file in item.files[:1]]


def _drawn_from(item: Item) -> str:
    """Return what a picture is made from: the main file, or the folder of a kit."""
    home, stem = home_and_stem(item)
    return home if item.kind is Kind.KIT and name_of(home) == stem else item.path
