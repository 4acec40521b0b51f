"""Downloads come in: each thing into one clean folder, what is in doubt into the inbox, nothing lost, nothing twice."""

from __future__ import annotations

import io
import os
import signal
import subprocess
import sys
import tarfile
import time
import zipfile
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any

import py7zr
import pytest
from PIL import Image

from lazy_magpie.change.crash import VARIABLE
from lazy_magpie.demo import crafts
from tests.conftest import CRAFTS, SHELVES, Collection, picture, program

Tree = Callable[..., Collection]
CONFIG = (
    SHELVES
    + CRAFTS
    + """
[shelf.kits]
kind = "kit"
folder = "Kits"
[maker."Fennick Paper Co"]
also = ["fpc", "FennickPaper"]
[maker."Needle Jetty"]
also = ["njetty", "NJ"]
"""
)
LONG_AGO = 1_600_000_000


@pytest.fixture
def heap(tree: Tree) -> Collection:
    """Return a collection with shelves and an empty folder of downloads."""
    collection = tree([], CONFIG)
    (collection.root / "Downloads").mkdir()
    collection.ok("scan")
    return collection


def _zip(collection: Collection, name: str, members: Mapping[str, str | bytes], folder: str = "Downloads") -> Path:
    path = collection.root / folder / name
    path.parent.mkdir(parents=True, exist_ok=True)
    with zipfile.ZipFile(path, "w") as packed:
        for member, data in members.items():
            packed.writestr(zipfile.ZipInfo(member, (2021, 6, 5, 12, 0, 0)), data)
    os.utime(path, (LONG_AGO, LONG_AGO))
    return path


def _put(collection: Collection, *paths: str, text: str = "") -> None:
    collection.put(*paths, text=text)
    for path in paths:
        os.utime(collection.root / path, (LONG_AGO, LONG_AGO))


def _in(collection: Collection, *words: str, code: int = 0) -> set[str]:
    """Take the downloads in, and return what files there are then."""
    collection.ok("intake", "Downloads", *words, "--now", code=code)
    return collection.files()


def _plan(collection: Collection, *words: str, code: int = 0) -> Any:
    return collection.ok("intake", "Downloads", "--json", *words, code=code).json


def test_the_demos_heap_becomes_one_kit_and_comes_back(demo: Collection) -> None:
    demo.ok("start")
    demo.ok("scan")
    before = picture(demo.root)
    demo.ok("intake", "Downloads", "--now")
    kit = "Kits/Fennick Paper Co/Harbour Lights"
    names = ["ahoy.png", "fair winds.png", *(f"fpc_hl_paper_0{number}.jpg" for number in range(1, 5))]
    names += [f"{name}.png" for name in ("buoy", "rope", "lamp", "gull")]
    names += ["Alphabets/fpc_hl_alpha_A.png", "Alphabets/fpc_hl_alpha_B.png"]
    parts = ("Alpha", "Elements", "Papers1", "Papers2", "WordArt")
    archives = {f"Kits/Fennick Paper Co/FennickPaperCo_HarbourLights_{part}.zip" for part in parts}
    now = {path for path in demo.files() if "Harbour Lights" in path or "HarbourLights" in path}
    assert now == {f"{kit}/{name}" for name in names} | archives
    assert not list((demo.root / "Downloads").iterdir())
    items = demo.ok("find", "kind", "is", "kit", "title", "is", "Harbour Lights", "--json").lines
    assert len(items) == 1 and len(items[0]["files"]) == 17  # the archives belong to it
    demo.ok("undo")
    assert picture(demo.root) == before


