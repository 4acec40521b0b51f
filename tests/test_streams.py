"""Reading piece by piece: every file as it is, however it gives its bytes, and with memory that is used again."""

from __future__ import annotations

import io
import random
import zlib
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import IO

import pytest

from lazy_magpie.streams import CHUNK, chunks, crc_of, hold_the_same

SIZES = (0, 1, CHUNK - 1, CHUNK, CHUNK + 1, 3 * CHUNK, 3 * CHUNK + 7)


class _Sparing(io.RawIOBase):
    """A file that gives fewer bytes than it is asked for, as sockets and some archives do."""

    def __init__(self, data: bytes) -> None:
        self._file = io.BytesIO(data)
        self._chosen = random.Random(len(data))

    def readable(self) -> bool:
        return True

    def readinto(self, buffer) -> int:  # type: ignore[no-untyped-def]
        return self._file.readinto(memoryview(buffer)[: self._chosen.randint(1, CHUNK // 3)])


class _Plain:
    """A file that can only be read, not into memory."""

    def __init__(self, data: bytes) -> None:
        self._file = io.BytesIO(data)

    def read(self, size: int) -> bytes:
        return self._file.read(size)


WAYS: dict[str, Callable[[bytes], IO[bytes]]] = {"whole": io.BytesIO, "sparing": _Sparing, "plain": _Plain}  # type: ignore[dict-item]


@pytest.mark.parametrize("way", WAYS)
@pytest.mark.parametrize("size", SIZES)
def test_pieces_are_what_the_file_holds(way: str, size: int) -> None:
    data = random.Random(size).randbytes(size)
    assert b"".join(bytes(chunk) for chunk in chunks(WAYS[way](data))) == data
    assert crc_of(WAYS[way](data)) == zlib.crc32(data)


@pytest.mark.parametrize("way", WAYS)
@pytest.mark.parametrize("size", SIZES)
def test_files_are_the_same_only_if_every_byte_is(way: str, size: int) -> None:
    data = random.Random(size).randbytes(size)
    assert hold_the_same(WAYS[way](data), io.BytesIO(data))
    assert not hold_the_same(WAYS[way](data), io.BytesIO(data + b"x"))
    assert not hold_the_same(WAYS[way](data + b"x"), io.BytesIO(data))
    for at in {0, size // 2, size - 1, min(CHUNK, size - 1)} if size else ():
        other = bytearray(data)
        other[at] ^= 1
        assert not hold_the_same(WAYS[way](data), io.BytesIO(bytes(other)))


def test_files_that_are_read_at_once_do_not_meet() -> None:
    """Two in turn, and many side by side: none may find another's bytes in its memory."""
    one, other = bytes(3 * CHUNK), b"\xff" * (3 * CHUNK)
    for left, right in zip(chunks(io.BytesIO(one)), chunks(io.BytesIO(other)), strict=True):
        assert not any(left) and all(right)
    data = [random.Random(number).randbytes(2 * CHUNK + number) for number in range(40)]
    with ThreadPoolExecutor(8) as pool:
        sums = list(pool.map(lambda one: crc_of(io.BytesIO(one)), data))
        same = list(pool.map(lambda one: hold_the_same(WAYS["sparing"](one), io.BytesIO(one)), data))
    assert sums == list(map(zlib.crc32, data)) and all(same)


def test_a_reading_that_is_given_up_gives_its_memory_back() -> None:
    for _ in range(100):
        pieces = chunks(io.BytesIO(b"x" * (2 * CHUNK)))
        next(pieces)
        pieces.close()  # type: ignore[attr-defined]
    with pytest.raises(ValueError, match="no more"):
        for _ in chunks(io.BytesIO(b"x")):
            raise ValueError("no more")
    assert b"".join(map(bytes, chunks(io.BytesIO(b"kelp")))) == b"kelp"
