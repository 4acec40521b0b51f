"""Makes the plan of what players read beside things, from the catalogue, the disk, templates and pictures elsewhere."""

from __future__ import annotations

import os
from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path

from lazy_magpie import inner_tags
from lazy_magpie.catalogue import Catalogue, Condition, Is
from lazy_magpie.change import Filesystem
from lazy_magpie.collection import Collection
from lazy_magpie.companion_files import FORMS, DataForm, FoundPicture, PictureMatcher, data_form
from lazy_magpie.config import PictureShape, Player
from lazy_magpie.errors import UsageError
from lazy_magpie.identify.file_types import PICTURES
from lazy_magpie.identify.title_keys import key_of
from lazy_magpie.inner_tags import Inside, takes
from lazy_magpie.intake.downloads import outside
from lazy_magpie.model import FileStamp, Item, Plan
from lazy_magpie.planners.after_moves import AfterMoves, joined
from lazy_magpie.planners.companion_files import KINDS, CompanionSources, companion_files
from lazy_magpie.planners.inside import ending_of
from lazy_magpie.readers.worker_pool import ask_all
from lazy_magpie.services.listing import listing_of
from lazy_magpie.services.made_pictures import pictures_made, pictures_shaped

_LARGEST = 1 << 20
_Judge = Callable[[Item, FoundPicture], FoundPicture | None]


@dataclass(frozen=True)
class CompanionWishes:
    """What is asked for: `pictures` is a folder of pictures elsewhere, "" for none.

    `judge` says what becomes of a picture that may be an item's, and may be not. With `tick`, pictures are made for
    what has none otherwise; it is told how many are done. With `inside`, fields and covers go into songs and films,
    too. With `again`, data files that are there are written anew.
    """

    pictures: str = ""
    judge: _Judge = lambda item, found: found
    tick: Callable[[int], None] | None = None
    inside: bool = False
    again: bool = False


def plan_companion_files(
    collection: Collection,
    catalogue: Catalogue,
    condition: Condition,
    players: Sequence[Player],
    wishes: CompanionWishes,
) -> Plan:
    """Plan the pictures and data files of what meets a condition.

    Raises UsageError for a template that can't be read, and where no player wants anything.
    """
    wanted = [player for player in players if player.art or player.data]
    if not wanted and not wishes.inside:
        raise UsageError("No player wants anything beside things; say in magpie.toml, [player.NAME], art or data.")
    root = str(collection.root)
    disk = Filesystem(root)
    items = list(catalogue.items.ask(condition))
    matcher = _matcher(root, items, wishes) if wishes.pictures else lambda item: None

    sources = CompanionSources(
        disk, listing_of(root), _forms(collection, wanted), matcher, stamp=partial(_stamp, disk), again=wishes.again,
        things_of=lambda kind, title: catalogue.items.ask(Is(kind, title)),
    )  # fmt: skip
    if wishes.inside:
        sources = replace(sources, inside=_inside(collection, items))
    sources = _with_prepared(collection, items, wanted, sources, wishes.tick)
    return companion_files(items, lambda item: wanted, collection.config, sources)


def _with_prepared(
    collection: Collection,
    items: Sequence[Item],
    players: Sequence[Player],
    sources: CompanionSources,
    tick: Callable[[int], None] | None,
) -> CompanionSources:
    """Return the sources with the pictures that have to be made first: a plan is asked which these are."""
    if not tick and not any(player.art_shape != PictureShape() for player in players):
        return sources
    lacking: list[tuple[Item, str]] = []
    others: list[tuple[str, PictureShape, FileStamp | None]] = []
    asking = replace(
        sources,
        made=lambda item, stem: lacking.append((item, stem)),
        shaped=lambda path, player: others.append((path, player.art_shape, sources.stamp(path))),
    )
    companion_files(items, lambda item: players, collection.config, asking)
    wanted = [one for one in others if one[1] != PictureShape()]
    shaped = pictures_shaped(collection, wanted) if wanted else {}
    made = pictures_made(collection, lacking, tick) if tick else {}
    return replace(
        sources,
        made=lambda item, stem: made.get(stem),
        shaped=lambda path, player: shaped.get((path, player.art_shape)),
    )


