"""Which files are one item: formats, faces, letters, discs, parts, kits, the archive a folder came from."""

from __future__ import annotations

import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from fontTools.fontBuilder import FontBuilder
from fontTools.pens.ttGlyphPen import TTGlyphPen
from hypothesis import given
from hypothesis import strategies as st

from lazy_magpie.identify import identify
from lazy_magpie.scan.grouping import grouped
from lazy_magpie.scan.identified_file import IdentifiedFile
from tests.conftest import Collection

Tree = Callable[..., Collection]
SHELVES = '[collection]\nunplayable = "file"\n[shelf.films]\nkind = "movie"\nfolder = "Films"\n'

KIT = "Kits/Fennick Paper Co/Harbour Lamps"
TREES: dict[str, tuple[list[str], dict[str, list[str]]]] = {
    "machine formats of a design, with its chart": (
        [f"Designs/Needle Jetty/Crab/{name}" for name in ("Crab.pes", "Crab.dst", "Crab.jef", "Crab chart.pdf")],
        {"Designs/Needle Jetty/Crab/Crab.dst": ["chart", "main", "main"]},
    ),
    "two designs, and a chart that is one's by its name": (
        [f"Designs/Needle Jetty/Sea/{name}" for name in ("Crab.pes", "Whelk.pes", "Crab chart.pdf")],
        {"Designs/Needle Jetty/Sea/Crab.pes": ["chart"], "Designs/Needle Jetty/Sea/Whelk.pes": []},
    ),
    "formats in folders of their own": (
        ["Designs/Needle Jetty/Crab/PES/Crab.pes", "Designs/Needle Jetty/Crab/DST/Crab.dst"],
        {"Designs/Needle Jetty/Crab/DST/Crab.dst": ["main"]},
    ),
    "faces of a family": (
        ["Fonts/Wharf/Wharf-Bold.ttf", "Fonts/Wharf/Wharf-Regular.ttf", "Fonts/Wharf/Wharf-Regular.woff2"],
        {"Fonts/Wharf/Wharf-Regular.ttf": ["main", "main"]},
    ),
    "letters of a font of stitch files": (
        [f"Stitch fonts/Needle Jetty/Rope 2in/{letter}.dst" for letter in "ABC"],
        {"Stitch fonts/Needle Jetty/Rope 2in/A.dst": ["main", "main"]},
    ),
    "discs with tracks and cue sheets": (
        [
            f"Games/discs/Saga (Europe) (Disc {disc}){rest}"
            for disc in (1, 2)
            for rest in (".cue", " (Track 1).bin", " (Track 2).bin")
        ],
        {"Games/discs/Saga (Europe) (Disc 1) (Track 1).bin": ["cue", "cue", "main", "main", "main"]},
    ),
    "games that share a folder": (
        ["Games/chip8/Bandit (Europe).ch8", "Games/chip8/Bandit (Japan).ch8"],
        {"Games/chip8/Bandit (Europe).ch8": [], "Games/chip8/Bandit (Japan).ch8": []},
    ),
    "pictures of a kit": (
        [f"{KIT}/{name}" for name in ("elements/buoy.png", "papers/blue.jpg", "Alpha/A.png", "preview.jpg")],
        {f"{KIT}/Alpha/A.png": ["main", "main", "main"]},
    ),
    "archives of a kit beside its folder": (
        [f"{KIT}/papers/blue.jpg", "Kits/Fennick Paper Co/FennickPaperCo_HarbourLamps_Papers.zip"],
        {f"{KIT}/papers/blue.jpg": ["other"]},
    ),
    "parts of a film, a subtitle of one, a cover of all": (
        [f"Heap/Kelp (2001)/Kelp (2001) {name}" for name in ("CD1.avi", "CD2.avi", "CD2.en.srt")]
        + ["Heap/Kelp (2001)/poster.jpg"],
        {"Heap/Kelp (2001)/Kelp (2001) CD1.avi": ["cover", "main", "subtitles"]},
    ),
    "subtitles in a folder for each language, a cover named after its film": (
        [
            f"Heap/Kelp (2001)/{name}"
            for name in ("Kelp (2001).avi", "Kelp.jpg", "Subs/English/kelp.srt", "Subs/French/kelp.srt")
        ],
        {"Heap/Kelp (2001)/Kelp (2001).avi": ["cover", "subtitles", "subtitles"]},
    ),
    "songs with a cue sheet and a log": (
        [f"Music/Ida Marrow/Low Lights/{name}" for name in ("01 Ebb.mp3", "Low Lights.cue", "Low Lights.log")],
        {
            "Music/Ida Marrow/Low Lights/01 Ebb.mp3": [],
            "Music/Ida Marrow/Low Lights/Low Lights.cue": [],
            "Music/Ida Marrow/Low Lights/Low Lights.log": [],
        },
    ),
    "parts in folders of their own": (
        ["Heap/Kelp (2001)/CD1/kelp.avi", "Heap/Kelp (2001)/CD2/kelp.avi"],
        {"Heap/Kelp (2001)/CD1/kelp.avi": ["main"]},
    ),
    "a part that is there twice": (
        ["Heap/Kelp (2001) CD1.avi", "Heap/Kelp (2001) CD1.mkv", "Heap/Kelp (2001) CD2.avi"],
        {"Heap/Kelp (2001) CD1.avi": [], "Heap/Kelp (2001) CD1.mkv": [], "Heap/Kelp (2001) CD2.avi": []},
    ),
}


