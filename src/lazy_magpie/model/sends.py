"""The steps of sending to a target: what is put there, and what is taken off again; both leave the collection alone.

A target's files stand in steps below `paths.TARGETS`, each target under its name, wherever it is mounted.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from lazy_magpie.model.steps import Step, StepKind


@dataclass(frozen=True, slots=True, kw_only=True)
class Extract(Step):
    """Unpacks one member of the archive at the source to a file."""

    kind: ClassVar[StepKind] = StepKind.UNPACK
    member: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Send(Step):
    """Puts a file on a target by another step, `by`: a copy, a member of an archive, something made of files.

    `key` is what the file is known by from one sending to the next: what it is sent from, and as what.
    """

    kind: ClassVar[StepKind] = StepKind.SEND
    by: Step
    key: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Retract(Step):
    """Takes the file at the source off a target, for good, while what `again` would put there anew is here unchanged.

    Of a copy that is compared, and so is what is in an archive; of what was made from files, that these are as they
    were.
    """

    kind: ClassVar[StepKind] = StepKind.RETRACT
    again: Send
