"""Zip archives (PKWARE APPNOTE 6.3), also split ones, and encrypted ones by the format's own cipher."""

from __future__ import annotations

import io
import os
import zipfile
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from typing import IO

from lazy_magpie.change.archives.packed import ENCRYPTED, Member, OneByOne
from lazy_magpie.change.archives.zip_directory import (
    encoding_of,
    end_of,
    is_encrypted,
    is_link,
    place_in_volumes,
    zip_name,
)
from lazy_magpie.change.filesystem.access import Filesystem
from lazy_magpie.change.run_context import Skip
from lazy_magpie.passwords import PASSWORDS
from lazy_magpie.paths import name_of, written
from lazy_magpie.split_archives import JoinedVolumes, volumes_before

_AES = 99
"""The method that says that a member is encrypted by AES, which the standard library does not read."""


class ZipPacked(OneByOne):
    """An open zip."""

    indexed = True

    def __init__(self, packed: zipfile.ZipFile, size: int, name: str, encoding: str) -> None:
        self._packed, self.size, self._name = packed, size, name
        self._encoding = encoding or encoding_of(packed.infolist())
        self._password: bytes | None = None

    def members(self) -> Iterator[Member]:
        """Yield its members."""
        for info in self._packed.infolist():
            if is_link(info):
                raise Skip(f"its member “{written(info.filename)}” is a link")
            if is_encrypted(info):
                self._unlock(info)
            yield Member(
                zip_name(info, self._encoding).rstrip("/"), -1 if info.is_dir() else info.file_size, info, info.CRC
            )

    def _unlock(self, info: zipfile.ZipInfo) -> None:
        """Find the password of an encrypted member. Raises Skip where none is known."""
        if info.compress_type == _AES:
            raise Skip("the archive is encrypted in a way that can't be read here (AES)")
        for word in [] if self._password else PASSWORDS.tried(self._name):
            try:
                with self._packed.open(info, pwd=word.encode()) as file:
                    file.read()  # the header's one byte of check fits one wrong password of 256
            except (RuntimeError, zipfile.BadZipFile, OSError, EOFError):
                continue
            self._password = word.encode()
            PASSWORDS.opened_with(word)
            break
        if self._password is None:
            raise Skip(ENCRYPTED)

    def open(self, member: Member) -> IO[bytes]:
        """Open a member."""
        return self._packed.open(member.key, pwd=self._password if is_encrypted(member.key) else None)


@contextmanager
def open_zip(disk: Filesystem, archive: str, last: IO[bytes], files: ExitStack, names: str = "") -> Iterator[ZipPacked]:
    """Open a zip, with the volumes before its `last` one where it was split; `names` is the encoding of its names."""
    end = end_of(last)
    before = []
    for path in volumes_before(archive, end.volumes):
        try:
            before.append(files.enter_context(disk.open_old(path)))
        except FileNotFoundError:
            raise Skip(f"its volume “{written(name_of(path))}” is missing") from None
    size = last.seek(0, os.SEEK_END)
    last.seek(0)
    joined = JoinedVolumes([*before, last]) if before else None
    with zipfile.ZipFile(io.BufferedReader(joined) if joined else last) as packed:
        if joined:
            *starts, size = joined.starts
            place_in_volumes(packed, end.place, starts)
        yield ZipPacked(packed, size, archive, names)