def test_a_harder_heap_becomes_the_tree_that_it_should(heap: Collection) -> None:
    kit = {"kit/fpc_sail.png": "sail", "kit/Preview.jpg": "preview", "kit/Thumbs.db": "junk"}
    _zip(heap, "fpc_SeaMist_Elements.zip", kit)
    _zip(heap, "fpc_SeaMist_Papers_Part2.zip", {"SeaMist/papers/p1.jpg": "p1", "SeaMist/Preview.jpg": "preview"})
    _zip(heap, "Sea Mist by Fennick Paper Co (Alphabet).zip", {"Alpha/caps/A.png": "A", "Alpha/small/a.png": "a"})
    design = {"pes/tern.pes": "p", "dst/tern.dst": "d", "tern colour chart.pdf": "chart", "tern.png": "thumbnail"}
    _zip(heap, "NJ-Tern Flight.zip", {f"NJ-Tern Flight/{name}": data for name, data in design.items()})
    _zip(
        heap,
        "Rope Capitals 2in.zip",
        {f"{letter}.dst": letter for letter in "ABCDEFGH"} | {"licence.txt": "© Needle Jetty"},
    )
    _zip(heap, "Bunting.zip", {"Bunting-Regular.ttf": "r", "Bunting-Bold.ttf": "b", "OFL.txt": "licence"})
    _zip(heap, "Buoy Bandit (Europe).zip", {"Buoy Bandit (Europe).ch8": "game"})
    film = "The.Salt.Orchard.1987.720p.BluRay.x264-BRINE"
    _put(heap, *(f"Downloads/{film}/{name}" for name in (f"{film}.mkv", f"{film}.en.srt", "brine.nfo", "Thumbs.db")))
    _put(heap, "Downloads/Ida Marrow - Low Lights (2009)/03 - Slack Water.mp3", "Downloads/half.mkv.part")
    heap.put("Downloads/Just Now (1999).mkv")
    before = picture(heap.root)
    files = _in(heap)
    assert files == {
        "Kits/Fennick Paper Co/Sea Mist/fpc_sail.png",
        "Kits/Fennick Paper Co/Sea Mist/Preview.jpg",
        "Kits/Fennick Paper Co/Sea Mist/p1.jpg",
        "Kits/Fennick Paper Co/Sea Mist/Alphabets/caps/A.png",
        "Kits/Fennick Paper Co/Sea Mist/Alphabets/small/a.png",
        "Kits/Fennick Paper Co/fpc_SeaMist_Elements.zip",
        "Kits/Fennick Paper Co/fpc_SeaMist_Papers_Part2.zip",
        "Kits/Fennick Paper Co/Sea Mist by Fennick Paper Co (Alphabet).zip",
        "Designs/Needle Jetty/Tern Flight/pes/tern.pes",
        "Designs/Needle Jetty/Tern Flight/dst/tern.dst",
        "Designs/Needle Jetty/Tern Flight/tern colour chart.pdf",
        "Designs/Needle Jetty/Tern Flight/tern.png",
        "Designs/Needle Jetty/NJ-Tern Flight.zip",
        *(f"Fonts/Needle Jetty/Rope Capitals 2in/{letter}.dst" for letter in "ABCDEFGH"),
        "Fonts/Needle Jetty/Rope Capitals 2in/licence.txt",
        "Fonts/Needle Jetty/Rope Capitals 2in.zip",
        "Fonts/Bunting/Bunting-Regular.ttf",
        "Fonts/Bunting/Bunting-Bold.ttf",
        "Fonts/Bunting/OFL.txt",
        "Fonts/Bunting.zip",
        "Games/chip8/Buoy Bandit (Europe).ch8",
        "Games/chip8/Buoy Bandit (Europe).zip",
        "Films/The Salt Orchard (1987)/The Salt Orchard (1987).mkv",
        "Films/The Salt Orchard (1987)/The Salt Orchard (1987).en.srt",
        "Films/The Salt Orchard (1987)/brine.nfo",
        "Music/Ida Marrow/Low Lights (2009)/03 - Slack Water.mp3",
        f"Downloads/{film}/Thumbs.db",
        "Downloads/half.mkv.part",
        "Downloads/Just Now (1999).mkv",
    }
    heap.ok("undo")
    assert picture(heap.root) == before


