"""How long reference lists take: `python -m benchmarks.lists [GAMES]`.

Makes a set of GAMES games (10,000), a zip of three files each, with its list, in a temporary folder. Compares, as
ratios of the median of five:

- the first `match` after a scan with a bare loop that opens each zip and looks each CRC-32 up in a dict, and the second
  `match` with the first; the overview alone, without the start of the program, is told apart;
- loading a list of 100,000 files with a bare streamed parser of the same list (ElementTree's, which hands out each
  element and clears it, with the attributes read), once plain and once as defusedxml has it;
- SHA-1, CRC-32 and our own digest of a large file in one reading with the slowest of them alone.
"""

from __future__ import annotations

import hashlib
import os
import random
import resource
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
import xml.etree.ElementTree as plain
import zipfile
import zlib
from collections.abc import Callable
from pathlib import Path

from blake3 import blake3
from defusedxml import ElementTree as defused

from lazy_magpie.catalogue import opened
from lazy_magpie.checksums import sums_of
from lazy_magpie.collection import find
from lazy_magpie.services.match import open_lists

_RUNS = 5
_MAGPIE = Path(sys.executable).with_name("magpie")
_CONFIG = (
    '[collection]\nname = "P"\n[shelf.games]\nkind = "game"\nfolder = "Games"\n'
    '[list.pocket]\nfile = "Lists/pocket.xml"\nfolder = "Games/{list}"\npack = "zip"\n'
)


def _seconds(work: Callable[[], object]) -> float:
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


def _median(work: Callable[[], object]) -> float:
    return statistics.median(_seconds(work) for _ in range(_RUNS))


def _make(root: Path, games: int) -> None:
    """Make the collection: games in zips, and their list."""
    chance = random.Random(2)
    (root / "Games/Pocket").mkdir(parents=True)
    (root / "Lists").mkdir()
    (root / "magpie.toml").write_text(_CONFIG)
    lines = ["<datafile><header><name>Pocket</name></header>"]
    for number in range(games):
        name = f"Gull {number} (Europe)"
        lines.append(f'<game name="{name}"><description>{name}</description>')
        with zipfile.ZipFile(root / f"Games/Pocket/{name}.zip", "w") as packed:
            for part in range(3):
                data = chance.randbytes(chance.randrange(500, 3000))
                packed.writestr(f"gull {number}-{part}.bin", data)
                lines.append(_rom(f"gull {number}-{part}.bin", len(data), zlib.crc32(data), data))
        lines.append("</game>")
    (root / "Lists/pocket.xml").write_text("\n".join([*lines, "</datafile>\n"]))


def _rom(name: str, size: int, crc: int, data: bytes) -> str:
    md5, sha1 = (hashlib.new(kind, data, usedforsecurity=False).hexdigest() for kind in ("md5", "sha1"))
    return f'<rom name="{name}" size="{size}" crc="{crc:08x}" md5="{md5}" sha1="{sha1}"/>'


def _bare_loop(root: Path) -> int:
    wanted = {}
    for _, element in plain.iterparse(root / "Lists/pocket.xml"):
        if element.tag == "rom":
            wanted[int(element.get("crc", ""), 16)] = element.get("name")
        elif element.tag == "game":
            element.clear()
    found = 0
    for entry in os.scandir(root / "Games/Pocket"):
        with zipfile.ZipFile(entry.path) as packed:
            found += sum(info.CRC in wanted for info in packed.infolist())
    return found


def _matching(root: Path) -> None:
    """Print what `match` takes beside the bare loop."""
    run = [_MAGPIE, "-C", str(root), "-q"]
    subprocess.run([*run, "scan"], check=True, stdout=subprocess.DEVNULL)
    shutil.copytree(root / ".magpie", root / "kept")
    firsts, seconds, insides = [], [], []
    for _ in range(_RUNS):
        shutil.rmtree(root / ".magpie")
        shutil.copytree(root / "kept", root / ".magpie")
        for times in (firsts, seconds):
            times.append(_seconds(lambda: subprocess.run([*run, "match"], check=False, stdout=subprocess.DEVNULL)))
        insides.append(_seconds(lambda: _overview(root)))
    memory = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1024
    loop = _median(lambda: _bare_loop(root))
    first, second = statistics.median(firsts), statistics.median(seconds)
    print(f"match, the first time   {first / loop:5.2f} of the bare loop ({loop:.2f} s)")
    print(
        f"match, the second time  {second / first:5.2f} of the first; without the start of the program "
        f"{statistics.median(insides) / first:.3f}"
    )
    print(f"memory                  {memory:5.0f} MiB, with the scan")


def _overview(root: Path) -> None:
    collection = find(root)
    with opened(collection) as catalogue:
        matching = open_lists(collection, catalogue)
        assert matching.known_counts() is not None


def _loading(root: Path) -> None:
    """Print what loading a list takes beside a bare parser."""
    chance = random.Random(3)
    lines = ["<datafile><header><name>Pocket</name></header>"]
    for number in range(33_334):
        lines.append(f'<game name="Gull {number} (Europe)"><description>Gull {number}</description>')
        lines += [
            _rom(f"gull {number}-{part}.bin", chance.randrange(10**6), chance.randrange(2**32), chance.randbytes(8))
            for part in range(3)
        ]
        lines.append("</game>")
    path = root / "Lists/pocket.xml"
    path.write_text("\n".join([*lines, "</datafile>\n"]))
    collection = find(root)

    def load() -> None:
        os.utime(path)
        with opened(collection, write=True) as catalogue:
            open_lists(collection, catalogue)

    def bare(parser: object) -> int:
        count = 0
        for _, element in parser.iterparse(path):  # type: ignore[attr-defined]
            if element.tag == "rom":
                count += len({name: element.get(name) for name in ("name", "size", "crc", "md5", "sha1")})
            elif element.tag == "game":
                element.clear()
        return count

    loaded = _median(load)
    print(
        f"a list of 100,000 files {loaded / _median(lambda: bare(defused)):5.2f} of defusedxml's streamed parser, "
        f"{loaded / _median(lambda: bare(plain)):.2f} of the plain one"
    )


def _sums(root: Path, size: int = 512 << 20) -> None:
    """Print what several checksums at once take beside the slowest alone."""
    path = root / "image.bin"
    with path.open("wb") as file:
        for _ in range(size >> 20):
            file.write(os.urandom(1 << 20))

    def alone(add: Callable[[bytes], object]) -> None:
        with path.open("rb", buffering=0) as file:
            while chunk := file.read(1 << 20):
                add(chunk)

    def together() -> None:
        with path.open("rb", buffering=0) as file:
            sums_of(file, ["sha1"], size=size)

    slowest = max(
        _median(lambda: alone(hashlib.sha1(usedforsecurity=False).update)),
        _median(lambda: alone(zlib.crc32)),
        _median(lambda: alone(blake3().update)),
    )
    print(f"three sums of one file  {_median(together) / slowest:5.2f} of the slowest alone")


def main(games: int) -> None:
    """Measure, and print ratios."""
    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder)
        _make(root, games)
        _matching(root)
        _loading(root)
        _sums(root)


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 10_000)
