"""What a thing is, and why: fields that name it, facts, evidence, doubts."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import NamedTuple

from lazy_magpie.model.kinds import Kind, State, Value


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


PERSON = "person"
"""Who answers, where it is no title list."""


@dataclass(frozen=True, slots=True)
class Answer:
    """What an item is, by a person or a title list."""

    kind: Kind
    fields: Mapping[str, Value]
    by: str = PERSON
