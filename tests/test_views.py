"""Views: folders of links that hold what a find names, cost no space, and never touch what is not theirs."""

from __future__ import annotations

import os
import re
from collections.abc import Callable
from pathlib import Path
from urllib.parse import unquote
from xml.etree import ElementTree

import pytest

from tests.conftest import CONFIG, SHELVES, Collection, picture

Tree = Callable[..., Collection]
KIT = "Kits/Fennick Paper Co/Harbour Lamps"
FILMS = [
    "Heap/Kelp (2001).mkv",
    "Heap/Kelp (2001).en.srt",
    "Heap/Hawser (1964).mkv",
    "Films/Tern (1999)/Tern (1999).mkv",
]
FIELDS = '\n[field.theme]\nallowed = ["harbour", "kites"]\n'


@pytest.fixture
def shelves(tree: Tree) -> Collection:
    """Return films and a kit, some of them with a theme."""
    collection = tree([*FILMS, "Backup/Kelp (2001).mkv"], SHELVES + FIELDS)
    collection.put(f"{KIT}/elements/buoy.png", f"{KIT}/papers/p1.jpg")
    collection.ok("scan")
    collection.ok("settle", "Heap/Kelp (2001).mkv", KIT, "--set", "theme=harbour")
    return collection


def _links(collection: Collection, name: str) -> dict[str, str]:
    """Return the links of a view, each with the file that it leads to; a broken one leads to “”."""
    found = {}
    top = collection.root / "Views" / name
    for folder, folders, files in os.walk(top):
        for one in (*files, *(f for f in folders if os.path.islink(os.path.join(folder, f)))):
            path = Path(folder, one)
            if path.name != ".magpie-view":
                target = path.resolve()
                found[str(path.relative_to(top))] = (
                    str(target.relative_to(collection.root.resolve())) if target.exists() else ""
                )
    return found


def test_a_view_shows_what_a_find_names(shelves: Collection) -> None:
    before = picture(shelves.root)
    plan = shelves.ok("view", "make", "harbour", "theme", "is", "harbour", "--by", "{kind}").out
    assert "linked by a symbolic link" in plan and picture(shelves.root) == before
    shelves.ok("apply")
    assert _links(shelves, "harbour") == {
        "movie/Kelp (2001).mkv": "Heap/Kelp (2001).mkv",
        "movie/Kelp (2001).en.srt": "Heap/Kelp (2001).en.srt",
        "kit/Harbour Lamps/elements/buoy.png": f"{KIT}/elements/buoy.png",
        "kit/Harbour Lamps/papers/p1.jpg": f"{KIT}/papers/p1.jpg",
    }
    assert not os.readlink(shelves.root / "Views/harbour/movie/Kelp (2001).mkv").startswith("/")
    (row,) = shelves.ok("view", "list", "--json").lines
    assert row == {
        "view": "harbour", "words": ["theme", "is", "harbour"], "by": "{kind}", "links": "soft",
        "folder": "Views/harbour", "files": 4,
    }  # fmt: skip
    shelves.ok("undo")
    assert picture(shelves.root) == before


@pytest.mark.parametrize("links", ["soft", "hard", "copy"])
def test_no_scan_takes_a_view_for_a_second_copy(shelves: Collection, links: str) -> None:
    count = shelves.ok("scan", "--json").json["files"]
    shelves.ok("view", "make", "films", "kind", "is", "movie", "--links", links, "--now")
    assert len(_links(shelves, "films")) == 4
    assert shelves.ok("scan", "--full", "--json").json["files"] == count
    assert not [row for row in shelves.ok("copies", "--json").lines if "Views" in str(row)]
    assert not shelves.ok("find", "Views/films", "--json").lines
    shelves.ok("view", "drop", "films", "--now")
    assert not (shelves.root / "Views").exists() or not os.listdir(shelves.root / "Views")
    assert set(shelves.files()) >= set(FILMS)


def test_refreshing_follows_changes_and_takes_out_only_what_magpie_put_in(shelves: Collection) -> None:
    shelves.ok("view", "make", "films", "kind", "is", "movie", "theme", "missing", "--now")
    top = shelves.root / "Views/films"
    (top / "mine.txt").write_text("a person's own")
    (top / "my link").symlink_to("../../Heap/Kelp (2001).mkv")
    (top / "Tern (1999).mkv").unlink()
    (top / "Tern (1999).mkv").write_text("a person's own, under a link's name")
    shelves.ok("settle", "Heap/Hawser (1964).mkv", "Films", "--set", "theme=kites")
    shelves.ok("settle", "Heap/Kelp (2001).mkv", "--set", "theme=")
    steps = shelves.ok("view", "refresh", "--json").json["steps"]
    assert [(step["do"], Path(step["from"] or step["to"]).name) for step in steps] == [
        ("drop", "Hawser (1964).mkv"), ("softlink", "Kelp (2001).en.srt"), ("softlink", "Kelp (2001).mkv"),
    ]  # fmt: skip
    shelves.ok("apply")
    assert set(os.listdir(top)) == {
        ".magpie-view", "mine.txt", "my link", "Tern (1999).mkv", "Kelp (2001).mkv", "Kelp (2001).en.srt",
    }  # fmt: skip
    assert "Every view shows what it should" in shelves.ok("view", "refresh").err
    shelves.ok("view", "drop", "films", "--now")
    assert set(os.listdir(top)) == {"mine.txt", "my link", "Tern (1999).mkv"}
    shelves.ok("undo")
    shelves.ok("scan")
    assert [row["view"] for row in shelves.ok("view", "list", "--json").lines] == ["films"]


