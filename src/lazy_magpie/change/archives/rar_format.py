"""RAR archives: what they list, through the library rarfile; unpacked by a program that the system has.

| program | what it unpacks here |
|---|---|
| unar | all: versions 3 and 5, volumes, solid ones, encrypted ones |
| 7z | what it was built for: asked where there is no unar |
| bsdtar | what is in one file |

Whatever a program has written counts only if it has the name, the size and the checksum that the archive lists.
"""

from __future__ import annotations

import os
import shutil
import subprocess
import tempfile
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from typing import IO, Any

from lazy_magpie.change.archives.packed import ENCRYPTED, AtOnce, Member
from lazy_magpie.change.archives.typed_password import run_with_password
from lazy_magpie.change.file_limit import limit
from lazy_magpie.change.run_context import DamagedArchive, Skip
from lazy_magpie.passwords import PASSWORDS
from lazy_magpie.paths import name_of, written
from lazy_magpie.streams import chunks, crc_of, hold_the_same

MAGIC = b"Rar!\x1a\x07"
NO_PROGRAM = "no program here unpacks RAR archives: install unar (or 7z, or bsdtar)"
_SLACK = 1 << 20
_PROMPT = "shown):"
"""What unar ends with where it asks for a password."""


def _unar(archive: str, stage: str) -> list[str]:
    return ["unar", "-quiet", "-force-overwrite", "-no-directory", "-no-recursion", "-k", "skip", "-o", stage, archive]


def _seven(archive: str, stage: str) -> list[str]:
    return ["7z", "x", "-y", "-bd", f"-o{stage}", "--", archive]


def _bsdtar(archive: str, stage: str) -> list[str]:
    return ["bsdtar", "-x", "-f", archive, "-C", stage]


_PROGRAMS: Sequence[Callable[[str, str], list[str]]] = (_unar, _seven, _bsdtar)


