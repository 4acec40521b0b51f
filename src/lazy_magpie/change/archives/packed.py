"""What an open archive is, whatever its format: its members, and how they are read."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Iterator, Sequence
from typing import IO, Any, NamedTuple

from lazy_magpie.streams import hold_the_same

ENCRYPTED = "the archive is encrypted; no password for it is known"


class Member(NamedTuple):
    """A member of an archive: its path below the new folder, its size in bytes (-1: a folder), how to read it.

    `crc` is its CRC-32, None where the format has none.
    """

    path: str
    size: int
    key: Any
    crc: int | None = None


class Packed(ABC):
    """An open archive. `size` is what it takes on the disk with all its volumes, in bytes.

    `indexed` says that it lists its members without being read whole.
    """

    size: int
    indexed: bool

    @abstractmethod
    def members(self) -> Iterator[Member]:
        """Yield its members, in their order. Raises Skip for one that is no file or folder."""

    @abstractmethod
    def is_same(self, member: Member, file: IO[bytes]) -> bool:
        """Say whether a file holds what a member does."""


class OneByOne(Packed):
    """An archive whose members can be opened one by one, in their order."""

    @abstractmethod
    def open(self, member: Member) -> IO[bytes]:
        """Open a member for reading."""

    def is_same(self, member: Member, file: IO[bytes]) -> bool:
        """Compare byte for byte."""
        with self.open(member) as source:
            return hold_the_same(source, file)


class AtOnce(Packed):
    """An archive whose members are all unpacked at once, and compared by their checksums."""

    indexed = True

    @abstractmethod
    def extract(self, members: Sequence[Member], stage: str) -> None:
        """Unpack members into the folder `stage` (a whole path), each under its path, and check what it can."""
