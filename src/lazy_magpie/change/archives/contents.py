"""Opens archives of every format, also of several volumes, and lists what they hold, trusting nothing that they say.

A member that would land outside, a link, a device, two members of one name, or more than the limits allow makes the
whole archive be left alone. Names of old zips that are no UTF-8 are read in the encoding that they most likely have.
"""

from __future__ import annotations

import io
import os
import re
import tarfile
import tempfile
import zipfile
import zlib
from collections.abc import Iterator, Sequence
from contextlib import ExitStack, contextmanager
from typing import IO

from lazy_magpie.change.archives import rar_format, seven_format
from lazy_magpie.change.archives.packed import AtOnce, Member, OneByOne, Packed
from lazy_magpie.change.archives.stream_formats import open_stream
from lazy_magpie.change.archives.zip_directory import MOST_MEMBERS, Listed, glance
from lazy_magpie.change.archives.zip_format import open_zip
from lazy_magpie.change.filesystem.access import Filesystem
from lazy_magpie.change.run_context import DamagedArchive, Skip
from lazy_magpie.naming.safe import is_safe
from lazy_magpie.paths import same_name, written
from lazy_magpie.split_archives import JoinedVolumes, pieces_of

MOST_RATIO = 200
SMALL = 64 << 20
"""An archive may unpack to 64 MiB whatever its size, beyond that to 200 times its own size."""
_PATH = r"\w[\w. -]{0,99}(?:/\w[\w. -]{0,99})*"
_PLAIN, _ALL_PLAIN = re.compile(_PATH, re.ASCII), re.compile(rf"{_PATH}(?:\0{_PATH})*", re.ASCII)
"""Most names, and many of them with nothing between: they need no closer look."""
_HEAD = 8


def contents(disk: Filesystem, archive: str, names: str = "") -> Listed:
    """Return the files in an archive, each looked at. Raises Skip with the reason why it is to be left alone.

    `names` is the encoding of its members' names, "" for the one that they most likely have.
    """
    if listed := plain_contents(disk, archive):
        return listed
    with open_archive(disk, archive, names) as whole:
        members = [member for member in check_members(whole) if member.size >= 0]
    return Listed([one.path for one in members], [one.size for one in members], [one.crc for one in members])


def plain_contents(disk: Filesystem, archive: str) -> Listed | None:
    """Return the files in a zip whose directory is as plain as most are; None where it needs a closer look."""
    try:
        with disk.open_old(archive) as file:
            listed = glance(file)
            limit = _most(file.seek(0, os.SEEK_END))
    except OSError:
        return None
    fits = listed is not None and sum(listed.sizes) <= limit and _are_plain(listed.names)
    return listed if fits else None


def _most(size: int) -> int:
    """Return how many bytes an archive of this size may unpack to."""
    return max(SMALL, size * MOST_RATIO)


def _are_plain(paths: Sequence[str]) -> bool:
    """Say whether members are files, named as those of most archives are, and each otherwise than all others."""
    together = "\0".join(paths)
    return _ALL_PLAIN.fullmatch(together) is not None and len(set(together.lower().split("\0"))) == len(paths)


def head_of(disk: Filesystem, archive: str, path: str, most: int) -> bytes:
    """Return the first `most` bytes of a file in an archive; b"" where that can't be read without unpacking much more.

    Where members are not read one by one, all that stands before a file is unpacked, too: only small ones are read.
    """
    try:
        with open_archive(disk, archive) as packed:
            if not packed.indexed and packed.size > SMALL:
                return b""
            found = next((member for member in packed.members() if member.path == path), None)
            if found is None:
                return b""
            if isinstance(packed, AtOnce):
                return _of_one(packed, found) if found.size <= most and packed.size <= SMALL else b""
            assert isinstance(packed, OneByOne)
            with packed.open(found) as file:
                return file.read(most)
    except (Skip, OSError):
        return b""


def _of_one(packed: AtOnce, member: Member) -> bytes:
    """Return what a small member holds."""
    with tempfile.TemporaryDirectory() as folder:
        packed.extract([member], folder)
        with open(os.path.join(folder, member.path), "rb") as file:
            return file.read(member.size)


@contextmanager
def open_archive(disk: Filesystem, archive: str, names: str = "") -> Iterator[Packed]:
    """Open an archive, whatever its kind. Raises Skip with the reason where it is damaged, encrypted, or not whole."""
    with ExitStack() as files:
        pieces = pieces_of(archive, lambda path: disk.status(path) is not None)
        opened = [files.enter_context(disk.open_old(path)) for path in pieces]
        head = opened[0].read(_HEAD)
        if head.startswith(rar_format.MAGIC):
            with rar_format.open_rar(disk.path(archive), archive) as rar:
                yield rar
            return
        file = opened[0] if len(opened) == 1 else io.BufferedReader(JoinedVolumes(opened))
        try:
            if not head:
                raise Skip("the archive is empty: its download may not have ended")
            yield files.enter_context(_opened(disk, archive, file, head, files, names))
        except tarfile.ReadError as error:  # it lists what each of its ways to read has said
            raise DamagedArchive("the archive is damaged or of a kind that can't be read") from error
        except (zipfile.BadZipFile, tarfile.TarError, zlib.error, EOFError, NotImplementedError) as error:
            raise DamagedArchive(f"the archive is damaged or of a kind that can't be read: {error}") from error
        except RuntimeError as error:
            raise Skip(f"the archive is encrypted: {error}") from error
        except (Skip, OSError):
            raise
        except Exception as error:  # whatever a library does with a damaged file
            raise DamagedArchive(f"the archive is damaged or of a kind that can't be read: {error!r}") from error


@contextmanager
def _opened(
    disk: Filesystem, archive: str, file: IO[bytes], head: bytes, files: ExitStack, names: str
) -> Iterator[Packed]:
    """Open an archive by the format that its first bytes, or a zip's last ones, say."""
    size = file.seek(0, os.SEEK_END)
    file.seek(0)
    if head.startswith(seven_format.MAGIC):
        with seven_format.open_seven(file, size, archive) as seven:
            yield seven
    elif zipfile.is_zipfile(file):
        with open_zip(disk, archive, file, files, names) as zipped:
            yield zipped
    else:
        file.seek(0)
        with open_stream(file, head, size, archive, _most(size)) as streamed:
            yield streamed


def check_members(packed: Packed) -> Iterator[Member]:
    """Yield the members of an archive, each looked at before anything of it is written."""
    limit = _most(packed.size)
    total = 0
    names: set[str] = set()
    for count, member in enumerate(packed.members(), start=1):
        if count > MOST_MEMBERS:
            raise Skip(f"the archive has more than {MOST_MEMBERS:,} members")
        total += max(member.size, 0)
        if total > limit:
            raise Skip("the archive unpacks to far more than its own size, as a trap would")
        path, key = member.path, same_name(member.path)
        safe = _PLAIN.fullmatch(path) or _is_safe(path)
        if not safe:
            raise Skip(f"its member “{written(path)}” would land outside or can't be named here")
        if member.size >= 0 and key in names:
            raise Skip(f"it has two members called “{written(path)}”")
        names.add(key)
        yield member


def _is_safe(path: str) -> bool:
    return "\\" not in path and all(is_safe(part, everywhere=False) for part in path.split("/"))
