"""Disc images that carry the digest of what is packed in them: lists have that digest, not one of the file.

`DISC_IMAGES` is a table: a format is a row, with its ending, its magic bytes, where its version stands (four bytes,
big-endian), and where the SHA-1 of its contents stands by version, as the open descriptions of the format say.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

HEAD = 128
"""Bytes from the beginning that hold the digest."""
_SHA1 = 20


class DiscImage(NamedTuple):
    """A format of disc images."""

    ending: str
    magic: bytes
    version_at: int
    sha1_at: Mapping[int, int]


DISC_IMAGES = (DiscImage(".chd", b"MComprHD", 12, {3: 80, 4: 48, 5: 84}),)


def sha1_in(head: bytes) -> bytes:
    """Return the SHA-1 that an image that begins like this says of its contents, b"" where it is none."""
    for one in DISC_IMAGES:
        if head.startswith(one.magic):
            version = int.from_bytes(head[one.version_at : one.version_at + 4], "big")
            at = one.sha1_at.get(version, len(head))
            digest = head[at : at + _SHA1]
            return digest if len(digest) == _SHA1 and any(digest) else b""
    return b""


def is_disc_image(name: str) -> bool:
    """Say whether a file's name is that of such an image."""
    return name.lower().endswith(tuple(one.ending for one in DISC_IMAGES))
