"""Reading open files piece by piece: checksums, and whether two hold the same.

Pieces are read into memory that is used again and again: to be given new memory for each takes longer than the reading.
"""

from __future__ import annotations

import zlib
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import IO

CHUNK = 1 << 18
"""Bytes that are read at once."""
_idle: list[bytearray] = []
"""Memory for pieces that nobody uses now."""


@contextmanager
def _memory() -> Iterator[bytearray]:
    """Lend the memory for a piece."""
    lent = _idle.pop() if _idle else bytearray(CHUNK)
    try:
        yield lent
    finally:
        _idle.append(lent)


def chunks(file: IO[bytes]) -> Iterator[memoryview]:
    """Yield what a file holds from here on, in pieces of at most CHUNK bytes; each is good until the next is read."""
    with _memory() as memory:
        view = memoryview(memory)
        fill = _filling(file)
        while length := fill(view):
            yield view[:length]


def _filling(file: IO[bytes]) -> Callable[[memoryview], int]:
    """Return what reads the next bytes of a file into memory, and says how many; 0 at its end."""
    into = getattr(file, "readinto", None)
    if into is not None:
        return lambda view: into(view) or 0

    def copied(view: memoryview) -> int:
        data = file.read(len(view))
        view[: len(data)] = data
        return len(data)

    return copied


def crc_of(file: IO[bytes]) -> int:
    """Return the CRC-32 of what a file holds from here on."""
    crc = 0
    for chunk in chunks(file):
        crc = zlib.crc32(chunk, crc)
    return crc


def hold_the_same(one: IO[bytes], other: IO[bytes]) -> bool:
    """Say whether two files hold the same from here on, byte for byte."""
    with _memory() as left, _memory() as right:
        fill_left, fill_right = _filling(one), _filling(other)
        while True:
            length = _fill(fill_left, memoryview(left))
            if _fill(fill_right, memoryview(right)) != length:
                return False
            if left != right if length == CHUNK else left[:length] != right[:length]:
                return False
            if length < CHUNK:
                return True


def _fill(fill: Callable[[memoryview], int], view: memoryview) -> int:
    """Read until the memory is full or the file ends, and return the bytes: some files give less than there is."""
    at = 0
    while at < len(view) and (length := fill(view[at:])):
        at += length
    return at
