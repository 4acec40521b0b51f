"""Reference lists and messes for tests: made-up sets, what a careful person would expect of them, and where it lies."""

from __future__ import annotations

import hashlib
import io
import zipfile
import zlib
from collections.abc import Iterable, Mapping, Sequence
from pathlib import Path
from typing import NamedTuple
from xml.sax.saxutils import quoteattr


class Set(NamedTuple):
    """A set of a list: its name, its files with their contents, and the set that it is a clone of."""

    name: str
    files: Mapping[str, bytes]
    parent: str = ""


def xml_list(name: str, sets: Iterable[Set], version: str = "1") -> str:
    """Return a list as the XML that publishers share."""
    lines = [f"<datafile><header><name>{name}</name><version>{version}</version></header>"]
    for one in sets:
        clone = f" cloneof={quoteattr(one.parent)}" if one.parent else ""
        lines.append(f"<game name={quoteattr(one.name)}{clone}><description>{one.name}</description>")
        for file, data in one.files.items():
            digests = f'crc="{zlib.crc32(data):08x}" sha1="{hashlib.sha1(data, usedforsecurity=False).hexdigest()}"'
            lines.append(f'<rom name={quoteattr(file)} size="{len(data)}" {digests}/>')
        lines.append("</game>")
    return "\n".join([*lines, "</datafile>\n"])


def csv_list(name: str, sets: Iterable[Set], *, sums: Sequence[str] = ("crc32", "sha256")) -> str:
    """Return a list as CSV, with the checksums named."""
    lines = ["set,game,file,size," + ",".join(sums)]
    for one in sets:
        for file, data in one.files.items():
            values = {
                "crc32": f"{zlib.crc32(data):08x}",
                "md5": hashlib.md5(data, usedforsecurity=False).hexdigest(),
                "sha1": hashlib.sha1(data, usedforsecurity=False).hexdigest(),
                "sha256": hashlib.sha256(data).hexdigest(),
            }
            lines.append(f'{name},"{one.name}","{file}",{len(data)},' + ",".join(values[kind] for kind in sums))
    return "\n".join(lines) + "\n"


def zip_bytes(files: Mapping[str, bytes]) -> bytes:
    """Return a zip with these members."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
        for name, data in files.items():
            packed.writestr(name, data)
    return out.getvalue()


def contents_below(folder: Path) -> dict[str, bytes]:
    """Return all that lies below a folder, members of zips as path!member."""
    found: dict[str, bytes] = {}
    for path in sorted(folder.rglob("*")):
        if not path.is_file() or ".magpie" in path.parts:
            continue
        name = str(path.relative_to(folder))
        try:
            with zipfile.ZipFile(path) as packed:
                found |= {f"{name}!{member}": packed.read(member) for member in packed.namelist()}
        except zipfile.BadZipFile:
            found[name] = path.read_bytes()
    return found


def put_bytes(path: Path, data: bytes) -> None:
    """Write a file, with the folders above it."""
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(data)
