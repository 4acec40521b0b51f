"""The page that shows copies side by side: one file that needs nothing else, read without a network."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from lazy_magpie.copies import SURE
from lazy_magpie.formatting import count_text
from lazy_magpie.report.pages import rendered

MATCHES = {
    "bytes": "the same bytes",
    "contents": "the same contents",
    "picture": "looks the same",
    "sound": "sounds the same",
    "video": "the same film",
    "glyphs": "the same letters",
    "stitches": "sewn the same",
}
"""How people read by what copies were found."""


@dataclass(frozen=True)
class Card:
    """One of several copies: its path, what is known of it (size, format …), a picture (data URI, "" if none)."""

    path: str
    facts: tuple[str, ...]
    image: str = ""


@dataclass(frozen=True)
class CopyGroup:
    """Copies of each other: how they match, their kind, bytes freed, the one that stays (None: open), and why."""

    match: str
    kind: str
    freed: int
    why: str
    stays: Card | None
    others: tuple[Card, ...]

    @property
    def is_alike(self) -> bool:
        """Whether they are only alike: then none goes without a person's word."""
        return self.match not in SURE


def copies_page(title: str, groups: Sequence[CopyGroup], where: Sequence[tuple[str, int]] = ()) -> str:
    """Return the page as HTML, the groups in their order; `where` says how many bytes are freed in which folders."""
    sure = [group for group in groups if group.stays and not group.is_alike]
    alike = [group for group in groups if group.stays and group.is_alike]
    return rendered(
        "copies.html",
        title=title,
        groups=groups,
        matches=_in_use(MATCHES, (group.match for group in groups)),
        kinds=sorted({group.kind for group in groups}),
        words=MATCHES,
        copies=count_text(sum(len(group.others) for group in sure), "copy", "copies"),
        freed=sum(group.freed for group in sure),
        alike=sum(len(group.others) for group in alike),
        alike_freed=sum(group.freed for group in alike),
        open=sum(1 for group in groups if not group.stays),
        where=where,
    )


def _in_use(words: dict[str, str], used: Iterable[str]) -> dict[str, str]:
    seen = set(used)
    return {key: word for key, word in words.items() if key in seen}
