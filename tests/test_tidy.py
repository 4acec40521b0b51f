"""What tidy proposes: shelves, companions, conflicts, what is left, and the folders it makes and drops."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest
from benchmarks.corpus import names

from lazy_magpie.model import Kind, Value
from lazy_magpie.model.steps import Move
from lazy_magpie.naming import conventions, path_for
from lazy_magpie.planners.step_order import ordered_steps
from tests.conftest import SHELVES, Collection, picture

Tree = Callable[..., Collection]


def _tidied(collection: Collection) -> set[str]:
    """Scan, tidy, apply; return the files there are then."""
    collection.ok("scan")
    collection.run("tidy")
    collection.ok("apply")
    return collection.files()


def _plan(collection: Collection) -> dict[str, Any]:
    collection.ok("scan")
    plan: dict[str, Any] = collection.run("tidy", "--json").json
    return plan


def test_a_heap_comes_apart(tree: Tree) -> None:
    collection = tree(["Heap/Kelp (2001).mkv", "Heap/Dockside S01E02.mkv", "Heap/notes.txt"])
    assert _tidied(collection) == {
        "Films/Kelp (2001)/Kelp (2001).mkv",
        "Series/Dockside/Season 01/Dockside S01E02.mkv",
        "Heap/notes.txt",
    }


def test_companions_and_extras_travel(tree: Tree) -> None:
    home = "Kelp Harvest (2001) [720p]"
    collection = tree(
        [
            f"{home}/kelp.harvest.2001.720p.mkv",
            f"{home}/kelp.harvest.2001.720p.en.forced.srt",
            f"{home}/Subs/2_French.srt",
            f"{home}/poster.jpg",
            f"{home}/Extras/Making of.mkv",
            f"{home}/Sample/kh-sample.mkv",
            f"{home}/Thumbs.db",
        ]
    )
    new = "Films/Kelp Harvest (2001)"
    assert _tidied(collection) == {
        f"{new}/Kelp Harvest (2001).mkv",
        f"{new}/Kelp Harvest (2001).en.forced.srt",
        f"{new}/Kelp Harvest (2001).fr.srt",
        f"{new}/poster.jpg",
        f"{new}/Extras/Making of.mkv",
        f"{home}/Sample/kh-sample.mkv",
        f"{home}/Thumbs.db",
    }


def test_subtitles_of_each_language_are_told_apart(tree: Tree) -> None:
    home = "Heap/Kelp Harvest (2001)"
    collection = tree(
        [
            f"{home}/kh.mkv",
            f"{home}/Subs/English/kh.srt",
            f"{home}/Subs/Français/kh.srt",
            f"{home}/Subs/Kelp Harvest.de.srt",
        ]
    )
    new = "Films/Kelp Harvest (2001)/Kelp Harvest (2001)"
    assert _tidied(collection) == {f"{new}.mkv", f"{new}.en.srt", f"{new}.fr.srt", f"{new}.de.srt"}


def test_a_record_takes_along_what_lies_beside_its_songs(tree: Tree) -> None:
    shelf = SHELVES + '[shelf.music]\nkind = "track"\nfolder = "Music"\nnaming = "maker"\n'
    home = "Heap/Ida Marrow - Low Lights (2009)"
    beside = ["cover.jpg", "Low Lights.cue", "Low Lights.log", "Low Lights.m3u"]
    collection = tree(
        [f"{home}/01 Ebb.mp3", f"{home}/02 Slack Water.mp3", *(f"{home}/{name}" for name in beside)], shelf
    )
    new = "Music/Ida Marrow/Low Lights (2009)"
    assert _tidied(collection) == {
        f"{new}/01 - Ebb.mp3",
        f"{new}/02 - Slack Water.mp3",
        *(f"{new}/{name}" for name in beside),
    }


@pytest.mark.parametrize(
    ("folder", "why"), [("Music", "settle its year"), ("Heap", "the title may be “Ebb” or “1962 Tides”")]
)
def test_a_record_whose_title_begins_with_a_year_waits_for_its_own(tree: Tree, folder: str, why: str) -> None:
    shelf = SHELVES + '[shelf.music]\nkind = "track"\nfolder = "Music"\nnaming = "maker"\n'
    song = f"{folder}/Ida Marrow - 1962 Tides - 03 - Ebb.mp3"
    collection = tree([song], shelf)
    (left,) = _plan(collection)["left"]
    assert left["path"] == song and why in left["why"]
    collection.ok("settle", song, "--set", "year=1994")
    assert _tidied(collection) == {"Music/Ida Marrow/1962 Tides (1994)/03 - Ebb.mp3"}
    collection.ok("scan", "--full")
    assert collection.ok("find", "ebb", "--json").json["fields"]["album"] == "1962 Tides"


def test_the_parts_of_a_day_do_not_meet(tree: Tree) -> None:
    collection = tree([f"Heap/The Harbour Report 2019-03-21 Part {part}.mkv" for part in (1, 2)])
    home = "Series/The Harbour Report/2019/The Harbour Report - 2019-03-21"
    assert _tidied(collection) == {f"{home} - part 1.mkv", f"{home} - part 2.mkv"}


def test_a_mini_series_is_season_1(tree: Tree) -> None:
    home = "Keeper's Log (Mini-Series 1998)"
    collection = tree([f"{home}/Part {number}.mkv" for number in (1, 2)])
    new = "Series/Keeper's Log (1998)/Season 01/Keeper's Log (1998)"
    assert _tidied(collection) == {f"{new} S01E01.mkv", f"{new} S01E02.mkv"}


def test_what_belongs_to_a_show_goes_to_the_show(tree: Tree) -> None:
    collection = tree(
        [
            "Dockside/Season 1/Dockside S01E01.mkv",
            "Dockside/Season 1/Dockside S01E02.mkv",
            "Dockside/Season 1/poster.jpg",
            "Dockside/Season 2/Dockside S02E01.mkv",
            "Dockside/poster.jpg",
            "Dockside/Extras/Bloopers.mkv",
        ]
    )
    assert _tidied(collection) == {
        "Series/Dockside/Season 01/Dockside S01E01.mkv",
        "Series/Dockside/Season 01/Dockside S01E02.mkv",
        "Series/Dockside/Season 01/poster.jpg",
        "Series/Dockside/Season 02/Dockside S02E01.mkv",
        "Series/Dockside/poster.jpg",
        "Series/Dockside/Extras/Bloopers.mkv",
    }
    assert not (collection.root / "Dockside").exists()


def test_two_that_want_one_name_stay(tree: Tree) -> None:
    collection = tree(["a/Kelp (2001).mkv", "b/Kelp.2001.720p.mkv", "b/Kelp.2001.720p.en.srt"])
    plan = _plan(collection)
    assert plan["steps"] == []
    (conflict,) = plan["conflicts"]
    assert sorted(conflict["items"]) == ["a/Kelp (2001).mkv", "b/Kelp.2001.720p.mkv"]
    assert "size" in str(conflict["why"])


def test_a_file_in_the_way_is_a_conflict(tree: Tree) -> None:
    collection = tree(["a/Kelp (2001).mkv", "Films/Kelp (2001)/kelp (2001).MKV"])
    (conflict,) = _plan(collection)["conflicts"]
    assert len(conflict["items"]) == 2


def test_kinds_without_a_shelf_and_folders_left_alone_are_counted(tree: Tree) -> None:
    collection = tree(["Games/song.ch8", "Backup 1/Kelp (2001).mkv", "Backup 1/x/Dockside S01E01.mkv"])
    plan = _plan(collection)
    assert plan["steps"] == [] and plan["left"] == []
    assert plan["passed"] == {"of a kind without a shelf": 1, "in folders left alone": 2}


def test_doubts_are_left_with_their_reason(tree: Tree) -> None:
    collection = tree(["kelp 1985.mkv", "Dockside 105.avi", "part.mkv.part"])
    left = {one["path"]: one["why"] for one in _plan(collection)["left"]}
    assert "the film's year" in left["kelp 1985.mkv"]
    assert "season 1 episode 5" in left["Dockside 105.avi"]
    assert left["part.mkv.part"] == "an unfinished download"


def test_a_missing_field_leaves_the_item(tree: Tree) -> None:
    config = SHELVES.replace('folder = "Films"', 'folder = "Films"\nnaming = "mine"')
    config += '[naming.mine]\nmovie = "{title} ({year}) {edition}"\n'
    left = _plan(tree(["Kelp (2001).mkv"], config))["left"]
    assert left == [{"path": "Kelp (2001).mkv", "why": "its naming needs edition, which is not known"}]


def test_a_name_that_would_be_misread_is_not_written(tree: Tree) -> None:
    config = SHELVES.replace('folder = "Films"', 'folder = "Films"\nnaming = "mine"')
    config += '[naming.mine]\nmovie = "{title} {year}"\n'
    (left,) = _plan(tree(["Kelp (2001).mkv"], config))["left"]
    assert "would be misread as something in doubt (bare year)" in left["why"]


def test_plain_keeps_films_in_one_folder(tree: Tree) -> None:
    config = SHELVES.replace('folder = "Films"', 'folder = "Films"\nnaming = "plain"')
    collection = tree(["x/Kelp.2001.720p.mkv", "x/poster.jpg", "x/Kelp.2001.720p.en.srt"], config)
    assert _tidied(collection) == {"Films/Kelp (2001).mkv", "Films/Kelp (2001)-poster.jpg", "Films/Kelp (2001).en.srt"}


def test_a_naming_without_companions_takes_the_film_alone(tree: Tree) -> None:
    config = SHELVES.replace('folder = "Films"', 'folder = "Films"\nnaming = "mine"')
    config += '[naming.mine]\nmovie = "{title} ({year})/{title} ({year})"\ncompanions = false\n'
    assert _tidied(tree(["Kelp (2001).mkv", "Kelp (2001).srt"], config)) == {
        "Films/Kelp (2001)/Kelp (2001).mkv",
        "Kelp (2001).srt",
    }


def test_names_that_change_places() -> None:
    moves = [
        Move(source="A", target="B"),
        Move(source="B", target="C"),
        Move(source="C", target="A"),
    ]
    steps = ordered_steps(moves, lambda folder: frozenset("ABC"))
    disk = {"A": 1, "B": 2, "C": 3}
    for step in steps:
        assert step.target not in disk
        disk[step.target] = disk.pop(step.source)
    assert disk == {"B": 1, "C": 2, "A": 3}


def test_a_folder_in_another_case_keeps_its_spelling(tree: Tree) -> None:
    collection = tree(["Series/dockside/Season 01/notes.txt", "Dockside S01E01.mkv"])
    assert "Series/dockside/Season 01/Dockside S01E01.mkv" in _tidied(collection)


def test_emptied_folders_go_but_those_that_were_empty_stay(tree: Tree) -> None:
    collection = tree(["a/b/Kelp (2001).mkv"])
    (collection.root / "a/empty").mkdir()
    (collection.root / "Films").mkdir()
    before = picture(collection.root)
    _tidied(collection)
    assert not (collection.root / "a/b").exists() and (collection.root / "a/empty").exists()
    collection.ok("undo")
    assert picture(collection.root) == before


def test_items_can_be_chosen(tree: Tree) -> None:
    collection = tree(["a/Kelp (2001).mkv", "b/Dockside S01E01.mkv"])
    collection.ok("scan")
    steps = collection.ok("tidy", "b", "--json").json["steps"]
    assert {step["from"] for step in steps if step["do"] == "move"} == {"b/Dockside S01E01.mkv"}
    steps = collection.ok("tidy", "kind", "is", "movie", "--json").json["steps"]
    assert {step["from"] for step in steps if step["do"] == "move"} == {"a/Kelp (2001).mkv"}


def test_a_disc_folder_is_moved_whole(tree: Tree) -> None:
    collection = tree(["old/Fog (1990)/VIDEO_TS/VTS_01_1.VOB", "old/Fog (1990)/VIDEO_TS/VIDEO_TS.IFO"])
    assert _tidied(collection) == {"Films/Fog (1990)/VIDEO_TS/VTS_01_1.VOB", "Films/Fog (1990)/VIDEO_TS/VIDEO_TS.IFO"}


def test_long_names_are_cut_with_room_for_their_companions() -> None:
    fields: dict[str, Value] = {"show": "Gale " * 10, "season": 1, "episode": 1, "episode_title": "ü" * 110}
    name = path_for(conventions()["screen"], Kind.EPISODE, fields, room=24).split("/")[-1]
    assert 200 < len(name.encode()) <= 231 and name.startswith("Gale")


def test_a_big_plan_is_shown_by_groups(tree: Tree) -> None:
    collection = tree([f"Dock{n % 5}side s01e{n:02}.mkv" for n in range(70)])
    collection.ok("scan")
    out = collection.ok("tidy").out
    assert "70 files in 5 groups" in out and "→" not in out
    assert collection.ok("plans", "1", "--group", "Dock2side").out.count(".mkv → ") == 14
    assert collection.ok("plans", "1", "--whole").out.count(".mkv → ") == 70
    assert collection.ok("plans", "1", "--group", "Dock2sid", code=2).err.count("Dock2side") == 1


@pytest.mark.parametrize("naming", ["screen", "plain"])
def test_a_random_heap_filed_and_read_afresh_is_the_same(tree: Tree, naming: str) -> None:
    config = SHELVES.replace('"Films"', f'"Films"\nnaming = "{naming}"').replace(
        '"Series"', f'"Series"\nnaming = "{naming}"'
    )
    made = {truth.path: truth for truth in names(500, seed=3) if truth.kind in ("movie", "episode") and truth.clear}
    collection = tree([f"{number}/{path}" for number, path in enumerate(made)], config)
    collection.ok("scan")
    collection.run("tidy", "--now")
    known = {item["path"]: (item["kind"], item["fields"]) for item in collection.ok("find", "--json").lines}
    for file in (collection.root / ".magpie").glob("catalogue.db*"):
        file.unlink()
    collection.ok("scan")
    fresh = {item["path"]: (item["kind"], item["fields"]) for item in collection.ok("find", "--json").lines}
    filed = [path for path in known if path.startswith(("Films/", "Series/"))]
    assert len(filed) > 180
    for path in filed:  # what only the old name told (a language) is no part of the new name
        assert {**known[path][1], "languages": 0} == {**fresh[path][1], "languages": 0}
        assert known[path][0] == fresh[path][0]
