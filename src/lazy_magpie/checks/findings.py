"""What the rules of `check` share: a finding, what mends it, what a rule looks at, the shape that all rules have."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import NamedTuple

from lazy_magpie.config import Config, Player
from lazy_magpie.model import Item


class Mend(StrEnum):
    """What mends a finding: its shelf's naming, another name, or taking it away."""

    TIDY = "tidy"
    NAME = "name"
    HOLD = "hold"
    DROP = "drop"


class Finding(NamedTuple):
    """Something that is wrong at a path (of the own root), in words; `mend` is None where a person must decide.

    `to` is the new path where another name mends it.
    """

    rule: str
    path: str
    text: str
    mend: Mend | None = None
    to: str = ""

    @property
    def fix(self) -> str | None:
        """What mends it, in words."""
        match self.mend:
            case Mend.TIDY:
                return "tidy files it"
            case Mend.NAME:
                return f"it becomes {self.to}"
            case Mend.HOLD:
                return "it is taken away, into the holding area"
            case Mend.DROP:
                return "the folder is removed"
            case _:
                return None


@dataclass(frozen=True)
class Sight:
    """What rules look at besides the items: the configuration, the players that are asked about.

    `text_of` reads a small text file, "" where that can't be done; `is_there` says whether a path is on the disk;
    `filed` are the places to which `tidy` would bring main files. `empty_folders` looks for those with nothing in them,
    `dead_links` for links that lead to what is not there, with what they lead to, `firmware` for what lists of firmware
    have that is not there or not right: the list, and what is wrong, in words. `rotten` are likewise the files whose
    contents are not what they were, where they were read.
    """

    config: Config
    players: tuple[Player, ...] = ()
    text_of: Callable[[str], str] = lambda path: ""
    is_there: Callable[[str], bool] = lambda path: True
    filed: Mapping[str, str] = field(default_factory=dict)
    empty_folders: Callable[[], Iterable[str]] = tuple
    dead_links: Callable[[], Iterable[tuple[str, str]]] = tuple
    firmware: Callable[[], Iterable[tuple[str, str]]] = tuple
    rotten: tuple[tuple[str, str], ...] = ()


class Check:
    """A rule at work: it sees every item once, in the order of their paths, and may have more to say at the end."""

    def __init__(self, sight: Sight) -> None:
        self.sight = sight

    def see(self, item: Item) -> Iterable[Finding]:
        """Return what is wrong with an item."""
        return ()

    def end(self) -> Iterable[Finding]:
        """Return what is wrong with several items together."""
        return ()


@dataclass(frozen=True)
class Rule:
    """A rule: its name, what it says of many findings, and how it looks."""

    name: str
    says: str
    check: type[Check]


def each(look: Callable[[Item, Sight], Iterator[Finding]]) -> type[Check]:
    """Return the check that looks at each item by itself."""

    class OfEach(Check):
        def see(self, item: Item) -> Iterable[Finding]:
            return look(item, self.sight)

    return OfEach
