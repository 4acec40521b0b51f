"""Tags that files carry for other programs to see, and words that other programs put there."""

from __future__ import annotations

import os
import shutil
import subprocess
from collections.abc import Callable
from pathlib import Path

import mutagen
import pytest
from PIL import Image

from lazy_magpie import embedded_keywords, xattrs
from tests.conftest import SHELVES, Collection, picture

Tree = Callable[..., Collection]
KELP, HAWSER = "Heap/Kelp (2001).mkv", "Heap/Hawser (1964).mkv"


@pytest.fixture
def films(tree: Tree) -> Collection:
    """Return two films, one of them tagged, on a drive that has attributes."""
    collection = tree([])
    for path in (KELP, HAWSER):
        collection.put(path, text=f"this is {path}")
    if xattrs.tags_of(str(collection.root / KELP)) is None or not _put(collection, KELP):
        pytest.skip("this drive has no attributes")
    collection.ok("scan")
    collection.ok("tag", "put", "film evening,seen", KELP)
    return collection


def _put(collection: Collection, path: str, *tags: str) -> bool:
    return xattrs.put_tags(str(collection.root / path), tags)


def _carried(collection: Collection, path: str = KELP) -> set[str]:
    return set(xattrs.tags_of(str(collection.root / path)) or ())


def _tags(collection: Collection, path: str = KELP) -> set[str]:
    return set(next(item["tags"] for item in collection.ok("find", "--json").lines if item["path"] == path))


def _without_catalogue(collection: Collection, *also: str) -> None:
    for name in ("catalogue.db", "catalogue.db-wal", "catalogue.db-shm", *also):
        (collection.root / ".magpie" / name).unlink(missing_ok=True)


def test_a_tag_is_written_and_taken_off_where_other_programs_see_it(films: Collection) -> None:
    assert _carried(films) == {"film evening", "seen"}
    films.ok("tag", "drop", "seen", KELP)
    assert _carried(films) == {"film evening"}
    films.ok("undo")
    assert _carried(films) == {"film evening", "seen"}
    films.ok("tag", "drop", "seen,film evening", KELP)
    assert xattrs.NAME not in os.listxattr(films.root / KELP)
    assert films.ok("scan", "--json").json["tagged"] == 0 and _tags(films) == set()


@pytest.mark.skipif(not shutil.which("setfattr"), reason="the tools for attributes are not installed")
def test_it_is_the_attribute_that_desktops_read(films: Collection) -> None:
    shown = subprocess.run(["getfattr", "-d", films.root / KELP], capture_output=True, text=True, check=True).stdout
    assert 'user.xdg.tags="film evening,seen"' in shown
    subprocess.run(["setfattr", "-n", "user.xdg.tags", "-v", "lent, seen", films.root / HAWSER], check=True)
    assert films.ok("scan", "--json").json["tagged"] == 1
    assert _tags(films, HAWSER) == {"lent", "seen"}


def test_words_put_or_taken_on_either_side_arrive_on_the_other(films: Collection) -> None:
    _put(films, KELP, "seen", "lent")  # another program takes one word off and puts one on, before any scan
    films.ok("tag", "put", "best", KELP)
    assert _carried(films) == {"seen", "lent", "best"}
    assert "1 item tagged: other programs" in films.ok("scan").out
    assert _tags(films) == {"seen", "lent", "best"}
    assert films.ok("scan", "--json").json["tagged"] == 0
    _put(films, KELP)
    films.ok("scan")
    assert _tags(films) == set()


def test_what_another_program_has_put_is_kept_and_noted(films: Collection) -> None:
    _put(films, HAWSER, "lent")
    films.ok("scan")
    _put(films, HAWSER)  # a program that loses attributes
    _without_catalogue(films)
    films.ok("scan")
    assert _tags(films, HAWSER) == {"lent"}


def test_tags_come_back_from_the_files_alone(films: Collection) -> None:
    _without_catalogue(films, "notes.jsonl")
    films.ok("scan")
    assert _tags(films) == {"film evening", "seen"}


