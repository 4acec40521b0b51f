"""Headers that tools put in front of game images, and that lists do not count: a table, a row a system.

`at` is where the magic bytes stand (in hexadecimal), `length` how many bytes the header takes.
"""

from __future__ import annotations

import csv
from functools import lru_cache
from importlib import resources
from typing import NamedTuple


class ImageHeader(NamedTuple):
    """A header: its system, where its magic bytes stand, its length in bytes."""

    system: str
    at: int
    magic: bytes
    length: int

    def is_in(self, head: bytes) -> bool:
        """Say whether an image that begins like this has the header."""
        return head[self.at : self.at + len(self.magic)] == self.magic


@lru_cache(maxsize=1)
def image_headers() -> tuple[ImageHeader, ...]:
    """Return the headers that are known."""
    text = resources.files("lazy_magpie.lists").joinpath("headers.csv").read_text("utf-8")
    return tuple(
        ImageHeader(row["system"], int(row["at"]), bytes.fromhex(row["magic"]), int(row["length"]))
        for row in csv.DictReader(text.splitlines())
    )


HEAD = 512
"""Bytes from the beginning that tell every header."""


def header_of(head: bytes) -> ImageHeader | None:
    """Return the header of an image that begins like this, None for none: whatever the image is called."""
    return next((one for one in image_headers() if one.is_in(head)), None)
