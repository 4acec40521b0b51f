"""Random trees and random plans of all kinds of step, and what must hold of them whatever happens."""

from __future__ import annotations

import io
import random
import zipfile
from collections import Counter
from collections.abc import Iterator
from typing import Any

from lazy_magpie.change import Filesystem
from lazy_magpie.change.state_folders import STATE_DIR, WORK
from lazy_magpie.model import Step, StepKind
from lazy_magpie.paths import above, is_below, join, name_of, parent
from lazy_magpie.step_codec import step_from

NAMES = (
    "Kelp (2001).mkv",
    "kelp.srt",
    "a\nb",
    "🪁",
    "not \udcff utf-8",
    "x" * 200,
    "Élan",
    "poster.jpg",
    "café",
    ".dot",
)
TEXT = "written by a step\n"


def files_of(disk: Any, folder: str = "") -> Iterator[str]:
    """Yield the paths of the files below a folder, magpie's journals and manifests left out."""
    for name in disk.names(folder):
        path = join(folder, name)
        status = disk.status(path)
        if status is None or status.is_link:
            continue
        if status.is_folder:
            if name_of(path) != "journal" or STATE_DIR not in path:
                yield from files_of(disk, path)
        elif not (STATE_DIR in path.split("/") and name in ("manifest.jsonl", "lock", "root.json", "area.json")):
            yield path


def contents(disk: Any) -> Counter[bytes]:
    """Return how often each content is there; hard links of one file count once."""
    found: Counter[bytes] = Counter()
    counted = set()
    for path in files_of(disk):
        status = disk.status(path)
        if (status.device, status.inode) not in counted:
            counted.add((status.device, status.inode))
            with disk.open_old(path) as file:
                found[file.read()] += 1
    return found


def make_tree(disk: Any, chance: random.Random, drives: tuple[str, ...]) -> None:
    """Make folders and files with odd names, some of equal content, some of them archives."""
    folders = ["", *drives]
    for number in range(chance.randrange(3, 7)):
        folder = join(chance.choice(folders), f"folder {number}")
        disk.make_folder(folder)
        folders.append(folder)
    for number in range(chance.randrange(5, 14)):
        path = join(chance.choice(folders), f"{number} {chance.choice(NAMES)}"[:200])
        data = (
            _archive(number)
            if number % 6 == 5
            else f"content {chance.choice([number, 0])} ".encode() * chance.choice([1, 9000])
        )
        with disk.open_new(path) as file:
            file.write(data)
        disk.set_mode(path, 0o644)
        disk.set_times(path, 1_500_000_000_000_000_000 + number)
    if chance.random() < 0.3:
        _make_volumes(disk, chance.choice(folders))


