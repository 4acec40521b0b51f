"""What a worker answers about the likeness of files: the print of one, or whether two are alike."""

from __future__ import annotations

import base64

from lazy_magpie.copies.likeness import likeness


def take(sort: str, path: str) -> list[str]:
    """Return the question for the print of a file."""
    return ["take", sort, path]


def compare(sort: str, one: str, other: str) -> list[str]:
    """Return the question whether two files are alike."""
    return ["alike", sort, one, other]


def answer(question: list[str]) -> dict[str, object]:
    """Answer a question: {"print": base64} or {"alike": bool}. Raises whatever a decoder does with a damaged file."""
    what, sort, *paths = question
    if what == "take":
        return {"print": base64.b64encode(likeness(sort).take(paths[0])).decode()}
    return {"alike": likeness(sort).alike(*paths)}
