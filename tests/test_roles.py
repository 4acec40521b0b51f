"""What folders are for is told from the whole tree: categories are nobody's name, and what is not sure is a doubt."""

from __future__ import annotations

import json
import os
import sqlite3
import threading
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

import pytest
from benchmarks.trees import TREES, judge, read_trees

from lazy_magpie.identify import identify
from lazy_magpie.identify.roles import read_tree
from lazy_magpie.paths import name_of
from lazy_magpie.scan import folder_unit, listing
from lazy_magpie.scan.listing import FolderContents, FolderLister
from lazy_magpie.words import meaning
from tests.conftest import Collection

Tree = Callable[..., Collection]


def _read(collection: Collection) -> dict[str, dict[str, Any]]:
    """Return by path what each file is taken for."""
    collection.ok("scan")
    items = collection.ok("find", "--json").lines
    return {file["path"]: item | {"role": file["role"]} for item in items for file in item["files"]}


def _songs(folder: str, names: Sequence[str]) -> list[str]:
    return [f"{folder}/{number:02} {name}.mp3" for number, name in enumerate(names, start=1)]


def test_a_category_is_no_artist(tree: Tree) -> None:
    paths = [
        *_songs("Music/Kelp Parade/Low Tide (1998)", ["Ebb", "Slack", "Flood"]),
        *_songs("Music/Kelp Parade/High Tide (2001)", ["Wrack", "Spray"]),
        *_songs("Music/Nora Samphire/Lanterns (2004)", ["Wick", "Oil"]),
        *_songs("Music/Sampler/Pier Songs (2003)", ["Kelp Parade - Ebb", "Nora Samphire - Wick", "Gull Trio - Cry"]),
        *_songs("Music/Recopilatorios/Noche (2005)", ["Kelp Parade - Slack", "Nora Samphire - Oil"]),
    ]
    found = _read(tree(paths, ""))
    for path, item in found.items():
        if item["state"] == "clear":
            assert item["fields"].get("artist") not in ("Sampler", "Recopilatorios"), path
    assert found["Music/Kelp Parade/Low Tide (1998)/01 Ebb.mp3"]["fields"]["artist"] == "Kelp Parade"


@pytest.mark.parametrize("disc", ["Disco 2", "Disque 2", "CD2", "2. CD", "Disc Two"])
def test_a_disc_is_a_division_in_any_language(tree: Tree, disc: str) -> None:
    paths = _songs(f"Music/Kelp Parade/Low Tide (1998)/{disc}", ["Ebb", "Slack"])
    paths += _songs("Music/Kelp Parade/High Tide (2001)", ["Wrack", "Spray"])
    item = _read(tree(paths, ""))[paths[0]]
    assert item["fields"].get("album") == "Low Tide"
    assert item["fields"].get("disc") == 2


@pytest.mark.parametrize("season", ["Season 2", "Staffel 2", "Seconda stagione", "Sezon 2", "Κύκλος 2"])
def test_a_season_is_a_division_in_any_language(tree: Tree, season: str) -> None:
    paths = [f"Shows/Pilot Cutter/{season}/{number:02} - {name}.mkv" for number, name in ((1, "Fog"), (2, "Reef"))]
    item = _read(tree(paths, ""))[paths[0]]
    assert (item["fields"].get("show"), item["fields"].get("season")) == ("Pilot Cutter", 2)


def test_what_is_left_over_is_no_title(tree: Tree) -> None:
    paths = [
        f"Shows/Pilot Cutter/Pilot.Cutter.S01E0{number}.{word}.720p.mkv" for number, word in ((1, "FiNAL"), (2, "1080"))
    ]
    for item in _read(tree(paths, "")).values():
        assert "episode_title" not in item["fields"] or item["state"] != "clear"


def test_extras_keep_their_titles(tree: Tree) -> None:
    paths = ["Old disk/Pilot Cutter/Extras/Bloopers.mkv", "Old disk/Pilot Cutter/Season 1/Pilot Cutter S01E01.mkv"]
    extra = _read(tree(paths, ""))[paths[0]]
    assert (extra["kind"], extra["fields"].get("of"), extra["fields"].get("title")) == (
        "extra", "Pilot Cutter", "Bloopers",
    )  # fmt: skip


def test_what_systems_keep_for_themselves_is_junk(tree: Tree) -> None:
    paths = ["Films/@eaDir/Low Tide (1998).mkv/thumb.jpg", "Films/.@__thumb/cover.jpg", "Films/Low Tide (1998).mkv"]
    found = _read(tree(paths, ""))
    assert [found[path]["kind"] for path in paths] == ["junk", "junk", "movie"]