def test_what_is_in_doubt_waits_in_the_inbox_with_its_question(heap: Collection) -> None:
    _zip(heap, "Some Maker - Lantern Walk Papers.zip", {"p.jpg": "p"})
    _zip(heap, "dl_8842.zip", {"a.png": "a"})
    _put(heap, "Downloads/Kelp Harvest.mp4", "Downloads/notes.xyz")
    plan = _plan(heap, code=1)
    why = {left["path"].rpartition("/")[2]: left["why"] for left in plan["left"]}
    assert "which of the names is the artist's or maker's?" in why["Some Maker - Lantern Walk Papers.zip"]
    assert "who made it?" in why["dl_8842.zip"] and "of which year is it?" in why["Kelp Harvest.mp4"]
    files = _in(heap, code=1)
    assert files == {
        "Inbox/Some Maker - Lantern Walk Papers.zip",
        "Inbox/dl_8842.zip",
        "Inbox/Kelp Harvest.mp4",
        "Downloads/notes.xyz",
    }
    config = (heap.root / "magpie.toml").read_text()
    (heap.root / "magpie.toml").write_text(config + '[maker."Some Maker"]\n')
    heap.ok("intake", "Inbox", "--now", code=1)
    assert "Kits/Some Maker/Lantern Walk/p.jpg" in heap.files()


def test_an_extra_joins_the_kit_that_one_owns(heap: Collection) -> None:
    kit = "Kits/Fennick Paper Co/Sea Mist"
    heap.put(f"{kit}/elements/sail.png", f"{kit}/papers/p1.jpg", text="old")
    heap.ok("scan")
    _zip(heap, "fpc_SeaMist_Freebie.zip", {"elements/sail.png": "old", "tag.png": "new tag"})
    assert _plan(heap)["passed"]["already there"] == 1
    files = _in(heap)
    assert {f"{kit}/tag.png", f"{kit}/elements/sail.png"} <= files
    assert not [name for name in os.listdir(heap.root / "Kits/Fennick Paper Co") if name.startswith(".")]


def test_what_is_there_already_is_said_and_not_brought_in_twice(heap: Collection) -> None:
    members = {"p1.jpg": "paper one", "p2.jpg": "paper two"}
    _zip(heap, "fpc_SeaMist_Papers.zip", members)
    _in(heap)
    _zip(heap, "fpc_SeaMist_Papers (1).zip", members)
    _put(heap, "Downloads/Other name (1999).mkv", text="a film")
    heap.put("Films/Kelp (2001)/Kelp (2001).mkv", text="a film")
    heap.ok("scan")
    plan = _plan(heap)
    assert not plan["steps"] and {left["why"] for left in plan["left"]} == {
        "already there: “Kits/Fennick Paper Co/Sea Mist/p1.jpg”",
        "already there: “Films/Kelp (2001)/Kelp (2001).mkv”",
    }


def test_other_contents_under_one_name_are_shown_and_stay_in_their_archives(heap: Collection) -> None:
    _zip(heap, "fpc_SeaMist_Papers1.zip", {"p.jpg": "one", "same.jpg": "same", "only.jpg": "1"})
    _zip(heap, "fpc_SeaMist_Papers2.zip", {"p.jpg": "two!", "same.jpg": "same"})
    plan = _plan(heap, code=1)
    (conflict,) = plan["conflicts"]
    assert conflict["to"] == "Kits/Fennick Paper Co/Sea Mist/p.jpg" and len(conflict["items"]) == 2
    files = _in(heap, code=1)
    assert {path for path in files if path.startswith("Kits")} == {
        "Kits/Fennick Paper Co/Sea Mist/same.jpg",
        "Kits/Fennick Paper Co/Sea Mist/only.jpg",
    }
    assert {"Downloads/fpc_SeaMist_Papers1.zip", "Downloads/fpc_SeaMist_Papers2.zip"} <= files


@pytest.mark.parametrize("archives", ["beside", "aside", "hold"])
@pytest.mark.parametrize("sort", ["zip", "tar.gz", "7z"])
def test_each_sort_of_archive_is_unpacked_and_kept_as_is_wanted(heap: Collection, sort: str, archives: str) -> None:
    config = CONFIG + f'[intake]\narchives = "{archives}"\naside = "Bought"\n'
    (heap.root / "magpie.toml").write_text(config)
    path = heap.root / f"Downloads/fpc_SeaMist_Papers.{sort}"
    members = {"papers/größe.jpg": b"one", "papers/two.jpg": b"two" * 9999, ".DS_Store": b"junk"}
    if sort == "zip":
        _zip(heap, path.name, members)
    elif sort == "7z":
        with py7zr.SevenZipFile(path, "w") as packed:
            for name, data in members.items():
                packed.writef(io.BytesIO(data), name)
    else:
        with tarfile.open(path, "w:gz") as streamed:
            for name, data in members.items():
                info = tarfile.TarInfo(name)
                info.size = len(data)
                streamed.addfile(info, io.BytesIO(data))
    os.utime(path, (LONG_AGO, LONG_AGO))
    before = picture(heap.root)
    files = _in(heap)
    kit = "Kits/Fennick Paper Co/Sea Mist"
    assert (heap.root / kit / "two.jpg").read_bytes() == b"two" * 9999
    where = {"beside": f"Kits/Fennick Paper Co/{path.name}", "aside": f"Bought/Fennick Paper Co/{path.name}"}
    assert files == {f"{kit}/größe.jpg", f"{kit}/two.jpg", *filter(None, [where.get(archives)])}
    assert len(heap.ok("held", "--json").lines) == (archives == "hold")
    heap.ok("undo")
    assert picture(heap.root) == before


