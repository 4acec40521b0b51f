"""Digests of files by BLAKE3: of the two ends, and of the whole."""

from __future__ import annotations

import os
from typing import IO

from lazy_magpie.streams import chunks

END = 64 * 1024
"""Bytes at each end that are read first."""
SMALL = 1 << 20
"""A file up to this size is read whole at once."""


def ends_of(path: str, size: int) -> bytes:
    """Return the digest of a file's first and last 64 KiB. Raises OSError."""
    from blake3 import blake3

    hasher = blake3()
    with open(path, "rb") as file:
        hasher.update(file.read(END))
        file.seek(max(size - END, 0), os.SEEK_SET)
        hasher.update(file.read(END))
    return hasher.digest(length=16)


def whole_of(path: str) -> bytes:
    """Return the digest of all of a file. Raises OSError.

    It is read, not mapped: a file that is cut off meanwhile ends early, and the process lives.
    """
    with open(path, "rb", buffering=0) as file:
        return digest_of(file)


def digest_of(file: IO[bytes]) -> bytes:
    """Return the digest of what an open file holds from here on."""
    from blake3 import blake3

    hasher = blake3()
    for chunk in chunks(file):
        hasher.update(chunk)
    return hasher.digest()
