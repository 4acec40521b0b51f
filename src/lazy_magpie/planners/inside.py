"""Plans what is written into songs and films: the fields that an item has, and the cover that lies beside it."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping

from lazy_magpie.inner_tags import Inside, takes
from lazy_magpie.model import FileStamp, Item, Kind, Step, Value
from lazy_magpie.model.steps import RewriteTags
from lazy_magpie.paths import name_of, parent, split_ending

_FIELDS = ("title", "artist", "album_artist", "album", "track", "disc", "year")
_COVERS = (".jpg", ".jpeg", ".png")
"""The endings of pictures that every format takes."""


def ending_of(path: str) -> str:
    """Return a path's ending in small letters, with its dot."""
    return split_ending(path)[1].lower()


def inside_steps(
    item: Item, inside: Mapping[str, Inside], cover: str, stamp: Callable[[str], FileStamp | None]
) -> Iterator[Step]:
    """Yield the step that gives an item's main file what it does not say yet; none where it says all.

    `inside` is what main files say, by their paths, `cover` the picture that will lie beside the item, "" for none.
    """
    there = inside.get(item.path)
    if there is None or sum(file.role == "main" for file in item.files) != 1:
        return
    wanted = {name: value for name, value in _fields(item).items() if name in takes(ending_of(item.path))}
    tags = {name: value for name, value in wanted.items() if there.tags.get(name) != value}
    has_room = "cover" in takes(ending_of(item.path)) and not there.has_cover and ending_of(cover) in _COVERS
    picture = cover if has_room else ""
    if not tags and not picture:
        return
    said = [name.replace("_", " ") for name in tags] + ["cover"] * bool(picture)
    yield RewriteTags(
        target=item.path,
        why=f"{', '.join(said)} inside",
        group=str(item.fields.get("artist") or item.fields.get("show") or name_of(parent(item.path)) or "."),
        item=item.id,
        stamp=stamp(item.path),
        tags=tags,
        cover=picture,
    )


def _fields(item: Item) -> dict[str, Value]:
    """Return what the file of an item should say of itself."""
    fields = item.fields
    match item.kind:
        case Kind.TRACK:
            return {name: fields[name] for name in _FIELDS if name in fields}
        case Kind.EPISODE:
            return {"title": fields["episode_title"]} if "episode_title" in fields else {}
        case Kind.MOVIE:
            return {name: fields[name] for name in ("title", "year") if name in fields}
        case _:
            return {}
