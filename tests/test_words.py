"""The vocabulary: one file a language, each row of a known shape, nothing twice; a new language is its file alone."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable

import pytest

from lazy_magpie import words
from lazy_magpie.words.languages import all_rows, languages
from lazy_magpie.words.vocabulary import FILE, of_rows, written
from tests.conftest import Collection

Tree = Callable[..., Collection]
CODES = sorted(languages())


@pytest.mark.parametrize("code", CODES)
def test_each_row_says_what_it_means(code: str) -> None:
    assert code == "all" or re.fullmatch("[a-z]{2,3}", code)
    for row in languages()[code]:
        assert re.fullmatch(r"[a-z0-9_]+(?:\.[a-z0-9_]+)*", row.concept), row
        assert row.strength in ("strong", "weak", "code"), row
        assert row.word and row.word == row.word.strip(), row


@pytest.mark.parametrize("code", CODES)
def test_no_word_stands_twice_for_one_concept(code: str) -> None:
    counts = Counter((row.concept, row.word) for row in languages()[code])
    assert not [row for row, count in counts.items() if count > 1]


def test_the_vocabulary_is_what_the_languages_say() -> None:
    assert FILE.read_text("utf-8") == written(of_rows(all_rows())), "run: python -m lazy_magpie.words"


def test_words_of_one_language_are_read_beside_all_others() -> None:
    assert "season" in words.meaning("2. hooaeg") and "season" in words.meaning("Season 2")
    assert "various_artists" in words.meaning("ERINEVAD ESITAJAD")


def test_a_language_is_its_file_alone(tree: Tree) -> None:
    paths = [f"Seriaalid/Kajakas/Hooaeg {season}/Kajakas - {n:02}.mkv" for season in (1, 2) for n in (1, 2, 3)]
    paths += [
        f"Muusika/Erinevad esitajad/Sadam/0{n} - {name} - Laine.mp3"
        for n, name in enumerate(("Elo Tarn", "Mab Vand"), 1)
    ]
    collection = tree(paths, "")
    collection.ok("scan")
    episodes = collection.ok("find", "kind", "is", "episode", "--json").lines
    assert {item["fields"].get("season") for item in episodes} == {1, 2}
    assert not collection.ok("find", "artist", "is", "Erinevad esitajad", "--json").lines
