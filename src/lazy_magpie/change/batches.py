"""Cuts steps into batches in which no step touches what another has touched.

After a crash each step of the open batch is judged by what lies under its names. That is certain only if no other step
of the batch has to do with these names: a file that is moved twice is moved in two batches.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from lazy_magpie.model import Step
from lazy_magpie.model.sends import Send
from lazy_magpie.model.steps import Convert, DropFolder, DropLink, MakeFolder, Pack, Restore
from lazy_magpie.paths import above, parent

MOST_CONVERTED = 16
"""So many conversions are announced at once: each may take long, and only what is noted is not done again."""
_FOLDER_WORK = (MakeFolder, DropFolder, DropLink)


def names_of(step: Step) -> list[str]:
    """Return all names that a step has to do with: where it takes from and puts to, and what gives way to it."""
    names = [name for name in (step.source, step.target) if name]
    if isinstance(step, Restore):
        names += [name for name in (step.instead, step.to) if name]
    elif isinstance(step, Send):
        names += [name for name in names_of(step.by) if name not in names]
    elif isinstance(step, Pack):
        names += [member.path for member in step.members if member.path]
    elif isinstance(step, Convert):
        names += [one.path for one in step.inputs]
    return names


def batches(steps: Sequence[Step], most: int) -> Iterator[Sequence[Step]]:
    """Yield runs of at most `most` steps that are independent of each other."""
    batch = _Batch()
    start = 0
    for at, step in enumerate(steps):
        names = names_of(step)
        full = at - start >= (MOST_CONVERTED if isinstance(step, Convert) else most)
        if full or batch.meets(step, names):
            yield steps[start:at]
            start = at
            batch = _Batch()
        batch.add(step, names)
    if start < len(steps):
        yield steps[start:]


class _Batch:
    """The names that the steps of a batch have to do with."""

    def __init__(self) -> None:
        self.touched: set[str] = set()  # by a step that is no make
        self.trees: set[str] = set()  # those of them that may be folders with something in them
        self.around: set[str] = set()  # the folders above them
        self.made: set[str] = set()

    def meets(self, step: Step, names: Sequence[str]) -> bool:
        """Say whether a step, of these names, has to do with one that the batch has touched, or one above or below it.

        Folders are made above and dropped behind what is moved; that alone is no meeting.
        """
        for path in names:
            if path in self.touched or path in self.made:
                return True
            if path in self.around and not isinstance(step, _FOLDER_WORK):
                return True
            if self.trees and any(folder in self.trees for folder in above(path)):
                return True
        return False

    def add(self, step: Step, names: Sequence[str]) -> None:
        """Add a step with these names."""
        if isinstance(step, MakeFolder):
            self.made.add(step.target)
            return
        may_be_tree = step.stamp is None or step.stamp.is_folder
        for path in names:
            self.touched.add(path)
            if may_be_tree:
                self.trees.add(path)
            if (home := parent(path)) not in self.around:
                self.around.add(home)
                self.around.update(above(home))
