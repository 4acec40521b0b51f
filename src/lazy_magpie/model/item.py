"""An item of the catalogue, with its files and its id."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field

from lazy_magpie.model.kinds import Kind, State, Value
from lazy_magpie.model.stamps import FileStamp


@dataclass(frozen=True, slots=True)
class File:
    """A file of the catalogue. `path` is relative to the root, in the program's inner form.

    `part` is which part or disc of its item it is, 0 where the item has no parts.
    """

    path: str
    size: int
    mtime: int
    inode: int
    role: str = "main"
    part: int = 0

    @property
    def stamp(self) -> FileStamp:
        """How the file looked at the last scan."""
        return FileStamp(self.size, self.mtime, self.inode)


@dataclass(frozen=True, slots=True)
class Item:
    """What a collector calls one thing: an identity, a main path, and the files that belong to it.

    `root` is the name of the root that it lies on, "" for the collection's own; `missing` says that its main file was
    not found any more. `custom` are the values of custom fields that a person filled in.
    """

    id: int
    path: str
    kind: Kind
    state: State
    confidence: float
    fields: Mapping[str, Value]
    facts: Mapping[str, Value]
    doubts: tuple[str, ...] = ()
    files: tuple[File, ...] = ()
    root: str = ""
    missing: bool = False
    tags: tuple[str, ...] = ()
    custom: Mapping[str, Value] = field(default_factory=dict)

    @property
    def matters_less(self) -> bool:
        """Say whether it only lies beside others, or should not be there at all: lists show such last."""
        return self.kind in (Kind.COMPANION, Kind.JUNK, Kind.UNFINISHED)

    @property
    def size(self) -> int:
        """The bytes of all its files; a disc's folder, which is one file to us, counts as none."""
        return sum(max(file.size, 0) for file in self.files)


def in_path_order(items: Iterable[Item], *, down: bool, beside_last: bool = True) -> Iterator[Item]:
    """Yield items that come in the order of their paths as lists show them: what matters less last, or all `down`."""
    found = reversed(list(items)) if down else items
    yield from sorted(found, key=lambda item: item.matters_less) if beside_last else found


_ALPHABET = "0123456789abcdefghjkmnpqrstvwxyz"


def id_text(number: int) -> str:
    """Return an item's id as people see it: base 32 without the letters that look like digits."""
    text = ""
    while number:
        number, digit = divmod(number, 32)
        text = _ALPHABET[digit] + text
    return text or "0"


def id_number(text: str) -> int | None:
    """Return the id that `id_text` wrote as `text`, or None where it is none."""
    number = 0
    for letter in text:
        digit = _ALPHABET.find(letter)
        if digit < 0:
            return None
        number = number * 32 + digit
    return number if text else None
