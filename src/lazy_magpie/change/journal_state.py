"""What a journal tells of a change: what it is, its runs, the steps of each, and what became of them."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import NamedTuple

from lazy_magpie.change.records import ChangeHead
from lazy_magpie.model import FileStamp, FolderAttributes, Step


@dataclass(frozen=True, slots=True, kw_only=True)
class StepResult:
    """What has to be known of a step that was done, to take it back; empty where there is nothing of it.

    `made` is how what it made looks, `tree` the digest of what is in it, if it is a folder. `held` is where what gave
    way is held, `origin` where what took its place came from, `away` where what stood for a restored thing went;
    `moved` is the result of the move by which a restore was done where nothing was held. `is_folder` says that a
    folder was moved, `was_there` that the folder to make was there. `attributes` are those of a dropped folder, `raw`
    the attribute with a file's tags before and after, `lost` what could not be given back, in words.
    """

    made: FileStamp | None = None
    tree: str | None = None
    held: str = ""
    origin: str = ""
    away: str = ""
    moved: StepResult | None = None
    is_folder: bool = False
    was_there: bool = False
    attributes: FolderAttributes | None = None
    raw: tuple[str | None, str | None] | None = None
    lost: str = ""


DONE = StepResult()
"""The result of a step that needs nothing more to be taken back."""


class Claim(NamedTuple):
    """A name that was claimed: since when (nanoseconds), and by what; None where a crash came before that was noted."""

    since: int
    stamp: FileStamp | None


@dataclass
class Run:
    """One run of a change.

    `kind` is apply, undo or redo, "" where the record that says it is damaged. `done` maps a step's number to its
    result, `begun` are the numbers of the open batch. `kept` is what recovery brought into the holding area: where it
    came from, and where it is; `placing` what steps had made before it got its name.
    """

    kind: str
    at: str
    drives: dict[str, str] | None = None
    steps: dict[int, Step] = field(default_factory=dict)
    folders: dict[str, tuple[int, int]] = field(default_factory=dict)
    attributes: dict[str, FolderAttributes] = field(default_factory=dict)
    after: dict[str, int] = field(default_factory=dict)
    claims: dict[str, Claim] = field(default_factory=dict)
    was: dict[int, str | None] = field(default_factory=dict)
    kept: list[tuple[str, str]] = field(default_factory=list)
    placing: dict[int, StepResult] = field(default_factory=dict)
    ready: bool = False
    done: dict[int, StepResult] = field(default_factory=dict)
    begun: set[int] = field(default_factory=set)
    state: str = ""


@dataclass
class JournalState:
    """A change as its whole journal tells it. `damaged` says which record is, if one is and was not yet made up for."""

    head: ChangeHead | None = None
    runs: list[Run] = field(default_factory=list)
    damaged: str = ""

    @property
    def open_steps(self) -> list[Step]:
        """The steps of the last run that may have been done without a record of it."""
        run = self.runs[-1]
        if self.damaged:
            return [step for number, step in sorted(run.steps.items()) if number not in run.done]
        return [run.steps[number] for number in sorted(run.begun)]