@pytest.mark.parametrize("name", TREES)
def test_files_become_items(tree: Tree, name: str) -> None:
    paths, items = TREES[name]
    collection = tree(paths, SHELVES)
    collection.run("scan")
    found = collection.ok("find", "--json").lines
    assert {item["path"]: sorted(file["role"] for file in item["files"][1:]) for item in found} == items
    collection.run("scan", "--full")
    again = collection.ok("find", "--json").lines
    assert [item["id"] for item in again] == [item["id"] for item in found]


def _only(collection: Collection, *words: str) -> dict[str, Any]:
    (item,) = collection.ok("find", *words, "--json").lines
    assert isinstance(item, dict)
    return item


def test_what_a_whole_has_of_its_files(demo: Collection) -> None:
    demo.ok("start")
    demo.ok("scan")
    kit = _only(demo, "kind", "is", "kit", "Kits")
    assert kit["fields"]["section"] == ["elements", "papers", "previews"] and kit["facts"]["pictures"] == 6
    assert _only(demo, "section", "is", "papers", "Kits")["id"] == kit["id"]
    font = _only(demo, "gullwick", "sans")
    assert font["fields"]["style"] == ["Regular", "Bold", "Italic"] and font["facts"]["faces"] == 3
    game = _only(demo, "trawler", "saga")
    assert game["facts"]["discs"] == 3 and "disc" not in game["fields"]
    assert sorted(file.get("part", 0) for file in game["files"]) == [1, 1, 2, 2, 3, 3]
    film = _only(demo, "sandpiper")
    assert film["facts"]["length"] == pytest.approx(2.0, abs=0.3) and "part" not in film["fields"]
    designs = demo.ok("find", "kind", "is", "design", "ending", "is", "vp3", "--json").lines
    assert {len(item["files"]) for item in designs} == {7}


def test_an_archive_belongs_to_what_was_unpacked_from_it(tree: Tree) -> None:
    paths = ["Designs/Jetty/Crab/Crab.pes", "Designs/Jetty/Whelk/Whelk.pes"]
    collection = tree(paths, SHELVES)
    for name, text in (("Crab", "Designs/Jetty/Crab/Crab.pes"), ("Whelk", "something else")):
        with zipfile.ZipFile(collection.root / f"Designs/Jetty/{name}.zip", "w") as packed:
            packed.writestr(f"{name}/{name}.pes", text)
    collection.run("scan")
    roles = {item["path"]: [file["role"] for file in item["files"]] for item in collection.ok("find", "--json").lines}
    assert roles["Designs/Jetty/Crab/Crab.pes"] == ["main", "other"]
    assert roles["Designs/Jetty/Whelk/Whelk.pes"] == ["main"]  # other contents: not what it came from
    shown = collection.ok("show", "Designs/Jetty/Whelk.zip", "--json").lines[0]
    assert [one["path"] for one in shown["members"]] == ["Whelk/Whelk.pes"] and shown["members"][0]["crc"] is not None


def test_a_folder_named_alike_is_not_what_an_archive_was_unpacked_to(tree: Tree) -> None:
    collection = tree(["Designs/Jetty/Crab/Crab.pes", "Designs/Jetty/Crab0/Gull.pes"], SHELVES)
    collection.ok("scan")
    with zipfile.ZipFile(collection.root / "Designs/Jetty/Crab.zip", "w") as packed:
        packed.writestr("Crab/Crab.pes", "Designs/Jetty/Crab/Crab.pes")
    collection.run("scan")
    roles = {item["path"]: [file["role"] for file in item["files"]] for item in collection.ok("find", "--json").lines}
    assert roles == {"Designs/Jetty/Crab/Crab.pes": ["main", "other"], "Designs/Jetty/Crab0/Gull.pes": ["main"]}


