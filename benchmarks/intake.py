"""Bringing many archives in: `python -m benchmarks.intake [--archives 1000] [--members 40]`.

Prints planning as a multiple of a bare loop that opens each archive with zipfile and lists it, in one process, and the
whole command as a multiple of the loop as a process; unpacking, and applying the whole plan with a scan of what is new,
as multiples of one process that extracts all of them with zipfile and syncs each file and folder.
"""

from __future__ import annotations

import argparse
import os
import random
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
import zipfile
from pathlib import Path

from benchmarks.corpus.words import ADJECTIVES, NOUNS

CONFIG = '[shelf.kits]\nkind = "kit"\nfolder = "Kits"\n[maker."Fennick Paper Co"]\nalso = ["fpc"]\n'
_SIZE = 20_000
_RUNS = 9
_DISK_RUNS = 3
_PLAIN = {name: value for name, value in os.environ.items() if name != "PYTHONDONTWRITEBYTECODE"}
"""Processes keep what they compiled, as installed programs do."""

_BARE = """
import os, sys, zipfile
def bare(heap):
    for name in os.listdir(heap):
        with zipfile.ZipFile(os.path.join(heap, name)) as packed:
            members = [(info.filename, info.file_size, info.CRC) for info in packed.infolist()]
"""
_LIST = _BARE + "bare(sys.argv[1])"
_PLAN = (
    _BARE
    + """
import statistics, time
from pathlib import Path
from lazy_magpie import collection
from lazy_magpie.catalogue import opened
from lazy_magpie.services.propose import plan_intake
found = collection.find(Path(sys.argv[1]))
loops, plans = [], []
with opened(found) as catalogue:
    for _ in range(int(sys.argv[2])):
        start = time.perf_counter()
        bare(os.path.join(sys.argv[1], "Downloads"))
        middle = time.perf_counter()
        plan_intake(found, catalogue, ["Downloads"], time.time())
        loops.append(middle - start)
        plans.append(time.perf_counter() - middle)
print(statistics.median(plans) / statistics.median(loops))
"""
)
_EXTRACT = """
import os, sys, zipfile
for name in (name for name in os.listdir(sys.argv[1]) if name.endswith(".zip")):
    home = os.path.join(sys.argv[2], name[:-4])
    os.mkdir(home)
    with zipfile.ZipFile(os.path.join(sys.argv[1], name)) as packed:
        for info in packed.infolist():
            path = packed.extract(info, home)
            with open(path, "rb") as file:
                os.fsync(file.fileno())
    handle = os.open(home, os.O_RDONLY)
    os.fsync(handle)
    os.close(handle)
"""
_UNPACK = """
import os, sys
from lazy_magpie.change import Filesystem, JournalStore, apply
from lazy_magpie.model.steps import Unpack
disk = Filesystem(os.path.dirname(sys.argv[2]))
os.makedirs(disk.path(".magpie"), exist_ok=True)
inside = os.path.relpath(sys.argv[1], disk.root)
names = [name for name in os.listdir(sys.argv[1]) if name.endswith(".zip")]
steps = [Unpack(number=n, source=f"{inside}/{name}", target=f"files/{name[:-4]}") for n, name in enumerate(names, 1)]
apply(JournalStore(disk), steps, "unpack")
"""


def make_heap(folder: Path, archives: int, members: int) -> None:
    """Make archives of pictures that do not shrink, each a kit of its own."""
    chance = random.Random(5)
    folder.mkdir()
    for number in range(archives):
        title = f"{chance.choice(ADJECTIVES)}{chance.choice(NOUNS)}{number}"
        path = folder / f"fpc_{title}x_Papers.zip"
        with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as packed:
            for member in range(members):
                packed.writestr(f"paper_{member:02}.jpg", chance.randbytes(_SIZE))
        os.utime(path, (1_600_000_000, 1_600_000_000))


def seconds(*command: str) -> float:
    """Return how long a process takes, once the disk has done what was left to it before."""
    os.sync()
    start = time.perf_counter()
    subprocess.run(command, check=False, env=_PLAIN, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    return time.perf_counter() - start


def main() -> None:
    """Measure and print."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--archives", type=int, default=1000)
    parser.add_argument("--members", type=int, default=40)
    args = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder) / "collection"
        root.mkdir()
        (root / "magpie.toml").write_text(CONFIG)
        make_heap(root / "Downloads", args.archives, args.members)
        program = [sys.executable, "-m", "lazy_magpie", "-C", str(root)]
        seconds(*program, "scan")
        lists, plans = [], []
        for _ in range(_RUNS):
            lists.append(seconds(sys.executable, "-c", _LIST, str(root / "Downloads")))
            plans.append(seconds(*program, "intake", "Downloads", "--json"))
        planning = [sys.executable, "-c", _PLAN, str(root), str(_RUNS)]
        ratio = float(subprocess.run(planning, check=True, env=_PLAIN, capture_output=True, text=True).stdout)
        apply = seconds(*program, "apply", "--json")
        bought = root / "Kits" / "Fennick Paper Co"
        extracts, unpacks = [], []
        for _ in range(_DISK_RUNS):
            for script, taken in ((_EXTRACT, extracts), (_UNPACK, unpacks)):
                out = Path(folder) / "files"
                out.mkdir()
                taken.append(seconds(sys.executable, "-c", script, str(bought), str(out)))
                assert len(os.listdir(out)) == args.archives
                shutil.rmtree(out)
    extract, unpack = statistics.median(extracts), statistics.median(unpacks)
    ratios = [one / other for one, other in zip(unpacks, extracts, strict=True)]
    print(f"planning / a bare loop that lists each     {ratio:.2f}")
    print(f"the command / the loop as a process        {statistics.median(plans) / statistics.median(lists):.2f}")
    print(f"  ({statistics.median(plans):.1f} s for {args.archives:,} archives with {args.members:,} members each)")
    span = f"({min(ratios):.2f} to {max(ratios):.2f}, {unpack:.1f} s)"
    print(f"unpacking / extracting all with zipfile    {unpack / extract:.2f} {span}")
    print(f"applying / extracting all with zipfile     {apply / extract:.2f} ({apply:.1f} s)")


if __name__ == "__main__":
    main()
