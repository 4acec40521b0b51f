"""Downloads come in: each thing into one clean folder, what is in doubt into the inbox, nothing twice."""

from __future__ import annotations

import os
from pathlib import Path

import pytest
from fontTools.ttLib import TTFont

from lazy_magpie.demo import craft_files
from tests.conftest import CONFIG, Collection, picture
from tests.heaps import LONG_AGO, cut, paper, planned, put, repacked, split, taken_in, zip_of


def test_the_demos_heap_becomes_one_kit_and_comes_back(demo: Collection) -> None:
    demo.ok("start")
    demo.ok("scan")
    before = picture(demo.root)
    demo.ok("intake", "Downloads", "--now")
    kit = "Kits/Fennick Paper Co/Harbour Lamps"
    names = ["ahoy.png", "fair winds.png", *(f"fpc_hl_paper_0{number}.jpg" for number in range(1, 5))]
    names += [f"{name}.png" for name in ("buoy", "rope", "lamp", "gull")]
    names += ["Alphabets/fpc_hl_alpha_A.png", "Alphabets/fpc_hl_alpha_B.png"]
    parts = ("Alpha", "Elements", "Papers1", "Papers2", "WordArt")
    archives = {f"Kits/Fennick Paper Co/FennickPaperCo_HarbourLamps_{part}.zip" for part in parts}
    now = {path for path in demo.files() if "Harbour Lamps" in path or "HarbourLamps" in path}
    assert now == {f"{kit}/{name}" for name in names} | archives
    assert not list((demo.root / "Downloads").iterdir())
    items = demo.ok("find", "kind", "is", "kit", "title", "is", "Harbour Lamps", "--json").lines
    assert len(items) == 1 and len(items[0]["files"]) == 17  # the archives belong to it
    demo.ok("undo")
    assert picture(demo.root) == before


def test_a_harder_heap_becomes_the_tree_that_it_should(heap: Collection) -> None:
    kit = {"kit/fpc_sail.png": "sail", "kit/Preview.jpg": "preview", "kit/Thumbs.db": "junk"}
    zip_of(heap, "fpc_SeaMist_Elements.zip", kit)
    zip_of(heap, "fpc_SeaMist_Papers_Part2.zip", {"SeaMist/papers/p1.jpg": "p1", "SeaMist/Preview.jpg": "preview"})
    zip_of(heap, "Sea Mist by Fennick Paper Co (Alphabet).zip", {"Alpha/caps/A.png": "A", "Alpha/small/a.png": "a"})
    design = {"pes/tern.pes": "p", "dst/tern.dst": "d", "tern colour chart.pdf": "chart", "tern.png": "thumbnail"}
    zip_of(heap, "NJ-Tern Flight.zip", {f"NJ-Tern Flight/{name}": data for name, data in design.items()})
    zip_of(
        heap,
        "Rope Capitals 2in.zip",
        {f"{letter}.dst": letter for letter in "ABCDEFGH"} | {"licence.txt": "© Needle Jetty"},
    )
    zip_of(heap, "Bunting.zip", {"Bunting-Regular.ttf": "r", "Bunting-Bold.ttf": "b", "OFL.txt": "licence"})
    zip_of(heap, "Buoy Bandit (Europe).zip", {"Buoy Bandit (Europe).ch8": "game"})
    film = "The.Salt.Orchard.1987.720p.BluRay.x264-BRINE"
    put(heap, *(f"Downloads/{film}/{name}" for name in (f"{film}.mkv", f"{film}.en.srt", "brine.nfo", "Thumbs.db")))
    put(heap, "Downloads/Ida Marrow - Low Lights (2009)/03 - Slack Water.mp3", "Downloads/half.mkv.part")
    heap.put("Downloads/Just Now (1999).mkv")
    before = picture(heap.root)
    files = taken_in(heap)
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
    zip_of(heap, "Some Maker - Lantern Walk Papers.zip", {"p.jpg": "p"})
    zip_of(heap, "dl_8842.zip", {"a.png": "a"})
    put(heap, "Downloads/Kelp Harvest.mp4", "Downloads/notes.xyz")
    plan = planned(heap, code=1)
    why = {left["path"].rpartition("/")[2]: left["why"] for left in plan["left"]}
    assert "which of the names is the artist's or maker's?" in why["Some Maker - Lantern Walk Papers.zip"]
    assert "who made it?" in why["dl_8842.zip"] and "of which year is it?" in why["Kelp Harvest.mp4"]
    files = taken_in(heap, code=1)
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
    zip_of(heap, "fpc_SeaMist_Freebie.zip", {"elements/sail.png": "old", "tag.png": "new tag"})
    assert planned(heap)["passed"]["already there"] == 1
    files = taken_in(heap)
    assert {f"{kit}/tag.png", f"{kit}/elements/sail.png"} <= files
    assert not [name for name in os.listdir(heap.root / "Kits/Fennick Paper Co") if name.startswith(".")]