def test_a_picture_with_nothing_beside_it_is_a_picture(tree: Tree) -> None:
    assert _read(tree(["Scans/pier 1972.jpg"], ""))["Scans/pier 1972.jpg"]["kind"] == "picture"


def test_what_a_folder_is_for_follows_what_lies_in_it(tree: Tree) -> None:
    collection = tree(_songs("Music/Kelp Parade/Low Tide (1998)", ["Ebb", "Slack"]), "")
    _read(collection)
    for path in _songs("Music/Kelp Parade/High Tide (2001)", ["Wrack", "Spray"]):
        collection.put(path)
    after = _read(collection)
    collection.ok("scan", "--full")
    assert after == _read(collection)


def test_show_says_what_a_folder_is_taken_for(tree: Tree) -> None:
    collection = tree(_songs("Music/Kelp Parade/Low Tide (1998)/CD 2", ["Ebb", "Slack"]), "")
    collection.ok("scan")
    assert "a category: a shelf" in collection.run("show", "Music").out
    assert "a part of a work" in collection.run("show", "Music/Kelp Parade/Low Tide (1998)/CD 2").out


def test_one_new_file_is_found_beside_what_is_known(tree: Tree) -> None:
    collection = tree([f"Heap/Pier {number} ({1930 + number}).mkv" for number in range(40)], "")
    _read(collection)
    collection.put("Heap/Lantern (1999).mkv", "Heap/Pier 3 (1933).en.srt")
    after = _read(collection)
    assert after["Heap/Lantern (1999).mkv"]["state"] == "clear"
    assert after["Heap/Pier 3 (1933).en.srt"]["path"] == "Heap/Pier 3 (1933).mkv"
    collection.ok("scan", "--full")
    assert after == _read(collection)


def test_beside_what_is_known_only_what_is_new_is_read(tree: Tree, monkeypatch: pytest.MonkeyPatch) -> None:
    beside = ("mkv", "en.srt", "de.forced.sub", "nfo", "jpg")
    collection = tree([f"Heap/Pier {number} ({1930 + number}).{end}" for number in range(40) for end in beside], "")
    collection.ok("scan", "--jobs", "1")
    read: list[str] = []

    def reading(path: str, *rest: Any) -> Any:
        read.append(name_of(path))
        return identify(path, *rest)

    monkeypatch.setattr(folder_unit, "identify", reading)

    def with_one_more(name: str) -> set[str]:
        read.clear()
        collection.put(f"Heap/{name}")
        collection.ok("scan", "--jobs", "1")
        return set(read)

    assert with_one_more("Lantern (1999).mkv") == {"Lantern (1999).mkv"}
    assert with_one_more("Lantern (1999).en.srt") == {"Lantern (1999).en.srt"}
    with sqlite3.connect(collection.root / ".magpie/catalogue.db") as db:  # as an earlier magpie left it
        db.execute("UPDATE file SET alone = ''")
    assert len(with_one_more("Harbour (2001).mkv")) > 40
    assert with_one_more("Quay (2002).mkv") == {"Quay (2002).mkv"}


def test_roles_are_the_same_whatever_the_order() -> None:
    listed = {"Music/Kelp Parade/Low Tide (1998)": ["01 Ebb.mp3"], "Music/Sampler": ["A - B.mp3", "C - D.mp3"]}
    assert read_tree(listed) == read_tree(dict(reversed(listed.items())))
    assert read_tree({}) == {}
    assert read_tree({"": ["Loose.mp3"]}) == {}


def test_words_are_found_without_case_accents_and_signs() -> None:
    assert meaning("PAPÉIS") == meaning("papeis") != {}
    assert "season" in meaning("Season_2") and "season" in meaning("2. Staffel")
    assert meaning("Quillanne") == {}


@pytest.mark.parametrize("file", TREES, ids=lambda file: file.stem)
def test_trees_of_others_are_understood(tree: Tree, file: Path) -> None:
    name, rows = next(iter(read_trees([file]).items()))
    found = {path: item | {"file_role": item["role"], "file_part": 0} for path, item in _read(
        tree([row["path"] for row in rows], "")).items()}  # fmt: skip
    counts = judge(rows, found, [])
    assert counts["right"] / counts["files"] > 0.5, name
    assert counts["wrong clear"] / counts["files"] < 0.2, name


