"""Writes zip archives the same way every time: names in order, one time for all, one setting of the compressor."""

from __future__ import annotations

import zipfile
from collections.abc import Callable, Iterable
from typing import IO

from lazy_magpie.streams import chunks

_TIME = (1980, 1, 1, 0, 0, 0)
"""The earliest that the format knows (APPNOTE 4.4.6): the same contents always make the same archive."""
_FILE, _FOLDER = 0o100644 << 16, (0o040755 << 16) | 0x10
_UNIX = 3
_FLAGS = 1 << 11
Entry = tuple[str, Callable[[], IO[bytes]] | None]
"""A name, and what opens what it holds; None for a folder, whose name ends in a slash."""


def write_zip(file: IO[bytes], entries: Iterable[Entry], *, store: bool) -> None:
    """Write a zip to an open file. The entries are written in the order of their names."""
    with zipfile.ZipFile(file, "w", allowZip64=True) as packed:
        for name, opened in sorted(entries, key=lambda entry: entry[0]):
            info = zipfile.ZipInfo(name, _TIME)
            info.create_system, info.external_attr = _UNIX, _FILE if opened else _FOLDER
            info.compress_type = zipfile.ZIP_STORED if store or opened is None else zipfile.ZIP_DEFLATED
            info._compresslevel = 9  # type: ignore[attr-defined]
            with packed.open(info, "w", force_zip64=False) if opened is None else _opened(packed, info) as member:
                if opened is not None:
                    with opened() as source:
                        for chunk in chunks(source):
                            member.write(chunk)


def _opened(packed: zipfile.ZipFile, info: zipfile.ZipInfo) -> IO[bytes]:
    return packed.open(info, "w", force_zip64=True)


def is_written_so(file: IO[bytes], *, store: bool) -> bool:
    """Say whether a zip looks as `write_zip` writes it: names in order, one time, one method."""
    try:
        with zipfile.ZipFile(file) as packed:
            infos = packed.infolist()
            methods = {info.compress_type for info in infos if not info.is_dir()}
            names = [info.filename for info in infos]
            return (
                names == sorted(names)
                and all(info.date_time == _TIME and info.create_system == _UNIX for info in infos)
                and all(info.external_attr == (_FOLDER if info.is_dir() else _FILE) for info in infos)
                and methods <= {zipfile.ZIP_STORED if store else zipfile.ZIP_DEFLATED}
                and not packed.comment
            )
    except (zipfile.BadZipFile, OSError, NotImplementedError, ValueError):
        return False
