"""The demo collection from heap to shelves and back, and the tour."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from lazy_magpie.demo import TITLES_FILE, TRUTH, make
from lazy_magpie.demo.scenario import SETTLED
from lazy_magpie.paths import read_back
from tests.conftest import Collection, picture, program


def _truth(root: Path) -> list[dict[str, str]]:
    return [json.loads(line) for line in (root / TRUTH).read_text().splitlines()]


def test_tidy_puts_everything_where_the_truth_says_and_undo_brings_it_back(demo: Collection) -> None:
    demo.ok("start")
    before = picture(demo.root)
    demo.ok("scan")
    demo.ok("tidy", code=1)
    applied = demo.ok("apply", "--json").json
    assert applied["skipped"] == applied["failed"] == [] and applied["done"] > 80
    after = picture(demo.root)
    for record in _truth(demo.root):
        assert read_back(record["screen"] or record["path"]) in after, record
    again = demo.ok("tidy", "--json", code=1).json
    assert again["steps"] == [] and again["plan"] is None
    assert demo.ok("scan", "--json").json["new"] == 0
    demo.ok("undo")
    assert picture(demo.root) == before
    undone = demo.ok("scan", "--json").json
    assert (undone["new"], undone["changed"], undone["missing"]) == (0, 0, 0)


def test_what_the_titles_settle_is_filed_too(demo: Collection) -> None:
    demo.ok("start")
    demo.ok("scan")
    demo.ok("titles", "add", str(demo.root / TITLES_FILE))
    assert demo.ok("settle", "--auto", "--json").json["done"] == len(SETTLED)
    demo.ok("settle", "Heap/Kelp Ballad.mp4", "--set", "year=1993")
    demo.ok("tidy", "--now")
    after = picture(demo.root)
    assert set(SETTLED.values()) <= after.keys() and "Films/Kelp Ballad (1993)/Kelp Ballad (1993).mp4" in after
    assert demo.ok("tidy", "--json", code=1).json["steps"] == []


def test_redo_after_undo_is_apply(demo: Collection) -> None:
    demo.ok("start")
    demo.ok("scan")
    demo.ok("tidy", "--now", code=0)
    after = {path: what[:2] for path, what in picture(demo.root).items()}
    demo.ok("undo")
    demo.ok("redo")
    assert {path: what[:2] for path, what in picture(demo.root).items()} == after
    assert [change["state"] for change in demo.ok("history", "--json").lines] == ["done"]


def test_a_fresh_catalogue_reads_the_shelves_the_same(demo: Collection) -> None:
    demo.ok("start")
    demo.ok("scan")
    demo.ok("tidy", "--now")
    known = {item["path"]: (item["kind"], item["fields"]) for item in demo.ok("find", "Films", "--json").lines}
    for file in (demo.root / ".magpie").glob("catalogue.db*"):
        file.unlink()
    demo.ok("scan")
    fresh = {item["path"]: (item["kind"], item["fields"]) for item in demo.ok("find", "Films", "--json").lines}
    films = [path for path, (kind, _) in known.items() if kind == "movie"]
    assert len(films) > 15
    for path in films:  # what only the old name told (a language) is no part of the new name
        assert {**known[path][1], "languages": 0} == {**fresh[path][1], "languages": 0}


def test_the_demo_is_always_the_same_and_real(tmp_path: Path, demo: Collection) -> None:
    make(tmp_path / "again")
    assert picture(tmp_path / "again") == picture(demo.root)
    assert 140 <= len([what for what in picture(demo.root).values() if what[0] == "file"]) <= 190


@pytest.mark.parametrize("ending", ["mkv", "mp4", "avi", "flac", "mp3", "ogg", "m4a"])
def test_the_demo_media_play(demo: Collection, ending: str) -> None:
    import av

    files = [path for path in demo.root.rglob(f"*.{ending}") if "Backup" not in path.parts]
    assert files
    for path in files:
        with av.open(str(path)) as container:
            stream = (container.streams.video or container.streams.audio)[0]
            assert sum(1 for _ in container.decode(stream)) > 0


def test_the_demo_crafts_open(demo: Collection) -> None:
    import pyembroidery
    from fontTools.ttLib import TTFont
    from PIL import Image

    for ending in ("dst", "pes", "jef", "exp", "vp3"):
        for path in demo.root.rglob(f"*.{ending}"):
            assert len(pyembroidery.read(str(path)).stitches) > 200, path
    for path in (*demo.root.rglob("*.ttf"), *demo.root.rglob("*.otf"), *demo.root.rglob("*.woff")):
        assert TTFont(path).getBestCmap()[ord("A")] == "A"
    for path in (*demo.root.rglob("*.jpg"), *demo.root.rglob("*.png")):
        Image.open(path).load()


def test_the_tour_runs_as_installed(tmp_path: Path) -> None:
    answer = program("demo", str(tmp_path / "kites"), "--no-colour", cwd=tmp_path, seconds=300)
    assert answer.code == 0, answer.err
    assert answer.out.count("$ magpie ") == 34
    for text in (
        "is a collection now",
        "1 conflict",
        "steps done",
        "steps undone",
        "who is right, the name or the folder? (it says 1978)",
        "3 items settled",
        "2 copies can go",
        "12 files of 5 archives",
        "6 renamed",
        "6 held, 3 converted",
    ):
        assert text in answer.out
    assert "Traceback" not in answer.err


def test_the_demo_touches_nothing_that_is_there(tmp_path: Path) -> None:
    (tmp_path / "mine.txt").write_text("mine")
    answer = program("demo", str(tmp_path))
    assert answer.code == 2 and "is not an empty folder" in answer.err
    assert [path.name for path in tmp_path.iterdir()] == ["mine.txt"]
