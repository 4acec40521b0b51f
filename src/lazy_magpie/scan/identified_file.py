"""A file with what it was understood to be."""

from __future__ import annotations

from dataclasses import replace
from typing import NamedTuple

from lazy_magpie.model import Identity
from lazy_magpie.paths import name_of, split_ending


class IdentifiedFile(NamedTuple):
    """A file with its identity; `path` is relative to the root, `size` in bytes, `mtime` in nanoseconds.

    `basis` stands for all that the identity rests on.
    """

    id: int
    path: str
    size: int
    mtime: int
    identity: Identity
    basis: int = 0

    def without_evidence(self) -> IdentifiedFile:
        """Return it as the catalogue keeps it: what it is, not why."""
        return self._replace(identity=replace(self.identity, why=())) if self.identity.why else self

    @property
    def stem(self) -> str:
        """The name without its ending, in small letters."""
        return split_ending(name_of(self.path))[0].lower()

    @property
    def ending(self) -> str:
        """The ending, in small letters, with its dot."""
        return split_ending(name_of(self.path))[1].lower()
