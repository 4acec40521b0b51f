"""Words of a path in their slots: nothing of a name is lost, company changes no reading, habits of siblings tell."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
import pytest
from benchmarks.alone import PATHS, counted, in_collection
from hypothesis import given
from hypothesis import strategies as st

from lazy_magpie.identify.roles import read_tree
from lazy_magpie.identify.slots.chain import JOINTS, best, drawn
from lazy_magpie.identify.slots.evidence import Beside
from lazy_magpie.identify.slots.kinds import SLOTS
from lazy_magpie.identify.slots.reading import SlotReader
from lazy_magpie.identify.slots.words import meanings_of, name_of_words
from tests.conftest import Collection

Tree = Callable[..., Collection]


@given(st.text(st.characters(exclude_categories=["Cs"]), max_size=60))
def test_every_letter_and_digit_of_a_name_is_in_a_word(text: str) -> None:
    name = name_of_words(text)
    covered = {at for word in name.words for at in range(word.start, word.end)}
    assert all(at in covered for at, sign in enumerate(text) if sign.isalnum() and (sign.isalpha() or sign.isdecimal()))
    assert [word.start for word in name.words] == sorted(word.start for word in name.words)
    assert len(meanings_of(name.words)) == len(name.words)


@pytest.mark.parametrize(
    ("text", "segments"),
    [
        ("01 Kelp Parade - Low Tide", ("01", "kelpparade", "lowtide")),
        ("KelpParade_LowTide_Papers", ("kelpparade", "lowtide", "papers")),
        ("Two-Shift Man", ("twoshiftman",)),
        ("Low Tide (LP, 1979)", ("lowtide", "lp1979")),
        ("晚安-林", ("晚安", "林")),
    ],
)
def test_a_name_is_cut_where_people_cut_it(text: str, segments: tuple[str, ...]) -> None:
    assert name_of_words(text).segments == segments


@pytest.mark.parametrize("text", ["1983-02-14 The Copper Wherry", "The Copper Wherry 14.02.1983"])
def test_a_date_is_one_word(text: str) -> None:
    assert [word.year for word in name_of_words(text).words if word.year] == [1983]


def _reader(kind: str, folder: str, stems: list[str]) -> SlotReader:
    listing = {folder: [f"{stem}.mp3" for stem in stems], "Music/Nora Samphire/Oil (1999)": ["01 Wick.mp3"]}
    return SlotReader(kind, folder, read_tree(listing), Beside.of(stems))


def test_a_reading_is_the_same_in_any_block() -> None:
    stems = [f"{number:02} Kelp Song {number}" for number in range(1, 150)]
    forward = _reader("track", "Music/Kelp Parade/Low Tide (1998)", stems)
    backward = _reader("track", "Music/Kelp Parade/Low Tide (1998)", stems[::-1])
    for stem in stems[::7]:
        assert forward.read(stem) == backward.read(stem)


@given(st.integers(0, 2**32 - 1), st.integers(1, 4))
def test_the_best_reading_and_those_drawn_are_as_all_readings_counted_out(seed: int, words: int) -> None:
    random = np.random.default_rng(seed)
    slots, joints = len(SLOTS), random.integers(0, len(JOINTS), (1, words))
    own, joint = random.normal(0, 2, (1, words, slots)), random.normal(0, 2, (len(JOINTS), slots, slots))
    scores = own[0, 0]
    for at in range(1, words):
        scores = scores[..., None] + joint[joints[0, at]] + own[0, at]
    assert scores[tuple(best(own, joints, joint)[0])] == pytest.approx(scores.max())
    chances = np.exp(scores - scores.max()) / np.exp(scores - scores.max()).sum()
    found = drawn(own, joints, joint, 4000)[0]
    for at in range(words):
        exact = chances.sum(axis=tuple(axis for axis in range(words) if axis != at))
        assert np.bincount(found[:, at], minlength=slots) / 4000 == pytest.approx(exact, abs=0.05)


def test_words_behind_the_end_of_a_shorter_path_change_nothing() -> None:
    random = np.random.default_rng(3)
    own, joint = random.normal(0, 2, (1, 4, len(SLOTS))), random.normal(0, 2, (len(JOINTS), len(SLOTS), len(SLOTS)))
    joints = np.array([[0, 1, 2, -1]])
    assert (best(own, joints, joint)[0, :3] == best(own[:, :3], joints[:, :3], joint)[0]).all()


@pytest.mark.parametrize(("name", "right", "wrong"), [("rest", 0.85, 0.02), ("video", 0.92, 0.03)])
def test_single_paths_of_others_are_read_no_worse(name: str, right: float, wrong: float) -> None:
    counts = counted(next(file for file in PATHS if file.stem == name), in_collection)
    assert counts["right"] >= right * counts["files"]
    assert counts["wrong clear"] <= wrong * counts["files"]


def test_numbers_that_count_are_the_songs_numbers() -> None:
    reader = _reader("track", "Music/Kelp Parade/Low Tide (1998)", ["01 Ebb", "02 Slack", "03 Flood", "04 Spray"])
    reading = reader.read("03 Flood")
    assert reading is not None
    assert (reading.fields["track"], reading.fields["title"], reading.fields["album"]) == (3, "Flood", "Low Tide")


def _found(collection: Collection) -> dict[str, dict[str, Any]]:
    collection.run("scan")
    return {file["path"]: item for item in collection.ok("find", "--json").lines for file in item["files"]}


def test_what_tags_say_needs_no_slots(tree: Tree) -> None:
    found = _found(tree(["Music/Kelp Parade/Low Tide (1998)/01 Ebb.mp3"], ""))
    assert found["Music/Kelp Parade/Low Tide (1998)/01 Ebb.mp3"]["fields"]["title"] == "Ebb"


def test_an_artist_in_each_name_of_a_compilation(tree: Tree) -> None:
    songs = ["Kelp Parade - Ebb", "Nora Samphire - Wick", "Gull Trio - Cry", "The Pierheads - Reel"]
    paths = [f"Music/Compilations/Pier Songs (2003)/{n:02} - {song}.mp3" for n, song in enumerate(songs, start=1)]
    paths += ["Music/Kelp Parade/Low Tide (1998)/01 - Ebb.mp3", "Music/Nora Samphire/Oil (1999)/01 - Wick.mp3"]
    found = _found(tree(paths, ""))
    read = [found[path]["fields"].get("artist") for path in paths[:4]]
    assert read == [song.partition(" - ")[0] for song in songs]


def test_a_new_name_beside_others_reads_as_in_a_full_scan(tree: Tree) -> None:
    paths = [f"Music/Kelp Parade/Low Tide (1998)/{n:02} {song}.mp3" for n, song in ((1, "Ebb"), (2, "Slack"))]
    collection = tree(paths, "")
    collection.run("scan")
    collection.put("Music/Kelp Parade/Low Tide (1998)/03 Low Tide.mp3")
    after = _found(collection)
    collection.run("scan", "--full")
    assert {path: item["fields"] for path, item in after.items()} == {
        path: item["fields"] for path, item in _found(collection).items()
    }


@pytest.mark.parametrize(
    "path",
    [
        "Music/Unknown Artist/Unknown Album/01 Track 1.mp3",
        "Music/Artista desconocido/Low Tide (1998)/01 Ebb.mp3",
        "Music/Kelp Parade/Low Tide (1998)/03 Pista 3.mp3",
        "Series/Unknown/Season 1/S01E01.mkv",
        "Films/MVI_0012 (2010).avi",
        "Films/New Folder (2)/movie.mkv",
        "Stitches/Kelp Loops/Untitled.pes",
    ],
)
def test_a_placeholder_is_never_clear(tree: Tree, path: str) -> None:
    assert _found(tree([path], ""))[path]["state"] != "clear"


@pytest.mark.parametrize("path", ["Films/Unknown (2011).mkv", "Photos/DSC00012.jpg"])
def test_a_title_that_is_a_word_and_a_photo_are_no_placeholders(tree: Tree, path: str) -> None:
    assert _found(tree([path], ""))[path]["state"] == "clear"


@pytest.mark.parametrize("name", [f"{'9' * 40} Ebb", "…", "Ebb\udce9 - \udcff", "12" * 60, "— — —", "[](){}"])
def test_no_name_stops_a_scan(tree: Tree, name: str) -> None:
    path = f"Music/Kelp Parade/Low Tide (1998)/{name}.mp3"
    collection = tree(["Music/Kelp Parade/Low Tide (1998)/01 Ebb.mp3"], "")
    with open(f"{collection.root}/{path}".encode("utf-8", "surrogateescape"), "wb"):
        pass
    assert collection.run("scan").code in (0, 1)
    assert "not understood" not in collection.run("settle").out
    assert len(collection.ok("find", "--json").lines) == 2