def test_what_is_there_already_is_said_and_not_brought_in_twice(heap: Collection) -> None:
    members = {"p1.jpg": "paper one", "p2.jpg": "paper two"}
    zip_of(heap, "fpc_SeaMist_Papers.zip", members)
    taken_in(heap)
    zip_of(heap, "fpc_SeaMist_Papers (1).zip", members)
    put(heap, "Downloads/Other name (1999).mkv", text="a film")
    heap.put("Films/Kelp (2001)/Kelp (2001).mkv", text="a film")
    heap.ok("scan")
    plan = planned(heap)
    assert not plan["steps"] and {left["why"] for left in plan["left"]} == {
        "taken in before: “Kits/Fennick Paper Co/Sea Mist”, change 1",
        "already there: “Films/Kelp (2001)/Kelp (2001).mkv”",
    }


@pytest.mark.parametrize("archives", ["beside", "aside", "hold all"])
@pytest.mark.parametrize("sort", ["zip", "tar.gz", "7z"])
def test_each_sort_of_archive_is_unpacked_and_kept_as_is_wanted(heap: Collection, sort: str, archives: str) -> None:
    config = CONFIG + f'[intake]\narchives = "{archives}"\naside = "Bought"\n'
    (heap.root / "magpie.toml").write_text(config)
    members = {"papers/größe.jpg": b"one", "papers/two.jpg": b"two" * 9999, ".DS_Store": b"junk"}
    path = repacked(zip_of(heap, "fpc_SeaMist_Papers.zip", members), sort)
    before = picture(heap.root)
    files = taken_in(heap)
    kit = "Kits/Fennick Paper Co/Sea Mist"
    assert (heap.root / kit / "two.jpg").read_bytes() == b"two" * 9999
    where = {"beside": f"Kits/Fennick Paper Co/{path.name}", "aside": f"Bought/Fennick Paper Co/{path.name}"}
    assert files == {f"{kit}/größe.jpg", f"{kit}/two.jpg", *filter(None, [where.get(archives)])}
    assert len(heap.ok("held", "--json").lines) == (archives == "hold all")
    heap.ok("undo")
    assert picture(heap.root) == before


def test_a_folder_outside_the_collection_is_only_read(heap: Collection, tmp_path: Path) -> None:
    away = tmp_path / "Away"
    away.mkdir()
    source = zip_of(heap, "fpc_SeaMist_Papers.zip", {"p1.jpg": "one"})
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


def test_an_archive_of_archives_comes_into_the_inbox_first(heap: Collection) -> None:
    inner = {
        part: zip_of(heap, f"{part}.zip", {f"{part}.png": part}, "Elsewhere")
        for part in ("fpc_Fog_Papers", "fpc_Fog_Alpha")
    }
    zip_of(
        heap, "order 8842.zip", {path.name: path.read_bytes() for path in inner.values()} | {"read me.txt": "thank you"}
    )
    files = taken_in(heap, code=1)
    assert {"Inbox/order 8842/fpc_Fog_Papers.zip", "Inbox/order 8842/fpc_Fog_Alpha.zip"} <= files
    for path in (heap.root / "Inbox").rglob("*"):
        os.utime(path, (LONG_AGO, LONG_AGO))
    heap.run("intake", "Inbox", "--now")
    kit = "Kits/Fennick Paper Co/Fog"
    assert {f"{kit}/fpc_Fog_Papers.png", f"{kit}/Alphabets/fpc_Fog_Alpha.png"} <= heap.files()


