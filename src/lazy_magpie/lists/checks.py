"""What the readers of lists share: the error that names the line, and checks of what stands there."""

from __future__ import annotations

import re

from lazy_magpie.errors import MagpieError
from lazy_magpie.model.reference import ListedSet
from lazy_magpie.naming.safe import is_safe
from lazy_magpie.paths import visible

_LONGEST = 255
_PLAIN = re.compile(r"\w[\w()\[\],&'!+. -]{0,180}", re.ASCII)
"""Most names: they need no closer look."""


class ListError(MagpieError):
    """A reference list can't be read; the message names the file and the line."""

    def __init__(self, path: str, line: int, what: str) -> None:
        super().__init__(f"{visible(path)}, line {line}: {what}")


def checked(path: str, line: int, kind: str, name: str) -> str:
    """Return a name with "/" between folders, as a list may give it to a set or a file. Raises ListError."""
    if _PLAIN.fullmatch(name):
        return name
    spelled = name.replace("\\", "/")
    shown = visible(name if len(name) <= 60 else name[:60] + "…")
    if not spelled or spelled.startswith("/") or ".." in spelled.split("/"):
        raise ListError(path, line, f"the {kind} “{shown}” leads outside its folder, or has no name; correct the list.")
    if any(len(part.encode("utf-8", "surrogateescape")) > _LONGEST for part in spelled.split("/")):
        raise ListError(path, line, f"the {kind} “{shown}” is longer than any disk takes; correct the list.")
    if not all(is_safe(part, everywhere=False) for part in spelled.split("/")):
        raise ListError(path, line, f"the {kind} “{shown}” is no name for a file; correct the list.")
    return spelled


def set_of(path: str, line: int, one: ListedSet) -> ListedSet:
    """Return a set with each of its files once. Raises ListError where one name stands for different contents."""
    if len(one.files) == 1 or len({file.name.lower() for file in one.files}) == len(one.files):
        return one
    files = {file.name.casefold(): file for file in reversed(one.files)}
    for file in one.files:
        if files[file.name.casefold()][1:] != file[1:]:
            what = f"“{one.name}” has two files called “{visible(file.name)}” that differ; correct the list."
            raise ListError(path, line, what)
    return one._replace(files=tuple(reversed(files.values())))


def number(path: str, line: int, text: str) -> int:
    """Return a size in bytes. Raises ListError for a text that is none."""
    if not text.isascii() or not text.isdecimal() or len(text) > 18:
        raise ListError(path, line, f"the size “{visible(text[:40])}” is no number of bytes; correct the list.")
    return int(text)


_DIGITS = {"crc32": 8, "md5": 32, "sha1": 40, "sha256": 64}


def digest(path: str, line: int, kind: str, text: str) -> bytes:
    """Return a digest of a kind from its hexadecimal digits, b"" for none. Raises ListError."""
    wanted = _DIGITS[kind]
    try:
        if len(text) == wanted:
            return bytes.fromhex(text)
    except ValueError:
        pass
    text = text.strip()
    if text in ("", "-"):
        return b""
    raise ListError(
        path, line, f"“{visible(text[:70])}” is no {kind} of {wanted} hexadecimal digits; correct the list."
    )


def crc(path: str, line: int, text: str) -> int | None:
    """Return a CRC-32 from its hexadecimal digits, None for none. Raises ListError."""
    if len(text) != _DIGITS["crc32"]:
        text = text.strip().rjust(8, "0") if text.strip("- ") else ""
    raw = digest(path, line, "crc32", text)
    return int.from_bytes(raw, "big") if raw else None
