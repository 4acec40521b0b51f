"""Reads a reference list, whatever its form: told by its name, and where that says nothing by how it begins."""

from __future__ import annotations

import os
from collections.abc import Iterator

from lazy_magpie.lists import checksum_list, datafile, table
from lazy_magpie.lists.checks import ListError
from lazy_magpie.model.reference import ListedSet, ListHeader
from lazy_magpie.paths import name_of

_ENDINGS = (".xml", ".dat", ".csv")


def is_list(name: str) -> bool:
    """Say whether a file's name is that of a reference list."""
    return name.lower().endswith(_ENDINGS) or checksum_list.is_named_so(name)


def read_list(path: str) -> Iterator[ListHeader | ListedSet]:
    """Yield the header of the list at `path`, then its sets. Raises ListError, OSError."""
    with open(path, "rb") as file:
        head = file.read(512)
        file.seek(0)
        if checksum_list.is_named_so(name_of(path)):
            yield from checksum_list.read(path, file)
        elif head.lstrip(b"\xef\xbb\xbf\xff\xfe \t\r\n\0").startswith(b"<"):
            yield from datafile.read(path, file)
        elif path.lower().endswith(".csv"):
            yield from table.read(path, file)
        else:
            raise ListError(path, 1, "this is no list that can be read: XML of a “datafile”, CSV, or checksums.")


def lists_at(path: str) -> list[str]:
    """Return the lists at a path, a file or a folder of them, in order. Raises OSError."""
    if not os.path.isdir(path):
        os.stat(path)
        return [path]
    found = []
    for folder, folders, names in os.walk(path, onerror=_raise):
        folders[:] = sorted(name for name in folders if not name.startswith("."))
        found += [os.path.join(folder, name) for name in sorted(names) if is_list(name)]
    return found


def _raise(error: OSError) -> None:
    raise error
