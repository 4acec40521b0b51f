"""What is only alike: each similarity method on what it must and must not find, and that nothing of it goes unasked."""

from __future__ import annotations

import itertools
import os
import sqlite3
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from benchmarks.corpus import clips, crafted, scenes, tunes
from hypothesis import given, settings
from hypothesis import strategies as st

from lazy_magpie.catalogue.fingerprints import WAY
from lazy_magpie.copies import similar as finder
from lazy_magpie.copies.hamming_index import MOST, pairs_between, pairs_within
from lazy_magpie.copies.similarity import audio, embroidery, fonts, pictures, video
from lazy_magpie.formatting import size_text
from tests.conftest import Collection

Tree = Callable[..., Collection]
Made = Iterator[tuple[Path, int, str]]


@settings(max_examples=30)
@given(
    st.lists(st.integers(0, 2**64 - 1), min_size=1, max_size=12),
    st.lists(st.tuples(st.integers(0, 11), st.sets(st.integers(0, 63), max_size=14)), max_size=20),
    st.integers(0, MOST),
)
def test_near_hashes_are_found_as_comparing_all_would(
    seeds: list[int], changes: list[tuple[int, set[int]]], distance: int
) -> None:
    changed = [seeds[at % len(seeds)] ^ sum(1 << bit for bit in bits) for at, bits in changes]
    hashes = np.array([*seeds, *changed], np.uint64)
    apart = np.bitwise_count(hashes[:, None] ^ hashes[None, :])
    assert pairs_within(hashes, distance).tolist() == np.argwhere(np.triu(apart <= distance, 1)).tolist()
    ones = hashes[: len(seeds)]
    assert pairs_between(ones, hashes, distance).tolist() == np.argwhere(apart[: len(seeds)] <= distance).tolist()
    with pytest.raises(ValueError, match="between 0 and"):
        pairs_within(hashes, MOST + 1)


@pytest.mark.parametrize(
    ("sort", "make", "count"),
    [
        (pictures, scenes.make, 5),
        (audio, tunes.make, 2),
        (video, clips.make, 1),
        (fonts, crafted.fonts, 4),
        (embroidery, crafted.designs, 4),
    ],
)
def test_variants_are_alike_and_near_twins_are_not(
    tmp_path: Path, sort: Any, make: Callable[[Path, int], Made], count: int
) -> None:
    made = list(make(tmp_path, count))
    found = {tuple(pair) for pair in sort.candidates([sort.fingerprint(str(path)) for path, _, _ in made]).tolist()}
    first = {number: path for path, number, _ in reversed(made)}
    for (at, one), (behind, other) in itertools.combinations(enumerate(made), 2):
        if one[1] != other[1]:
            assert (at, behind) not in found or not sort.confirm(str(one[0]), str(other[0])), (one, other)
        elif one[0] == first[one[1]]:
            assert (at, behind) in found and sort.confirm(str(one[0]), str(other[0])), (one, other)


@pytest.fixture
def gallery(tree: Tree) -> Collection:
    """Return a collection with a picture, smaller and worse on the same shelf, and a near-twin of it."""
    collection = tree([])
    folder = collection.root / "Pictures"
    for name in ("Pictures/Small", "Pictures/Attic"):
        (collection.root / name).mkdir(parents=True)
    picture = scenes.scene(3)
    picture.save(folder / "beach.png")
    picture.resize((240, 160)).save(folder / "Small" / "beach small.jpg", quality=70)
    scenes.scene(3, moment=1).save(folder / "later.png")
    scenes.scene(3, moment=1).save(folder / "torn.jpg")
    os.truncate(folder / "torn.jpg", 4000)  # its header can be read
    collection.ok("scan")
    return collection


def _found(collection: Collection, *words: str, code: int = 0) -> list[dict[str, Any]]:
    lines: list[dict[str, Any]] = collection.ok("copies", "--alike", *words, "--json", code=code).lines
    return lines


BEACH, SMALL = "Pictures/beach.png", "Pictures/Small/beach small.jpg"


