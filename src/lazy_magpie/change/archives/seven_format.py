"""7z archives, through py7zr, which has no types of its own."""

from __future__ import annotations

import lzma
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from typing import IO, Any

from lazy_magpie.change.archives.packed import ENCRYPTED, AtOnce, Member
from lazy_magpie.change.run_context import DamagedArchive, Skip
from lazy_magpie.passwords import PASSWORDS
from lazy_magpie.paths import written
from lazy_magpie.streams import crc_of

MAGIC = b"7z\xbc\xaf\x27\x1c"


class SevenPacked(AtOnce):
    """An open 7z."""

    def __init__(self, packed: Any, size: int) -> None:
        self._packed, self.size = packed, size

    def members(self) -> Iterator[Member]:
        """Yield its members."""
        for one in self._packed.list():
            if not (one.is_file or one.is_directory) or one.is_symlink:
                raise Skip(f"its member “{written(one.filename)}” is a link or a device")
            size = -1 if one.is_directory else int(one.uncompressed or 0)
            yield Member(one.filename.rstrip("/"), size, one.filename, one.crc32)

    def extract(self, members: Sequence[Member], stage: str) -> None:
        """Unpack members; the package checks their sums."""
        self._packed.extract(path=stage, targets=[str(member.key) for member in members])

    def is_same(self, member: Member, file: IO[bytes]) -> bool:
        """Compare by the checksum."""
        return member.crc is not None and crc_of(file) == member.crc


@contextmanager
def open_seven(file: IO[bytes], size: int, archive: str) -> Iterator[SevenPacked]:
    """Open a 7z. Raises Skip where it is damaged, or no password for it is known."""
    import py7zr
    import py7zr.exceptions

    try:
        with _unlocked(file, archive) as packed:
            yield SevenPacked(packed, size)
    except (py7zr.exceptions.ArchiveError, lzma.LZMAError) as error:
        raise DamagedArchive(f"the archive is damaged or of a kind that can't be read: {error}") from error


@contextmanager
def _unlocked(file: IO[bytes], archive: str) -> Iterator[Any]:
    import py7zr
    import py7zr.exceptions

    try:
        packed = py7zr.SevenZipFile(file)
        locked = packed.needs_password()
    except py7zr.exceptions.PasswordRequired:  # its names are encrypted, too
        locked = True
    if not locked:
        with packed:
            yield packed
        return
    for word in PASSWORDS.tried(archive):
        file.seek(0)
        try:
            packed = py7zr.SevenZipFile(file, password=word)
            wrong = packed.testzip() is not None
        except Exception:  # whatever a wrong key makes of the data
            continue
        if wrong:
            continue
        PASSWORDS.opened_with(word)
        file.seek(0)
        with py7zr.SevenZipFile(file, password=word) as opened:
            yield opened
        return
    raise Skip(ENCRYPTED)
