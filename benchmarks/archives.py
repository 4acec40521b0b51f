"""How long unpacking takes: `python -m benchmarks.archives [MIB] [FOLDER]`.

Makes a zip, a 7z and a tar.zst of MIB mebibytes, and compares what a change does (look at every member, write, sync,
names) with what each library does alone, without any of that, and with waiting until the disk has it. Each is taken
three times, the best counts.
"""

from __future__ import annotations

import os
import random
import shutil
import sys
import tarfile
import tempfile
import time
import zipfile
from collections.abc import Callable
from pathlib import Path

import py7zr

from lazy_magpie.change import Filesystem
from lazy_magpie.change.archives import extract
from lazy_magpie.change.archives.stream_formats import unpacked_stream

_MEMBER = 8 << 20
_RUNS = 3


def _made(folder: Path, size: int) -> dict[str, Path]:
    """Make the archives: half of each member is noise, half is text."""
    chance = random.Random(1)
    source = folder / "source"
    source.mkdir()
    for number in range(size // _MEMBER):
        noise = chance.randbytes(_MEMBER // 2)
        (source / f"{number:04}.bin").write_bytes(noise + b"a line of a long text\n" * (_MEMBER // 44))
    files = sorted(source.iterdir())
    archives = {"zip": folder / "a.zip", "7z": folder / "a.7z", "tar.zst": folder / "a.tar.zst"}
    with zipfile.ZipFile(archives["zip"], "w", zipfile.ZIP_DEFLATED, compresslevel=1) as packed:
        for file in files:
            packed.write(file, file.name)
    with py7zr.SevenZipFile(archives["7z"], "w", filters=[{"id": py7zr.FILTER_LZMA2, "preset": 0}]) as seven:
        for file in files:
            seven.write(file, file.name)
    with tarfile.open(folder / "a.tar", "w") as tar:
        for file in files:
            tar.add(file, file.name)
    if sys.version_info >= (3, 14):
        from compression import zstd
    else:
        from backports import zstd
    with (folder / "a.tar").open("rb") as plain, zstd.ZstdFile(archives["tar.zst"], "w") as packed_tar:
        shutil.copyfileobj(plain, packed_tar, 1 << 20)
    (folder / "a.tar").unlink()
    shutil.rmtree(source)
    return archives


def _alone(kind: str, archive: Path, out: Path) -> None:
    """Unpack by the library alone."""
    if kind == "zip":
        with zipfile.ZipFile(archive) as packed:
            packed.extractall(out)
    elif kind == "7z":
        with py7zr.SevenZipFile(archive) as seven:
            seven.extractall(out)
    else:
        with archive.open("rb") as file:
            head = file.read(8)
            file.seek(0)
            stream = unpacked_stream(file, head)
            with tarfile.open(fileobj=stream, mode="r|") as tar:
                tar.extractall(out, filter="data")


def _best(work: Callable[[], object], out: Path) -> float:
    times = []
    for _ in range(_RUNS):
        os.sync()
        start = time.perf_counter()
        work()
        times.append(time.perf_counter() - start)
        shutil.rmtree(out)
    return min(times)


def main(mebibytes: int, home: str | None) -> None:
    """Print a line for each format."""
    folder = Path(tempfile.mkdtemp(dir=home))
    try:
        disk = Filesystem(str(folder))
        for kind, archive in _made(folder, mebibytes << 20).items():
            out = folder / "out"

            def alone(kind: str = kind, archive: Path = archive, out: Path = out) -> None:
                _alone(kind, archive, out)

            def ours(archive: Path = archive) -> None:
                extract.unpack(disk, [extract.Part(archive.name)], "out")

            def lasting(alone: Callable[[], None] = alone) -> None:
                alone()
                os.sync()

            library, last, unpacked = _best(alone, out), _best(lasting, out), _best(ours, out)
            print(
                f"{kind}: {unpacked:.2f} s; against the library alone {unpacked / library:.2f}, "
                f"and until the disk has all of it {unpacked / last:.2f}"
            )
    finally:
        shutil.rmtree(folder)


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 1024, sys.argv[2] if len(sys.argv) > 2 else None)