def test_a_folder_outside_the_collection_is_only_read(heap: Collection, tmp_path: Path) -> None:
    away = tmp_path / "Away"
    away.mkdir()
    source = _zip(heap, "fpc_SeaMist_Papers.zip", {"p1.jpg": "one"})
    source.rename(away / source.name)
    (away / "Kelp (2001).mkv").write_text("a film")
    os.utime(away / "Kelp (2001).mkv", (LONG_AGO, LONG_AGO))
    before = picture(away)
    (heap.root / "magpie.toml").write_text(CONFIG + f'[intake]\nfrom = ["{away}"]\n')
    heap.ok("intake", "--now")
    assert picture(away) == before
    assert heap.files() == {
        "Kits/Fennick Paper Co/Sea Mist/p1.jpg",
        "Kits/Fennick Paper Co/fpc_SeaMist_Papers.zip",
        "Films/Kelp (2001)/Kelp (2001).mkv",
    }
    heap.ok("undo")
    assert not heap.files() and picture(away) == before
    assert not heap.ok("intake", "--copy", "--json").json["left"]


HOSTILE: dict[str, Mapping[str, str | bytes]] = {
    "outside": {"../../x.png": "out"},
    "absolute": {"/etc/x.png": "out"},
    "drive": {"C:\\x.png": "out"},
    "twins": {"a.png": "1", "A.png": "2"},
    "many": {f"{number}.png": "" for number in range(200_001)},
    "bomb": {"zeros.png": bytes(90 << 20)},
}


@pytest.mark.parametrize("sort", [*HOSTILE, "encrypted", "cut off", "wrong checksum", "link", "nothing"])
def test_a_hostile_archive_is_set_aside_with_a_sentence(heap: Collection, sort: str) -> None:
    path = _zip(heap, "fpc_SeaMist_Papers.zip", HOSTILE.get(sort, {"p.png": "paper " * 99}))
    data = path.read_bytes()
    if sort == "bomb":
        with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as packed:
            packed.writestr("zeros.png", HOSTILE["bomb"]["zeros.png"])
    elif sort == "encrypted":
        path.write_bytes(data[:6] + b"\1" + data[7:].replace(b"PK\1\2\x14\x03\x14\0\0", b"PK\1\2\x14\x03\x14\0\1"))
    elif sort == "cut off":
        path.write_bytes(data[:-30])
    elif sort == "wrong checksum":
        path.write_bytes(data.replace(b"paper ", b"pApEr ", 1))
    elif sort == "link":
        path.unlink()
        path = path.with_suffix(".tar")
        with tarfile.open(path, "w") as packed_tar:
            info = tarfile.TarInfo("out")
            info.type, info.linkname = tarfile.SYMTYPE, "/tmp"
            packed_tar.addfile(info)
            packed_tar.addfile(tarfile.TarInfo("out/p.png"))
    elif sort == "nothing":
        path.write_bytes(b"")
    os.utime(path, (LONG_AGO, LONG_AGO))
    before = picture(heap.root)
    answer = heap.run("intake", "Downloads", "--now", "--json")
    assert answer.code in (0, 1) and "Traceback" not in answer.err
    after = picture(heap.root)
    assert {p: w for p, w in after.items() if w[0] == "file"} == {p: w for p, w in before.items() if w[0] == "file"}
    assert sorted(os.listdir(heap.root.parent)) == ["collection"]


