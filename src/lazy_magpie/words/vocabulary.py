"""The vocabulary made ready to be looked up: what the files of all languages say, in one file.

    python -m lazy_magpie.words

makes `vocabulary.json` from them; a test holds that it is theirs.
"""

from __future__ import annotations

import json
from collections.abc import Iterable, Sequence
from functools import cache
from pathlib import Path
from typing import NamedTuple

from lazy_magpie.words.languages import NUMBER, Row, folded, phrase_of

Meaning = dict[str, int]
"""Concepts with their strength: 2 strong, 1 weak; the strongest first."""
FILE = Path(__file__).parent / "vocabulary.json"
_STRENGTHS = {"strong": 2, "weak": 1}
_NUMBERS = ("ordinal.", "number.")
_JUNK = ("junk.os", "junk.nas", "junk.file_manager")
_UNFINISHED = ("unfinished",)
_COUNTED = ("season", "episode", "part", "count.of")
_BEHIND_TITLES = ("edition.", "language.", "audio.dubbed", "audio.original_subbed", "subtitles.hard")
_OF_EXTRAS = ("extra.", "sample", "preview", "credits.")
_COMPUTERS = ("dos", "pc", "macos", "linux", "android", "ios")
"""Systems whose programs have any ending."""


class Vocabulary(NamedTuple):
    """What each folded phrase means, with numbers as their sign; words that are numbers; and what else rows tell:
    names (small letters, with places) of what systems keep for themselves and of unfinished downloads, how seasons,
    episodes, parts and totals are counted and what stands behind a film's title (behind its concept:
    "episode:folge {n}"), the last words of phrases for extras, endings of images of games, all concepts."""

    phrases: dict[str, Meaning]
    ordinals: frozenset[str]
    junk: frozenset[str]
    unfinished: frozenset[str]
    counting: frozenset[str]
    behind_titles: frozenset[str]
    ends_of_extras: frozenset[str]
    game_endings: frozenset[str]
    concepts: frozenset[str]


def of_rows(rows: Sequence[Row]) -> Vocabulary:
    """Return what rows say."""
    return with_rows(Vocabulary({}, *(frozenset() for _ in Vocabulary._fields[1:])), rows)


def with_rows(known: Vocabulary, rows: Sequence[Row]) -> Vocabulary:
    """Return a vocabulary with more rows."""
    concepts = known.concepts | {row.concept for row in rows}
    return Vocabulary(
        known.phrases | _phrases(known.phrases, rows),
        known.ordinals | {folded(row.word) for row in rows if row.concept.startswith(_NUMBERS)} - {""},
        known.junk | set(_file_names(rows, _JUNK)),
        known.unfinished | set(_file_names(rows, _UNFINISHED)),
        known.counting | set(_counting(rows)),
        known.behind_titles | set(_behind_titles(rows)),
        known.ends_of_extras | set(_ends_of_extras(rows)),
        known.game_endings | set(_game_endings(rows, concepts)),
        concepts,
    )


def _phrases(known: dict[str, Meaning], rows: Iterable[Row]) -> dict[str, Meaning]:
    """Return what the phrases of some rows mean now."""
    found: dict[str, Meaning] = {}
    for concept, word, strength, _ in rows:
        phrase = phrase_of(word)
        if phrase.strip(NUMBER + " "):
            meaning = found.setdefault(phrase, dict(known.get(phrase, {})))
            meaning[concept] = max(meaning.get(concept, 0), _STRENGTHS.get(strength, 0))
    return {phrase: dict(sorted(meaning.items(), key=_strongest)) for phrase, meaning in found.items()}


def _strongest(meant: tuple[str, int]) -> tuple[int, str]:
    concept, strength = meant
    return -strength, concept


def _file_names(rows: Iterable[Row], concepts: Sequence[str]) -> Iterable[str]:
    return (word.lower() for concept, word, strength, _ in rows if concept in concepts and strength == "strong")


def _counting(rows: Iterable[Row]) -> Iterable[str]:
    for concept, word, strength, _ in rows:
        if concept in _COUNTED and strength == "strong" and word.count("{") == word.count("{n}") > 0:
            yield f"{concept}:{word.lower()}"


def _behind_titles(rows: Iterable[Row]) -> Iterable[str]:
    for concept, word, strength, _ in rows:
        if concept.startswith(_BEHIND_TITLES) and strength == "strong" and "{" not in word:
            yield f"{concept}:{word.lower()}"


def _ends_of_extras(rows: Iterable[Row]) -> Iterable[str]:
    for concept, word, _, _ in rows:
        if concept.startswith(_OF_EXTRAS) and (letters := phrase_of(word).replace(NUMBER, " ").split()):
            yield letters[-1]


def _game_endings(rows: Iterable[Row], concepts: frozenset[str]) -> Iterable[str]:
    for concept, word, strength, note in rows:
        kind, _, system = concept.partition(".")
        is_of_system = kind == "ending" and system not in _COMPUTERS and f"system.{system}" in concepts
        if is_of_system and (strength == "strong" or "also" not in note):
            yield f".{word.lower()}"


def written(known: Vocabulary) -> str:
    """Return a vocabulary as the text of its file: each meaning once, phrases by its number."""
    numbers: dict[tuple[tuple[str, int], ...], int] = {}
    phrases = {phrase: numbers.setdefault(tuple(m.items()), len(numbers)) for phrase, m in known.phrases.items()}
    lists = {name: sorted(getattr(known, name)) for name in Vocabulary._fields[1:]}
    return (
        json.dumps(
            {"meanings": [dict(one) for one in numbers], "phrases": phrases, **lists}, ensure_ascii=False, indent=0
        )
        + "\n"
    )


@cache
def shipped() -> Vocabulary:
    """Return the vocabulary that ships."""
    data = json.loads(FILE.read_text("utf-8"))
    meanings = data["meanings"]
    phrases = {phrase: meanings[number] for phrase, number in data["phrases"].items()}
    return Vocabulary(phrases, *(frozenset(data[name]) for name in Vocabulary._fields[1:]))
