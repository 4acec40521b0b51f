"""What a rename does to a name, one operation after the other: each takes a name and returns another.

A name is its stem and its ending; of a folder the ending is what a person has put behind its name by `--ending`.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import NamedTuple

from lazy_magpie.errors import UsageError
from lazy_magpie.naming.safe import safe_value
from lazy_magpie.naming.template import Template
from lazy_magpie.paths import split_ending

CASES = ("lower", "upper", "title", "sentence")
_WORD = re.compile(r"[^\W_][\w'’]*")
_FOLDER_ENDING = re.compile(r"(?s)(?P<stem>.*[^. ])(?P<ending>\.[a-z][a-z0-9]{0,9})")
"""The ending of a folder: small letters, so that no "Mr.Fox" or "Vol.2" loses half its name."""
_ENDING = re.compile(r"\.?[^./\\\x00-\x1f]{1,30}")


@dataclass(frozen=True, slots=True)
class Name:
    """A file's or folder's name in two parts; the ending has its dot, "" where there is none."""

    stem: str
    ending: str

    def __str__(self) -> str:
        return self.stem + self.ending


class Renamed(NamedTuple):
    """What operations may look at: what returns the values of the thing's fields, its number in the order shown."""

    values: Callable[[], Mapping[str, object]]
    number: str


Operation = Callable[[Name, Renamed], Name]
"""Returns the new name. Raises MissingField where a needed field has no value."""


def name_from(text: str, *, is_folder: bool) -> Name:
    """Return a name in its parts."""
    if is_folder:
        match = _FOLDER_ENDING.fullmatch(text)
        return Name(match["stem"], match["ending"]) if match else Name(text, "")
    return Name(*split_ending(text))


def to(template: Template, *, everywhere: bool) -> Operation:
    """Give the name that a template says; the ending stays, unless the template has it."""
    used = template.fields()
    has_ending = "ending" in used
    from_item = used - {"name", "ending", "number"}

    def operation(name: Name, about: Renamed) -> Name:
        values = about.values() if from_item else {}
        wanted: dict[str, object] = {key: values.get(key) for key in from_item}
        wanted |= {"name": name.stem, "ending": name.ending[1:], "number": about.number}
        text = template.render({key: _safe(wanted[key], everywhere=everywhere) for key in used}).strip()
        return name_from(text, is_folder=False) if has_ending else Name(text, name.ending)

    return operation


def _safe(value: object, *, everywhere: bool) -> object:
    return safe_value(value, everywhere=everywhere) if isinstance(value, str) and value.isprintable() else value


def swap(old: str, new: str) -> Operation:
    """Put a text in the place of another, wherever that stands in the name; of the ending nothing changes."""
    if not old:
        raise UsageError("--swap needs a text that is to be replaced; to add one there are --prepend and --append.")
    return lambda name, about: Name(name.stem.replace(old, new), name.ending)


def swap_pattern(pattern: str, new: str) -> Operation:
    r"""Put a text (with groups, `\1`) in the place of what a regular expression of Python's `re` finds.

    Raises UsageError for a pattern or text that is none.
    """
    try:
        compiled = re.compile(pattern)
        compiled.sub(new, "")
    except re.error as error:
        raise UsageError(f"--swap-pattern “{pattern}” “{new}” is no regular expression: {error}.") from None
    except IndexError:
        raise UsageError(f"--swap-pattern: “{new}” names a group that “{pattern}” does not have.") from None
    return lambda name, about: Name(compiled.sub(new, name.stem), name.ending)


def prepend(text: str) -> Operation:
    """Put a text in front of the name."""
    return lambda name, about: Name(text + name.stem, name.ending)


def append(text: str) -> Operation:
    """Put a text behind the name, before the ending."""
    return lambda name, about: Name(name.stem + text, name.ending)


def ending(text: str) -> Operation:
    """Give the name another ending, with or without its dot; "" takes it away. Raises UsageError for what is none."""
    if text and not _ENDING.fullmatch(text):
        raise UsageError(f"“{text}” is no ending; one is like jpg or .jpg.")
    new = f".{text.removeprefix('.')}" if text else ""
    return lambda name, about: Name(name.stem, new)


def case(which: str) -> Operation:
    """Write the name in small letters (the ending, too), capitals, with a capital for each word, or for the first.

    Raises UsageError for what is none of these.
    """
    if which not in CASES:
        raise UsageError(f"--case is {', '.join(CASES[:-1])} or {CASES[-1]}.")

    def operation(name: Name, about: Renamed) -> Name:
        match which:
            case "lower":
                return Name(name.stem.lower(), name.ending.lower())
            case "upper":
                return Name(name.stem.upper(), name.ending)
            case "title":
                return Name(_WORD.sub(lambda word: _capital(word.group()), name.stem), name.ending)
        return Name(_WORD.sub(lambda word: _capital(word.group()), name.stem.lower(), count=1), name.ending)

    return operation


def _capital(word: str) -> str:
    return word[0].upper() + word[1:].lower()


def number() -> Operation:
    """Put the number in front of the name."""
    return lambda name, about: Name(f"{about.number} {name.stem}".rstrip(), name.ending)


@dataclass(frozen=True, slots=True)
class Counter:
    """Numbers in the order shown: the first, and how many digits they have at least (0: as many as the last)."""

    start: int = 1
    width: int = 0

    def texts(self, count: int) -> list[str]:
        """Return `count` numbers, no two the same."""
        width = self.width or len(str(self.start + max(count - 1, 0)))
        return [str(one).zfill(width) for one in range(self.start, self.start + count)]


def counter(text: str) -> Counter:
    """Return the counter that START[:WIDTH] means. Raises UsageError."""
    start, colon, width = text.partition(":")
    right = start.isdecimal() and len(start) <= 9 and (not colon or (width.isdecimal() and 0 < int(width) <= 12))
    if not right:
        raise UsageError(f"--number is START or START:WIDTH, like 1 or 1:03, not “{text}”.")
    return Counter(int(start), int(width or 0))


def renamed(name: Name, about: Renamed, operations: Sequence[Operation]) -> Name:
    """Return a name after all operations in their order."""
    for operation in operations:
        name = operation(name, about)
    return name