@pytest.mark.parametrize("count", [1, 7, 19])
def test_killed_while_it_unpacks_the_next_command_puts_it_right(heap: Collection, count: int) -> None:
    for part in (1, 2):
        _zip(heap, f"fpc_SeaMist_Papers{part}.zip", {f"p{part}-{n}.jpg": f"{part} {n}" for n in range(10)})
    before = picture(heap.root)
    number = _plan(heap)["plan"]
    run = program("-C", str(heap.root), "apply", str(number), env={VARIABLE: f"unpack-member:{count}"})
    assert run.code == -9
    heap.ok("scan")
    assert {p: w[1] for p, w in picture(heap.root).items() if w[0] == "file"} == {
        p: w[1] for p, w in before.items() if w[0] == "file"
    }
    heap.ok("redo")
    assert len([path for path in heap.files() if path.startswith("Kits/Fennick Paper Co/Sea Mist/")]) == 20
    heap.ok("undo")
    assert picture(heap.root) == before


def test_no_more_is_unpacked_than_there_is_room_for(heap: Collection) -> None:
    small = heap.root / "Kits"
    small.mkdir()
    mounted = subprocess.run(["mount", "-t", "tmpfs", "-o", "size=2m", "tmpfs", str(small)], check=False)
    if mounted.returncode:
        pytest.skip("only root can mount a second file system")
    try:
        _zip(heap, "fpc_SeaMist_Papers.zip", {"p.jpg": os.urandom(3 << 20)})
        heap.ok("intake", "Downloads", code=0)
        assert "Make room" in heap.ok("apply", code=3).err
        assert not list(small.iterdir())
    finally:
        subprocess.run(["umount", "-l", str(small)], check=True)


