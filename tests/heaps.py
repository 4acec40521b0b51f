"""Heaps of downloads for tests: archives and files of long ago, taken in and planned."""

from __future__ import annotations

import io
import os
import tarfile
import zipfile
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import py7zr
from PIL import Image

from tests.conftest import Collection

LONG_AGO = 1_600_000_000


def zip_of(collection: Collection, name: str, members: Mapping[str, str | bytes], folder: str = "Downloads") -> Path:
    """Make a zip of long ago with these members."""
    path = collection.root / folder / name
    path.parent.mkdir(parents=True, exist_ok=True)
    with zipfile.ZipFile(path, "w") as packed:
        for member, data in members.items():
            packed.writestr(zipfile.ZipInfo(member, (2021, 6, 5, 12, 0, 0)), data)
    os.utime(path, (LONG_AGO, LONG_AGO))
    return path


def put(collection: Collection, *paths: str, text: str = "") -> None:
    """Put files of long ago into a collection."""
    collection.put(*paths, text=text)
    for path in paths:
        os.utime(collection.root / path, (LONG_AGO, LONG_AGO))


def taken_in(collection: Collection, *words: str, code: int = 0) -> set[str]:
    """Take the downloads in, and return what files there are then."""
    collection.ok("intake", "Downloads", *words, "--now", code=code)
    return collection.files()


def planned(collection: Collection, *words: str, code: int = 0) -> Any:
    """Return the plan for the downloads."""
    return collection.ok("intake", "Downloads", "--json", *words, code=code).json


def paper(tmp_path: Path, **about: str) -> bytes:
    """Return a PDF document of one page that says this of itself."""
    path = tmp_path / "paper.pdf"
    Image.new("RGB", (42, 59), "white").save(path, "PDF", **about)
    return path.read_bytes()


def repacked(path: Path, sort: str) -> Path:
    """Make a 7z or a tar of a zip, in its place; a zip stays as it is."""
    if sort == "zip":
        return path
    with zipfile.ZipFile(path) as packed:
        members = {name: packed.read(name) for name in packed.namelist()}
    path.unlink()
    path = path.with_name(f"{path.stem}.{sort}")
    if sort == "7z":
        with py7zr.SevenZipFile(path, "w") as seven:
            for name, data in members.items():
                seven.writestr(data, name)
    else:
        with tarfile.open(path, "w:gz") as tar:
            for name, data in members.items():
                entry = tarfile.TarInfo(name)
                entry.size = len(data)
                tar.addfile(entry, io.BytesIO(data))
    os.utime(path, (LONG_AGO, LONG_AGO))
    return path


def cut(path: Path, size: int) -> list[Path]:
    """Cut a file into volumes of this size, `.001` and so on; return them."""
    data, volumes = path.read_bytes(), []
    for number, start in enumerate(range(0, len(data), size), start=1):
        volume = path.with_name(f"{path.name}.{number:03}")
        volume.write_bytes(data[start : start + size])
        os.utime(volume, (LONG_AGO, LONG_AGO))
        volumes.append(volume)
    path.unlink()
    return volumes


def split(path: Path, size: int) -> list[Path]:
    """Split a zip into volumes of this size, `.z01` and so on, the last of them `.zip` (APPNOTE 8); return them.

    In its directory each member has the volume that it begins in, and its place there.
    """
    data = bytearray(path.read_bytes())
    with zipfile.ZipFile(path) as packed:
        start = at = packed.start_dir
    last = start // size
    while data[at : at + 4] == b"PK\1\2":
        place = int.from_bytes(data[at + 42 : at + 46], "little")
        data[at + 34 : at + 36] = (place // size).to_bytes(2, "little")
        data[at + 42 : at + 46] = (place % size).to_bytes(4, "little")
        lengths = (int.from_bytes(data[at + 28 + 2 * n : at + 30 + 2 * n], "little") for n in range(3))
        at += 46 + sum(lengths)
    data[at + 4 : at + 8] = last.to_bytes(2, "little") * 2
    data[at + 16 : at + 20] = (start - last * size).to_bytes(4, "little")
    volumes = [path.with_suffix(f".z{number + 1:02}") for number in range(last)]
    for number, volume in enumerate(volumes):
        volume.write_bytes(data[number * size : (number + 1) * size])
    path.write_bytes(data[last * size :])
    for volume in (*volumes, path):
        os.utime(volume, (LONG_AGO, LONG_AGO))
    return [*volumes, path]
