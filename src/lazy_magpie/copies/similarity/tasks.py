"""What a worker answers about the likeness of files: the print of one, or how alike two are."""

from __future__ import annotations

import base64
import filecmp
import os

from lazy_magpie.copies.similarity import module_of
from lazy_magpie.copies.similarity.likeness import Likeness

_SMALL = 1 << 20


def fingerprint_task(method: str, path: str) -> list[str]:
    """Return the question for the print of a file."""
    return ["take", method, path]


def confirm_task(method: str, one: str, other: str) -> list[str]:
    """Return the question how alike two files are."""
    return ["alike", method, one, other]


def answer(question: list[str]) -> dict[str, object]:
    """Answer a question: {"print": base64} or {"alike": 0, 1 or 2}. Raises what decoders do with damage."""
    what, method, *paths = question
    if what == "take":
        return {"print": base64.b64encode(module_of(method).fingerprint(paths[0])).decode()}
    return {"alike": int(Likeness.SURELY if _hold_the_same(*paths) else module_of(method).confirm(*paths))}


def _hold_the_same(one: str, other: str) -> bool:
    """Say whether two files hold the same bytes; large ones are not read whole for it."""
    return os.stat(one).st_size <= _SMALL and filecmp.cmp(one, other, shallow=False)
