"""Cuts steps into batches of which no step touches what another has touched.

After a crash each step of the open batch is judged by what lies under its names. That is certain only if no other step
of the batch has to do with these names: a file that is moved twice is moved in two batches.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from lazy_magpie.model import Do, Step
from lazy_magpie.paths import above


def batches(steps: Sequence[Step], most: int) -> Iterator[Sequence[Step]]:
    """Yield runs of at most `most` steps that are independent of each other."""
    start = 0
    touched: set[str] = set()
    around: set[str] = set()
    made: set[str] = set()
    for at, step in enumerate(steps):
        paths = [path for path in (step.source, step.target) if path]
        if at - start >= most or any(path in made or _meets(path, step.do, touched, around) for path in paths):
            yield steps[start:at]
            start = at
            touched.clear()
            around.clear()
            made.clear()
        if step.do is Do.MAKE:
            made.update(paths)
            continue
        touched.update(paths)
        for path in paths:
            around.update(above(path))
    if start < len(steps):
        yield steps[start:]


def _meets(path: str, do: Do, touched: set[str], around: set[str]) -> bool:
    """Say whether a step has touched `path`, something above it, or (but for folders made and dropped) below it."""
    if path in touched or (do not in (Do.MAKE, Do.DROP) and path in around):
        return True
    return any(folder in touched for folder in above(path))
