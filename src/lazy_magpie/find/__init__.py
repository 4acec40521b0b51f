"""The find language: what a person types after `find`, and wherever items are chosen, into conditions.

lamp room                      plain words: all of them somewhere in title, maker or path
kind is movie not dockside     FIELD is VALUE, FIELD isnt VALUE; and (the default), or, not, brackets
Films/Old "New folder"         an argument that is a path is a path
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from lazy_magpie.catalogue import All, AnyOf, Below, Condition, Has, Is, Not
from lazy_magpie.errors import UsageError
from lazy_magpie.model import Kind, State
from lazy_magpie.suggest import nearest

__all__ = ["parse"]

_VALUES: Mapping[str, tuple[str, ...]] = {
    "kind": tuple(kind.value for kind in Kind),
    "state": tuple(state.value for state in State),
}
_OPERATORS = ("is", "isnt")
_BRACKETS = ("(", ")")


def parse(words: Sequence[str], path_of: Callable[[str], str | None] = lambda word: None) -> Condition:
    """Return the condition that `words` stand for; no words stand for everything.

    `path_of` returns the path below the root that a word names, None where it names none. Raises UsageError for a
    value that a field can't have, and for brackets or joining words that lead nowhere.
    """
    if not words:
        return All()
    reader = _Reader(list(words), path_of)
    condition = reader.any_of()
    if reader.at < len(reader.words):
        raise UsageError("There is a “)” without a “(” before it.")
    return condition


@dataclass
class _Reader:
    """Reads the words from left to right; `not` binds before `and`, `and` before `or`."""

    words: list[str]
    path_of: Callable[[str], str | None]
    at: int = 0

    def peek(self, ahead: int = 0) -> str:
        """Return the next word, "" behind the last."""
        index = self.at + ahead
        return self.words[index] if index < len(self.words) else ""

    def any_of(self) -> Condition:
        """Read parts joined by `or`."""
        parts = [self.all_of()]
        while self.peek() == "or":
            self.at += 1
            parts.append(self.all_of())
        return parts[0] if len(parts) == 1 else AnyOf(tuple(parts))

    def all_of(self) -> Condition:
        """Read parts joined by `and` or by nothing."""
        parts = [self.one()]
        while self.at < len(self.words) and self.peek() not in ("or", ")"):
            if self.peek() == "and":
                self.at += 1
            parts.append(self.one())
        return parts[0] if len(parts) == 1 else All(tuple(parts))

    def one(self) -> Condition:
        """Read one part: a bracket, a `not`, a condition, a path or a plain word."""
        word = self.peek()
        if self.at >= len(self.words) or word in ("and", "or", ")"):
            before = self.peek(-1) if self.at else "the beginning"
            raise UsageError(f"A word or condition is missing after “{before}”.")
        self.at += 1
        if word == "not":
            return Not(self.one())
        if word == "(":
            inner = self.any_of()
            if self.peek() != ")":
                raise UsageError("A “(” is never closed; in a shell, brackets need quotes: '(' … ')'.")
            self.at += 1
            return inner
        if word in _VALUES and self.peek() in _OPERATORS:
            return self.condition(word)
        path = self.path_of(word)
        return Has(word) if path is None else Below(path)

    def condition(self, field: str) -> Condition:
        """Read the rest of FIELD is VALUE."""
        operator, value = self.peek(), self.peek(1)
        self.at += 2
        known = _VALUES[field]
        if value not in known:
            hint = nearest(value, known, f"; there are {', '.join(known)}.")
            raise UsageError(f"There is no {field} “{value}”{hint}")
        return Is(field, value) if operator == "is" else Not(Is(field, value))
