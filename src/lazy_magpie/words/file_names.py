"""Names of files that say what wrote them: patterns with places, as `.nfs{hex}` or `{name}.part`, ready to be asked."""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import NamedTuple

NAME = "{name}"
"""The place of any name."""
_SIGNS = {NAME: ".+", "{n}": r"\d+", "{hex}": "[0-9a-f]+", "{x}": "[0-9a-z]{6}"}
_PLACE = re.compile(r"\{[a-z]+\}")


class FileNames(NamedTuple):
    """What many patterns ask of a name in small letters: to be one of some, to begin or end so, or to match."""

    whole: frozenset[str]
    begins: tuple[str, ...]
    ends: tuple[str, ...]
    rest: re.Pattern[str]

    def has(self, name: str) -> bool:
        """Say whether one of the patterns is that of a file's name."""
        low = name.lower()
        return (
            low in self.whole
            or low.startswith(self.begins)
            or low.endswith(self.ends)
            or self.rest.fullmatch(low) is not None
        )


def file_names(patterns: Iterable[str]) -> FileNames:
    """Return patterns (small letters) made ready."""
    whole, begins, ends, rest = set(), [], [], []
    for text in sorted(patterns):
        places = _PLACE.findall(text)
        if not places:
            whole.add(text)
        elif places == [NAME] and text.endswith(NAME):
            begins.append(text.removesuffix(NAME))
        elif places == [NAME] and text.startswith(NAME):
            ends.append(text.removeprefix(NAME))
        else:
            rest.append("".join(map(_as_regex, re.split(r"(\{[a-z]+\})", text))))
    return FileNames(frozenset(whole), tuple(begins), tuple(ends), re.compile("|".join(rest) or r"(?!)"))


def _as_regex(piece: str) -> str:
    """Return a piece of a pattern as a regular expression; {nnn} stands for so many digits."""
    if piece.startswith("{n") and set(piece[1:-1]) == {"n"} and len(piece) > 3:
        return rf"\d{{{len(piece) - 2}}}"
    return _SIGNS.get(piece) or re.escape(piece)