def test_parts_are_filed_together_and_stay_one(tree: Tree) -> None:
    paths = [f"Heap/{name}" for name in ("Kelp (2001) CD1.avi", "Kelp (2001) CD1.en.srt", "Kelp (2001) CD2.avi")]
    collection = tree(paths, SHELVES)
    collection.ok("scan")
    before = _only(collection, "kelp")
    collection.ok("tidy", "--now")
    collection.ok("scan")
    after = _only(collection, "kelp")
    home = "Films/Kelp (2001)/Kelp (2001) - part"
    assert {file["path"] for file in after["files"]} == {f"{home} 1.avi", f"{home} 1.en.srt", f"{home} 2.avi"}
    assert after["id"] == before["id"]


def test_items_that_join_keep_what_was_settled(tree: Tree) -> None:
    collection = tree(["Heap/Kelp (2001) CD1.avi"], SHELVES)
    collection.ok("scan")
    collection.ok("settle", "kelp", "--set", "title=Kelp and Tide")
    collection.put("Heap/Kelp (2001) CD2.avi")
    collection.ok("scan")
    item = _only(collection, "kelp")
    assert item["state"] == "settled" and item["fields"]["title"] == "Kelp and Tide" and len(item["files"]) == 2


def test_systems_of_ones_own(tree: Tree) -> None:
    collection = tree(["Heap/Bandit (Europe).trn", "Heap/tern mini/Saga (Japan).bin"], SHELVES)
    collection.run("scan")
    assert {item["kind"] for item in collection.ok("find", "--json").lines} == {"game"}
    assert not collection.ok("find", "system", "known", "--json").lines
    system = '[system.tern8]\nfolders = ["Tern Mini"]\nendings = ["trn"]\n'
    (collection.root / "magpie.toml").write_text(SHELVES + system)
    collection.ok("scan")  # what the configuration says has changed: all is identified anew
    found = {item["path"]: item["state"] for item in collection.ok("find", "system", "is", "tern8", "--json").lines}
    assert found == {"Heap/Bandit (Europe).trn": "clear", "Heap/tern mini/Saga (Japan).bin": "clear"}


def test_what_the_header_of_an_image_says(tree: Tree) -> None:
    collection = tree([], SHELVES)
    image = bytearray(0x8000)
    image[0x104:0x108], image[0x134:0x13F] = b"\xce\xed\x66\x66", b"BUOY BANDIT"
    image[0x14D] = -sum(byte + 1 for byte in image[0x134:0x14D]) & 0xFF
    (collection.root / "Bandit (Europe).gb").write_bytes(image)
    image[0x140] = 1
    (collection.root / "Damaged (Europe).gb").write_bytes(image)
    (collection.root / "Kite Run (World).nes").write_bytes(b"NES\x1a\x02\x01\x02" + bytes(0xA000))
    collection.ok("scan")
    facts = {item["fields"]["title"]: item["facts"] for item in collection.ok("find", "--json").lines}
    assert facts["Bandit"] == {"header": "handheld", "header_title": "BUOY BANDIT", "header_ok": True}
    assert facts["Kite Run"] == {"header": "cartridge-16", "program": 32768, "graphics": 8192, "battery": True}
    (damaged,) = collection.ok("find", "header_ok", "is", "no", "--json").lines
    assert damaged["fields"]["title"] == "Damaged"


def test_a_file_moved_back_by_hand_is_seen(tree: Tree) -> None:
    collection = tree(["Heap/Kelp (2001).mkv"], SHELVES)
    collection.ok("scan")
    collection.ok("tidy", "--now")
    collection.ok("scan")
    (collection.root / "Heap").mkdir(exist_ok=True)
    (collection.root / "Films/Kelp (2001)/Kelp (2001).mkv").rename(collection.root / "Heap/Kelp (2001).mkv")
    assert collection.ok("scan", "--json").json["moved"] == 1
    assert _only(collection, "kelp")["path"] == "Heap/Kelp (2001).mkv"
    collection.ok("scan")
    assert _only(collection, "kelp")["path"] == "Heap/Kelp (2001).mkv"


