"""The words of each language: one file a language (`de.csv`), those of every one in `all.csv`.

A row is a concept, a word, and its strength: `strong` proves the concept by itself, `weak`
needs support, `code` counts only among release words or in brackets. `{n}` in a word stands for a number, `{ord}` for
an ordinal, `{num}` for a number in words, `{roman}` for a Roman one. Nothing about these words stands in code.
"""

from __future__ import annotations

import csv
import io
import unicodedata
from collections.abc import Mapping
from functools import cache
from itertools import chain
from pathlib import Path
from typing import NamedTuple

from lazy_magpie.patterns import pattern

NUMBER = "#"
"""Stands in a folded phrase for any number."""
_PLACES = ("{n}", "{nn}", "{nnn}", "{num}", "{roman}", "{ord}")
_OTHER_PLACE = pattern(r"\{[a-z_]+\}")
_SIGNS = pattern(r"[^\w#]+|_+")


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
    return {file.stem: rows_of(file.read_text("utf-8")) for file in sorted(Path(__file__).parent.glob("*.csv"))}


def all_rows() -> list[Row]:
    """Return the words of all languages."""
    return list(chain.from_iterable(languages().values()))


def folded(text: str) -> str:
    """Return a name as phrases are compared: without case, accents and signs, words with one space between them."""
    if text.isascii():
        text = text.lower()
    else:
        text = unicodedata.normalize("NFKD", text).casefold()
        text = "".join(sign for sign in text if not unicodedata.combining(sign))
    words = text.split()
    if not "".join(words).isalnum():
        words = _SIGNS.sub(" ", text).split()
    return " ".join(words)


def phrase_of(word: str) -> str:
    """Return a word as it is looked up: folded, a sign in each place of a number; "" where it has other places."""
    if "{" in word:
        for place in _PLACES:
            word = word.replace(place, f" {NUMBER} ")
        if _OTHER_PLACE.search(word):
            return ""
    return folded(word)