def with_companions(collection: Collection, catalogue: Catalogue, condition: Condition, plan: Plan) -> Plan:
    """Return a plan of `tidy` with what the players of the shelves read beside things, where these will lie."""
    config, root = collection.config, str(collection.root)
    players = [player for shelf in config.shelves if (player := config.players.get(shelf.player))]
    wanted = [player for player in players if player.art or player.data]
    if not wanted:
        return plan
    after = AfterMoves(plan.steps, listing_of(root))
    disk = Filesystem(root)

    def of_shelf(item: Item) -> Sequence[Player]:
        shelf = config.shelf_of(item.path)
        player = config.players.get(shelf.player) if shelf else None
        return [player] if player else []

    sources = CompanionSources(
        disk, after.listing, _forms(collection, wanted), stamp=partial(_stamp, disk),
        things_of=lambda kind, title: map(after.item, catalogue.items.ask(Is(kind, title))), was=after.was,
    )  # fmt: skip
    more = companion_files(map(after.item, catalogue.items.ask(condition)), of_shelf, config, sources)
    return joined(plan, more, listing_of(root), config.standing) if more.steps or more.unmoved else plan


def _stamp(disk: Filesystem, path: str) -> FileStamp | None:
    status = disk.status(path)
    return status.stamp if status else None


def _inside(collection: Collection, items: Sequence[Item]) -> dict[str, Inside]:
    """Return what is inside the main files into which something can be written; what can't be read is not in it."""
    root, left = str(collection.root), collection.config.is_left
    paths = [item.path for item in items if not item.root and not left(item.path) and takes(ending_of(item.path))]
    found: dict[str, Inside] = {}
    for at, told in ask_all([os.path.join(root, path) for path in paths], inner_tags.__name__):
        if isinstance(tags := told.get("tags"), dict):
            found[paths[at]] = Inside(tags, bool(told["has_cover"]))
    return found


def _forms(collection: Collection, players: Iterable[Player]) -> dict[str, DataForm]:
    """Return the forms of the data files that players want, by what they are called there."""
    return {name: _form(collection, name, player) for player in players for name in player.data.values()}


def _form(collection: Collection, name: str, player: Player) -> DataForm:
    """Return a form of data files: an open one by its name, else that of a template."""
    if name in FORMS:
        return FORMS[name]
    path = collection.root / name
    try:
        with path.open("rb") as file:
            text = file.read(_LARGEST).decode("utf-8")
    except (OSError, UnicodeDecodeError) as error:
        why = (error.strerror or "unreadable").lower() if isinstance(error, OSError) else "it is not UTF-8"
        raise UsageError(
            f"The template {name} of [player.{player.name}] can't be read: {why}; put it there, or name "
            f"{' or '.join(FORMS)}."
        ) from None
    return data_form(path.name, text)


class _Elsewhere:
    """Pictures in a folder elsewhere, for items: what only one item is called is sure, what is not is judged once."""

    def __init__(self, root: str, items: Sequence[Item], wishes: CompanionWishes) -> None:
        self._judge = wishes.judge
        self._judged: dict[int, FoundPicture | None] = {}
        self._matcher = PictureMatcher(_pictures_below(root, wishes.pictures), key_of)
        self._titles = Counter(self._matcher.title_of(item) for item in items if item.kind in KINDS)

    def __call__(self, item: Item) -> FoundPicture | None:
        if item.id not in self._judged:
            found = self._matcher.find(item, is_alone=self._titles[self._matcher.title_of(item)] == 1)
            self._judged[item.id] = self._judge(item, found) if found and not found.is_sure else found
        return self._judged[item.id]


def _matcher(root: str, items: Sequence[Item], wishes: CompanionWishes) -> _Elsewhere:
    if not os.path.isdir(wishes.pictures):
        raise UsageError(f"There is no folder {wishes.pictures}; name one with pictures.")
    return _Elsewhere(root, items, wishes)


def _pictures_below(root: str, folder: str) -> Iterator[str]:
    """Yield the pictures below a folder, as steps name them."""
    for top, folders, names in os.walk(Path(folder).absolute()):
        folders[:] = sorted(name for name in folders if not name.startswith("."))
        for name in names:
            if os.path.splitext(name)[1].lower() in PICTURES:
                yield outside(root, os.path.join(top, name))