def test_a_loose_extra_joins_its_kit(heap: Collection) -> None:
    heap.put("Kits/Fennick Paper Co/Sea Mist/papers/p1.jpg")
    heap.ok("scan")
    put(heap, "Downloads/fpc_SeaMist_freebie.png", "Downloads/holiday.png")
    files = taken_in(heap, code=1)
    assert "Kits/Fennick Paper Co/Sea Mist/fpc_SeaMist_freebie.png" in files and "Downloads/holiday.png" in files


def test_one_preview_is_enough(heap: Collection) -> None:
    zip_of(heap, "fpc_Fog_Papers.zip", {"p.jpg": "p", "Preview.jpg": "same", "Previews/fog preview.jpg": "same"})
    zip_of(heap, "fpc_Fog_Elements.zip", {"e.png": "e", "folder.jpg": "same", "Preview.jpg": "same"})
    kit = "Kits/Fennick Paper Co/Fog"
    names = {path[len(kit) + 1 :] for path in taken_in(heap) if path.startswith(f"{kit}/")}
    assert names == {"p.jpg", "e.png", "folder.jpg"}


def test_folders_can_begin_with_the_day_or_a_running_number(heap: Collection) -> None:
    naming = '[naming.mine]\nkit = "{arrived, date} {title}"\ndesign = "{number:04} {maker} - {title}/{name}"\n'
    config = CONFIG.replace('folder = "Kits"', 'folder = "Kits"\nnaming = "mine"')
    config = config.replace('folder = "Designs"', 'folder = "Designs"\nnaming = "mine"')
    (heap.root / "magpie.toml").write_text(config + naming)
    heap.put("Designs/0041 Needle Jetty - Crab/crab.pes")
    heap.ok("scan")
    zip_of(heap, "fpc_SeaMist_Papers.zip", {"p1.jpg": "p"})
    zip_of(heap, "NJ-Tern Flight.zip", {"tern.pes": "t"})
    zip_of(heap, "NJ-Gull.zip", {"gull.pes": "g"})
    files = taken_in(heap)
    assert {
        "Kits/2020-09-13 Sea Mist/p1.jpg",
        "Designs/0042 Needle Jetty - Gull/gull.pes",
        "Designs/0043 Needle Jetty - Tern Flight/tern.pes",
    } <= files
    heap.ok("scan", "--full")
    titles = {item["fields"].get("title") for item in heap.ok("find", "kind", "is", "kit", "--json").lines}
    assert titles == {"Sea Mist"}


def test_what_came_in_is_kept_in_the_history(heap: Collection) -> None:
    zip_of(heap, "fpc_SeaMist_Papers.zip", {"p1.jpg": "p"})
    put(heap, "Downloads/half.mkv.part")
    taken_in(heap)
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
    zip_of(heap, "fpc_SeaMist_Papers.zip", {"p1.jpg": "p"})
    put(heap, "Downloads/Kelp (2001).mkv")
    files = taken_in(heap)
    assert "Kits/! Fennick Paper Co - Sea Mist/p1.jpg" in files
    assert {item["kind"]: item["tags"] for item in heap.ok("find", "tag", "is", "new", "--json").lines} == {
        "kit": ["new"],
        "movie": ["new"],
    }
    assert not heap.ok("tidy", "--json").json["steps"]
    heap.ok("tag", "drop", "new", "kind", "is", "kit")
    heap.ok("tidy", "--now")
    assert "Kits/Fennick Paper Co - Sea Mist/p1.jpg" in heap.files()


@pytest.mark.parametrize("sort", ["zip", "tar.gz", "7z"])
def test_a_document_says_the_title_and_the_maker_where_no_name_does(
    heap: Collection, tmp_path: Path, sort: str
) -> None:
    about: dict[str, str | bytes] = {"p1.jpg": "1", "p2.jpg": "2", "about.pdf": paper(tmp_path, title="FPC Gusty Day")}
    repacked(zip_of(heap, "0417_93.zip", about), sort)
    rules = paper(tmp_path, title="Terms of use", author="Fennick Paper Co")
    repacked(zip_of(heap, "GustyDay_Elements.zip", {"e1.png": "3", "e2.png": "4", "terms.pdf": rules}), sort)
    files = taken_in(heap)
    kit = "Kits/Fennick Paper Co/Gusty Day"
    assert {f"{kit}/p1.jpg", f"{kit}/p2.jpg", f"{kit}/e1.png", f"{kit}/e2.png"} <= files
    assert {f"{kit}/about.pdf", f"{kit}/terms.pdf"} <= files