def test_the_same_picture_is_found_and_the_better_stays(gallery: Collection) -> None:
    assert gallery.ok("copies", "--json").lines == []
    (one,) = _found(gallery)
    size = (gallery.root / SMALL).stat().st_size
    assert one == {"match": "picture", "sure": True, "keep": BEACH, "others": [SMALL], "bytes": size, "why": "better"}
    answer = gallery.ok("copies", "--alike")
    assert "not compared: Pictures/torn.jpg" in answer.err and "later" not in answer.out


def test_what_was_looked_at_is_remembered_until_it_changes(
    gallery: Collection, monkeypatch: pytest.MonkeyPatch
) -> None:
    before = _found(gallery)
    asked: list[Any] = []
    real = finder.AlikeSearch._asked

    def listening(matcher: finder.AlikeSearch, questions: Any) -> Any:
        asked.extend(questions)
        return real(matcher, questions)

    monkeypatch.setattr(finder.AlikeSearch, "_asked", listening)
    assert _found(gallery) == before
    assert [question[2].rpartition("/")[2] for question in asked] == ["torn.jpg"]
    scenes.scene(4).save(gallery.root / SMALL)
    gallery.ok("scan")
    assert _found(gallery) == []


def test_what_is_alike_goes_only_when_a_person_says_so(gallery: Collection) -> None:
    plan = gallery.ok("copies", "--alike", "--hold", "--json", code=1).json
    assert not plan["steps"] and plan["left"][0]["path"] == SMALL and "look-alike" in plan["left"][0]["why"]
    assert gallery.ok("copies", "--alike", "--link", "--keep", "better,alike", "--json").json["steps"] == []
    named = gallery.ok("copies", "--alike", "--hold", BEACH, SMALL, "--json").json
    allowed = gallery.ok("copies", "--alike", "--hold", "--keep", "better,alike", "--json").json
    assert named["steps"][0]["from"] == allowed["steps"][0]["from"] == SMALL
    before = (gallery.root / SMALL).read_bytes()
    gallery.ok("apply", str(allowed["plan"]))
    assert not (gallery.root / SMALL).exists() and (gallery.root / BEACH).exists()
    gallery.ok("undo")
    assert (gallery.root / SMALL).read_bytes() == before


@pytest.mark.parametrize("change", [os.unlink, lambda path: Path(path).write_bytes(b"other")])
def test_what_is_alike_stays_when_what_would_stay_is_gone_or_changed(
    gallery: Collection, change: Callable[[str], None]
) -> None:
    gallery.ok("copies", "--alike", "--hold", "--keep", "better,alike")
    change(str(gallery.root / BEACH))
    answer = gallery.ok("apply", "--json", code=1).json
    assert (gallery.root / SMALL).exists() and "what would stay" in answer["skipped"][0]["why"]


def test_a_film_in_parts_stays_unless_all_of_what_stays_is_there(tree: Tree) -> None:
    collection = tree([])
    for folder, size, bitrate in (("Films", (480, 320), 1_500_000), ("Heap", (240, 160), 400_000)):
        (collection.root / folder).mkdir()
        for part in (1, 2):
            path = collection.root / folder / f"Kelp (2001) part{part}.mp4"
            clips.write(path, part, size, bitrate)
    collection.ok("scan")
    plan = collection.ok("copies", "--alike", "--hold", "--keep", "better,alike", "--json").json
    films = [step for step in plan["steps"] if step["do"] == "hold"]
    assert [step["from"] for step in films] == [f"Heap/Kelp (2001) part{part}.mp4" for part in (1, 2)]
    (collection.root / "Films/Kelp (2001) part2.mp4").unlink()
    answer = collection.ok("apply", "--json", code=1).json
    assert len(answer["skipped"]) >= 2 and "what would stay" in answer["skipped"][0]["why"]
    assert all((collection.root / "Heap" / f"Kelp (2001) part{part}.mp4").exists() for part in (1, 2))


def test_hard_links_of_one_picture_are_not_alike(gallery: Collection) -> None:
    os.unlink(gallery.root / SMALL)
    os.link(gallery.root / BEACH, gallery.root / "Pictures/Attic/beach.png")
    gallery.ok("scan")
    assert _found(gallery) == []


