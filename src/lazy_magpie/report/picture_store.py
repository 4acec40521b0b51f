"""Small pictures of things, made once and kept in magpie's own folder: limited in size, and safe to delete.

What could not be drawn is kept as an empty file, so that it is not tried at every look.
"""

from __future__ import annotations

import os
from collections.abc import Callable, Collection, Iterable
from contextlib import suppress
from dataclasses import dataclass

from lazy_magpie.model import File, Kind
from lazy_magpie.paths import written
from lazy_magpie.report.thumbnails import TILE, tiles
from lazy_magpie.stable_hash import stable_bytes

_WAY = 1
"""Another number where pictures are drawn in another way, so that they are all made anew."""
_MOST = 1 << 30
"""Bytes that all pictures take at the most."""
_SHARE_KEPT = 0.8


@dataclass(frozen=True)
class PictureSource:
    """What a picture is drawn from: files on the root of this name; several are pictures on one sheet."""

    kind: Kind
    files: tuple[File, ...]
    root: str = ""

    @property
    def key(self) -> str:
        """The name of the picture: another one where what it is drawn from has changed."""
        told = (_WAY, TILE, self.kind.value, self.root, [(written(f.path), f.size, f.mtime) for f in self.files])
        return stable_bytes(told, 16).hex()


class PictureStore:
    """The pictures kept in a folder. `most` is how many bytes they may take."""

    def __init__(self, folder: str, most: int = _MOST) -> None:
        self.folder, self.most = folder, most

    def path(self, key: str) -> str:
        """Return where the picture of a key lies, or would lie."""
        return os.path.join(self.folder, *place_of(key))

    def has(self, key: str) -> bool:
        """Say whether there is a picture of a key."""
        try:
            return os.stat(self.path(key)).st_size > 0
        except OSError:
            return False

    def is_tried(self, key: str) -> bool:
        """Say whether a picture of a key was drawn, or could not be."""
        return os.path.lexists(self.path(key))

    def read(self, key: str) -> bytes:
        """Return a picture, b"" where there is none."""
        try:
            with open(self.path(key), "rb") as file:
                return file.read()
        except OSError:
            return b""

    def make(
        self,
        sources: Iterable[PictureSource | None],
        places: Callable[[str, str], str],
        tick: Callable[[int], None] = lambda count: None,
        jobs: int = 0,
    ) -> list[str]:
        """Make the pictures that are not there; return the key of each source's picture, "" for none.

        `places` gives the whole path of a file by its root and path there, "" where the root is away. `tick` is told
        how many are done. Raises OSError where the pictures can't be kept.
        """
        keys = [source.key if source else "" for source in sources]
        by_key = {key: source for key, source in zip(keys, sources, strict=True) if source}
        lacking = [key for key in by_key if not self.is_tried(key)]
        asked = [(key, [places(by_key[key].root, file.path) for file in by_key[key].files]) for key in lacking]
        asked = [(key, paths) for key, paths in asked if all(paths)]
        things = [(by_key[key].kind, paths) for key, paths in asked]
        drawn = set()
        for count, (at, picture) in enumerate(tiles(things, jobs), start=1):
            tick(count)
            self._keep(asked[at][0], picture)
            drawn.add(at)
        for at, (key, paths) in enumerate(asked):
            if at not in drawn and all(map(os.path.exists, paths)):
                self._keep(key, b"")
        if drawn:
            self.prune(set(keys))
        there = {key for key in by_key if self.has(key)}
        return [key if key in there else "" for key in keys]

    def prune(self, needed: Collection[str] = ()) -> None:
        """Take the oldest pictures away where all of them take too much, but none that are `needed` now."""
        found = []
        with suppress(OSError):
            for part in os.scandir(self.folder):
                if part.is_dir(follow_symlinks=False):
                    found += [(entry.stat(follow_symlinks=False), entry.path) for entry in os.scandir(part.path)]
        total = sum(stat.st_size for stat, _ in found)
        if total <= self.most:
            return
        kept = {self.path(key) for key in needed if key}
        for stat, path in sorted(found, key=lambda pair: pair[0].st_mtime_ns):
            if total <= self.most * _SHARE_KEPT:
                break
            if path not in kept:
                with suppress(OSError):
                    os.unlink(path)
                    total -= stat.st_size

    def _keep(self, key: str, picture: bytes) -> None:
        os.makedirs(os.path.dirname(self.path(key)), exist_ok=True)
        keep_whole(self.path(key), picture)


def place_of(key: str) -> tuple[str, str]:
    """Return the folder and the file of a picture, in the store and beside a page."""
    return key[:2], f"{key[2:]}.webp"


def keep_whole(path: str, picture: bytes) -> None:
    """Write a picture so that it is there whole or not at all, whoever else is making it."""
    part = f"{path}.{os.getpid()}.part"
    with open(part, "wb") as file:
        file.write(picture)
    os.replace(part, path)
