"""Rules of names: those that not every system takes, that differ in case alone, one maker spelled in several ways."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator

from lazy_magpie.checks.findings import Check, Finding, Mend, Rule, Sight, each
from lazy_magpie.identify.title_text import match_key
from lazy_magpie.model import Item, Kind
from lazy_magpie.naming.safe import is_safe, safe_name
from lazy_magpie.paths import above, join, name_of, parent, same_name, written

_COUNTED = re.compile(r"(.*?\D)(\d{1,2})")
_SPELLED = {Kind.EPISODE: "show", Kind.TRACK: "artist", Kind.KIT: "maker", Kind.DESIGN: "maker", Kind.FONT: "family"}


def _unsafe(item: Item, sight: Sight) -> Iterator[Finding]:
    for file in item.files:
        name = name_of(file.path)
        if file.path in sight.filed:
            continue  # it gets a safe name where it is filed
        if not is_safe(name, everywhere=True):
            to = join(parent(file.path), safe_name(name, everywhere=True))
            yield Finding("unsafe-name", file.path, "has a name that not every system takes", Mend.NAME, to)


class _Twins(Check):
    """Names in one folder that differ only in case, or in how accents are written."""

    def __init__(self, sight: Sight) -> None:
        super().__init__(sight)
        self._seen: dict[int, str] = {}  # by what stands for the one name: of very many the names take much room

    def see(self, item: Item) -> Iterable[Finding]:
        """Look whether a name was seen in another spelling."""
        for file in item.files:
            name = same_name(file.path)
            other = self._seen.setdefault(hash(name), file.path)
            if other != file.path and same_name(other) == name:
                text = f"is one name with {written(name_of(other))} on many disks"
                yield Finding("same-but-for-case", file.path, text)


class _Spellings(Check):
    """One show, artist, maker or family, spelled in several ways."""

    def __init__(self, sight: Sight) -> None:
        super().__init__(sight)
        self._said: dict[tuple[str, str], Counter[str]] = defaultdict(Counter)
        self._first: dict[tuple[str, str], str] = {}

    def see(self, item: Item) -> Iterable[Finding]:
        """Note how a name is spelled."""
        field = _SPELLED.get(item.kind)
        said = item.fields.get(field) if field else None
        if isinstance(said, str) and field:
            self._said[field, match_key(said)][said] += 1
            self._first.setdefault((field, said), item.path)
        return ()

    def end(self) -> Iterable[Finding]:
        """Return the spellings that fewer things have than the usual one."""
        for (field, _), spellings in self._said.items():
            usual, *others = [name for name, _ in spellings.most_common()]
            for other in others:
                text = f"the {field} is “{written(other)}” {spellings[other]:,} times, else “{written(usual)}”"
                yield Finding("spelling", self._first[field, other], text)


class _Numbers(Check):
    """Folders side by side that are counted in two ways: Season 1, Season 02."""

    def __init__(self, sight: Sight) -> None:
        super().__init__(sight)
        self._folders: dict[tuple[str, str], dict[str, str]] = defaultdict(dict)
        self._known: set[str] = set()

    def see(self, item: Item) -> Iterable[Finding]:
        """Note the numbers of the folders above an item."""
        for folder in above(item.path):
            if folder in self._known:
                break
            self._known.add(folder)
            if match := _COUNTED.fullmatch(name_of(folder)):
                self._folders[parent(folder), match[1].lower()][match[2]] = folder
        return ()

    def end(self) -> Iterable[Finding]:
        """Return the folders whose numbers are written otherwise than those of most beside them."""
        for folders in self._folders.values():
            short = [number for number in folders if len(number) == 1]
            padded = [number for number in folders if number.startswith("0")]
            rarer, others = (short, padded) if len(short) <= len(padded) else (padded, short)
            for number in rarer if others else ():
                text = f"is counted otherwise than {written(name_of(folders[others[0]]))}"
                yield Finding("number-style", folders[number], text)


RULES = (
    Rule("unsafe-name", "a name that not every system takes", each(_unsafe)),
    Rule("same-but-for-case", "names that differ only in case", _Twins),
    Rule("number-style", "folders counted in two ways", _Numbers),
    Rule("spelling", "one name spelled in several ways", _Spellings),
)
