"""Walls of pictures of a collection: what they show of items, and their pictures, made once and kept."""

from __future__ import annotations

import os
import shutil
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from pathlib import Path

from lazy_magpie.catalogue import Catalogue
from lazy_magpie.collection import PICTURES_DIR, Collection
from lazy_magpie.drives import present
from lazy_magpie.errors import UsageError
from lazy_magpie.fields import with_custom
from lazy_magpie.model import Item
from lazy_magpie.paths import join
from lazy_magpie.report.picture_store import PictureSource, PictureStore, place_of
from lazy_magpie.report.wall import Row, WallPlaces, details, name_ranks, row, source_of
from lazy_magpie.report.wall_page import MOST_IN_ONE, PICTURES, one_file, write_folder

SMALL_DIR = join(PICTURES_DIR, "small")
"""Where small pictures of things are kept, in the root."""


@dataclass(frozen=True)
class Wall:
    """Items as a wall shows them: a row and details each, with the name of its picture where there is one."""

    title: str
    rows: list[Row]
    details: list[Row]
    store: PictureStore

    def as_one_file(self) -> str:
        """Return the page with everything in it. Raises UsageError where that would be too much for one file."""
        if len(self.rows) > MOST_IN_ONE:
            raise too_many(len(self.rows))
        return one_file(self.title, self.rows, self.details, self.store.read)

    def write_to(self, folder: Path, tick: Callable[[int], None]) -> None:
        """Write the page with its data and pictures into a new folder."""
        places = {str(key): join(*place_of(str(key))) for row in self.rows if (key := row.get("picture"))}
        rows = [{**one, "picture": places[str(one["picture"])]} if "picture" in one else one for one in self.rows]
        write_folder(folder, self.title, rows, self.details)
        for part in {place.partition("/")[0] for place in places.values()}:
            (folder / PICTURES / part).mkdir(parents=True)
        for count, (key, place) in enumerate(places.items(), start=1):
            tick(count)
            shutil.copyfile(self.store.path(key), folder / PICTURES / place)


def too_many(count: int) -> UsageError:
    """Return the error for more items than one file can hold."""
    return UsageError(
        f"{count:,} items are too many for one file (it holds {MOST_IN_ONE:,}); write a folder with --folder DIR, "
        "choose fewer, or look at them with “magpie browse”."
    )


def store_of(collection: Collection) -> PictureStore:
    """Return the pictures that are kept of a collection."""
    return PictureStore(os.path.join(collection.root, SMALL_DIR))


def places_of_wall(collection: Collection, catalogue: Catalogue, home: str) -> WallPlaces:
    """Return what a wall says of places; `home` is the folder of its page, "" where it is in none."""
    return WallPlaces(collection.config.shelf_name, present(catalogue, collection), home)


def shown_of(
    collection: Collection, catalogue: Catalogue, items: Iterable[Item], places: WallPlaces
) -> tuple[list[Row], list[Row], list[PictureSource | None]]:
    """Return the rows of items, their details, and what their pictures are drawn from."""
    fields = with_custom(collection.config.fields.values())
    rows, whole, sources = [], [], []
    for item in items:
        rows.append(row(item, places, fields))
        whole.append(details(item, places, catalogue.digests.same_as(item.id)))
        sources.append(source_of(item))
    return rows, whole, sources


def wall_of(
    collection: Collection,
    catalogue: Catalogue,
    items: Iterable[Item],
    home: str,
    tick: Callable[[int], None] = lambda count: None,
) -> Wall:
    """Return the wall of some items, for a page in the folder `home`; what pictures there are not yet, are made.

    `tick` is told how many pictures were made.
    """
    places = places_of_wall(collection, catalogue, home)
    rows, whole, sources = shown_of(collection, catalogue, items, places)
    store = store_of(collection)
    for one, key in zip(rows, store.make(sources, places.whole, tick), strict=True):
        if key:
            one["picture"] = key
    name_ranks(rows)
    return Wall(collection.name, rows, whole, store)
