"""A plan: steps in order, what conflicts, what stays where it is."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from lazy_magpie.model.steps import Step


@dataclass(frozen=True, slots=True)
class Conflict:
    """Several items that want one name; `why` says in words what differs between them."""

    target: str
    items: tuple[str, ...]
    why: str


@dataclass(frozen=True, slots=True)
class Unmoved:
    """A path that a plan leaves where it is, and why; `asks` where an answer of the person's would move it."""

    path: str
    why: str
    asks: bool = False


@dataclass(frozen=True, slots=True)
class Plan:
    """Steps in the order in which they are done, with the conflicts and what is left. `number` 0: not kept.

    `passed` counts what lies outside the plan's business (`{"in folders left alone": 12, …}`). `drives` are those that
    were mounted inside the root when it was made ({folder: id}), None where that is not known. `read_back` says that
    every new name of a film or an episode was read anew, and gives the same identity.
    """

    command: str
    steps: tuple[Step, ...]
    conflicts: tuple[Conflict, ...] = ()
    unmoved: tuple[Unmoved, ...] = ()
    passed: Mapping[str, int] = field(default_factory=dict)
    number: int = 0
    drives: Mapping[str, str] | None = None
    read_back: bool = False
