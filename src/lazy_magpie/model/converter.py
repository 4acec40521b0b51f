"""An outside program that turns files into others, as magpie.toml declares it."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Converter:
    """An outside program that turns files into another: commands without a shell, each a list of words.

    `{source}` stands for the file it is given, `{sources}` (a word of its own) for all, `{result}` for what it makes.
    `back` turns the result into the source again, `check` reads it; either proves it, else nobody does. `seconds` is
    how long one may take.
    """

    name: str
    command: tuple[str, ...]
    back: tuple[str, ...] = ()
    check: tuple[str, ...] = ()
    seconds: int = 4 * 3600
