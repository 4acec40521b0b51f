"""The vocabulary: concepts and the words that people have for them, as data: one file a language (`de.csv`, `all.csv`).

A row is a concept, a word, and its strength: `strong` proves the concept by itself, `weak`
needs support, `code` counts only among release words or in brackets. `{n}` in a word stands for a number, `{ord}` for
an ordinal, `{num}` for a number in words, `{roman}` for a Roman one. Nothing about these words stands in code.

A collection may have words of its own (`use`): they are strong ones, of any concept or of the role of a folder. What
rests on the vocabulary and is kept in memory is `remembered`, so that it is forgotten when other words are used.
"""

from __future__ import annotations

import csv
import io
import re
import unicodedata
from collections.abc import Callable, Iterable, Iterator, Mapping
from functools import cache, lru_cache
from importlib import resources
from itertools import chain
from typing import NamedTuple, ParamSpec, TypeVar, cast

NUMBER = "#"
"""Stands in a folded phrase for any number."""
_PLACES = ("{n}", "{nn}", "{nnn}", "{num}", "{roman}", "{ord}")
_OTHER_PLACE = re.compile(r"\{[a-z_]+\}")
_SIGNS = re.compile(r"[^\w#]+|_+")
_DIGITS = re.compile(r"\d+(?:st|nd|rd|th|er|ere|eme|e|a|o)?(?![^\W\d_])|\d+")
_ROMAN = re.compile(r"\b(?:ii|iii|iv|vi|vii|viii|ix|xi|xii)\b")
_STRENGTHS = {"strong": 2, "weak": 1}
MOST_WORDS = 5
"""Words of the longest phrase that is looked for inside a name."""

Meaning = dict[str, int]
"""Concepts with their strength: 2 strong, 1 weak; the strongest first."""


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


def folded(text: str) -> str:
    """Return a name as phrases are compared: without case, accents and signs, words with one space between them."""
    if text.isascii():
        text = text.lower()
    else:
        text = unicodedata.normalize("NFKD", text).casefold()
        text = "".join(sign for sign in text if not unicodedata.combining(sign))
    return " ".join(_SIGNS.sub(" ", text).split())


def numbered(phrase: str) -> str:
    """Return a folded phrase with a sign for each number in it: in digits, Roman, or as an ordinal word."""
    phrase = _ROMAN.sub(NUMBER, _DIGITS.sub(f" {NUMBER} ", phrase))
    ordinals = _ordinals()
    return " ".join(NUMBER if word in ordinals else word for word in phrase.split())


class Row(NamedTuple):
    """A word, what it stands for, and how strongly; `note` says where it counts."""

    concept: str
    word: str
    strength: str
    note: str


def rows_of(text: str) -> list[Row]:
    """Return the rows of the words of one language, from the text of its file."""
    rows = csv.reader(io.StringIO(text))
    next(rows)  # the names of the columns
    return [Row(*row) for row in rows]


@cache
def languages() -> Mapping[str, list[Row]]:
    """Return the words of each language, by its code; "all" are those of every one."""
    files = (file for file in resources.files(__name__).iterdir() if file.name.endswith(".csv"))
    return {file.name[:-4]: rows_of(file.read_text("utf-8")) for file in sorted(files, key=lambda file: file.name)}


@remembered(None)
def _rows() -> list[Row]:
    """Return all rows, a person's own the last."""
    own = ((f"{_ROLE}{name}" if name in ROLES else name, words) for name, words in _own.items())
    told = [Row(concept, word, "strong", "") for concept, words in own for word in words]
    return [*chain.from_iterable(languages().values()), *told]


@remembered(None)
def _ordinals() -> frozenset[str]:
    kinds = ("ordinal.", "number.")
    return frozenset(folded(word) for concept, word, *_ in _rows() if concept.startswith(kinds)) - {""}


def _phrases(word: str) -> Iterator[str]:
    if "{" in word:
        for place in _PLACES:
            word = word.replace(place, f" {NUMBER} ")
        if _OTHER_PLACE.search(word):
            return
    yield folded(word)


@remembered(None)
def table() -> dict[str, Meaning]:
    """Return what each folded phrase means; numbers in it stand as their sign."""
    found: dict[str, Meaning] = {}
    for concept, word, strength, _ in _rows():
        for phrase in _phrases(word):
            if phrase.strip(NUMBER + " "):
                meaning = found.setdefault(phrase, {})
                meaning[concept] = max(meaning.get(concept, 0), _STRENGTHS.get(strength, 0))
    many = (phrase for phrase, meaning in found.items() if len(meaning) > 1)
    return found | {phrase: dict(sorted(found[phrase].items(), key=_strongest)) for phrase in many}


def _strongest(meant: tuple[str, int]) -> tuple[int, str]:
    concept, strength = meant
    return -strength, concept


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


@remembered(None)
def _junk() -> frozenset[str]:
    left = ("junk.os", "junk.nas", "junk.file_manager")
    names = (word.lower() for concept, word, strength, _ in _rows() if concept in left and strength == "strong")
    return frozenset(name for name in names if "{" not in name)


@remembered(65536)
def is_junk_folder(path: str) -> bool:
    """Say whether a folder, or one above it, is what systems and network storage keep for themselves."""
    above, _, name = path.rpartition("/")
    return bool(name) and (name.lower() in _junk() or is_junk_folder(above))


@remembered(None)
def game_endings() -> frozenset[str]:
    """Return the endings (small letters, with a dot) that hardly anything has but an image for a system of games."""
    return frozenset(
        f".{word.lower()}"
        for concept, word, strength, note in _rows()
        if concept.startswith("ending.")
        and _is_of_system(concept.partition(".")[2])
        and (strength == "strong" or "also" not in note)
    )


def _is_of_system(name: str) -> bool:
    """Say whether endings of this name are those of one system's images; a computer's programs have any ending."""
    return name not in ("dos", "pc", "macos", "linux", "android", "ios") and f"system.{name}" in concepts()


@cache
def concepts() -> frozenset[str]:
    """Return all concepts of the vocabulary."""
    return frozenset(row.concept for rows in languages().values() for row in rows)


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