def test_many_processes_understand_as_one_does(tree: Tree, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("lazy_magpie.scan.process_pool._WORTH", 100)
    paths = [f"Heap/Pier {n // 40}/Season 1/pier.s01e{n % 40:02}.low.water.720p.mkv" for n in range(400)]
    collection = tree(paths, SHELVES)
    found = []
    for jobs in ("1", "2"):
        for file in (collection.root / ".magpie").glob("catalogue.db*"):
            file.unlink()
        collection.ok("scan", "--jobs", jobs)
        lines = collection.ok("find", "--json").lines
        found.append([(item["path"], item["state"], item["fields"], item["facts"]) for item in lines])
    assert found[0] == found[1] and len(found[0]) == 400


LISTED = st.lists(st.sampled_from(sorted({path for paths, _ in TREES.values() for path in paths})), unique=True)


@given(LISTED)
def test_every_file_is_in_one_item(paths: list[str]) -> None:
    seen = [IdentifiedFile(number, path, 1, 1, identify(path)) for number, path in enumerate(paths)]
    groups = grouped(seen)
    assert sorted(member.file.id for group in groups for member in group.members) == list(range(len(paths)))
    assert all(group.members for group in groups)


def _face(path: Path, family: str, style: str, weight: int) -> None:
    """Make a font of one letter that calls itself what it is told."""
    builder = FontBuilder(1000, isTTF=True)
    builder.setupGlyphOrder([".notdef", "K"])
    builder.setupCharacterMap({ord("K"): "K"})
    pen = TTGlyphPen(None)
    for at, point in enumerate([(0, 0), (0, 700), (weight, 700), (weight, 0)]):
        (pen.lineTo if at else pen.moveTo)(point)
    pen.closePath()
    builder.setupGlyf({".notdef": TTGlyphPen(None).glyph(), "K": pen.glyph()})
    builder.setupHorizontalMetrics({".notdef": (500, 0), "K": (700, 0)})
    builder.setupHorizontalHeader()
    builder.setupNameTable({"familyName": family, "styleName": style})
    builder.setupOS2(usWeightClass=weight)
    builder.setupPost()
    path.parent.mkdir(parents=True, exist_ok=True)
    builder.save(path)


def test_faces_that_call_themselves_families_join_theirs(tree: Tree) -> None:
    collection = tree([])
    faces = {
        "Gullwick Sans": [("Regular", 400), ("Bold", 700)],
        "Gullwick Sans Semibold": [("Regular", 600), ("Italic", 600)],
        "Gullwick Sans Condensed Black": [("Regular", 900)],
        "Bunting Black": [("Regular", 900)],
    }
    for family, made in faces.items():
        for style, weight in made:
            _face(collection.root / "Fonts" / f"{family}-{style}.ttf".replace(" ", ""), family, style, weight)
    collection.ok("scan")
    sans = _only(collection, "family", "is", "Gullwick Sans")
    assert sans["fields"]["style"] == ["Regular", "Bold", "Condensed Black", "Semibold Italic", "Semibold"]
    assert sans["facts"]["weight"] == [400, 600, 700, 900] and len(sans["files"]) == 5
    assert _only(collection, "gullwick", "weight", "over", "850")["id"] == sans["id"]
    assert _only(collection, "bunting")["fields"]["family"] == "Bunting Black"  # whose family is not there
    collection.ok("scan", "--full")
    assert _only(collection, "family", "is", "Gullwick Sans")["fields"] == sans["fields"]


def test_a_font_is_filed_by_what_it_says_whatever_its_name_would_be_read_as(tree: Tree) -> None:
    collection = tree([], '[shelf.fonts]\nkind = "font"\nfolder = "Fonts"\nnaming = "maker"\n')
    for family in ("Gullwick Old Italic", "Kite_Main", "Bunting Black"):
        _face(collection.root / "Heap" / f"{family}-Regular.ttf".replace(" ", ""), family, "Regular", 400)
    collection.ok("scan")
    collection.ok("tidy", "--now")
    wanted = {
        f"Fonts/{family}/{family.replace(' ', '')}-Regular.ttf" for family in ("Gullwick Old Italic", "Kite_Main")
    }
    assert wanted <= collection.files() and not any(path.startswith("Heap/") for path in collection.files())
    collection.ok("scan", "--full")
    assert "Everything that can be placed is in its place." in collection.ok("tidy").err
