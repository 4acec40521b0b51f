"""Names on a target: safe for its file system, short where that is wanted, at most so many in a folder; they last."""

from __future__ import annotations

import re
import unicodedata
from collections import Counter
from collections.abc import Mapping

from lazy_magpie.naming.safe import safe_name
from lazy_magpie.paths import join, name_of, parent, same_name, split_ending

_LETTERS = re.compile(r"[^A-Z0-9_-]+")
_SHORT_MARK, _LONG_MARK = re.compile(r"~\d+$"), re.compile(r" \(\d+\)$")
"""What is put behind a name that something else has already."""


class Names:
    """Gives paths on a target to what is sent: the same to the same thing in every run, and none twice.

    `before` has the paths that things have there already, by what they were sent from. `short` asks for names of eight
    letters and three, `split` for at most so many files in a folder (0: any).
    """

    def __init__(self, before: Mapping[str, str], *, short: bool, split: int) -> None:
        self._before = before
        self._short, self._split = short, split
        self._taken = set(map(same_name, before.values()))
        self._given: set[str] = set()
        self._count: Counter[str] = Counter(parent(path) for path in before.values())
        self._folders: dict[str, str] = {}

    def path(self, key: str, wanted: str) -> str:
        """Return the path for what is known by `key` and would be at `wanted`."""
        safe = "/".join(self._part(part) for part in wanted.split("/"))
        old = self._before.get(key)
        if old is not None and same_name(old) not in self._given and self._still_fits(old, safe):
            self._given.add(same_name(old))
            return old
        home, name = self._home(parent(safe)), name_of(safe)
        found, number = join(home, name), 1
        while same_name(found) in self._taken or same_name(found) in self._given:
            number += 1
            found = join(home, self._numbered(name, number))
        self._given.add(same_name(found))
        self._count[home] += 1
        return found

    def _still_fits(self, old: str, wanted: str) -> bool:
        """Say whether an older path is one that this thing would be given: but for a number, and a part of a folder."""
        stem, ending = split_ending(name_of(wanted))
        own, own_ending = split_ending(name_of(old))
        bare = (_SHORT_MARK if self._short else _LONG_MARK).sub("", own)
        same = own == stem or (bare != own and (stem.startswith(bare) if self._short else stem == bare))
        home = parent(old)
        in_part = self._split and re.fullmatch(r"\d\d+", name_of(home)) and parent(home) == parent(wanted)
        return same and own_ending == ending and (home == parent(wanted) or bool(in_part))

    def _home(self, folder: str) -> str:
        """Return the folder that has room: the first of its numbered parts that is not full."""
        if not self._split:
            return folder
        number = 1
        while self._count[home := join(folder, f"{number:02}")] >= self._split:
            number += 1
        return home

    def _part(self, name: str) -> str:
        return short_name(name) if self._short else safe_name(name, everywhere=True)

    def _numbered(self, name: str, number: int) -> str:
        stem, ending = split_ending(name)
        if self._short:
            mark = f"~{number}"
            return f"{stem[: 8 - len(mark)]}{mark}{ending}"
        return f"{stem} ({number}){ending}"


def short_name(name: str) -> str:
    """Return a name of at most eight letters and an ending of three, in capitals, digits, _ and -."""
    stem, ending = split_ending(name)
    plain = _plain(stem)[:8] or "_"
    return plain + (f".{_plain(ending)[:3]}" if ending else "")


def _plain(text: str) -> str:
    flat = unicodedata.normalize("NFKD", text).encode("ascii", "ignore").decode().upper()
    return _LETTERS.sub("", flat)
