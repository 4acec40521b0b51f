"""Reading open files piece by piece: checksums, and whether two hold the same."""

from __future__ import annotations

import zlib
from collections.abc import Iterator
from typing import IO

CHUNK = 1 << 20
"""Bytes that are read at once."""


def chunks(file: IO[bytes]) -> Iterator[bytes]:
    """Yield what a file holds from here on, in pieces of at most CHUNK bytes."""
    while chunk := file.read(CHUNK):
        yield chunk


def crc_of(file: IO[bytes]) -> int:
    """Return the CRC-32 of what a file holds from here on."""
    crc = 0
    for chunk in chunks(file):
        crc = zlib.crc32(chunk, crc)
    return crc


def hold_the_same(one: IO[bytes], other: IO[bytes]) -> bool:
    """Say whether two files hold the same from here on, byte for byte."""
    while True:
        left, right = one.read(CHUNK), other.read(CHUNK)
        if left != right:
            return False
        if not left:
            return True
