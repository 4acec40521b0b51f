"""Regular expressions that are compiled when they are first asked: a start knows hundreds and needs few of them."""

from __future__ import annotations

import re
from functools import cached_property
from typing import Any, cast


def pattern(text: str, flags: int = 0) -> re.Pattern[str]:
    """Return a regular expression. That `text` is none shows only when it is asked: for those that stand in code."""
    return cast(re.Pattern[str], _Pattern(text, flags))


class _Pattern:
    """Stands for a compiled expression: each of its methods is looked up in that once, and kept."""

    def __init__(self, text: str, flags: int) -> None:
        self._how = (text, flags)

    def __getattr__(self, name: str) -> Any:
        if name.startswith("__"):
            raise AttributeError(name)
        found = getattr(self._compiled, name)
        self.__dict__[name] = found
        return found

    @cached_property
    def _compiled(self) -> re.Pattern[str]:
        return re.compile(*self._how)

    def __reduce__(self) -> tuple[Any, ...]:
        return pattern, self._how