def test_a_font_says_its_family_where_its_name_does_not(heap: Collection, tmp_path: Path) -> None:
    path = tmp_path / "GullwickSans-Bold.ttf"
    craft_files.font(path, 140)
    manual = paper(tmp_path, title="How to use it")
    zip_of(heap, "99812.zip", {"99812.ttf": path.read_bytes(), "licence.txt": "Free to use.", "manual.pdf": manual})
    assert {"Fonts/Gullwick Sans/99812.ttf", "Fonts/Gullwick Sans/manual.pdf"} <= taken_in(heap)


def test_a_fonts_vendor_is_its_maker_where_the_configuration_names_it(heap: Collection, tmp_path: Path) -> None:
    config = CONFIG.replace('folder = "Fonts"', 'folder = "Fonts"\nnaming = "maker"')
    (heap.root / "magpie.toml").write_text(config)
    for vendor, name in (("NJETTY", "GullwickSans"), ("Nobody", "GullwickSerif")):
        path = tmp_path / f"{name}-Bold.ttf"
        craft_files.font(path, 140)
        with TTFont(path) as made:
            made["name"].setName(vendor, 8, 3, 1, 0x409)
            made.save(path)
        zip_of(heap, f"{name}.zip", {path.name: path.read_bytes(), "licence.txt": "Free to use."})
    files = taken_in(heap)
    fonts = {"Fonts/Needle Jetty/Gullwick Sans/GullwickSans-Bold.ttf", "Fonts/Gullwick Serif/GullwickSerif-Bold.ttf"}
    assert fonts <= files
    heap.ok("scan")
    assert "Everything" in heap.ok("tidy").err
    assert [item["path"] for item in heap.ok("find", "maker", "is", "Needle Jetty", "--json").lines] == [max(fonts)]


def test_an_archive_that_intake_kept_beside_stays_there_when_one_tidies(heap: Collection) -> None:
    zip_of(heap, "GullwickSans.zip", {"GullwickSans-Bold.ttf": "bold", "GullwickSans.ttf": "r", "licence.txt": "Free."})
    zip_of(heap, "njetty_Sea Rose.zip", {"Sea Rose.pes": "p", "Sea Rose.dst": "d"})
    files = taken_in(heap)
    assert {"Fonts/GullwickSans.zip", "Designs/Needle Jetty/njetty_Sea Rose.zip"} <= files
    heap.ok("scan")
    answer = heap.ok("tidy", "--json").json
    assert not answer["steps"] and answer["passed"] == {"stay where intake put them": 2}


def test_an_archive_beside_is_known_when_its_designs_were_renamed(heap: Collection) -> None:
    zip_of(heap, "njetty_SeaRose.zip", {"SeaRose.pes": "pes", "SeaRose.dst": "design"})
    taken_in(heap)
    for ending in ("pes", "dst"):
        (heap.root / f"Designs/Needle Jetty/Sea Rose/SeaRose.{ending}").rename(
            heap.root / f"Designs/Needle Jetty/Sea Rose/Sea Rose.{ending}"
        )
    for _ in range(2):
        heap.ok("scan")
        heap.ok("tidy", "--now")
    assert heap.files() >= {"Designs/Needle Jetty/njetty_SeaRose.zip", "Designs/Needle Jetty/Sea Rose/Sea Rose.pes"}


PAPERS = {f"paper_{number}.jpg": bytes([number]) * 3000 for number in range(1, 10)}


