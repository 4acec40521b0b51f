"""What a reference list says: its header, its sets, and the files of each."""

from __future__ import annotations

from typing import NamedTuple

UNKNOWN_SIZE = -1
"""The size of a file whose list says none."""
BAD, MISSING = "bad", "missing"
"""What a list says of a file: no good copy of it is known, or none at all."""


class ListHeader(NamedTuple):
    """What a list says of itself; "" where it says nothing."""

    name: str = ""
    about: str = ""
    version: str = ""
    date: str = ""


class ListedFile(NamedTuple):
    """A file as a list has it: its name in its set, bytes, CRC-32, other digests; b"" and None where it says none."""

    name: str
    size: int = UNKNOWN_SIZE
    crc: int | None = None
    md5: bytes = b""
    sha1: bytes = b""
    sha256: bytes = b""
    status: str = ""

    @property
    def key(self) -> int | bytes | None:
        """What its content is looked up by: the CRC-32, else a digest; None where the list has neither."""
        return self.crc if self.crc is not None else self.sha1 or self.sha256 or self.md5 or None


class ListedSet(NamedTuple):
    """A set as a list has it, a game: `parent` is the set that it is a clone of, `line` where it begins.

    `in_folder` says that loose files of it lie in a folder of its own.
    """

    name: str
    files: tuple[ListedFile, ...]
    about: str = ""
    parent: str = ""
    line: int = 0
    in_folder: bool = False