@pytest.mark.parametrize(
    ("words", "text"),
    [
        ((), "Name a folder of downloads"),
        (("Downlods",), "There is no folder “Downlods”"),
        ((".",), "the collection itself"),
        (("/",), "the collection itself"),
    ],
)
def test_wrong_folders_are_named(
    heap: Collection, words: tuple[str, ...], text: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.chdir(heap.root)
    assert text in heap.ok("intake", *words, code=2).err


def test_an_archive_of_archives_comes_into_the_inbox_first(heap: Collection) -> None:
    inner = {
        part: _zip(heap, f"{part}.zip", {f"{part}.png": part}, "Elsewhere")
        for part in ("fpc_Fog_Papers", "fpc_Fog_Alpha")
    }
    _zip(
        heap, "order 8842.zip", {path.name: path.read_bytes() for path in inner.values()} | {"read me.txt": "thank you"}
    )
    files = _in(heap, code=1)
    assert {"Inbox/order 8842/fpc_Fog_Papers.zip", "Inbox/order 8842/fpc_Fog_Alpha.zip"} <= files
    for path in (heap.root / "Inbox").rglob("*"):
        os.utime(path, (LONG_AGO, LONG_AGO))
    heap.run("intake", "Inbox", "--now")
    kit = "Kits/Fennick Paper Co/Fog"
    assert {f"{kit}/fpc_Fog_Papers.png", f"{kit}/Alphabets/fpc_Fog_Alpha.png"} <= heap.files()


def test_a_loose_extra_joins_its_kit(heap: Collection) -> None:
    heap.put("Kits/Fennick Paper Co/Sea Mist/papers/p1.jpg")
    heap.ok("scan")
    _put(heap, "Downloads/fpc_SeaMist_freebie.png", "Downloads/holiday.png")
    files = _in(heap, code=1)
    assert "Kits/Fennick Paper Co/Sea Mist/fpc_SeaMist_freebie.png" in files and "Downloads/holiday.png" in files


def test_one_preview_is_enough(heap: Collection) -> None:
    _zip(heap, "fpc_Fog_Papers.zip", {"p.jpg": "p", "Preview.jpg": "same", "Previews/fog preview.jpg": "same"})
    _zip(heap, "fpc_Fog_Elements.zip", {"e.png": "e", "folder.jpg": "same", "Preview.jpg": "same"})
    kit = "Kits/Fennick Paper Co/Fog"
    names = {path[len(kit) + 1 :] for path in _in(heap) if path.startswith(f"{kit}/")}
    assert names == {"p.jpg", "e.png", "folder.jpg"}


def test_folders_can_begin_with_the_day_or_a_running_number(heap: Collection) -> None:
    naming = '[naming.mine]\nkit = "{arrived, date} {title}"\ndesign = "{number:04} {maker} - {title}/{name}"\n'
    config = CONFIG.replace('folder = "Kits"', 'folder = "Kits"\nnaming = "mine"')
    config = config.replace('folder = "Designs"', 'folder = "Designs"\nnaming = "mine"')
    (heap.root / "magpie.toml").write_text(config + naming)
    heap.put("Designs/0041 Needle Jetty - Crab/crab.pes")
    heap.ok("scan")
    _zip(heap, "fpc_SeaMist_Papers.zip", {"p1.jpg": "p"})
    _zip(heap, "NJ-Tern Flight.zip", {"tern.pes": "t"})
    _zip(heap, "NJ-Gull.zip", {"gull.pes": "g"})
    files = _in(heap)
    assert {
        "Kits/2020-09-13 Sea Mist/p1.jpg",
        "Designs/0042 Needle Jetty - Gull/gull.pes",
        "Designs/0043 Needle Jetty - Tern Flight/tern.pes",
    } <= files
    heap.ok("scan", "--full")
    titles = {item["fields"].get("title") for item in heap.ok("find", "kind", "is", "kit", "--json").lines}
    assert titles == {"Sea Mist"}


@pytest.mark.parametrize(
    ("raw", "name"),
    [
        ("größe.jpg".encode(), "größe.jpg"),
        ("カモメ.jpg".encode("cp932"), "カモメ.jpg"),
        ("größe.jpg".encode("cp437"), "größe.jpg"),
        ("Élan – 1.jpg".encode("cp1252"), "Élan – 1.jpg"),
    ],
)
def test_names_of_old_zips_are_read_in_their_encoding(heap: Collection, raw: bytes, name: str) -> None:
    path = _zip(heap, "fpc_SeaMist_Papers.zip", {"x" * len(raw): "p"})
    path.write_bytes(path.read_bytes().replace(b"x" * len(raw), raw))
    os.utime(path, (LONG_AGO, LONG_AGO))
    assert f"Kits/Fennick Paper Co/Sea Mist/{name}" in _in(heap)


def test_what_came_in_is_kept_in_the_history(heap: Collection) -> None:
    _zip(heap, "fpc_SeaMist_Papers.zip", {"p1.jpg": "p"})
    _put(heap, "Downloads/half.mkv.part")
    _in(heap)
    shown = heap.ok("history", "1").out
    assert "intake, done" in shown and "an unfinished download" in shown and "2 files in the heap" in shown
    assert heap.ok("history", "1", "--json").json["planned"]["left"]
    assert "There is no change 7" in heap.ok("history", "7", code=2).err
    assert "needs --now" in heap.ok("intake", "Downloads", "--watch", code=2).err


def test_what_comes_in_can_be_tagged_and_marked_as_new(heap: Collection) -> None:
    naming = '[intake]\ntag = "new"\n[field.mark]\nfrom_tags = { new = "!" }\n'
    naming += '[naming.mine]\nkit = "<{mark} >{maker} - {title}"\n'
    config = CONFIG.replace('folder = "Kits"', 'folder = "Kits"\nnaming = "mine"')
    (heap.root / "magpie.toml").write_text(config + naming)
    _zip(heap, "fpc_SeaMist_Papers.zip", {"p1.jpg": "p"})
    _put(heap, "Downloads/Kelp (2001).mkv")
    files = _in(heap)
    assert "Kits/! Fennick Paper Co - Sea Mist/p1.jpg" in files
    assert {item["kind"]: item["tags"] for item in heap.ok("find", "tag", "is", "new", "--json").lines} == {
        "kit": ["new"],
        "movie": ["new"],
    }
    assert not heap.ok("tidy", "--json").json["steps"]
    heap.ok("tag", "drop", "new", "kind", "is", "kit")
    heap.ok("tidy", "--now")
    assert "Kits/Fennick Paper Co - Sea Mist/p1.jpg" in heap.files()


def _paper(tmp_path: Path, **about: str) -> bytes:
    path = tmp_path / "paper.pdf"
    Image.new("RGB", (42, 59), "white").save(path, "PDF", **about)
    return path.read_bytes()


def test_a_document_says_the_title_and_the_maker_where_no_name_does(heap: Collection, tmp_path: Path) -> None:
    _zip(heap, "0417_93.zip", {"p1.jpg": "1", "p2.jpg": "2", "about.pdf": _paper(tmp_path, title="FPC Gusty Day")})
    rules = _paper(tmp_path, title="Terms of use", author="Fennick Paper Co")
    _zip(heap, "GustyDay_Elements.zip", {"e1.png": "3", "e2.png": "4", "terms.pdf": rules})
    files = _in(heap)
    kit = "Kits/Fennick Paper Co/Gusty Day"
    assert {f"{kit}/p1.jpg", f"{kit}/p2.jpg", f"{kit}/e1.png", f"{kit}/e2.png"} <= files
    assert {f"{kit}/about.pdf", f"{kit}/terms.pdf"} <= files


def test_a_damaged_document_or_one_of_an_unknown_maker_settles_nothing(heap: Collection, tmp_path: Path) -> None:
    _zip(heap, "GustyDay_Papers.zip", {"p1.jpg": "1", "about.pdf": b"%PDF-1.4\nno more than that"})
    _zip(heap, "FoggyDay_Papers.zip", {"p1.jpg": "1", "about.pdf": _paper(tmp_path, author="Nobody in Particular")})
    files = _in(heap, code=1)
    assert {"Inbox/GustyDay_Papers.zip", "Inbox/FoggyDay_Papers.zip"} <= files


def test_a_font_says_its_family_where_its_name_does_not(heap: Collection, tmp_path: Path) -> None:
    path = tmp_path / "GullwickSans-Bold.ttf"
    crafts.font(path, 140)
    manual = _paper(tmp_path, title="How to use it")
    _zip(heap, "99812.zip", {"99812.ttf": path.read_bytes(), "licence.txt": "Free to use.", "manual.pdf": manual})
    assert {"Fonts/Gullwick Sans/99812.ttf", "Fonts/Gullwick Sans/manual.pdf"} <= _in(heap)


def test_an_archive_that_intake_kept_beside_stays_there_when_one_tidies(heap: Collection) -> None:
    _zip(heap, "GullwickSans.zip", {"GullwickSans-Bold.ttf": "bold", "GullwickSans.ttf": "r", "licence.txt": "Free."})
    _zip(heap, "njetty_Sea Rose.zip", {"Sea Rose.pes": "p", "Sea Rose.dst": "d"})
    files = _in(heap)
    assert {"Fonts/GullwickSans.zip", "Designs/Needle Jetty/njetty_Sea Rose.zip"} <= files
    heap.ok("scan")
    answer = heap.ok("tidy", "--json").json
    assert not answer["steps"] and answer["passed"] == {"archives of what lies unpacked beside them": 2}
    (heap.root / "Fonts/Gullwick Sans/GullwickSans-Bold.ttf").unlink()
    heap.ok("scan")
    assert [step["from"] for step in heap.ok("tidy", "--json").json["steps"]] == ["Fonts/GullwickSans.zip"]


def test_an_archive_beside_is_known_when_its_designs_were_renamed(heap: Collection) -> None:
    _zip(heap, "njetty_SeaRose.zip", {"SeaRose.pes": "pes", "SeaRose.dst": "design"})
    _in(heap)
    for _ in range(2):
        heap.ok("scan")
        heap.ok("tidy", "--now")
    assert heap.files() >= {"Designs/Needle Jetty/njetty_SeaRose.zip", "Designs/Needle Jetty/Sea Rose/Sea Rose.pes"}


def test_downloads_with_hard_names_are_taken_or_left_with_a_reason_and_come_back(heap: Collection) -> None:
    pages = {"a.jpg": "a", "b.jpg": "b"}
    _zip(heap, "fpc_Fog 🪁\nBank.zip", pages)
    _zip(heap, "fpc_" + "x" * 247 + ".zip", pages)
    os.rename(
        _zip(heap, "plain.zip", pages), os.path.join(os.fsencode(heap.root), b"Downloads", b"fpc_caf\xe9_Papers.zip")
    )
    (heap.root / "Downloads/fpc_Empty.zip").touch()
    os.utime(heap.root / "Downloads/fpc_Empty.zip", (LONG_AGO, LONG_AGO))
    before = picture(heap.root)
    plan = _plan(heap, code=1)
    assert {left["path"]: left["why"] for left in plan["left"]} == {
        "Downloads/fpc_caf\\xe9_Papers.zip": "no folder can be named after it: give it another name",
        "Downloads/fpc_Empty.zip": "the archive is empty: its download may not have ended",
    }
    heap.ok("apply")
    kits = {path.split("/")[2] for path in heap.files() if path.startswith("Kits/") and path.endswith("/a.jpg")}
    assert kits == {"Fog 🪁 Bank", "X" + "x" * 246}
    heap.ok("undo")
    assert picture(heap.root) == before


def test_a_download_that_was_fetched_twice_is_unpacked_once(heap: Collection) -> None:
    for name in ("fpc_GustyDay_Papers.zip", "fpc_GustyDay_Papers (1).zip"):
        _zip(heap, name, {"a.jpg": "a", "b.jpg": "b"})
    answer = heap.ok("intake", "Downloads", "--now")
    assert "2 unpacked" in answer.out and "2 there twice, taken once" in answer.out
    maker = "Kits/Fennick Paper Co"
    archives = {f"{maker}/fpc_GustyDay_Papers.zip", f"{maker}/fpc_GustyDay_Papers (1).zip"}
    assert heap.files() == {*archives, f"{maker}/Gusty Day/a.jpg", f"{maker}/Gusty Day/b.jpg"}


def test_copies_in_two_folders_of_downloads_are_not_taken_for_one_another(heap: Collection) -> None:
    for folder in ("Downloads", "More"):
        _put(heap, f"{folder}/The Gullwick Ferry (1974).mkv", text="film")
    heap.ok("scan")
    heap.ok("intake", "Downloads", "More", "--now", code=1)
    films = {path for path in heap.files() if path.startswith("Films/")}
    assert len(films) == 1 and "More/The Gullwick Ferry (1974).mkv" in heap.files()
    answer = heap.ok("intake", "More")
    assert f"already there: “{films.pop()}”" in answer.out


def test_an_archive_that_changes_after_the_plan_stays_and_nothing_of_it_is_taken(heap: Collection) -> None:
    _zip(heap, "fpc_GustyDay_Papers.zip", {"a.jpg": "a", "b.jpg": "b"})
    _zip(heap, "fpc_Fog_Papers.zip", {"c.jpg": "c"})
    _plan(heap)
    _zip(heap, "fpc_GustyDay_Papers.zip", {"a.jpg": "another", "b.jpg": "b"})
    answer = heap.ok("apply", code=1)
    assert "it has changed since the plan was made" in answer.out
    files = heap.files()
    assert "Downloads/fpc_GustyDay_Papers.zip" in files and "Kits/Fennick Paper Co/Fog/c.jpg" in files
    assert not any("Gusty Day" in path for path in files)
    assert "Kits/Fennick Paper Co/Gusty Day/a.jpg" in _in(heap)


def test_one_that_watches_lets_others_work_and_ends_with_ctrl_c(heap: Collection) -> None:
    _zip(heap, "fpc_Fog_Papers.zip", {"c.jpg": "c"})
    command = [Path(sys.executable).with_name("magpie"), "intake", "Downloads", "--now", "--watch"]
    watcher = subprocess.Popen(command, cwd=heap.root, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
    assert watcher.stderr
    said = ""
    while "Watching" not in said:
        line = watcher.stderr.readline()
        assert line, said
        said += line
    late = time.monotonic() + 30
    while (answer := heap.run("scan")).code == 3 and time.monotonic() < late:
        assert "is writing in this collection" in answer.err
    assert answer.code == 0 and "Kits/Fennick Paper Co/Fog/c.jpg" in heap.files()
    watcher.send_signal(signal.SIGINT)
    out, errors = watcher.communicate(timeout=20)
    assert watcher.returncode == 0 and "1 unpacked" in out and "Traceback" not in errors
    assert "needs --now" in heap.ok("intake", "Downloads", "--watch", code=2).err
