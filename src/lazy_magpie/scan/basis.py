"""What the identity of a file rests on, as a number: while that is the same, what the catalogue has of it stands."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, NamedTuple

from lazy_magpie.config import Config
from lazy_magpie.model import Value
from lazy_magpie.stable_hash import stable_number


class Basis(NamedTuple):
    """All that a file is identified by: its path, what it says of itself, its first path, what its siblings say."""

    path: str
    size: int
    mtime: int
    told: Mapping[str, Value] | None
    first: str | None
    siblings: tuple[Any, ...]

    def number(self, rules: bytes) -> int:
        """Return what stands for it, read by `rules`; never 0."""
        return stable_number(tuple(self), rules)


def rules_of(config: Config) -> str:
    """Return what of a configuration says what files are: where it has changed, all of them are identified anew."""
    own = sorted((field.name, field.allowed, sorted(field.from_tags.items())) for field in config.fields.values())
    shelves = []
    for shelf in config.shelves:
        template = shelf.naming.templates.get(shelf.kind.value) if own else None
        shelves.append((shelf.root, shelf.folder, shelf.kind.value, template.text if template else ""))
    names = (sorted(config.systems.items()), sorted(config.makers.items()), sorted(config.words.items()))
    return repr((shelves, own, names, config.inbox))
