"""What an open archive is, whatever its format: its members, and how they are read."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import IO, Any, NamedTuple, Protocol

ENCRYPTED = "the archive is encrypted; no password for it is known"


class Member(NamedTuple):
    """A member of an archive: its path below the new folder, its size in bytes (-1: a folder), how to read it.

    `crc` is its CRC-32, None where the format has none.
    """

    path: str
    size: int
    key: Any
    crc: int | None = None


class Packed(Protocol):
    """An open archive. `size` is what it takes on the disk with all its volumes, in bytes.

    `by_one` says that its members can be opened one by one, in their order (`open`); else they are all unpacked at once
    (`extract`), and compared by their checksums. `indexed` says that it lists them without being read whole.
    """

    size: int
    by_one: bool
    indexed: bool

    def members(self) -> Iterator[Member]:
        """Yield its members, in their order. Raises Skip for one that is no file or folder."""

    def open(self, member: Member) -> IO[bytes]:
        """Open a member for reading."""

    def extract(self, members: Sequence[Member], stage: str) -> None:
        """Unpack members into the folder `stage` (a whole path), each under its path, and check what it can."""

    def is_same(self, member: Member, file: IO[bytes]) -> bool:
        """Say whether a file holds what a member does, by its checksum where it can't be opened."""
