"""Texts in tables: one that a spreadsheet would calculate gets an apostrophe in front, which is taken off again."""

from __future__ import annotations

_ACTS = ("=", "+", "-", "@", "\t", "\r")
_MARK = "'"


def acts(text: str) -> bool:
    """Say whether a spreadsheet would calculate a text, or lose its beginning."""
    return text.startswith(_ACTS)


def inert(text: str) -> str:
    """Return a text that nothing calculates, and that `alive` turns back."""
    return _MARK + text if acts(text) or text.startswith(_MARK) else text


def alive(text: str) -> str:
    """Return the text that `inert` was given; one that it never saw stays as it is."""
    rest = text[1:]
    return rest if text.startswith(_MARK) and inert(rest) != rest else text
