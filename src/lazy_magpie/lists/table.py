"""Reads reference lists as CSV: a line a file, with the columns set, game, file, size, crc32, md5, sha1, sha256.

`set` is the list's name; `parent` (the game that it is a clone of) and `status` (bad, missing) may stand besides.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator, Mapping, Sequence
from typing import IO

from lazy_magpie.lists.checks import ListError, checked, crc, digest, number, set_of
from lazy_magpie.model.reference import BAD, MISSING, UNKNOWN_SIZE, ListedFile, ListedSet, ListHeader

COLUMNS = ("set", "game", "file", "size", "crc32", "md5", "sha1", "sha256")
_MORE = ("parent", "status")
_NEEDED = ("game", "file")
_LONGEST_FIELD = 1 << 16


def read(path: str, file: IO[bytes]) -> Iterator[ListHeader | ListedSet]:
    """Yield the header of a list, then its sets, whose lines stand together. Raises ListError with the line."""
    csv.field_size_limit(_LONGEST_FIELD)
    text = io.TextIOWrapper(file, "utf-8-sig", "surrogateescape", newline="")
    rows = csv.DictReader(text)
    try:
        _check_columns(path, rows.fieldnames or ())
        yield from _sets(path, rows)
    except csv.Error as error:
        raise ListError(path, rows.line_num, f"this is no CSV that can be read: {error}.") from None
    finally:
        text.detach()


def _check_columns(path: str, columns: Sequence[str]) -> None:
    missing = [name for name in _NEEDED if name not in columns]
    if missing:
        raise ListError(path, 1, f"a column is missing: {', '.join(missing)}; a list has {', '.join(COLUMNS)}.")
    if not set(columns) & {"crc32", "md5", "sha1", "sha256"}:
        raise ListError(path, 1, "there is no column of checksums: crc32, md5, sha1 or sha256.")


def _sets(path: str, rows: csv.DictReader[str]) -> Iterator[ListHeader | ListedSet]:
    """Yield the header by the first line, then each run of lines of one game as a set."""
    name: str | None = None
    game, parent, begun = "", "", 0
    files: list[ListedFile] = []
    for row in rows:
        line = rows.line_num
        if name is None:
            name = row.get("set") or ""
            yield ListHeader(name)
        elif (row.get("set") or "") != name:
            raise ListError(path, line, f"the set is “{row.get('set')}”, not “{name}”: a file has one list alone.")
        if row["game"] != game and files:
            yield _set(path, game, parent, begun, files)
            files = []
        if not files:
            game, parent, begun = row["game"], row.get("parent") or "", line
        files.append(_file(path, line, row))
    if files:
        yield _set(path, game, parent, begun, files)
    elif name is None:
        yield ListHeader()


def _set(path: str, game: str, parent: str, line: int, files: list[ListedFile]) -> ListedSet:
    name = checked(path, line, "game", game)
    return set_of(path, line, ListedSet(name, tuple(files), "", parent, line, in_folder=len(files) > 1))


def _file(path: str, line: int, row: Mapping[str, str | None]) -> ListedFile:
    def text(column: str) -> str:
        return (row.get(column) or "").strip()

    status = text("status")
    if status not in ("", BAD, MISSING):
        raise ListError(path, line, f"the status “{status[:40]}” is neither “{BAD}” nor “{MISSING}”.")
    return ListedFile(
        checked(path, line, "file", row["file"] or ""),
        number(path, line, text("size")) if text("size") else UNKNOWN_SIZE,
        crc(path, line, text("crc32")),
        digest(path, line, "md5", text("md5")),
        digest(path, line, "sha1", text("sha1")),
        digest(path, line, "sha256", text("sha256")),
        status,
    )
