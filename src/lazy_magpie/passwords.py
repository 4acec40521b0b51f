"""Passwords of archives: from a file that a person names, or typed once; kept in memory, never on a command line."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

from lazy_magpie.errors import UsageError

_LARGEST = 1 << 20
_TRIES = 3


class Passwords:
    """What archives may be opened with; what has opened one is tried first for the next."""

    def __init__(self) -> None:
        self.file = ""
        self._known: list[str] = []
        self._ask: Callable[[str], str] | None = None
        self._refused = False

    def use(self, file: str, ask: Callable[[str], str] | None) -> None:
        """Know the passwords of a file, one a line ("": none); `ask` asks a person for that of an archive.

        Raises UsageError where the file can't be read.
        """
        self.file, self._known = file, _lines_of(file) if file else []
        self._ask, self._refused = ask, False

    def tried(self, archive: str) -> Iterator[str]:
        """Yield passwords for an archive until the caller is served: those that are known, then what a person says."""
        yield from list(self._known)
        if self._ask is None or self._refused:
            return
        for _ in range(_TRIES):
            word = self._ask(archive)
            if not word:  # nothing typed: the person has none, also for the archives that follow
                self._refused = True
                return
            yield word

    def opened_with(self, word: str) -> None:
        """Note that a password has opened an archive."""
        if word in self._known:
            self._known.remove(word)
        self._known.insert(0, word)

    @property
    def any(self) -> bool:
        """Say whether there is any way to a password."""
        return bool(self._known) or (self._ask is not None and not self._refused)


def _lines_of(file: str) -> list[str]:
    try:
        with Path(file).expanduser().open("rb") as lines:
            text = lines.read(_LARGEST).decode("utf-8-sig")
    except (OSError, UnicodeDecodeError) as error:
        raise UsageError(f"The file of passwords {file} can't be read: {error}. It has one a line, in UTF-8.") from None
    return [line for line in text.splitlines() if line]


PASSWORDS = Passwords()
"""The passwords of this run."""