def _make_volumes(disk: Any, folder: str) -> None:
    data = _archive(99)
    for number, piece in enumerate((data[: len(data) // 2], data[len(data) // 2 :]), start=1):
        path = join(folder, f"Kit.zip.00{number}")
        with disk.open_new(path) as file:
            file.write(piece)
        disk.set_mode(path, 0o644)
        disk.set_times(path, 1_500_000_000_000_000_099)


def _archive(number: int) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as packed:
        for name in ("a.txt", "sub/b.txt", "sub/c.txt"):
            packed.writestr(zipfile.ZipInfo(name), f"member {number} {name} " * 50)
    return out.getvalue()


class Planner:
    """Makes a plan that can be done step after step on a tree, keeping a model of what lies where."""

    def __init__(
        self, disk: Any, chance: random.Random, drives: tuple[str, ...], *, ignores_case: bool = False
    ) -> None:
        self.ignores_case = ignores_case
        self.disk = disk
        self.chance = chance
        self.drives = drives
        self.files = {path: path for path in files_of(disk)}  # where it is now: where it was at first
        self.folders = set(self._folders(""))
        self.steps: list[Step] = []
        self.fresh = 0

    def _folders(self, folder: str) -> Iterator[str]:
        yield folder
        for name in self.disk.names(folder):
            status = self.disk.status(join(folder, name))
            if status.is_folder and name != STATE_DIR:
                yield from self._folders(join(folder, name))

    def plan(self, count: int) -> list[Step]:
        """Return a plan of about `count` steps."""
        ways = (
            self.move, self.move, self.move, self.swap, self.copy, self.hardlink, self.softlink, self.make, self.drop,
            self.write, self.hold, self.replace, self.unpack, self.move_folder, self.link_instead, self.hold_copy,
            self.tag, self.rewrite, self.unpack_parts, self.in_case, self.pack, self.pack_members,
            self.convert,
        )  # fmt: skip
        for _ in range(count):
            self.chance.choice(ways)()
        return self.steps

    def _add(self, do: StepKind, source: str, target: str, stamp: Any = None, **data: object) -> None:
        number = len(self.steps) + 1
        self.steps.append(
            step_from(do.value, data, number=number, source=source, target=target, why="chance", stamp=stamp)
        )

    def _free(self, drive: str | None = None) -> str:
        self.fresh += 1
        folders = [f for f in self.folders if drive is None or self._drive(f) == drive]
        return join(self.chance.choice(sorted(folders)), f"new {self.fresh} {self.chance.choice(NAMES)}"[:190])

    def _drive(self, path: str) -> str:
        top = path.split("/", maxsplit=1)[0]
        return top if top in self.drives else ""

    def _old(self) -> tuple[str, Any] | None:
        """Return a file that was there from the start, where it is now, and how it was seen."""
        known = sorted(path for path, first in self.files.items() if first and self._drive(path) == self._drive(first))
        if not known:
            return None
        path = self.chance.choice(known)
        return path, self.disk.status(self.files[path]).stamp

    def _has_links(self, path: str) -> bool:
        return not (self.ignores_case and self._drive(path))

    def _copies(self) -> tuple[str, str] | None:
        """Return two files of one content on one drive that lie there."""
        known: dict[tuple[str, bytes], str] = {}
        for path, first in sorted(self.files.items()):
            if first and self._drive(first) == self._drive(path):
                with self.disk.open_old(first) as file:
                    key = (self._drive(path), file.read())
                if other := known.get(key):
                    return other, path
                known[key] = path
        return None

    def hold_copy(self) -> None:
        if found := self._copies():
            keeper, path = found
            self._add(StepKind.HOLD, path, "", self.disk.status(self.files[path]).stamp, keeps=keeper)
            del self.files[path]

    def link_instead(self) -> None:
        if (found := self._copies()) and self._has_links(found[0]):
            keeper, path = found
            stamp = self.disk.status(self.files[path]).stamp
            self._add(
                StepKind.HARDLINK, keeper, path, self.disk.status(self.files[keeper]).stamp, instead_of=list(stamp)
            )
            self.files[path] = self.files[keeper] = ""

    def tag(self) -> None:
        if found := self._old():
            self._add(StepKind.TAG, found[0], "", found[1], old=["before"], new=[f"kite {self.fresh}"])

    def rewrite(self) -> None:
        if found := self._old():
            self._add(StepKind.REPLACE, "", found[0], found[1], text=TEXT)
            self.files[found[0]] = ""

    def unpack_parts(self) -> None:
        """Unpack an archive of two volumes, with a layout, then hold both, compared."""
        volumes = sorted(
            path for path, first in self.files.items() if path.endswith((".zip.001", ".zip.002")) and first
        )
        if len(volumes) == 2 and [self.files[path] for path in volumes] == volumes:
            seens = [list(self.disk.status(path).stamp) for path in volumes]
            layout = {"a.txt": "first.txt", "sub/b.txt": "b/second.txt", "sub/c.txt": "third.txt"}
            part = {"archive": volumes[0], "seen": seens[0], "layout": layout, "volumes": [[volumes[1], *seens[1]]]}
            target = self._free()
            self._add(StepKind.UNPACK, volumes[0], target, self.disk.status(volumes[0]).stamp, parts=[part])
            data: dict[str, object] = {"unpacked": target, "layout": layout}
            for path in volumes:
                self._add(StepKind.HOLD, path, "", self.disk.status(path).stamp, **data)
                del self.files[path]
                data = {}

    def pack(self) -> None:
        """Pack a few files, then hold them, compared."""
        known = {found[0]: found[1] for _ in range(3) if (found := self._old())}
        known = {path: stamp for path, stamp in known.items() if path.isprintable()}
        if not known:
            return
        target = f"{self._free()}.zip"
        names = {path: f"{number}/{name_of(path)}" for number, path in enumerate(sorted(known))}
        members = [[names[path], path, list(stamp)] for path, stamp in known.items()]
        self._add(StepKind.PACK, next(iter(known)), target, members=members, store=self.chance.random() < 0.5)
        for path, stamp in known.items():
            proof = {"in_archive": target, "member": names[path]}
            self._add(StepKind.HOLD, path, "", stamp, proofs=[proof])
            del self.files[path]

    def pack_members(self) -> None:
        """Pack the members of an archive into two others, then hold it: all of it is elsewhere."""
        if not isinstance(self.disk, Filesystem) or not (found := self._archives()):
            return
        path = self.chance.choice(found)
        first = self.files[path]
        status = self.disk.status(first)
        assert status is not None
        stamp = status.stamp
        with self.disk.open_old(first) as file, zipfile.ZipFile(file) as packed:
            names = [info.filename for info in packed.infolist() if info.file_size]
        if not names:
            return
        places: dict[str, list[str]] = {}
        for number, some in enumerate((names[::2], names[1::2])):
            target = f"{self._free()}-{number}.zip"
            members = [[f"own/{name}", path, list(stamp), name] for name in some] + [["empty", "", None]]
            places |= {name: [name, target, f"own/{name}"] for name in some}
            if some:
                self._add(StepKind.PACK, path, target, stamp, members=members, store=False)
        self._add(StepKind.HOLD, path, "", stamp, proofs=[{"spread": list(places.values())}])
        del self.files[path]

    def convert(self) -> None:
        """Turn a file into another, which is proved by the way back, and hold it."""
        if not isinstance(self.disk, Filesystem) or not (found := self._old()):
            return
        path, stamp = found
        target = self._free()
        words = ["cp", "{source}", "{result}"]
        by = {"name": "copier", "command": words, "back": words, "seconds": 60}
        self._add(StepKind.CONVERT, path, target, stamp, inputs=[[path, *stamp]], by=by)
        self._add(StepKind.HOLD, path, "", stamp, proofs=[{"converted": target}])
        del self.files[path]

    def in_case(self) -> None:
        """Change the case of a name alone, on a drive that ignores case."""
        known = [path for path, first in sorted(self.files.items()) if first == path and self._drive(path)]
        known = [path for path in known if name_of(path).swapcase() != name_of(path) and "/" in path]
        if self.ignores_case and known:
            path = self.chance.choice(known)
            target = join(parent(path), name_of(path).swapcase())
            self._add(StepKind.MOVE, path, target, self.disk.status(path).stamp)
            self.files[target] = self.files.pop(path)

    def move(self) -> None:
        if found := self._old():
            path, stamp = found
            target = self._free()
            self._add(StepKind.MOVE, path, target, stamp)
            self.files[target] = self.files.pop(path)

    def swap(self) -> None:
        known = sorted(path for path, first in self.files.items() if first)
        pairs = [(a, b) for a in known for b in known if a < b and self._drive(a) == self._drive(b)]
        pairs = [p for p in pairs if all(self._drive(self.files[x]) == self._drive(x) for x in p)]
        if pairs:
            one, other = self.chance.choice(pairs)
            aside = self._free(self._drive(one))
            first, second = (self.disk.status(self.files[path]).stamp for path in (one, other))
            self._add(StepKind.MOVE, one, aside, first)
            self._add(StepKind.MOVE, other, one, second)
            self._add(StepKind.MOVE, aside, other, first)
            self.files[one], self.files[other] = self.files[other], self.files[one]

    def move_folder(self) -> None:
        folders = sorted(f for f in self.folders if f and f not in self.drives and self.disk.status(f))
        if not folders:
            return
        folder = self.chance.choice(folders)
        homes = sorted(f for f in self.folders if f != folder and not f.startswith(folder + "/"))
        homes = [f for f in homes if self._drive(f) == self._drive(folder)]
        self.fresh += 1
        target = join(self.chance.choice(homes), f"moved {self.fresh}")
        status = self.disk.status(folder)
        if any(step.source.startswith(folder) or step.target.startswith(folder) for step in self.steps):
            return
        self._add(StepKind.MOVE, folder, target, status.stamp)

        def moved(path: str) -> str:
            return target + path[len(folder) :] if is_below(path, folder) else path

        self.files = {moved(path): first for path, first in self.files.items()}
        self.folders = {moved(path) for path in self.folders}

    def copy(self) -> None:
        if found := self._old():
            target = self._free()
            self._add(StepKind.COPY, found[0], target, found[1])
            self.files[target] = ""

    def hardlink(self) -> None:
        if (found := self._old()) and self._has_links(found[0]):
            target = self._free(self._drive(found[0]))
            self._add(StepKind.HARDLINK, found[0], target)

    def softlink(self) -> None:
        self._add(StepKind.SOFTLINK, "", self._free(), text="somewhere/else")

    def make(self) -> None:
        target = self._free()
        self._add(StepKind.MAKE, "", target)
        self.folders.add(target)

    def drop(self) -> None:
        used = {folder for path in self.files for folder in above(path)} | {f for g in self.folders for f in above(g)}
        touched = {parent(step.target) for step in self.steps}
        empty = sorted(f for f in self.folders if f and f not in used and f not in touched and f not in self.drives)
        if empty:
            folder = self.chance.choice(empty)
            self._add(StepKind.DROP, folder, "")
            self.folders.discard(folder)

    def write(self) -> None:
        target = self._free()
        self._add(StepKind.WRITE, "", target, text=TEXT)

    def hold(self) -> None:
        if found := self._old():
            self._add(StepKind.HOLD, *(found[0], ""), found[1])
            del self.files[found[0]]

    def replace(self) -> None:
        one, other = self._old(), self._old()
        if one and other and one[0] != other[0] and self._drive(one[0]) == self._drive(other[0]):
            self._add(StepKind.REPLACE, one[0], other[0], other[1])
            del self.files[one[0]]
            self.files[other[0]] = ""

    def _archives(self) -> list[str]:
        """Return the archives that are whole files where they were at first."""
        archives = []
        for path, first in sorted(self.files.items()):
            if first and self._drive(first) == self._drive(path):
                with self.disk.open_old(first) as file:
                    if file.read(2) == b"PK" and not first.endswith(".001"):
                        archives.append(path)
        return archives

    def unpack(self) -> None:
        if archives := self._archives():
            path = self.chance.choice(archives)
            self._add(StepKind.UNPACK, path, self._free(), self.disk.status(self.files[path]).stamp)


def wanted(disk: Any, steps: list[Step]) -> set[bytes]:
    """Return the contents that a plan may add: whole copies, written texts, members of archives."""
    found = {TEXT.encode(), b""}
    for path in files_of(disk):
        with disk.open_old(path) as file:
            data = file.read()
        found.add(data)
        if data[:2] == b"PK" and zipfile.is_zipfile(io.BytesIO(data)):
            with zipfile.ZipFile(io.BytesIO(data)) as packed:
                found |= {packed.read(name) for name in packed.namelist()}
    with zipfile.ZipFile(io.BytesIO(_archive(99))) as packed:
        return found | {packed.read(name) for name in packed.namelist()}


def _is_whole(data: bytes, allowed: set[bytes]) -> bool:
    """Say whether a file is one that a plan may make: of a zip also all that is in it."""
    if data in allowed:
        return True
    if not zipfile.is_zipfile(io.BytesIO(data)):
        return False
    with zipfile.ZipFile(io.BytesIO(data)) as packed:
        return packed.testzip() is None and all(packed.read(name) in allowed for name in packed.namelist())


def faults(disk: Any, before: Counter[bytes], allowed: set[bytes]) -> list[str]:
    """Return what is wrong after a crash and its recovery: contents lost, half files, temporary files left."""
    after = contents(disk)
    wrong = [f"lost: {data[:40]!r}" for data, count in before.items() if after[data] < count]
    for path in files_of(disk):
        with disk.open_old(path) as file:
            if not _is_whole(file.read(), allowed):
                wrong.append(f"half a file: {path!r}")
    wrong += [f"left over: {path!r}" for path in files_of(disk) if f"{STATE_DIR}/{WORK}/" in path]
    return wrong
