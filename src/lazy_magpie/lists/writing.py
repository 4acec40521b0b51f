"""Writes reference lists of what there is, in each form that is read: XML, CSV, checksum lists, BagIt manifests."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable, Iterator
from xml.sax.saxutils import escape, quoteattr

from lazy_magpie.errors import UsageError
from lazy_magpie.lists.table import COLUMNS
from lazy_magpie.model.reference import ListedFile, ListedSet
from lazy_magpie.paths import visible
from lazy_magpie.xml_text import allowed

_SUMS = re.compile(r"(?:(md5|sha1|sha256)sums(?:\.txt)?|.+\.(md5|sha1|sha256))", re.IGNORECASE)
_BAG = re.compile(r"manifest-(md5|sha1|sha256)\.txt", re.IGNORECASE)


def digests_for(name: str) -> tuple[str, ...]:
    """Return the digests that a list of this file name needs. Raises UsageError for a name that is none of a list."""
    if match := _BAG.fullmatch(name) or _SUMS.fullmatch(name):
        return (next(group for group in match.groups() if group).lower(),)
    if name.lower().endswith(".sfv"):
        return ()
    if name.lower().endswith((".xml", ".dat", ".csv")):
        return ("md5", "sha1", "sha256")
    forms = "NAME.xml, NAME.csv, SHA256SUMS (SHA1SUMS, MD5SUMS), NAME.sfv, or manifest-sha256.txt"
    raise UsageError(f"“{visible(name)}” is no name of a list: call it {forms}.")


def list_text(name: str, title: str, sets: Iterable[ListedSet]) -> Iterator[str]:
    """Yield the text of a list in the form that its file's name says; `title` is what it calls itself."""
    low = name.lower()
    if match := _BAG.fullmatch(low):
        yield from _lines(sets, match[1], "data/")
    elif match := _SUMS.fullmatch(low):
        yield from _lines(sets, match[1] or match[2], "")
    elif low.endswith(".sfv"):
        yield from (f"{_path(one, file)} {file.crc or 0:08X}\n" for one in sets for file in one.files)
    elif low.endswith(".csv"):
        yield from _csv(title, sets)
    else:
        yield from _xml(title, sets)


def _path(one: ListedSet, file: ListedFile) -> str:
    return f"{one.name}/{file.name}" if one.in_folder else file.name


def _lines(sets: Iterable[ListedSet], kind: str, front: str) -> Iterator[str]:
    for one in sets:
        for file in one.files:
            path = f"{front}{_path(one, file)}"
            mark = ""
            if any(sign in path for sign in "\\\n\r"):
                path = path.replace("\\", "\\\\").replace("\n", "\\n").replace("\r", "\\r")
                mark = "\\"
            yield f"{mark}{getattr(file, kind).hex()}  {path}\n"


def _csv(title: str, sets: Iterable[ListedSet]) -> Iterator[str]:
    yield _row(COLUMNS)
    for one in sets:
        for file in one.files:
            crc = "" if file.crc is None else f"{file.crc:08x}"
            digests = (file.md5.hex(), file.sha1.hex(), file.sha256.hex())
            yield _row((title, one.name, file.name, str(max(file.size, 0)), crc, *digests))


def _row(cells: Iterable[str]) -> str:
    text = io.StringIO()
    csv.writer(text, lineterminator="\n").writerow(cells)
    return text.getvalue()


def _xml(title: str, sets: Iterable[ListedSet]) -> Iterator[str]:
    yield '<?xml version="1.0" encoding="UTF-8"?>\n<datafile>\n'
    yield f"  <header><name>{escape(_clean(title))}</name></header>\n"
    for one in sets:
        yield f"  <game name={quoteattr(_clean(one.name))}>\n"
        yield f"    <description>{escape(_clean(one.about or one.name))}</description>\n"
        for file in one.files:
            crc = "" if file.crc is None else f' crc="{file.crc:08x}"'
            digests = "".join(f' {kind}="{value.hex()}"' for kind, value in _digests(file) if value)
            yield f'    <rom name={quoteattr(_clean(file.name))} size="{max(file.size, 0)}"{crc}{digests}/>\n'
        yield "  </game>\n"
    yield "</datafile>\n"


def _digests(file: ListedFile) -> tuple[tuple[str, bytes], ...]:
    return ("md5", file.md5), ("sha1", file.sha1), ("sha256", file.sha256)


def _clean(text: str) -> str:
    return allowed(text, "\ufffd")
