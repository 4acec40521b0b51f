"""[words]: words of a person's own, by the concept of the vocabulary or by the role of the folders called so."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from lazy_magpie.words import ROLES, concepts

NAMED = False


class _Concepts(Mapping[str, type]):
    """All that a word may stand for, each with the type of its value; looked up when there is such a section."""

    def __getitem__(self, name: str) -> type:
        if name not in ROLES and name not in concepts():
            raise KeyError(name)
        return list

    def __iter__(self) -> Iterator[str]:
        yield from ROLES
        yield from sorted(concepts())

    def __len__(self) -> int:
        return len(ROLES) + len(concepts())


KEYS = _Concepts()


def read(table: Mapping[str, list[str]]) -> dict[str, tuple[str, ...]]:
    """Return the words by concept or role; `{n}` in one stands for a number."""
    return {name: tuple(words) for name, words in table.items()}