def test_tags_survive_what_happens_to_files(films: Collection, tmp_path: Path) -> None:
    both = {"film evening", "seen"}
    moved = "Elsewhere/Kelp (2001) new.mkv"
    (films.root / "Elsewhere").mkdir()
    (films.root / KELP).rename(films.root / moved)
    films.ok("scan")
    assert _tags(films, moved) == both
    drive = tmp_path / "drive"
    drive.mkdir()
    subprocess.run(["cp", "--preserve=all", films.root / moved, drive / "Kelp (2001).mkv"], check=True)
    config = (films.root / "magpie.toml").read_text()
    (films.root / "magpie.toml").write_text(f'{config}\n[root.attic]\nfolder = "{drive}"\n')
    films.ok("scan")
    copy = next(item for item in films.ok("find", "--json").lines if item["root"] == "attic")
    assert set(copy["tags"]) == both
    shutil.copy2(films.root / moved, films.root / KELP)
    films.ok("scan")
    films.ok("copies", "--keep", "folder:Elsewhere", "--hold", "--now")
    films.ok("held", "restore", KELP)
    films.ok("scan")
    assert _carried(films) == both and _tags(films) == both


def test_a_file_that_has_changed_or_a_drive_without_attributes_stops_nothing(
    films: Collection, monkeypatch: pytest.MonkeyPatch
) -> None:
    (films.root / HAWSER).write_text("another film, written meanwhile")
    films.ok("tag", "put", "lent", HAWSER)
    assert _carried(films, HAWSER) == set() and _tags(films, HAWSER) == {"lent"}
    monkeypatch.setattr(xattrs, "tags_of", lambda path: None)
    films.ok("tag", "put", "best", KELP)
    assert _tags(films) == {"best", "film evening", "seen"}


@pytest.mark.parametrize(
    ("raw", "tags"),
    [(b"", ()), (b"a, b ,,a", ("a", "b")), (b"\xff\x00,ok", ("ok",)), ("größe\u200b,x y".encode(), ("x y",))],
)
def test_odd_attributes_are_read_as_far_as_they_go(raw: bytes, tags: tuple[str, ...]) -> None:
    assert xattrs.unpacked(raw) == tags


# --- inside files, and beside them -----------------------------------------------------------------------------------

INSIDE = SHELVES + "[tags]\ninside = true\n"
PICTURE, SONG = "Pictures/pier.jpg", "Music/Ida Marrow/Low Lights/03 - Slack Water"


def _made(root: Path) -> list[str]:
    """Make small real files in every format that has a place for words; return their paths."""
    from lazy_magpie.demo import media

    paths = []
    for ending in ("jpg", "png"):
        path = root / f"Pictures/pier.{ending}"
        path.parent.mkdir(parents=True, exist_ok=True)
        Image.new("RGB", (40, 30), "navy").save(path)
        paths.append(f"Pictures/pier.{ending}")
    for ending in ("mp3", "flac", "ogg"):
        path = root / f"{SONG}.{ending}"
        path.parent.mkdir(parents=True, exist_ok=True)
        media.song(path, 128)
        paths.append(f"{SONG}.{ending}")
    return paths


def test_words_are_kept_inside_files_where_that_is_wanted(tree: Tree) -> None:
    collection = tree([], INSIDE)
    paths = _made(collection.root)
    collection.ok("scan")
    before = picture(collection.root)
    collection.ok("tag", "put", "film evening,größe", *paths)
    for path in paths:
        whole = str(collection.root / path)
        assert set(embedded_keywords.of(whole, path[path.rindex(".") :])) == {"film evening", "größe"}, path
    with Image.open(collection.root / PICTURE) as opened:
        opened.load()
        assert b"film evening" in opened.info["xmp"]
    assert mutagen.File(collection.root / f"{SONG}.flac")["KEYWORDS"] == ["film evening", "größe"]
    assert collection.ok("scan", "--json").json["unreadable"] == 0
    items = collection.ok("find", "--json").lines
    assert all(set(item["tags"]) == {"film evening", "größe"} for item in items)
    collection.ok("undo")
    after = picture(collection.root)
    assert {path: what[:3] for path, what in after.items() if what[0] == "file"} == {
        path: what[:3] for path, what in before.items() if what[0] == "file"
    }
    collection.ok("scan")
    assert not collection.ok("find", "tag", "known", "--json").lines


