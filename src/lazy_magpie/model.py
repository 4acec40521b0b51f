"""The nouns: what one room hands to the next, as frozen values."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any, NamedTuple

Value = str | int | float | bool | list[str]


class Kind(StrEnum):
    """What a file or an item is; the values are those of every output."""

    MOVIE = "movie"
    EPISODE = "episode"
    EXTRA = "extra"
    TRACK = "track"
    GAME = "game"
    FIRMWARE = "firmware"
    FONT = "font"
    DESIGN = "design"
    KIT = "kit"
    PICTURE = "picture"
    DOCUMENT = "document"
    ARCHIVE = "archive"
    COMPANION = "companion"
    JUNK = "junk"
    UNFINISHED = "unfinished"
    UNKNOWN = "unknown"


class State(StrEnum):
    """How sure an identity is: settled by a person or list, clear from the evidence, doubtful, unknown."""

    SETTLED = "settled"
    CLEAR = "clear"
    DOUBTFUL = "doubtful"
    UNKNOWN = "unknown"


class Do(StrEnum):
    """The sorts of step a plan can hold, and RESTORE, by which steps that held something are taken back."""

    MOVE = "move"
    COPY = "copy"
    HARDLINK = "hardlink"
    SOFTLINK = "softlink"
    MAKE = "make"
    DROP = "drop"
    WRITE = "write"
    REPLACE = "replace"
    UNPACK = "unpack"
    HOLD = "hold"
    TAG = "tag"
    SETTLE = "settle"
    RESTORE = "restore"


class Evidence(NamedTuple):
    """One reason for one value: `source` says where it was seen (name, folder, ending, …), `text` what was seen."""

    field: str
    value: Value
    source: str
    text: str


@dataclass(frozen=True, slots=True)
class Identity:
    """What a thing is.

    `fields` name it (title, year, show, season, …); `facts` are claimed by its name or measured (resolution,
    source, codec). `confidence` runs from 0 to 1. `doubts` say what keeps it from being
    clear, each as a reason, which many items can share, and behind a colon what it is here: "bare year: 1985 may …".
    """

    kind: Kind
    state: State
    confidence: float
    fields: Mapping[str, Value]
    facts: Mapping[str, Value] = field(default_factory=dict)
    why: tuple[Evidence, ...] = ()
    doubts: tuple[str, ...] = ()


def reason_of(doubt: str) -> str:
    """Return the reason of a doubt without what it is in one case: "bare year"."""
    return doubt.partition(":")[0]


class Seen(NamedTuple):
    """How a file looked when a plan was made: size in bytes, mtime in nanoseconds, inode number.

    For a folder the size is -1 and only the inode counts.
    """

    size: int
    mtime: int
    inode: int

    @property
    def is_folder(self) -> bool:
        """Say whether this is how a folder looked."""
        return self.size < 0


FOLDER_SIZE = -1


@dataclass(frozen=True, slots=True)
class Step:
    """One step of a plan. Paths are relative to the root, in the program's inner form.

    `source` is "" for steps that make something new, `target` is "" for steps that take something away.
    `group` gathers steps for the eye (a show, a film, a maker); `item` is the item's id, 0 if none. `data`
    holds what a step of its sort needs besides, as plain JSON values.
    """

    number: int
    do: Do
    source: str
    target: str
    why: str
    group: str = ""
    item: int = 0
    seen: Seen | None = None
    data: Mapping[str, Any] = field(default_factory=dict)

    def numbered(self, number: int) -> Step:
        """Return the step under another number."""
        return Step(number, self.do, self.source, self.target, self.why, self.group, self.item, self.seen, self.data)


@dataclass(frozen=True, slots=True)
class Conflict:
    """Several items that want one name; `why` says in words what differs between them."""

    target: str
    items: tuple[str, ...]
    why: str


@dataclass(frozen=True, slots=True)
class Left:
    """A path that a plan leaves where it is, and why; `asks` where an answer of the person's would move it."""

    path: str
    why: str
    asks: bool = False


@dataclass(frozen=True, slots=True)
class Plan:
    """Steps in the order in which they are done, with the conflicts and what is left. `number` 0: not kept.

    `passed` counts what lies outside the plan's business (`{"in folders left alone": 12, …}`). `drives` are those that
    were mounted inside the root when it was made ({folder: id}), None where that is not known.
    """

    command: str
    steps: tuple[Step, ...]
    conflicts: tuple[Conflict, ...] = ()
    left: tuple[Left, ...] = ()
    passed: Mapping[str, int] = field(default_factory=dict)
    number: int = 0
    drives: Mapping[str, str] | None = None


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
    def seen(self) -> Seen:
        """How the file looked at the last scan."""
        return Seen(self.size, self.mtime, self.inode)


@dataclass(frozen=True, slots=True)
class Item:
    """What a collector calls one thing: an identity, a main path, and the files that belong to it.

    `root` is the name of the root that it lies on, "" for the collection's own; `missing` says that its main file was
    not found any more. `own` are the values of fields of one's own that a person filled in.
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
    own: Mapping[str, Value] = field(default_factory=dict)


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