def test_only_what_a_plan_takes_away_is_said_to_be_free(gallery: Collection) -> None:
    for name in ("Attic/once.png", "Attic/twice.png"):
        scenes.scene(9).save(gallery.root / "Pictures" / name)
    gallery.ok("scan")
    size = (gallery.root / "Pictures/Attic/twice.png").stat().st_size
    answer = gallery.ok("copies", "--alike", "--hold", "--keep", "shorter", code=1)
    assert "look-alike" in answer.out and f"{size_text(size)} in all will be free" in answer.err


@pytest.mark.parametrize(("rest", "is_same"), [(1.0, False), (0.3, False), (0.01, True), (0.0, True)])
def test_what_only_one_of_two_sounds_has_must_have_faded(tmp_path: Path, rest: float, is_same: bool) -> None:
    whole = tunes.tune(3, 5.0)
    cut = int(len(whole) * 0.6)
    faded = np.concatenate([whole[:cut], whole[cut:] * rest])
    paths = {name: str(tmp_path / f"{name}.flac") for name in ("whole", "part")}
    for name, samples in (("whole", faded), ("part", whole[:cut])):
        tunes.write(Path(paths[name]), samples, "flac", tunes.RATE)
    assert bool(audio.confirm(*paths.values())) is is_same
    assert bool(audio.confirm(*reversed(paths.values()))) is is_same


def test_a_steady_tone_is_one_recording_in_two_codings(tmp_path: Path) -> None:
    tone = (0.4 * np.sin(np.arange(tunes.RATE) * 2 * np.pi * 440 / tunes.RATE)).astype(np.float32)
    tunes.write(tmp_path / "a.flac", tone, "flac", tunes.RATE)
    tunes.write(tmp_path / "b.opus", tone, "libopus", 48_000)
    assert audio.confirm(str(tmp_path / "a.flac"), str(tmp_path / "b.opus"))


PRINTS = (6, {"picture": {70, 1094}, "glyphs": {492}})
"""The way in which prints are taken, and how long those of a sort may be: another layout has to be another way."""


def test_prints_of_an_earlier_way_are_taken_anew(gallery: Collection, tmp_path: Path) -> None:
    before = _found(gallery)
    crafted.write_font(tmp_path / "a.ttf", 1)
    lengths = {"glyphs": {len(fonts.fingerprint(str(tmp_path / "a.ttf")))}}
    with sqlite3.connect(gallery.root / ".magpie/catalogue.db") as db:
        lengths["picture"] = {len(one) for (one,) in db.execute("SELECT print FROM print WHERE LENGTH(print) > 0")}
        db.execute("UPDATE print SET way = way - 1, print = SUBSTR(print, 1, 40)")
    assert PRINTS[0] == WAY and all(lengths[sort] <= PRINTS[1][sort] for sort in lengths)
    assert _found(gallery) == before


def test_plain_pictures_are_alike_to_nothing(tmp_path: Path) -> None:
    from PIL import Image

    for name, colour in (("one.png", "red"), ("two.png", "red")):
        Image.new("RGB", (90, 60), colour).save(tmp_path / name)
        assert pictures.fingerprint(str(tmp_path / name)) == b""


def test_formats_of_one_design_are_no_copies_of_each_other(tree: Tree) -> None:
    import pyembroidery

    collection = tree([])
    for folder, formats in (("A/Kite", "dst pes"), ("B/Flyer", "jef"), ("C/Other", "vp3")):
        home = collection.root / "Designs" / folder
        home.mkdir(parents=True)
        for ending in formats.split():
            pyembroidery.write(crafted.design(9 if folder[0] == "C" else 5), str(home / f"kite.{ending}"))
    collection.ok("scan")
    (one,) = _found(collection, "--keep", "better", code=1)
    assert one["match"] == "stitches" and len(one["others"]) == 2


def test_what_holds_the_same_bytes_is_not_listed_as_alike_again(gallery: Collection) -> None:
    equal = {f"Pictures/Attic/{name}.png" for name in ("once", "twice")}
    for path in equal:
        scenes.scene(9).save(gallery.root / path)
    gallery.ok("scan")
    rows = gallery.ok("copies", "--alike", "--keep", "tagged", "--json", code=1).lines
    assert [row["match"] for row in rows if equal & {row["keep"], *row["others"]}] == ["bytes"]