def test_words_that_other_programs_put_inside_arrive(tree: Tree) -> None:
    collection = tree([], INSIDE)
    paths = _made(collection.root)
    for path in paths:
        embedded_keywords.put(str(collection.root / path), path[path.rindex(".") :], ["lent"])
        xattrs.put_tags(str(collection.root / path), ())
    collection.ok("scan")
    assert all(item["tags"] == ["lent"] for item in collection.ok("find", "--json").lines)
    embedded_keywords.put(str(collection.root / PICTURE), ".jpg", [])
    collection.ok("scan")
    assert _tags(collection, PICTURE) == set()
    (collection.root / "magpie.toml").write_text(SHELVES)
    collection.ok("tag", "put", "best", PICTURE)
    assert embedded_keywords.of(str(collection.root / PICTURE), ".jpg") == []


def test_what_can_hold_no_words_is_named_and_stays_as_it_is(tree: Tree) -> None:
    collection = tree([], INSIDE)
    collection.put("Pictures/broken.jpg", text="no picture")
    collection.run("scan")
    answer = collection.ok("tag", "put", "lent", "Pictures/broken.jpg", "--json").json
    assert "nothing can be written into it" in answer["skipped"][0]["why"] and answer["done"] == 1
    assert (collection.root / "Pictures/broken.jpg").read_text() == "no picture"
    assert not [name for name in os.listdir(collection.root / "Pictures") if name.startswith(".")]


def test_a_drive_without_attributes_has_sidecars_where_that_is_wanted(
    tree: Tree, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(xattrs, "tags_of", lambda path: None)
    collection = tree([KELP], SHELVES + "[tags]\nsidecars = true\n")
    collection.ok("scan")
    collection.ok("tag", "put", "lent", KELP)
    beside = collection.root / f"{KELP}.xmp"
    assert embedded_keywords.subjects(beside.read_bytes()) == ["lent"]
    text = beside.read_text().replace("<rdf:Description ", '<rdf:Description xmlns:q="urn:q" q:rating="5" ', 1)
    beside.write_text(text.replace("<rdf:li>lent", "<rdf:li>seen</rdf:li><rdf:li>lent"))
    collection.ok("scan")
    assert _tags(collection) == {"lent", "seen"}
    collection.ok("tag", "drop", "lent", KELP)
    assert embedded_keywords.subjects(beside.read_bytes()) == ["seen"] and 'q:rating="5"' in beside.read_text()
    collection.ok("tidy", "--now")
    assert (collection.root / "Films/Kelp (2001)/Kelp (2001).mkv.xmp").exists()
    beside = collection.root / "Films/Kelp (2001)/Kelp (2001).mkv.xmp"
    beside.write_text('<!DOCTYPE x [<!ENTITY e "boom">]><x>&e;</x>')
    collection.ok("scan")
    collection.ok("tag", "put", "best", "kelp")
    assert "boom" in beside.read_text() and _tags(collection, "Films/Kelp (2001)/Kelp (2001).mkv") == {"seen", "best"}


def test_a_packet_that_is_no_packet_is_refused() -> None:
    for packet in (b"<x/>", b"no xml", b"<a>" * 100):
        with pytest.raises(ValueError, match=r"packet|XMP"):
            embedded_keywords.with_subjects(packet, ["a"])
    with pytest.raises(ValueError, match="too large"):
        embedded_keywords.subjects(bytes(1 << 23))