def test_a_slow_drive_is_listed_the_same(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    for number in range(120):
        file = tmp_path / f"folder {number % 7}" / f"deep {number % 3}" / f"{number}.mkv"
        file.parent.mkdir(parents=True, exist_ok=True)
        file.touch()
    for number in range(90):
        (tmp_path / "folder 0" / f"{number}.srt").touch()
    os.symlink("nowhere", tmp_path / "folder 1" / "link")

    def listed() -> dict[str, tuple[list[Any], int]]:
        lister = FolderLister(str(tmp_path))
        waiting, found = [""], {}
        while waiting:
            folder = waiting.pop()
            contents: FolderContents = lister.contents(folder, waiting, lambda count: None)
            found[folder] = (sorted(contents.files), contents.links)
            waiting += contents.folders
        lister.close()
        return found

    usual = listed()
    monkeypatch.setattr(listing, "_SLOW", -1.0)
    monkeypatch.setattr(listing, "_CHUNK", 2)
    before = threading.active_count()
    assert listed() == usual
    assert len(usual) == 1 + 7 + 21 and sum(len(files) for files, _ in usual.values()) == 210
    assert threading.active_count() >= before


def test_a_file_that_cant_be_listed_is_named(tree: Tree) -> None:
    collection = tree(["Films/Low Tide (1998).mkv"], "")
    collection.ok("scan")
    (collection.root / "Films" / "Low Tide (1998).mkv").unlink()
    answer = json.loads(collection.ok("scan", "--json").out)
    assert answer["missing"] == 1


@pytest.mark.parametrize("title", ["1962", "24-7", "Ice", "Christmas Special"])
def test_a_title_behind_a_dash_is_one_whatever_else_it_means(tree: Tree, title: str) -> None:
    path = f"Shows/Pilot Cutter/Season 2/Pilot Cutter - S02E04 - {title}.mkv"
    item = _read(tree([path, path.replace("S02E04", "S02E05").replace(title, "Reef")], ""))[path]
    assert item["fields"].get("episode_title") == title


@pytest.mark.parametrize("path", ["Pilot Cutter/Sezon 2/Odcinek 05.avi", "Pilot Cutter/Season 02 (2009)/05.mkv"])
def test_a_show_at_the_top_is_no_category(tree: Tree, path: str) -> None:
    fields = _read(tree([path], ""))[path]["fields"]
    assert (fields.get("show"), fields.get("season"), fields.get("episode")) == ("Pilot Cutter", 2, 5)


def test_words_of_ones_own_are_read_as_if_they_were_known(tree: Tree) -> None:
    paths = [f"Series/Gull Lane/Rutsche {season}/Gull Lane - {n:02}.mkv" for season in (1, 2) for n in (1, 2, 3)]
    paths += [f"Music/For Jo/{artist}/Ropes/0{n} - Knot {n}.mp3" for artist in ("Elo Vand", "Mab Tarn") for n in (1, 2)]
    collection = tree(paths, "")
    collection.ok("scan")
    (collection.root / "magpie.toml").write_text('[words]\nseason = ["Rutsche {n}"]\ncategory = ["for jo"]\n')
    collection.ok("scan")
    episodes = collection.ok("find", "kind", "is", "episode", "--json").lines
    assert {(item["fields"]["season"], item["fields"]["episode"]) for item in episodes} == {
        (season, n) for season in (1, 2) for n in (1, 2, 3)
    }
    songs = collection.ok("find", "kind", "is", "track", "--json").lines
    assert {item["fields"]["artist"] for item in songs} == {"Elo Vand", "Mab Tarn"}
    assert collection.ok("explain", "Music/For Jo/", "--json").json["role"] == "category"


def test_a_concept_that_there_is_not_is_named(tree: Tree) -> None:
    answer = tree([], '[words]\nseasn = ["Rutsche {n}"]\n').ok("scan", code=2)
    assert "line 2" in answer.err and "“season”" in answer.err


@pytest.mark.parametrize(
    ("folder", "beside", "state"),
    [
        ("Pictures/icons/reef/sheet", "", "clear"),
        ("Photos/icons/reef/sheet", "", "clear"),
        ("Pictures/icons/reef/sheet", "Pictures/Low/1 Fog.mp3", ""),
        ("Old themes/reef/16x16", "Old themes/Low/1 Fog.mp3", "clear"),
        ("Old themes/reef/apps/48", "", "clear"),
    ],
)
def test_pictures_that_lie_beside_nothing_are_pictures(tree: Tree, folder: str, beside: str, state: str) -> None:
    icons = [f"{folder}/{name}.png" for name in ("tern", "gull", "fog", "reef", "pier", "tide")]
    here = tree([*icons, *([beside] if beside else [])])
    here.ok("scan")
    found = {one["path"]: one["state"] for one in here.ok("find", "--json").lines}
    if state:
        assert [found.get(path) for path in icons] == [state] * 6
    else:
        assert set(map(found.get, icons)) != {"clear"}


def test_what_may_lie_beside_a_thing_is_asked_once_a_folder(tree: Tree) -> None:
    views = [f"Odds/Reef/{name}.jpg" for name in ("jetty", "gull", "fog", "reef", "pier")]
    here = tree([*views, "Odds/Reef/low.mp3"])
    here.ok("scan")
    asked = here.ok("settle", "--json", code=1).lines
    assert sorted(question["items"] for question in asked) == [1, len(views)]


@pytest.mark.parametrize(
    ("thing", "beside", "role"),
    [
        ("Audio/Odds/Tern Parade.m4b", "Tern Parade.jpg", "cover"),
        ("Video/Odds/The Tern Watchers (1985) [odd].avi", "The Tern Watchers (1985) [odd].jpg", "cover"),
        ("Video/Odds/Harbour Walk_2011-04-08.ts", "Harbour Walk_2011-04-08.txt", "info"),
        ("Odds/Terns in flight/heron.pes", "HERON.jpg", "thumbnail"),
        ("Odds/Terns in flight/heron 5x7.pes", "heron 5x7 stops.pdf", "chart"),
        ("roms/gba/Kite Quest (Europe).gba", "Kite Quest (Europe).state1", "other"),
        ("Odds/Terns/Slack Water.mp3", "Slack Water.cdg", "other"),
    ],
)
def test_what_is_called_as_the_thing_beside_it_belongs_to_it(tree: Tree, thing: str, beside: str, role: str) -> None:
    folder = thing.rpartition("/")[0]
    collection = tree([thing, f"{folder}/{beside}"], "")
    found = _read(collection)[f"{folder}/{beside}"]
    assert found["role"] == role or (found["kind"], found["fields"].get("role")) == ("companion", role)
    if found["kind"] == "companion":
        assert found["state"] == "clear"


@pytest.mark.parametrize(
    ("thing", "beside"),
    [
        ("Camera/IMG_1234.mov", "IMG_1234.jpg"),  # a camera counts whatever it takes
        ("Odds/Tern.mp4", "Tern at the pier 1.jpg"),  # a short name begins many others
        ("Choir/Slack Water.mp3", "Slack Water.pdf"),  # sheet music is somebody's own
        ("Odds/heron.pes", "heron.zip"),
    ],
)
def test_not_all_that_is_called_as_a_thing_belongs_to_it_for_certain(tree: Tree, thing: str, beside: str) -> None:
    folder = thing.rpartition("/")[0]
    found = _read(tree([thing, f"{folder}/{beside}"], ""))[f"{folder}/{beside}"]
    assert (found["kind"], found["state"]) != ("companion", "clear") and found["role"] == "main"


def test_what_belongs_to_a_thing_is_read_anew_when_that_comes_and_goes(tree: Tree) -> None:
    collection = tree(["Odds/Birds/Terns in flight.jpg", "Odds/Birds/other heron.pes"], "")
    assert _read(collection)["Odds/Birds/Terns in flight.jpg"]["kind"] == "picture"
    collection.put("Odds/Birds/Terns in flight.pes")
    assert _read(collection)["Odds/Birds/Terns in flight.jpg"]["role"] == "thumbnail"
    (collection.root / "Odds/Birds/Terns in flight.pes").unlink()
    assert _read(collection)["Odds/Birds/Terns in flight.jpg"]["kind"] == "picture"


@pytest.mark.parametrize(("folder", "state"), [("Tern Slab", "clear"), ("Harbour Foundry Works", "doubtful")])
def test_a_fonts_own_folder_is_no_maker(tree: Tree, folder: str, state: str) -> None:
    paths = [f"Fonts/{folder}/TernSlab-{style}.otf" for style in ("Regular", "Bold", "Italic")]
    found = _read(tree(paths, ""))[paths[0]]
    assert found["state"] == state
    assert state == "doubtful" or found["fields"]["family"] == "Tern Slab"


@pytest.mark.parametrize("folder", ["By hoop", "Nach Stil", "Par compositeur", "A-F", "Podle velikosti"])
def test_what_only_says_how_things_are_sorted_is_no_maker(tree: Tree, folder: str) -> None:
    paths = [f"Fonts/{folder}/{name}-Regular.otf" for name in ("TernSlab", "GullSerif", "FogScript")]
    found = _read(tree(paths, ""))
    assert all("maker" not in found[path]["fields"] and found[path]["state"] == "clear" for path in paths)


def test_films_that_count_on_are_one_thing(tree: Tree) -> None:
    paths = [f"Documentaries/The Tidal Year/{name}.avi" for name in ("01. Ebb", "02. Slack", "03. Flood")]
    found = _read(tree([*paths, "Documentaries/Kelp (2001).mkv"], ""))
    read = {(found[path]["kind"], found[path]["fields"].get("show"), found[path]["state"]) for path in paths}
    assert read == {("episode", "The Tidal Year", "clear")}


@pytest.mark.parametrize("heap", ["Downloads", "Zu sortieren", "Old disk"])
def test_the_only_film_in_a_heap_owns_nothing_but_what_is_called_so(tree: Tree, heap: str) -> None:
    collection = tree([f"{heap}/Kelp.S02E04.720p.mkv", f"{heap}/Kelp.S02E04.720p.nfo", f"{heap}/setup_notes.txt"], "")
    found = _read(collection)
    assert found[f"{heap}/Kelp.S02E04.720p.nfo"]["id"] == found[f"{heap}/Kelp.S02E04.720p.mkv"]["id"]
    assert found[f"{heap}/setup_notes.txt"]["id"] != found[f"{heap}/Kelp.S02E04.720p.mkv"]["id"]


def test_who_gave_a_design_is_not_clearly_its_maker(tree: Tree) -> None:
    paths = ["Embroidery/From Margaret/lace edge.dst", "Embroidery/Needle Jetty/tern.dst"]
    found = _read(tree([*paths, "Embroidery/Needle Jetty/gull.dst", "Embroidery/From Margaret/lace corner.dst"], ""))
    assert found[paths[0]]["state"] == "doubtful"


@pytest.mark.parametrize("folder", ["Music/Mixes/Road 2008", "Music/Mix tapes/Road trip 2008"])
def test_an_album_on_which_each_song_is_by_another_stays_whole(tree: Tree, folder: str) -> None:
    names = ["Kelp Parade - Ebb", "Ines Varga - Asphalt", "Cold Ferry - Long Way Down"]
    shelf = '[shelf.music]\nkind = "track"\nfolder = "Songs"\n'
    collection = tree(_songs(folder, names), '[collection]\nunplayable = "file"\n' + shelf)
    assert {one["fields"].get("album_artist") for one in _read(collection).values()} == {"Various Artists"}
    moved = [one["to"] for one in collection.ok("tidy", "--json").json["steps"] if one["do"] == "move"]
    assert len({path.rpartition("/")[0] for path in moved}) == 1 and len(moved) == 3


def test_a_guest_makes_no_sampler_of_an_album(tree: Tree) -> None:
    names = ["Kelp Parade - Ebb", "Kelp Parade - Slack", "Ines Varga - Flood", "Kelp Parade - Tide"]
    found = _read(tree(_songs("Music/Kelp Parade/Low Tide", names), ""))
    assert not [one for one in found.values() if "album_artist" in one["fields"]]


def test_notes_in_a_heap_do_not_go_along_with_its_only_film(tree: Tree) -> None:
    films = '[collection]\nunplayable = "file"\n[shelf.series]\nkind = "episode"\nfolder = "Series"\n'
    collection = tree(["Downloads/Kelp.S02E04.720p.mkv", "Downloads/setup_notes.txt", "Downloads/order.pdf"], films)
    collection.ok("scan")
    steps = collection.run("tidy", "--json").json["steps"]
    assert [one["from"] for one in steps if one["do"] == "move"] == ["Downloads/Kelp.S02E04.720p.mkv"]


@pytest.mark.parametrize("section", ["papiers", "Elemente", "papers"])
def test_a_kit_keeps_its_sections_in_any_language(tree: Tree, section: str) -> None:
    kits = '[collection]\nunplayable = "file"\n[shelf.kits]\nkind = "kit"\nfolder = "Kits"\n'
    home = "Old/Digital kits/Needle Jetty - Harvest Home"
    collection = tree([f"{home}/{section}/nj_hh_1.jpg", f"{home}/{section}/nj_hh_2.jpg", f"{home}/preview.jpg"], kits)
    collection.ok("scan")
    moved = [one["to"] for one in collection.run("tidy", "--json").json["steps"] if one["do"] == "move"]
    assert all(f"/{section}/" in path for path in moved if "nj_hh" in path)
