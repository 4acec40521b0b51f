"""Makes pictures from things that have none: the cover inside a song, a still, letters, stitches.

They lie in magpie's own folder, called by what they were made from, until a plan moves them beside their things; what
is undone comes back there.
"""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable

from lazy_magpie.collection import PICTURES_DIR, Collection
from lazy_magpie.model import Item
from lazy_magpie.paths import join, written
from lazy_magpie.report import portraits
from lazy_magpie.stable_hash import stable_bytes


def pictures_made(
    collection: Collection, wanted: Iterable[tuple[Item, str]], tick: Callable[[int], None]
) -> dict[str, str]:
    """Return the path of the picture made for each (item, path it gets, without ending), by that path.

    What can't be drawn is not in it. `tick` is told how many are done. Raises OSError where the pictures can't be kept.
    """
    folder = os.path.join(collection.root, PICTURES_DIR)
    os.makedirs(folder, exist_ok=True)
    there = set(os.listdir(folder))
    lacking = list(wanted)
    names = {stem: _name(item, stem) for item, stem in lacking}
    missing = [(item, stem) for item, stem in lacking if names[stem] not in there]
    files = [(item.kind, os.path.join(collection.root, item.path)) for item, _ in missing]
    for count, (at, picture) in enumerate(portraits(files), start=1):
        tick(count)
        name = names[missing[at][1]]
        _keep(os.path.join(folder, name), picture)
        there.add(name)
    return {stem: join(PICTURES_DIR, name) for stem, name in names.items() if name in there}


def _name(item: Item, stem: str) -> str:
    """Return the name of a picture in the making: another one where the item's file is another."""
    told = (written(stem), [(written(file.path), tuple(file.stamp)) for file in item.files[:1]])
    return f"{stable_bytes(told, 16).hex()}.jpg"


def _keep(path: str, picture: bytes) -> None:
    """Write a picture so that it is there whole or not at all."""
    with open(f"{path}.part", "wb") as file:
        file.write(picture)
    os.replace(f"{path}.part", path)