def test_a_view_follows_what_is_filed_elsewhere(shelves: Collection) -> None:
    shelves.ok("view", "make", "films", "kind", "is", "movie", "--now")
    shelves.ok("tidy", "kind", "is", "movie", "--now")
    assert "" in _links(shelves, "films").values()
    shelves.ok("view", "refresh", "--now")
    assert _links(shelves, "films")["Kelp (2001).mkv"] == "Films/Kelp (2001)/Kelp (2001).mkv"
    assert "" not in _links(shelves, "films").values()


def test_a_link_that_was_exchanged_for_a_file_is_never_taken_out(shelves: Collection) -> None:
    shelves.ok("view", "make", "hard", "kind", "is", "movie", "--links", "hard", "--now")
    shelves.ok("view", "drop", "hard")
    link = shelves.root / "Views/hard/Hawser (1964).mkv"
    link.unlink()
    link.write_text("a person's own")
    answer = shelves.ok("apply", "--json", code=1).json
    assert [row["from"] for row in answer["skipped"]][:1] == ["Views/hard/Hawser (1964).mkv"]
    assert link.read_text() == "a person's own"


def test_what_wants_one_name_or_lacks_a_field_is_said(shelves: Collection) -> None:
    shelves.put("Old/Kelp (2001).mkv", text="another")
    shelves.ok("scan")
    answer = shelves.ok("view", "make", "films", "kind", "is", "movie", "--json", code=1).json
    assert [sorted(one["items"]) for one in answer["conflicts"]] == [["Heap/Kelp (2001).mkv", "Old/Kelp (2001).mkv"]]
    assert answer["passed"] == {"in folders left alone": 1}
    answer = shelves.ok("view", "make", "themes", "kind", "is", "movie", "--by", "{theme}", "--json", code=1).json
    assert {row["why"] for row in answer["left"]} == {"it has no theme"}


def test_a_new_catalogue_knows_the_views_again(shelves: Collection) -> None:
    shelves.ok("view", "make", "films", "kind", "is", "movie", "--now")
    for more in ("", "-wal", "-shm"):
        (shelves.root / f".magpie/catalogue.db{more}").unlink(missing_ok=True)
    shelves.ok("scan")
    assert [row["words"] for row in shelves.ok("view", "list", "--json").lines] == [["kind", "is", "movie"]]
    assert not shelves.ok("view", "refresh", "--json").json["steps"]


@pytest.mark.parametrize(
    ("words", "text"),
    [
        (("make", "a/b", "kelp"), "can't be a view's name"),
        (("make", "films"), "takes make NAME WORDS"),
        (("make", "films", "kelp", "--by", "{makr}"), "did you mean “maker”?"),
        (("make", "films", "kelp", "--links", "firm"), "invalid choice"),
        (("refresh", "flms"), "No view “flms”"),
        (("drop", "none"), "Known views: none"),
    ],
)
def test_wrong_words_are_named(shelves: Collection, words: tuple[str, ...], text: str) -> None:
    assert text in shelves.ok("view", *words, code=2).err


SONGS = [
    "Music/Ida/Low (2001)/01 - Undertow.mp3",
    "Music/Ida/Low (2001)/02 - Fog & <Salt> #1.mp3",
    "Music/The Pierheads/Kite Day (1999)/01 - Kite Day.mp3",
]


@pytest.mark.parametrize("form", ["m3u8", "xspf", "html"])
def test_a_view_may_be_play_lists_kept_up_to_date(tree: Tree, form: str) -> None:
    """One for all, or one a group; relative paths; what is no longer named is held; undo is exact."""
    collection = tree(SONGS, CONFIG)
    collection.ok("scan")
    before = picture(collection.root)
    collection.ok("view", "make", "all", "kind", "is", "track", "--links", form, "--now")
    collection.ok("view", "make", "albums", "kind", "is", "track", "--by", "{album}", "--links", form, "--now")
    whole = collection.root / f"Views/all/all.{form}"
    assert {path.name for path in (collection.root / "Views/albums").iterdir()} == {
        ".magpie-view", f"Low.{form}", f"Kite Day.{form}",
    }  # fmt: skip
    assert [str(path.resolve().relative_to(collection.root.resolve())) for path in _named(whole)] == SONGS
    assert collection.ok("view", "refresh").err == "Every view shows what it should.\n"
    (collection.root / SONGS[2]).unlink()
    collection.put("Music/Ida/Low (2001)/03 - Tangled.mp3")
    collection.ok("scan")
    collection.ok("view", "refresh", "--now")
    assert len(_named(whole)) == 3
    assert not (collection.root / f"Views/albums/Kite Day.{form}").exists()
    collection.ok("undo")
    collection.ok("view", "drop", "all", "--now")
    assert not whole.exists()
    for _ in range(3):
        collection.ok("undo")
    (collection.root / "Music/Ida/Low (2001)/03 - Tangled.mp3").unlink()
    now = picture(collection.root)
    assert {path: what[:2] for path, what in now.items()} == {
        path: what[:2] for path, what in before.items() if "Kite Day (1999)" not in path or path.endswith("(1999)")
    }


def _named(play_list: Path) -> list[Path]:
    """Return the files that a play list names, by a general reader of its format."""
    if play_list.suffix == ".m3u8":
        lines = play_list.read_text().splitlines()
        return [play_list.parent / line for line in lines if not line.startswith("#")]
    if play_list.suffix == ".html":
        return [play_list.parent / unquote(place) for place in re.findall(r'<a href="([^"]*)"', play_list.read_text())]
    root = ElementTree.parse(play_list).getroot()
    assert root.tag == "{http://xspf.org/ns/0/}playlist" and root.get("version") == "1"
    places = root.iter("{http://xspf.org/ns/0/}location")
    return [play_list.parent / unquote(str(place.text)) for place in places]
