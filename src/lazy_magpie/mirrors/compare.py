"""Compares a collection with its mirror: what is the same, missing, extra, renamed, changed or rotten.

Values in, values out. A file is rotten where its contents are not those of the last good reading, though its size and
time still are.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import NamedTuple

from lazy_magpie.model.stamps import is_kept_time
from lazy_magpie.paths import name_of


class Entry(NamedTuple):
    """A file as it is on a drive: bytes, time (nanoseconds), inode; `link` is what a symbolic link says, else None."""

    size: int
    mtime: int
    inode: int = 0
    link: str | None = None


class MirrorState(StrEnum):
    """How a file stands on the two sides."""

    SAME = "same"
    MISSING = "missing there"
    EXTRA = "extra there"
    MOVED = "renamed"
    DIFFERS = "differs"
    ROTTEN_HERE = "rotten here"
    ROTTEN_THERE = "rotten there"


class Difference(NamedTuple):
    """A file that is not the same on both sides: its path here (of what is only there, its path there).

    `other` is the path there of what has another name here, `why` says more in words.
    """

    state: MirrorState
    path: str
    why: str = ""
    other: str = ""


@dataclass(frozen=True)
class Contents:
    """Digests of contents, by path: as they were read now, and as they are remembered for the size and time of now."""

    here: Mapping[str, bytes] = field(default_factory=dict)
    there: Mapping[str, bytes] = field(default_factory=dict)
    remembered_here: Mapping[str, bytes] = field(default_factory=dict)
    remembered_there: Mapping[str, bytes] = field(default_factory=dict)


SameFile = Callable[[str, str], bool]
"""Says whether a file here and one there hold the same."""


def compare(
    here: Mapping[str, Entry], there: Mapping[str, Entry], contents: Contents, same: SameFile
) -> Iterator[Difference]:
    """Yield what is not the same on both sides, by path."""
    found: dict[str, Difference] = {}
    for path, entry in here.items():
        other = there.get(path)
        one = Difference(MirrorState.MISSING, path) if other is None else _of_both(path, entry, other, contents)
        if one.state is not MirrorState.SAME:
            found[path] = one
    lost = {path for path, one in found.items() if one.state in (MirrorState.MISSING, MirrorState.DIFFERS)}
    open_there = [path for path in there if path not in here or path in lost]
    moved = _moved(sorted(lost), sorted(open_there), here, there, same)
    for path, old in moved.items():
        found[path] = Difference(MirrorState.MOVED, path, other=old)
    used = set(moved.values())
    yield from (found[path] for path in sorted(found))
    for path in sorted(there):
        if path not in here and path not in used:
            yield Difference(MirrorState.EXTRA, path)


def _of_both(path: str, here: Entry, there: Entry, contents: Contents) -> Difference:
    if here.link is not None or there.link is not None:
        same = here.link == there.link
        return Difference(MirrorState.SAME if same else MirrorState.DIFFERS, path, "" if same else "another link")
    newer = "here" if here.mtime > there.mtime else "there"
    now = contents.here.get(path), contents.there.get(path)
    if here.size != there.size:
        return Difference(MirrorState.DIFFERS, path, f"the one {newer} is newer")
    if now[0] is not None and now[0] == now[1]:
        return Difference(MirrorState.SAME, path)
    if not is_kept_time(here.mtime, there.mtime):
        return Difference(MirrorState.DIFFERS, path, f"the one {newer} is newer")
    good = contents.remembered_here.get(path), contents.remembered_there.get(path)
    if now[0] is None or now[1] is None:
        if good[0] and good[1] and good[0] != good[1]:
            return Difference(MirrorState.DIFFERS, path, "their contents differ")
        return Difference(MirrorState.SAME, path)
    remembered = [digest for digest in good if digest]
    if now[0] in remembered and now[1] not in remembered:
        return Difference(MirrorState.ROTTEN_THERE, path, "it is not what it was when it was read last")
    if now[1] in remembered and now[0] not in remembered:
        return Difference(MirrorState.ROTTEN_HERE, path, "it is not what it was when it was read last")
    why = "neither is what it was" if remembered and now[0] not in remembered else "nobody knows which is right"
    return Difference(MirrorState.DIFFERS, path, f"their contents differ, and {why}")


def _moved(
    lost: Iterable[str],
    open_there: Iterable[str],
    here: Mapping[str, Entry],
    there: Mapping[str, Entry],
    same: SameFile,
) -> dict[str, str]:
    """Return the paths there, by their paths here, of files that have another name: of one size and one time.

    One that is called the same, in another folder, and is of the very same time, is taken for it; any other only once
    `same` has said that both hold the same. Of several the first.
    """
    by_size: dict[int, list[str]] = defaultdict(list)
    for path in open_there:
        if there[path].link is None and there[path].size > 0:
            by_size[there[path].size].append(path)
    found: dict[str, str] = {}
    used: set[str] = set()
    for by_name in (True, False):
        for path in lost:
            entry = here[path]
            if path in found or entry.link is not None:
                continue
            for old in by_size.get(entry.size, ()):
                if old in used or old == path or not is_kept_time(entry.mtime, there[old].mtime):
                    continue
                is_named = name_of(old) == name_of(path) and entry.mtime == there[old].mtime
                if is_named if by_name else same(path, old):
                    found[path] = old
                    used.add(old)
                    break
    return found
