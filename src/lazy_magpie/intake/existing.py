"""What of a heap is in the collection already, with the same contents: by size first, then by CRC-32."""

from __future__ import annotations

import os
from collections.abc import Collection, Sequence

from lazy_magpie.catalogue import Catalogue
from lazy_magpie.intake.downloads import Piece
from lazy_magpie.paths import is_below
from lazy_magpie.streams import crc_of


class ExistingFiles:
    """Looks files of heaps, of known `sizes`, up in the collection; each is read once at the most, and remembered."""

    def __init__(self, catalogue: Catalogue, root: str, tops: Sequence[str], sizes: Collection[int]) -> None:
        self.catalogue = catalogue
        self.root = root
        self.tops = tops
        found = catalogue.digests.paths_of(sizes)
        outside = {size: [path for path in paths if not self.is_in_a_heap(path)] for size, paths in found.items()}
        self._there = {size: iter(paths) for size, paths in outside.items() if paths}
        self._known: dict[int, dict[int, str]] = {}
        self._read: dict[str, int | None] = {}

    def is_in_a_heap(self, path: str) -> bool:
        """Say whether a file lies among the downloads, which are not the collection's yet."""
        return any(is_below(path, top) for top in self.tops)

    def crc(self, piece: Piece) -> int | None:
        """Return the CRC-32 of a piece; None where it can't be read without unpacking."""
        if piece.crc is not None:
            return piece.crc
        return None if piece.member else self._crc_of(piece.source.path)

    def twin(self, piece: Piece) -> str:
        """Return a file of the collection, not of a heap, that holds the same as a piece; "" where there is none."""
        if piece.size <= 0:
            return ""
        known = self._known.setdefault(piece.size, {})
        wanted = self.crc(piece) if piece.size in self._there else None
        if wanted is None or wanted in known:
            return known.get(wanted, "") if wanted is not None else ""
        for path in self._there[piece.size]:  # goes on where the last question of this size ended
            if (crc := self._crc_there(path)) is not None:
                known.setdefault(crc, path)
                if crc == wanted:
                    return path
        return ""

    def _crc_there(self, path: str) -> int | None:
        """Return the CRC-32 of a file of the collection, None where it can't be read."""
        known = self.catalogue.digests.file_at(path)
        if known is None:
            return None
        id, size, mtime, crc = known
        if crc is None and (crc := self._crc_of(path)) is not None:
            self.catalogue.digests.put_crc(id, size, mtime, crc)
        return crc

    def all_there(self, pieces: Sequence[Piece]) -> str:
        """Return where the first of some pieces is already, if all of them are in the collection; else ""."""
        first = ""
        for piece in pieces:
            if piece.size <= 0:
                continue
            twin = self.twin(piece)
            if not twin:
                return ""
            first = first or twin
        return first

    def _crc_of(self, path: str) -> int | None:
        if path not in self._read:
            try:
                with open(os.path.join(self.root, path), "rb") as file:
                    self._read[path] = crc_of(file)
            except OSError:
                self._read[path] = None
        return self._read[path]
