"""Checksum lists and bags that are understood without magpie: what `sha256sum -c` reads, and BagIt (RFC 8493)."""

from __future__ import annotations

import datetime
import hashlib
import os
import re
import shutil
from collections.abc import Callable, Iterable, Iterator
from pathlib import Path

from lazy_magpie.streams import chunks

MANIFEST = "manifest-sha256.txt"
"""The list in a bag."""
_ESCAPED = {"\\": "\\\\", "\n": "\\n", "\r": "\\r"}
_PERCENT = re.compile(r"\n|\r|%(?=25|0[adAD])")
"""What a bag's manifest writes by its number: a lone % stands as it is, which programs that decode no %25 need."""


def sha256_of(path: str) -> str:
    """Return the SHA-256 of a file, in hexadecimal digits. Raises OSError."""
    hasher = hashlib.sha256()
    with open(path, "rb") as file:
        for chunk in chunks(file):
            hasher.update(chunk)
    return hasher.hexdigest()


def checksum_lines(root: str, paths: Iterable[str], tick: Callable[[int], None]) -> Iterator[str]:
    """Yield the line of each file as `sha256sum` writes it: names with a line break or a backslash are escaped."""
    for count, path in enumerate(sorted(paths), start=1):
        name = "".join(_ESCAPED.get(letter, letter) for letter in path)
        yield f"{chr(92) if name != path else ''}{sha256_of(os.path.join(root, path))}  {name}\n"
        tick(count)


def write_bag(bag: Path, root: str, paths: Iterable[str], name: str, tick: Callable[[int], None]) -> None:
    """Write a bag into a new, empty folder: copies of the files below data/, with their manifest and tags."""
    (bag / "data").mkdir()
    lines, size = [], 0
    for count, path in enumerate(sorted(paths), start=1):
        target = bag / "data" / path
        target.parent.mkdir(parents=True, exist_ok=True)
        shutil.copy2(os.path.join(root, path), target, follow_symlinks=False)
        written = _PERCENT.sub(lambda match: f"%{ord(match[0]):02X}", f"data/{path}")
        lines.append(f"{sha256_of(str(target))}  {written}\n")
        size += target.stat().st_size
        tick(count)
    _put(bag / MANIFEST, lines)
    _put(bag / "bagit.txt", ["BagIt-Version: 1.0\n", "Tag-File-Character-Encoding: UTF-8\n"])
    about = [
        f"Bagging-Date: {datetime.date.today().isoformat()}\n",
        f"External-Description: {name}\n",
        f"Payload-Oxum: {size}.{len(lines)}\n",
    ]
    _put(bag / "bag-info.txt", about)
    tags = ("bag-info.txt", "bagit.txt", MANIFEST)
    _put(bag / "tagmanifest-sha256.txt", [f"{sha256_of(str(bag / tag))}  {tag}\n" for tag in tags])


def _put(path: Path, lines: Iterable[str]) -> None:
    path.write_text("".join(lines), encoding="utf-8", errors="surrogateescape", newline="")
