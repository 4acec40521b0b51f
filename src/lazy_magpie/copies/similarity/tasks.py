"""What a worker answers about the likeness of files: the print of one, or whether two are alike."""

from __future__ import annotations

import base64

from lazy_magpie.copies.similarity import module_of


def fingerprint_task(method: str, path: str) -> list[str]:
    """Return the question for the print of a file."""
    return ["take", method, path]


def confirm_task(method: str, one: str, other: str) -> list[str]:
    """Return the question whether two files are alike."""
    return ["alike", method, one, other]


def answer(question: list[str]) -> dict[str, object]:
    """Answer a question: {"print": base64} or {"alike": bool}. Raises whatever a decoder does with a damaged file."""
    what, method, *paths = question
    if what == "take":
        return {"print": base64.b64encode(module_of(method).fingerprint(paths[0])).decode()}
    return {"alike": module_of(method).confirm(*paths)}