class RarPacked(AtOnce):
    """An open RAR; `path` is the whole path of its first volume."""

    def __init__(self, packed: Any, size: int, path: str, name: str, password: str) -> None:
        self._packed, self.size, self._path, self._name, self._password = packed, size, path, name, password
        self._aside: tempfile.TemporaryDirectory[str] | None = None

    def members(self) -> Iterator[Member]:
        """Yield its members."""
        for info in self._packed.infolist():
            if info.needs_password() and not (self._password or PASSWORDS.any):
                raise Skip(ENCRYPTED)
            if info.is_symlink() or not (info.is_file() or info.is_dir()):
                raise Skip(f"its member “{written(info.filename)}” is a link or a device")
            crc = None if info.needs_password() else info.CRC  # of an encrypted one it is mixed with the key
            yield Member(info.filename.rstrip("/"), -1 if info.is_dir() else int(info.file_size), info, crc)

    def extract(self, members: Sequence[Member], stage: str) -> None:
        """Unpack all members by the first program whose work is right. Raises Skip where none is."""
        programs = [one for one in _PROGRAMS if shutil.which(one("", "")[0])]
        if not programs:
            raise Skip(NO_PROGRAM)
        locked = any(member.key.needs_password() for member in members)
        most = max((member.size for member in members), default=0) + _SLACK
        for program in programs:
            self._run(program, stage, most, locked=locked)
            if self._all_right(members, stage):
                return
            _empty(stage)
        raise DamagedArchive("the archive is damaged, or no program here can unpack it")

    def _run(self, program: Callable[[str, str], list[str]], stage: str, most: int, *, locked: bool) -> None:
        """Run a program; of an encrypted archive only one that takes what is typed. Raises Skip without a password."""
        command = program(self._path, stage)
        if not locked:
            nothing = subprocess.DEVNULL
            with subprocess.Popen(command, stdin=nothing, stdout=nothing, stderr=nothing) as process:
                limit(process.pid, most)
            return
        if program is not _unar:
            return
        for word in [self._password] if self._password else PASSWORDS.tried(self._name):
            if run_with_password([part for part in command if part != "-quiet"], word, _PROMPT, most):
                self._password = word
                PASSWORDS.opened_with(word)
                return
            _empty(stage)
        raise Skip(ENCRYPTED)

    def _all_right(self, members: Sequence[Member], stage: str) -> bool:
        """Say whether every member was unpacked as the archive lists it; those named otherwise get their names."""
        missing = []
        for member in members:
            path = os.path.join(stage, member.path)
            if not self._is_right(member, path):
                missing.append(member)
        if not missing:
            return True
        wanted = {member.path for member in members}
        spare = [
            os.path.join(folder, name)
            for folder, _, names in os.walk(stage)
            for name in names
            if os.path.relpath(os.path.join(folder, name), stage) not in wanted
        ]
        for member in missing:  # a name in an old encoding that program and library read otherwise
            found = next((path for path in spare if self._is_right(member, path)), None)
            if found is None or member.crc is None:
                return False
            spare.remove(found)
            goal = os.path.join(stage, member.path)
            os.makedirs(os.path.dirname(goal), exist_ok=True)
            os.rename(found, goal)
        return True

    def _is_right(self, member: Member, path: str) -> bool:
        try:
            if os.path.islink(path) or os.path.getsize(path) != member.size:
                return False
            with open(path, "rb") as file:
                return member.key.needs_password() or self.is_same(member, file)
        except OSError:
            return False

    def is_same(self, member: Member, file: IO[bytes]) -> bool:
        """Compare by the checksum: CRC-32, or BLAKE2sp."""
        if member.key.needs_password():
            return self._is_as_unpacked(member, file)
        if member.crc is not None:
            return crc_of(file) == member.crc
        digest = getattr(member.key, "blake2sp_hash", None)
        if digest is None:
            return False
        from rarfile import Blake2SP

        hasher = Blake2SP()
        for chunk in chunks(file):
            hasher.update(bytes(chunk))
        return bool(hasher.digest() == digest)

    def _is_as_unpacked(self, member: Member, file: IO[bytes]) -> bool:
        """Compare with what is unpacked once more: the checksums of encrypted members are mixed with the key."""
        if self._aside is None:
            self._aside = tempfile.TemporaryDirectory(prefix="magpie-")
            self.extract([one for one in self.members() if one.size >= 0], self._aside.name)
        return _same_as(os.path.join(self._aside.name, member.path), file)

    def close(self) -> None:
        """Take away what was unpacked to be compared."""
        if self._aside is not None:
            self._aside.cleanup()


def _same_as(path: str, file: IO[bytes]) -> bool:
    with open(path, "rb") as twin:
        return hold_the_same(twin, file)


def _empty(folder: str) -> None:
    for entry in os.scandir(folder):
        shutil.rmtree(entry.path) if entry.is_dir(follow_symlinks=False) else os.unlink(entry.path)


@contextmanager
def open_rar(path: str, archive: str) -> Iterator[RarPacked]:
    """Open a RAR by its first volume, at a whole path. Raises Skip with the reason where it is not whole or damaged."""
    import rarfile

    try:
        with rarfile.RarFile(path, errors="strict") as packed:
            password = _password_for(packed, archive)
            volumes = packed.volumelist()
            opened = RarPacked(packed, sum(map(os.path.getsize, volumes)), path, archive, password)
            try:
                yield opened
            finally:
                opened.close()
    except rarfile.NeedFirstVolume:
        raise Skip("it is not the first volume of its archive, which is missing") from None
    except FileNotFoundError as error:
        raise Skip(f"its volume “{written(name_of(str(error.filename)))}” is missing") from None
    except rarfile.Error as error:
        text = str(error)
        if "next volume" in text:
            raise Skip(f"its volume “{written(name_of(text))}” is missing") from error
        raise DamagedArchive(f"the archive is damaged or of a kind that can't be read: {text}") from error


def _password_for(packed: Any, archive: str) -> str:
    """Return the password with which an archive whose names are encrypted opens, "" where they are not."""
    if not packed.needs_password() or packed.infolist():
        return ""
    import rarfile

    for word in PASSWORDS.tried(archive):
        try:
            packed.setpassword(word)
        except rarfile.Error:
            continue
        if packed.infolist():
            PASSWORDS.opened_with(word)
            return word
    raise Skip(ENCRYPTED)
