"""What a file or an item may be, how sure that is, and what a value is."""

from __future__ import annotations

from enum import StrEnum

Value = str | int | float | bool | list[str] | list[int]


class Kind(StrEnum):
    """What a file or an item is; the values are those of every output."""

    MOVIE = "movie"
    EPISODE = "episode"
    EXTRA = "extra"
    TRACK = "track"
    GAME = "game"
    FIRMWARE = "firmware"
    FONT = "font"
    DESIGN = "design"
    KIT = "kit"
    PICTURE = "picture"
    DOCUMENT = "document"
    ARCHIVE = "archive"
    COMPANION = "companion"
    JUNK = "junk"
    UNFINISHED = "unfinished"
    UNKNOWN = "unknown"


class State(StrEnum):
    """How sure an identity is: settled by a person or list, clear from the evidence, doubtful, unknown."""

    SETTLED = "settled"
    CLEAR = "clear"
    DOUBTFUL = "doubtful"
    UNKNOWN = "unknown"


_IN_PROSE = {
    Kind.MOVIE: "a film", Kind.EPISODE: "an episode", Kind.TRACK: "a song", Kind.EXTRA: "an extra",
    Kind.ARCHIVE: "an archive", Kind.UNFINISHED: "an unfinished download", Kind.UNKNOWN: "something unknown",
}  # fmt: skip


def in_prose(kind: Kind) -> str:
    """Return what a kind is called in a sentence: a film, an episode, a song."""
    return _IN_PROSE.get(kind, f"a {kind.value}")
