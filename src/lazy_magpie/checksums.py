"""Several checksums of one content in one reading: CRC-32, MD5, SHA-1, SHA-256 and our own digest (BLAKE3).

Each is worked out in a thread of its own where there is much to read, so that all together take little longer than the
slowest of them alone. What is read can begin behind a header that does not count.
"""

from __future__ import annotations

import hashlib
import zlib
from collections.abc import Callable, Collection
from typing import IO, TYPE_CHECKING, NamedTuple

from lazy_magpie.streams import chunks

if TYPE_CHECKING:
    from concurrent.futures import Future

DIGESTS = ("md5", "sha1", "sha256")
_CHUNK = 1 << 20
_MUCH = 8 << 20
"""From so many bytes on the sums of one content are worked out side by side."""
_AHEAD = 4
"""Chunks that are read before the slowest sum has taken them."""


class Sums(NamedTuple):
    """The checksums of a content of so many bytes; b"" for those that were not asked for. `own` is its BLAKE3."""

    size: int
    crc: int
    md5: bytes = b""
    sha1: bytes = b""
    sha256: bytes = b""
    own: bytes = b""


def sums_of(file: IO[bytes], wanted: Collection[str] = (), *, size: int = 0) -> Sums:
    """Return the CRC-32 and our own digest of what a file holds from here on, and the digests `wanted`.

    `size` is about how many bytes that will be. Raises OSError.
    """
    from blake3 import blake3

    hashers = {name: hashlib.new(name, usedforsecurity=False) for name in DIGESTS if name in wanted}
    own = blake3()
    crc = [0, 0]

    def add_crc(chunk: memoryview) -> None:
        crc[0] = zlib.crc32(chunk, crc[0])
        crc[1] += len(chunk)

    def add_own(chunk: memoryview) -> None:
        own.update(chunk)

    adders: list[Callable[[memoryview], None]] = [add_crc, add_own, *(one.update for one in hashers.values())]
    if size < _MUCH:
        _one_by_one(file, adders)
    else:
        _side_by_side(file, adders)
    digests = {name: hasher.digest() for name, hasher in hashers.items()}
    return Sums(crc[1], crc[0], **digests, own=own.digest())


def _one_by_one(file: IO[bytes], adders: list[Callable[[memoryview], None]]) -> None:
    for chunk in chunks(file):
        for add in adders:
            add(chunk)


def _side_by_side(file: IO[bytes], adders: list[Callable[[memoryview], None]]) -> None:
    """Hand each chunk to all sums; each takes them in order, in a thread of its own."""
    from concurrent.futures import ThreadPoolExecutor

    pools = [ThreadPoolExecutor(1) for _ in adders]
    try:
        waiting: list[list[Future[None]]] = []
        while chunk := file.read(_CHUNK):
            view = memoryview(chunk)
            waiting.append([pool.submit(add, view) for pool, add in zip(pools, adders, strict=True)])
            if len(waiting) > _AHEAD:
                for one in waiting.pop(0):
                    one.result()
        for each in waiting:
            for one in each:
                one.result()
    finally:
        for pool in pools:
            pool.shutdown()
