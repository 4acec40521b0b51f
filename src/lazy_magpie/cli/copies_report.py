"""What the page of copies shows, from what was found and decided; and writing it."""

from __future__ import annotations

import argparse
import os
from collections.abc import Iterator, Sequence
from dataclasses import replace
from pathlib import Path

from lazy_magpie.cli.output_file import write_new
from lazy_magpie.cli.terminal import Ticker
from lazy_magpie.collection import Collection
from lazy_magpie.formatting import bitrate_text, count_text, duration_text, size_text
from lazy_magpie.model import File, Item, Kind
from lazy_magpie.paths import split_ending, written
from lazy_magpie.planners.copies import ArchiveVerdict, Choice, Verdict, freed_where
from lazy_magpie.report import Card, CopyGroup, copies_page, drawn

_SHOWN = 4
"""Copies with the same bytes that are shown with their picture again."""


_FOLDERS = 6
"""Folders for which the page says how much is freed in them."""


def write_page(
    args: argparse.Namespace,
    collection: Collection,
    choices: Sequence[Choice],
    found: Sequence[Verdict | ArchiveVerdict],
    tick: Ticker,
) -> None:
    """Write the page of the copies `found`, those that free the most first; `choices` has all as a list has them."""
    whole = [_of_folder(one) for one in choices if one.inside]
    pairs = [*whole, *(_of_verdict(one) if isinstance(one, Verdict) else _of_wrapped(one) for one in found)]
    pairs.sort(key=lambda pair: (pair[0].stays is None, -pair[0].freed, pair[0].others[0].path))
    files = [(at, spot, file) for at, (_, files) in enumerate(pairs) for spot, file in enumerate(files)]
    wanted = [(kind, os.path.join(collection.root, name)) for _, _, (kind, name) in files]
    groups = [group for group, _ in pairs]
    for count, (at, image) in enumerate(drawn(wanted, args.jobs), start=1):
        tick(count, "drawing")
        group, spot, _ = files[at]
        groups[group] = _with_image(groups[group], spot, image)
    where = [(written(folder) or "the root", size) for folder, size in freed_where(choices)][:_FOLDERS]
    page = copies_page(collection.name, groups, where)
    write_new(Path(args.page), page, force=args.force)


Drawn = list[tuple[Kind, str]]
"""The files that are drawn for a group, the one that stays first: kind and path."""


def _of_verdict(one: Verdict) -> tuple[CopyGroup, Drawn]:
    items = [*([one.stays] if one.stays else []), *one.others]
    stays = _card(one.stays) if one.stays else None
    others = tuple(map(_card, one.others))
    shown = items if one.is_alike else items[:1]  # what holds the same bytes looks the same
    choice = one.choice
    group = CopyGroup(choice.match, items[0].kind.value, choice.freed, choice.why, stays, others)
    return group, [(item.kind, item.files[0].path) for item in shown]


def _of_folder(one: Choice) -> tuple[CopyGroup, Drawn]:
    others = tuple(Card(written(path), (size_text(one.freed), count_text(one.inside, "thing"))) for path in one.others)
    return CopyGroup("bytes", "folder", one.freed, one.why, Card(written(one.stays), ()), others), []


def _of_wrapped(one: ArchiveVerdict) -> tuple[CopyGroup, Drawn]:
    choice = one.choice
    stays = Card(written(choice.stays), ()) if choice.stays else None
    others = tuple(Card(written(file.path), (size_text(file.size),)) for file in one.others)
    return CopyGroup("contents", Kind.ARCHIVE.value, choice.freed, choice.why, stays, others), []


def _with_image(group: CopyGroup, spot: int, image: str) -> CopyGroup:
    """Return a group with the picture of one of its cards; what holds the same bytes has one picture."""
    if not group.is_alike:
        stays = replace(group.stays, image=image) if group.stays else None
        some = tuple(replace(card, image=image) for card in group.others[:_SHOWN])
        return replace(group, stays=stays, others=(*some, *group.others[_SHOWN:]))
    if group.stays and not spot:
        return replace(group, stays=replace(group.stays, image=image))
    others = list(group.others)
    at = spot - (group.stays is not None)
    others[at] = replace(others[at], image=image)
    return replace(group, others=tuple(others))


def _card(item: Item) -> Card:
    return Card(written(item.path), tuple(_facts(item, [file for file in item.files if file.role == "main"])))


def _facts(item: Item, mains: Sequence[File]) -> Iterator[str]:
    """Yield what tells copies apart: size, format, points, length, bit rate, stitches."""
    facts = item.facts
    yield size_text(item.size)
    yield ", ".join(sorted({split_ending(file.path)[1][1:].upper() for file in mains} - {""})) or "no ending"
    if "width" in facts and "height" in facts:
        yield f"{facts['width']} × {facts['height']}"
    if length := facts.get("length"):
        yield duration_text(float(str(length)))
    if rate := facts.get("bitrate"):
        yield f"{bitrate_text(int(float(str(rate))))}bit/s"
    if facts.get("lossless"):
        yield "lossless"
    if stitches := facts.get("stitches"):
        yield f"{int(str(stitches)):,} stitches"
    if len(item.files) > 1:
        yield count_text(len(item.files), "file")
