"""Pictures of which nobody knows whose they are: asked about one by one, or shown on a page side by side."""

from __future__ import annotations

import argparse
import os
import sys
from collections.abc import Sequence
from pathlib import Path

from lazy_magpie.cli.output_file import write_new
from lazy_magpie.cli.terminal import Terminal, Ticker
from lazy_magpie.collection import Collection
from lazy_magpie.companion_files import FoundPicture
from lazy_magpie.identify.file_types import PICTURES
from lazy_magpie.labels import label
from lazy_magpie.model import Item, Kind, Plan
from lazy_magpie.model.steps import Copy, Move
from lazy_magpie.paths import split_ending, written
from lazy_magpie.report.pictures_page import PicturePair, pictures_page
from lazy_magpie.report.thumbnails import drawn

_DRAWN = (Kind.MOVIE, Kind.EPISODE, Kind.DESIGN, Kind.FONT)
"""Kinds of things of which a picture helps to tell whose a picture is."""


class PictureJudge:
    """Says what becomes of pictures that may belong to an item: with `ask`, a person is asked; all are kept."""

    def __init__(self, terminal: Terminal, *, ask: bool) -> None:
        self.terminal, self.ask = terminal, ask
        self.doubtful: list[tuple[Item, FoundPicture]] = []
        self._stopped = False

    def __call__(self, item: Item, found: FoundPicture) -> FoundPicture | None:
        """Return the picture that an item gets: the one that a person chose, None for none of them."""
        if self.ask and not self._stopped:
            return self._asked(item, found)
        self.doubtful.append((item, found))
        return found

    def _asked(self, item: Item, found: FoundPicture) -> FoundPicture | None:
        offered = [found.path, *found.others]
        self.terminal.note(self.terminal.styled(written(label(item.kind, item.fields) or item.path), "head"))
        self.terminal.note(f"  {written(item.path)}")
        for number, path in enumerate(offered, start=1):
            self.terminal.note(f"  {number}  {written(path)}")
        self.terminal.note("  n  none of them   q  stop")
        while True:
            print("> ", end="", file=sys.stderr, flush=True)
            line = sys.stdin.readline()
            word = line.strip()
            if not line or word == "q":
                self._stopped = True
                self.doubtful.append((item, found))
                return found
            if word == "n":
                return None
            if word.isdecimal() and 1 <= int(word) <= len(offered):
                return FoundPicture(offered[int(word) - 1], True)
            self.terminal.note(f"  Type a number up to {len(offered)}, n, or q.")


def write_pictures_page(
    args: argparse.Namespace,
    collection: Collection,
    plan: Plan,
    doubtful: Sequence[tuple[Item, FoundPicture]],
    tick: Ticker,
) -> None:
    """Write the page of the pictures that a plan brings, and of those that are in question."""
    pairs = [
        PicturePair(
            label(item.kind, item.fields) or item.path,
            item.path,
            (found.path, *found.others),
            "is one of these its picture?",
            True,
            item.path if item.kind in _DRAWN else "",
        )
        for item, found in doubtful
    ]
    for step in plan.steps:
        if isinstance(step, Copy | Move) and split_ending(step.target)[1].lower() in PICTURES:
            pairs.append(PicturePair(step.target.rpartition("/")[2], step.target, (step.source,), step.why, False))
    kinds = {item.path: item.kind for item, _ in doubtful}
    wanted = [path for pair in pairs for path in (pair.own, *pair.pictures) if path]
    files = [(kinds.get(path, Kind.PICTURE), os.path.join(collection.root, path)) for path in wanted]
    images = {}
    for count, (at, image) in enumerate(drawn(files), start=1):
        tick(count, "drawing")
        images[wanted[at]] = image
    write_new(Path(args.page), pictures_page(collection.name, pairs, images), force=args.force)
