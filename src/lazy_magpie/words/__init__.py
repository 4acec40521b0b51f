"""The vocabulary: concepts and the words that people have for them, as data (`languages`, `vocabulary`).

A collection may have words of its own (`use`): they are strong ones, of any concept or of the role of a folder. What
rests on the vocabulary and is kept in memory is `remembered`, so that it is forgotten when other words are used.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Iterator, Mapping
from functools import lru_cache
from typing import ParamSpec, TypeVar, cast

from lazy_magpie.patterns import pattern
from lazy_magpie.words.file_names import FileNames, file_names
from lazy_magpie.words.languages import NUMBER, Row, folded
from lazy_magpie.words.vocabulary import Meaning, Vocabulary, shipped, with_rows

__all__ = [
    "MOST_WORDS",
    "NUMBER",
    "ROLES",
    "Meaning",
    "behind_titles",
    "concepts",
    "counting_words",
    "ends_of_extras",
    "folded",
    "game_endings",
    "inside",
    "is_junk",
    "is_junk_folder",
    "is_unfinished",
    "meaning",
    "numbered",
    "remembered",
    "role_in",
    "table",
    "told_role",
    "use",
]

_DIGITS = pattern(r"\d+(?:st|nd|rd|th|er|ere|eme|e|a|o)?(?![^\W\d_])|\d+")
_DIGIT = pattern(r"\d")
_ROMAN = frozenset("ii iii iv vi vii viii ix xi xii".split())
MOST_WORDS = 5
"""Words of the longest phrase that is looked for inside a name."""

P = ParamSpec("P")
T = TypeVar("T")

ROLES = ("category", "owner", "work", "division", "beside")
"""Roles of folders, as a person's own words may say them."""
_ROLE = "role of a folder."
_own: dict[str, tuple[str, ...]] = {}
_forget: list[Callable[[], None]] = []


def remembered(most: int | None) -> Callable[[Callable[P, T]], Callable[P, T]]:
    """Keep what a function returned for its latest `most` arguments, as long as the same words are used."""

    def kept(function: Callable[P, T]) -> Callable[P, T]:
        found = lru_cache(maxsize=most)(function)
        _forget.append(found.cache_clear)
        return cast("Callable[P, T]", found)

    return kept


def use(own: Mapping[str, Iterable[str]]) -> None:
    """Read names from here on with these words, by concept or role, besides the vocabulary's."""
    words = {concept: tuple(some) for concept, some in own.items()}
    if words == _own:
        return
    _own.clear()
    _own.update(words)
    for forget in _forget:
        forget()


def told_role(name: str) -> str:
    """Return the role that a person's own words say a folder of this name has, "" for none."""
    said = meaning(name) if _own else {}
    return next((concept.removeprefix(_ROLE) for concept in said if concept.startswith(_ROLE)), "")


def numbered(phrase: str) -> str:
    """Return a folded phrase with a sign for each number in it: in digits, Roman, or as an ordinal word."""
    if not phrase.isalpha() and _DIGIT.search(phrase):
        phrase = _DIGITS.sub(f" {NUMBER} ", phrase)
    ordinals = _vocabulary().ordinals
    return " ".join([NUMBER if word in ordinals or word in _ROMAN else word for word in phrase.split()])


@remembered(None)
def _vocabulary() -> Vocabulary:
    """Return the vocabulary with a person's own words."""
    told = [
        Row(f"{_ROLE}{name}" if name in ROLES else name, word, "strong", "")
        for name, words in _own.items()
        for word in words
    ]
    return with_rows(shipped(), told) if told else shipped()


def table() -> Mapping[str, Meaning]:
    """Return what each folded phrase means; numbers in it stand as their sign."""
    return _vocabulary().phrases


def game_endings() -> frozenset[str]:
    """Return the endings (small letters, with a dot) that hardly anything has but an image for a system of games."""
    return _vocabulary().game_endings


def concepts() -> frozenset[str]:
    """Return all concepts of the vocabulary."""
    return shipped().concepts


@remembered(16384)
def meaning(name: str) -> Meaning:
    """Return what a whole name means, {} for a name of no known word."""
    phrase = folded(name)
    return table().get(phrase) or table().get(numbered(phrase)) or {}


def inside(name: str) -> Iterator[tuple[Meaning, float]]:
    """Yield what phrases in a name mean, the longest at each place, each with its share of the name's words."""
    words = numbered(folded(name)).split()
    at = 0
    while at < len(words):
        for length in range(min(MOST_WORDS, len(words) - at), 0, -1):
            if found := table().get(" ".join(words[at : at + length])):
                yield found, length / len(words)
                at += length - 1
                break
        at += 1


@remembered(65536)
def is_junk_folder(path: str) -> bool:
    """Say whether a folder, or one above it, is what systems and network storage keep for themselves."""
    above, _, name = path.rpartition("/")
    return bool(name) and (name.lower() in _junk().whole or is_junk_folder(above))


@remembered(None)
def counting_words(concept: str, form: str) -> tuple[str, ...]:
    """Return the words (small letters) of a concept in a form of counting, the longest first.

    `form` says where the word stands: "{w} {n}", "{n} {w}", "{n} {w} {n}" or "{n}{w}{n}". Words of two or three Latin
    letters are left out: they stand for too much else.
    """
    place = re.escape(form).replace(r"\{w\}", r"([^\W\d_]+)\.?").replace(r"\ ", "[ ._]?")
    if form == "{n} {w}":
        place = place.replace(r"\{n\}", r"\{n\}(?:\.|-?[^\W\d_]{1,2}|[ªº°])?")
    matches = (re.fullmatch(f"{re.escape(concept)}:{place}", text) for text in _vocabulary().counting)
    words = {match[1] for match in matches if match}
    least = 1 if form.count("{n}") > 1 else 4
    return tuple(
        sorted((word for word in words if not word.isascii() or len(word) >= least), key=lambda w: (-len(w), w))
    )


def ends_of_extras() -> frozenset[str]:
    """Return the last words (folded) of all phrases for extras: trailers, samples, credits."""
    return _vocabulary().ends_of_extras


def behind_titles() -> Mapping[str, str]:
    """Return the concept of each phrase (small letters) that stands behind a film's title: editions, languages."""
    return {phrase: concept for concept, _, phrase in (text.partition(":") for text in _vocabulary().behind_titles)}


def is_junk(name: str) -> bool:
    """Say whether a file of this name is what systems, network storage or programs keep for themselves."""
    return _junk().has(name)


def is_unfinished(name: str) -> bool:
    """Say whether a file of this name is a download that has not ended."""
    return _unfinished().has(name)


@remembered(None)
def _junk() -> FileNames:
    return file_names(_vocabulary().junk)


@remembered(None)
def _unfinished() -> FileNames:
    return file_names(_vocabulary().unfinished)


def role_in(name: str, roles: Mapping[str, str], *, codes: bool = False) -> str:
    """Return what a file beside others is by the words of its name, the longest first; "" where no word says it.

    `roles` has for the beginnings of concepts what they say; `codes` lets codes count, where names are made of them.
    """
    best, most = "", 0.0
    for some, share in inside(name):
        for concept, strength in some.items():
            said = next((role for front, role in roles.items() if concept.startswith(front)), "")
            if said and (strength or codes) and share > most:
                best, most = said, share
    return best
