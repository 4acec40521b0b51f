"""Takes out of a reading what the folders show to be no part of a title: words for something else, a maker's name."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from lazy_magpie.identify.title_text import initials, match_key
from lazy_magpie.model import Identity
from lazy_magpie.words import folded, meaning

_NO_TITLE = (
    "finale",
    "language.",
    "release.",
    "audio.",
    "subtitles",
    "special",
    "episode",
    "complete",
    "tv.",
    "copy_of",
)
"""Concepts of words that are no title, where nothing but them is left of a name."""


def _is_left_over(title: str, some: Mapping[str, int]) -> bool:
    return any(concept.startswith(_NO_TITLE) for concept in some) or folded(title).replace(" ", "").isdecimal()


def without_left_over(identity: Identity, stem: str) -> Identity:
    """Return an episode without a title that is made of words for something else, or of digits.

    What stands behind a dash at the end of a name was put there as its title, and so were several words.
    """
    title = str(identity.fields.get("episode_title", ""))
    is_put = bool(title) and stem.endswith(f" - {title}")
    some = {} if is_put or not title else meaning(title)
    if len(title.split()) > 1:
        some = {concept: strength for concept, strength in some.items() if concept != "special"}
    left_over = not is_put and _is_left_over(title, some)
    fields = {key: value for key, value in identity.fields.items() if key != "episode_title" or not left_over}
    show, dash, last = str(fields.get("show", "")).rpartition(" - ")
    if dash and "complete" in meaning(last):
        fields["show"] = show
    return identity if fields == identity.fields else replace(identity, fields=fields)


def without_maker(identity: Identity) -> Identity:
    """Return a design without its maker's name, or its first letters, in front of its title."""
    maker, title = str(identity.fields.get("maker", "")), str(identity.fields.get("title", ""))
    first, _, rest = title.partition(" ")
    short = match_key(first)
    whole = match_key(maker)
    if not maker or not rest.strip():
        return identity
    if short == whole or (len(short) > 1 and initials(maker).startswith(short)):
        return replace(identity, fields={**identity.fields, "title": rest.strip()})
    return identity
