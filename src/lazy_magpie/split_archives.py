"""Archives in several volumes: which files are one archive by their names, and how they are read as one file.

Four habits: an archive cut into pieces (`kit.zip.001`, `.002`, …), a split zip (`kit.z01`, `kit.z02`, …, `kit.zip`),
whose last volume says how many there are (APPNOTE 8), and the volumes of a RAR, which are archives themselves: by
number (`kit.part1.rar`, `kit.part2.rar`, …) or in the old way (`kit.rar`, `kit.r00`, …, `kit.r99`, `kit.s00`, …).
"""

from __future__ import annotations

import io
import re
from collections.abc import Callable, Iterable, Iterator, Sequence
from typing import IO, Any, NamedTuple

_PIECE = re.compile(r"(?i)(?P<whole>.+\.(?:zip|7z|rar|tar|t[bgx]z2?|tar\.\w{2,4}))\.(?P<number>\d{3})")
_VOLUME = re.compile(r"(?i)(?P<whole>.+)\.z(?P<number>(?!64|80)\d{2,3})")
"""`.z64` and `.z80` are endings of games."""


_NUMBERED = re.compile(r"(?i)(?P<whole>.+)\.part(?P<number>\d{1,5})\.rar")
_OLD = re.compile(r"(?i)(?P<whole>.+)\.(?P<letter>[r-z])(?P<number>\d\d)")


class Cut(NamedTuple):
    """An archive in several volumes: the name of the one that it is opened by, all in their order, what is missing.

    A split zip is opened by its last volume, the `.zip`, all others by their first. `missing` is the number of the
    first volume that is not there, 0 where none is seen to be missing: a cut archive does not say how many it has.
    """

    lead: str
    names: tuple[str, ...]
    missing: int = 0


def cuts_in(names: Iterable[str]) -> list[Cut]:
    """Return the archives in several volumes among the names of one folder, in the order of their leads."""
    there = set(names)
    pieces: dict[str, dict[int, str]] = {}
    volumes: dict[str, dict[int, str]] = {}
    for name in (name for name in there if name[-1].isdecimal()):
        for pattern, groups in ((_PIECE, pieces), (_VOLUME, volumes)):
            if match := pattern.fullmatch(name):
                groups.setdefault(match["whole"], {})[int(match["number"])] = name
    cuts = [_cut(found) for found in pieces.values()]
    for stem, found in volumes.items():
        last = next((f"{stem}{ending}" for ending in (".zip", ".ZIP", ".Zip") if f"{stem}{ending}" in there), "")
        cut = _cut(found)
        cuts.append(cut._replace(lead=last, names=(*cut.names, last)) if last else cut._replace(missing=max(found) + 1))
    return sorted([*cuts, *_rars_in(there)])


def _rars_in(there: set[str]) -> Iterator[Cut]:
    """Yield the RAR archives in several volumes among names."""
    numbered: dict[str, dict[int, str]] = {}
    old: dict[str, dict[int, str]] = {}
    for name in there:
        if match := _NUMBERED.fullmatch(name):
            numbered.setdefault(match["whole"], {})[int(match["number"])] = name
        elif match := _OLD.fullmatch(name):
            number = 100 * (ord(match["letter"].lower()) - ord("r")) + int(match["number"])
            old.setdefault(match["whole"], {})[number + 2] = name
    yield from map(_cut, numbered.values())
    for stem, found in old.items():
        first = next((name for ending in (".rar", ".RAR", ".Rar") if (name := f"{stem}{ending}") in there), "")
        if first or 2 in found:  # a lone `.s07` is anything
            yield _cut({1: first, **found} if first else found)


def _cut(found: dict[int, str]) -> Cut:
    names = tuple(found[number] for number in sorted(found))
    missing = next((number for number in range(min(1, *found), max(found)) if number not in found), 0)
    return Cut(names[0], names, missing)


def is_volume(name: str) -> bool:
    """Say whether a name is that of a volume which by itself is no archive: `kit.zip.002`, `kit.z01`."""
    return any(pattern.fullmatch(name) for pattern in (_PIECE, _VOLUME, _NUMBERED)) or is_old_volume(name)


def is_old_volume(name: str) -> bool:
    """Say whether a name is that of a volume of a RAR named in the old way, like `.r00`; `.s00` may be anything."""
    match = _OLD.fullmatch(name)
    return match is not None and match["letter"].lower() == "r"


def whole_name(name: str) -> str:
    """Return what an archive would be called in one piece, by the name of one of its volumes; else the name itself."""
    if match := _PIECE.fullmatch(name):
        return match["whole"]
    if match := _VOLUME.fullmatch(name):
        return f"{match['whole']}.zip"
    if match := _NUMBERED.fullmatch(name) or (_OLD.fullmatch(name) if is_old_volume(name) else None):
        return f"{match['whole']}.rar"
    return name


def pieces_of(archive: str, is_there: Callable[[str], bool]) -> list[str]:
    """Return the pieces that an archive, opened by its first (`kit.zip.001`), was cut into; itself if it is whole."""
    match = _PIECE.fullmatch(archive)
    if match is None or int(match["number"]) != 1:
        return [archive]
    found = [archive]
    while is_there(path := f"{match['whole']}.{len(found) + 1:03}"):
        found.append(path)
    return found


def volumes_before(archive: str, count: int) -> list[str]:
    """Return the names of the `count` volumes before the last one of a split zip, `kit.zip`."""
    z = "Z" if archive[-3:].isupper() else "z"
    return [f"{archive[:-3]}{z}{number:02}" for number in range(1, count + 1)]


class JoinedVolumes(io.RawIOBase):
    """Several files that are read as one; closing it leaves them open. `starts` is where each of them begins."""

    def __init__(self, files: Sequence[IO[bytes]]) -> None:
        self._files = files
        self.starts = [0]
        for file in files:
            self.starts.append(self.starts[-1] + file.seek(0, io.SEEK_END))
        self._at = 0

    def readable(self) -> bool:
        """It can be read."""
        return True

    def seekable(self) -> bool:
        """It can be read from anywhere."""
        return True

    def seek(self, offset: int, whence: int = io.SEEK_SET) -> int:
        """Go to a place, as of any file."""
        self._at = offset + (0, self._at, self.starts[-1])[whence]
        return self._at

    def readinto(self, buffer: Any) -> int:
        """Read from the file that the place lies in; the next read goes on in the one behind it."""
        for file, start, end in zip(self._files, self.starts, self.starts[1:], strict=False):
            if start <= self._at < end:
                file.seek(self._at - start)
                data = file.read(min(len(buffer), end - self._at))
                buffer[: len(data)] = data
                self._at += len(data)
                return len(data)
        return 0