def _in_volumes(heap: Collection, sort: str) -> list[str]:
    """Put an archive in several volumes among the downloads: a zip split or cut, a 7z, a tar; return their names."""
    path = zip_of(heap, "fpc_GustyDay_Papers.zip", PAPERS)
    if sort == "split":
        return [volume.name for volume in split(path, 6000)]
    path = repacked(path, sort)
    return [volume.name for volume in cut(path, path.stat().st_size // 3 + 1)]


@pytest.mark.parametrize("archives", ["beside", "hold"])
@pytest.mark.parametrize("sort", ["split", "zip", "7z", "tar.gz"])
def test_an_archive_in_several_volumes_is_one(heap: Collection, sort: str, archives: str) -> None:
    (heap.root / "magpie.toml").write_text(CONFIG + f'[intake]\narchives = "{archives}"\n')
    names = _in_volumes(heap, sort)
    before = picture(heap.root)
    files = taken_in(heap)
    kit = heap.root / "Kits/Fennick Paper Co/Gusty Day"
    assert {path.name: path.read_bytes() for path in kit.iterdir()} == PAPERS
    beside = {f"Kits/Fennick Paper Co/{name}" for name in names} if archives == "beside" else set()
    assert files == beside | {f"Kits/Fennick Paper Co/Gusty Day/{name}" for name in PAPERS}
    heap.ok("scan")
    assert "Everything" in heap.ok("tidy").err
    own = [{file["path"] for file in item["files"]} for item in heap.ok("find", "--json").lines]
    assert len([files for files in own if files & beside]) == (1 if beside else 0)  # with the kit, or one of its own
    heap.ok("undo")
    assert picture(heap.root) == before


@pytest.mark.parametrize("sort", ["split", "zip", "7z", "tar.gz"])
@pytest.mark.parametrize("lost", [0, 1, -1])
def test_an_archive_of_which_a_volume_is_missing_stays(heap: Collection, sort: str, lost: int) -> None:
    names = _in_volumes(heap, sort)
    if sort == "split" and lost == -1:
        lost = -2  # without the last one there is nothing to open
    (heap.root / "Downloads" / names.pop(lost)).unlink()
    plan = planned(heap)
    assert not plan["steps"] and "missing" in plan["left"][0]["why"]
    assert heap.files() == {f"Downloads/{name}" for name in names}


@pytest.mark.parametrize("name", ["c.jpg", "a.jpg"])
def test_archives_given_one_folder_are_unpacked_together(heap: Collection, tmp_path: Path, name: str) -> None:
    zip_of(heap, "fpc_GustyDay_Papers.zip", {"a.jpg": "a", "b.jpg": "b"})
    zip_of(heap, "fpc_Fog_Papers.zip", {name: "c"})
    before, path = picture(heap.root), tmp_path / "plan.csv"
    heap.ok("intake", "Downloads", "--save", str(path))
    path.write_text(path.read_text("utf-8").replace("Co/Fog,", "Co/Gusty Day,"), "utf-8")
    if name == "a.jpg":  # one name for two files
        assert "is wanted by row" in heap.ok("apply", str(path), code=2).err
        assert picture(heap.root) == before
        return
    heap.ok("apply", str(path))
    kit = {f"Kits/Fennick Paper Co/Gusty Day/{file}" for file in ("a.jpg", "b.jpg", "c.jpg")}
    assert kit < heap.files() and not any(path.startswith("Downloads/") for path in heap.files())
    heap.ok("undo")
    assert picture(heap.root) == before


def test_a_plan_that_was_saved_is_applied_as_it_was_corrected(heap: Collection, tmp_path: Path) -> None:
    (heap.root / "magpie.toml").write_text(CONFIG + '[intake]\narchives = "hold"\n')
    zip_of(heap, "fpc_GustyDay_Papers.zip", PAPERS)
    zip_of(heap, "fpc_Fog_Papers.zip", {"a.jpg": "a"})
    put(heap, "Downloads/Slack Water (1951).mkv", text="film")
    before = picture(heap.root)
    path = tmp_path / "plan.csv"
    answer = heap.ok("intake", "Downloads", "--save", str(path))
    assert f"magpie apply {path}" in answer.err
    assert "is there already" in heap.ok("intake", "Downloads", "--save", str(path), code=2).err
    heap.ok("intake", "Downloads", "--save", str(path), "--force")
    text = path.read_text("utf-8").replace("Co/Gusty Day", "Co/Windy Day")
    lines = [line.replace(",yes,", ",no,") if "Fog" in line else line for line in text.splitlines(keepends=True)]
    path.write_text("".join(lines), "utf-8")
    heap.ok("apply", str(path))
    kit = {f"Kits/Fennick Paper Co/Windy Day/{name}" for name in PAPERS}
    film = "Films/Slack Water (1951)/Slack Water (1951).mkv"
    assert heap.files() == {*kit, film, "Downloads/fpc_Fog_Papers.zip"}
    heap.ok("undo")
    assert picture(heap.root) == before


def test_programs_and_sources_stay_whole_and_are_named_once(heap: Collection) -> None:
    tree = {f"gullnet-1.2/src/{name}.c": name for name in ("net", "knot", "rope")}
    zip_of(heap, "gullnet-1.2.zip", tree | {"gullnet-1.2/CMakeLists.txt": "x", "gullnet-1.2/art/logo.png": "p"})
    zip_of(heap, "KiteGame.zip", {"KiteGame/kite.exe": "e", "KiteGame/sounds/wind.ogg": "o", "KiteGame/read.txt": "r"})
    put(heap, "Downloads/tern-tool/setup.py", "Downloads/tern-tool/tern/a.py", "Downloads/tern-tool/tern/b.png")
    picture_kit = {f"FPC_Sails/sail {number}.png": str(number) for number in range(12)}
    zip_of(heap, "Fennick Paper Co - Sails.zip", picture_kit | {"FPC_Sails/open me.exe": "e"})
    answer = heap.ok("intake", "Downloads")
    left = answer.out.partition("Left where they are")[2]
    assert "a program, or the source of one: it stays whole" in left
    assert all(left.count(name) == 1 for name in ("gullnet-1.2.zip", "KiteGame.zip", "Downloads/tern-tool\n"))
    before = {path for path in heap.files() if "gullnet" in path or "KiteGame" in path or "tern-tool" in path}
    heap.ok("intake", "Downloads", "--now")
    assert before <= heap.files() and any(path.endswith("Sails/sail 3.png") for path in heap.files())


def test_fonts_need_no_maker_and_no_levels(heap: Collection, tmp_path: Path) -> None:
    def fonts(folder: str, *names: str) -> dict[str, bytes]:
        for name in names:
            craft_files.font(tmp_path / name, 200)
        return {f"{folder}/{name}": (tmp_path / name).read_bytes() for name in names}

    zip_of(heap, "fonts-gulls_0.13.zip", fonts("truetype/gulls", "GullMain-Regular.ttf", "GullScript-Bold.ttf"))
    many = [f"Auk{letter}-Regular.ttf" for letter in "ABCDEFGHI"]  # more than are asked, and others behind them
    zip_of(heap, "seabirds 1.0.zip", fonts("ttf", *many, "Zodiac-Regular.ttf"))
    zip_of(heap, "terns.zip", fonts("share/truetype/tern", "Tern-Regular.ttf", "Tern-Bold.ttf"))
    heap.ok("intake", "Downloads", "--now")
    found = {path for path in heap.files() if path.startswith("Fonts/") and path.endswith(".ttf")}
    assert found == {
        "Fonts/Gull/GullMain-Regular.ttf",
        "Fonts/Gull/GullScript-Bold.ttf",
        "Fonts/Tern/Tern-Regular.ttf",
        "Fonts/Tern/Tern-Bold.ttf",
        *(f"Fonts/Seabirds/{name}" for name in (*many, "Zodiac-Regular.ttf")),
    }
    heap.ok("scan")
    assert "Everything that can be placed is in its place." in heap.ok("tidy", "--json").err + heap.ok("tidy").err


def test_questions_that_differ_in_a_name_are_one(heap: Collection) -> None:
    zip_of(heap, "songs.zip", {f"songs/{front}-{back}.mp3": back for front, back in ("ab", "cd", "ef", "gh")})
    left = heap.run("intake", "Downloads").out.partition("Left where they are")[2]
    assert left.count("which of the names is the artist's") <= 1 and left.count("Downloads/songs.zip") <= 2
