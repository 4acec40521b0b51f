"""Filing agrees with itself: what brings in, what tidies, what finds copies and what is corrected by hand, one law."""

from __future__ import annotations

import os
import random
import shutil
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from lazy_magpie.catalogue import opened
from lazy_magpie.change import Filesystem
from lazy_magpie.collection import find
from lazy_magpie.model import Plan
from lazy_magpie.planners import plan_csv
from lazy_magpie.services.listing import listing_of
from tests.conftest import CONFIG, Collection
from tests.heaps import LONG_AGO, put, zip_of
from tests.test_all_back import a_life, everything, take_all_back

DATED = """
[naming.dated]
kit = "{maker}/{arrived, date} {title}"
design = "{maker}/{arrived, date} {title}/{title}"
[naming.numbered]
kit = "{number:03} {maker} - {title}"
design = "{number:03} {maker} - {title}/{title}"
"""


def crafts(heap: Collection) -> None:
    """Put what makers sell among the downloads: sections, sizes, charts, thumbnails, stitched letters."""
    for name, members in {
        "fpc_Fog_Alpha.zip": ("A.png", "B.png"),
        "fpc_Fog_Papers.zip": ("p1.jpg", "p2.jpg"),
        "FennickPaper_Gale_Templates.zip": ("Templates/t1.png", "Templates/t1.psd", "read me.txt"),
        "NJ_Gulls.zip": ("PES/gull1.pes", "PES/gull2.pes", "DST/gull1.dst", "gull1.jpg", "chart.pdf"),
        "njetty_Rose.zip": ("rose.pes", "rose.dst", "rose chart.pdf", "rose.jpg"),
        "njetty_Kite_Font.zip": ("A.pes", "B.pes", "C.pes", "A.dst", "chart.pdf"),
    }.items():
        zip_of(heap, name, {member: member + name for member in members})


def _by(naming: str) -> str:
    shelves = (f'kind = "{kind}"\nfolder = "{folder}"' for kind, folder in (("kit", "Kits"), ("design", "Designs")))
    config = CONFIG
    for shelf in shelves:
        config = config.replace(shelf, f'{shelf}\nnaming = "{naming}"')
    return config + DATED


@pytest.mark.parametrize("naming", ["maker", "dated", "numbered"])
def test_tidy_after_intake_moves_nothing(heap: Collection, naming: str) -> None:
    (heap.root / "magpie.toml").write_text(_by(naming))
    crafts(heap)
    heap.run("intake", "Downloads", "--now")
    there = heap.files()
    plan = heap.run("tidy", "--json").json
    assert plan["steps"] == [] and plan["conflicts"] == []
    for more in ("", "-wal", "-shm"):
        (heap.root / f".magpie/catalogue.db{more}").unlink(missing_ok=True)
    heap.ok("scan")
    assert heap.run("tidy", "--json").json["steps"] == [] and heap.files() == there


def test_a_thing_moves_whole_when_its_naming_changes(heap: Collection) -> None:
    (heap.root / "magpie.toml").write_text(_by("maker"))
    crafts(heap)
    heap.run("intake", "Downloads", "--now")
    (heap.root / "magpie.toml").write_text(_by("numbered"))
    heap.ok("scan")
    heap.run("tidy", "--now")
    gulls = {path.split("/", 2)[2] for path in heap.files() if "Gulls/" in path}
    assert gulls == {"PES/gull1.pes", "PES/gull2.pes", "DST/gull1.dst", "gull1.jpg", "chart.pdf"}
    assert any("Fog/Alphabets/A.png" in path for path in heap.files())
    heap.ok("scan")
    assert heap.run("tidy", "--json").json["steps"] == []


def test_a_second_intake_brings_and_offers_nothing(heap: Collection) -> None:
    crafts(heap)
    bad = zip_of(heap, "fpc_Storm_Papers.zip", {"p.jpg": "x" * 5000})
    data = bytearray(bad.read_bytes())
    data[200] ^= 1
    bad.write_bytes(data)
    os.utime(bad, (LONG_AGO, LONG_AGO))
    heap.run("intake", "Downloads", "--now")
    there = heap.files()
    for source, target in (("Kits/Fennick Paper Co/Fog", "Kits/Fennick Paper Co/Renamed"),):
        (heap.root / source).rename(heap.root / target)
    heap.ok("scan")
    crafts(heap)
    again = heap.run("intake", "Downloads", "--json").json
    assert again["steps"] == [] and again["passed"]["taken in before"] >= 6
    assert any("tried before" in left["why"] for left in again["left"])
    assert heap.ok("copies", "--json").lines == []
    assert "Downloads/fpc_Storm_Papers.zip" in there


def test_an_archive_and_its_folder_are_one_thing_whatever_was_renamed(heap: Collection) -> None:
    zip_of(heap, "fpc_Fog_Papers.zip", {"deep/er/p1.jpg": "1", "deep/er/p2.jpg": "2"})
    heap.run("intake", "Downloads", "--now")
    kit = heap.root / "Kits/Fennick Paper Co/Fog"
    (kit / "p1.jpg").rename(kit / "first.jpg")
    heap.ok("scan")
    (item,) = heap.ok("find", "--json").lines
    assert {Path(file["path"]).name for file in item["files"]} == {"first.jpg", "p2.jpg", "fpc_Fog_Papers.zip"}
    assert heap.ok("copies", "--json").lines == []


@pytest.mark.parametrize(("archives", "gone"), [("hold", False), ("hold all", True)])
def test_an_archive_of_which_something_was_left_out_is_held_only_if_told(
    heap: Collection, archives: str, gone: bool
) -> None:
    (heap.root / "magpie.toml").write_text(CONFIG + f'[intake]\narchives = "{archives}"\n')
    zip_of(heap, "fpc_Fog_Papers.zip", {"p1.jpg": "1", "__MACOSX/._p1.jpg": "fork", "Thumbs.db": "t"})
    plan = heap.run("intake", "Downloads", "--json").json
    named = {left["path"] for left in plan["left"] if "left out" in left["why"]}
    assert named >= {f"Downloads/fpc_Fog_Papers.zip/{name}" for name in ("__MACOSX/._p1.jpg", "Thumbs.db")}
    heap.run("apply")
    assert ("Downloads/fpc_Fog_Papers.zip" not in heap.files()) is gone


def test_what_was_settled_in_the_inbox_is_brought_in_by_the_answer(heap: Collection) -> None:
    zip_of(heap, "9981.zip", {"a.png": "a", "b.png": "b"})
    put(heap, "Downloads/the tern watchers 1985.mp4")
    heap.run("intake", "Downloads", "--now")
    assert "Inbox/9981.zip" in heap.run("settle", "--json").out
    answer = ("--set", "kind=kit", "maker=Fennick Paper Co", "title=Gusty Day")
    heap.ok("settle", "Inbox/9981.zip", *answer)
    heap.ok("settle", "Inbox/the tern watchers 1985.mp4", "--set", "year=1985")
    heap.ok("intake", "Inbox", "--now")
    assert heap.files() >= {
        "Kits/Fennick Paper Co/Gusty Day/a.png",
        "Films/The Tern Watchers (1985)/The Tern Watchers (1985).mp4",
    }


# --- plans by CSV ----------------------------------------------------------------------------------------------------

SAVED = {
    "tidy": ("tidy",),
    "intake": ("intake", "Downloads"),
    "hold": ("copies", "--hold", "--keep", "folder:Films,older"),
    "link": ("copies", "--link", "--keep", "folder:Films,older"),
}


@pytest.mark.parametrize("planner", SAVED)
def test_a_plan_saved_and_read_back_is_the_same_plan(tmp_path: Path, planner: str) -> None:
    one = a_life(tmp_path / "one")
    path = tmp_path / "plan.csv"
    one.run(*SAVED[planner], "--save", str(path))
    collection = find(one.root)
    with opened(collection) as catalogue:
        plan: Plan = catalogue.plans.load(1)
        listing, disk = listing_of(str(one.root)), Filesystem(str(one.root))
        read = plan_csv.from_csv(path.read_text(), "plan.csv", plan, listing, disk, keep=[], everywhere=True)
    assert read.steps == plan.steps and len(plan.steps) > 1
    before = everything(one.root)
    assert not one.run("apply", str(path)).err.count("kipped")
    assert not one.run("undo", "--json").json["skipped"] and everything(one.root) == before


@pytest.mark.parametrize(
    ("to", "is_taken"),
    [(".magpie/x.mkv", False), ("a/.magpie/x.mkv", False), ("Films/x.mkv", True), ("films/Cafe\u0301.mkv", True)],
)
def test_a_corrected_place_is_checked_like_a_planners_own(
    heap: Collection, tmp_path: Path, to: str, is_taken: bool
) -> None:
    put(heap, "Heap/Kelp (2001).mkv", "Films/Hob (1970)/Hob (1970).mkv")
    heap.ok("scan")
    path = tmp_path / "plan.csv"
    heap.run("tidy", "--save", str(path))
    text = path.read_text().replace("Films/Kelp (2001)/Kelp (2001).mkv", to)
    path.write_text(text)
    answer = heap.run("apply", str(path))
    assert (answer.code == 0) is is_taken
    if is_taken:
        assert {"x.mkv", "Café.mkv"} & set(os.listdir(heap.root / "Films")) and "films" not in os.listdir(heap.root)


# --- companions, texts, containers, what can't be played -------------------------------------------------------------


def test_companions_go_along_and_none_is_passed_over(heap: Collection) -> None:
    put(heap, "Heap/Red Kiln.mkv", "Heap/Red Kiln (2013).en.srt")
    put(heap, "Old/Lamp (1990)/Lamp (1990).mkv", "Old/Lamp (1990)/theme.mp3", "Old/Lamp (1990)/Making of.mkv")
    put(heap, "Net/Net (1988).mkv", "Net/Subs/2_German.srt", "Net/Subs/readme.txt")
    show = "S/Gull Lane"
    put(heap, f"{show}/poster.jpg", f"{show}/season01-poster.jpg", f"{show}/Season 1/Gull Lane S01E01.mkv")
    put(heap, f"{show}/Season 1/folder.jpg")
    heap.ok("scan")
    heap.ok("settle", "Heap/Red Kiln.mkv", "--set", "year=2013")
    heap.run("tidy", "--now")
    assert heap.files() >= {
        "Films/Red Kiln (2013)/Red Kiln (2013).en.srt",
        "Films/Lamp (1990)/Making of.mkv",
        "Films/Net (1988)/Net (1988).de.srt",
        "Films/Net (1988)/readme.txt",
        "Series/Gull Lane/poster.jpg",
        "Series/Gull Lane/season01-poster.jpg",
        "Series/Gull Lane/Season 01/folder.jpg",
    }


@pytest.mark.parametrize("packed", [False, True])
def test_texts_that_name_files_follow_them(heap: Collection, packed: bool) -> None:
    songs = {"Hob Nettle - 01 - Tide.mp3": "1", "Hob Nettle - 02 - Ebb.mp3": "2"}
    texts = {
        "list.m3u": "#EXTM3U\r\nHob Nettle - 01 - Tide.mp3\r\nhttp://gullwick.example/x.mp3\r\nnot there.mp3\r\n",
        "Low Water.cue": 'TITLE "x"\nFILE "Hob Nettle - 02 - Ebb.mp3" MP3\n',
    }
    folder = "Hob Nettle - Low Water (1999)"
    if packed:
        zip_of(heap, f"{folder}.zip", {**songs, **texts})
    else:
        for name, text in {**songs, **texts}.items():
            put(heap, f"Heap/{folder}/{name}", text=text)
        put(heap, "Lists/all.m3u", text=f"..\\Heap\\{folder}\\Hob Nettle - 02 - Ebb.mp3\n")
        heap.ok("scan")
    before = everything(heap.root)
    heap.run(*(("intake", "Downloads") if packed else ("tidy",)), "--now")
    (home,) = {path.rpartition("/")[0] for path in heap.files() if path.endswith("02 - Ebb.mp3")}
    read = {name: (heap.root / home / name).read_bytes().decode() for name in texts}
    assert "\n01 - Tide.mp3\r\nhttp://gullwick.example/x.mp3\r\nnot there.mp3\r\n" in read["list.m3u"]
    assert 'FILE "02 - Ebb.mp3" MP3' in read["Low Water.cue"]
    if not packed:
        assert (heap.root / "Lists/all.m3u").read_text() == f"..\\{home}\\02 - Ebb.mp3\n".replace("/", "\\")
    take_all_back(heap)
    assert everything(heap.root) == before


@pytest.mark.parametrize("way", ["tidy", "intake"])
def test_a_film_in_two_containers_is_a_conflict(heap: Collection, way: str) -> None:
    folder = "Downloads" if way == "intake" else "Heap"
    put(heap, f"{folder}/Hob (1970).mkv", text="one")
    put(heap, f"{folder}/Hob (1970).avi", text="the other")
    heap.ok("scan")
    plan = heap.run(*((way, "Downloads") if way == "intake" else (way,)), "--json").json
    assert plan["steps"] == [] and len(plan["conflicts"]) == 1
    assert {Path(path).suffix for path in plan["conflicts"][0]["items"]} == {".mkv", ".avi"}


def test_what_cannot_be_played_is_filed_only_if_told(demo: Collection) -> None:
    text = (demo.root / "magpie.toml").read_text() if (demo.root / "magpie.toml").exists() else ""
    assert "unplayable" not in text
    demo.ok("start") if not text else None
    put(demo, "Heap/Empty Hours (1999).mkv", "Heap/Torn Sail (1998).mkv")
    (demo.root / "Heap/Empty Hours (1999).mkv").write_bytes(b"")
    demo.run("scan")
    plan = demo.run("tidy", "--json").json
    why = {left["path"]: left["why"] for left in plan["left"]}
    assert why["Heap/Empty Hours (1999).mkv"] == "can't be played: it is empty"
    assert why["Heap/Torn Sail (1998).mkv"].startswith("can't be played")
    told = demo.run("tidy", "--unplayable", "--json").json
    assert {step["from"] for step in told["steps"]} >= {"Heap/Empty Hours (1999).mkv", "Heap/Torn Sail (1998).mkv"}


# --- half downloads --------------------------------------------------------------------------------------------------


def test_half_downloads_stay_each_with_its_sign(heap: Collection) -> None:
    put(heap, "Downloads/whole (2001).mkv", "Downloads/open (2002).mkv", "Downloads/late.mkv.part")
    zip_of(heap, "fpc_Fog_Papers.zip", {"p1.jpg": "1" * 900})
    cut = heap.root / "Downloads/fpc_Fog_Papers.zip"
    cut.write_bytes(cut.read_bytes()[:-30])
    with open(heap.root / "Downloads/holes (2003).mkv", "wb") as file:
        file.truncate(1 << 20)
    (heap.root / "Downloads/none (2004).mkv").write_bytes(b"")
    for path in (heap.root / "Downloads").iterdir():
        os.utime(path, (LONG_AGO, LONG_AGO))
    held_open = os.open(heap.root / "Downloads/open (2002).mkv", os.O_WRONLY)
    reader = os.fork() if hasattr(os, "fork") else 0
    if reader == 0 and hasattr(os, "fork"):  # another process has it open
        import time

        time.sleep(60)
        os._exit(0)
    try:
        os.close(held_open)
        why = {Path(one["path"]).name: one["why"] for one in heap.run("intake", "Downloads", "--json").json["left"]}
    finally:
        os.kill(reader, 9)
        os.waitpid(reader, 0)
    assert "open for writing" in why["open (2002).mkv"]
    assert "an unfinished download, and has stalled: nothing came since 2020-09-13" in why["late.mkv.part"]
    assert "parts of it are missing" in why["holes (2003).mkv"] and "it is empty" in why["none (2004).mkv"]
    assert "damaged" in why["fpc_Fog_Papers.zip"] and "whole (2001).mkv" not in why


# --- random trees ----------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("seed", range(6))
def test_intake_tidy_tidy_plans_nothing_and_all_comes_back(tmp_path: Path, seed: int) -> None:
    chance = random.Random(seed)
    one = a_life(tmp_path / "one", f'[intake]\narchives = "{chance.choice(["beside", "aside", "hold"])}"\n')
    crafts(one)
    films = ("Kelp", "Oar", "Net", "Tern", "Lamp")
    for number in range(chance.randrange(3, 12)):
        name = f"{chance.choice(films)} ({chance.randrange(1950, 1955)}){chance.choice(['', ' - Extended', '.720p'])}"
        folder = chance.choice(["Downloads", "Heap", "Heap/a", "Old disk/b"])
        put(one, f"{folder}/{name}.mkv", text=f"{number}")
        if chance.random() < 0.5:
            put(one, f"{folder}/{name}.{chance.choice(['srt', 'en.srt', 'nfo', 'jpg'])}", text=f"beside {number}")
    one.ok("scan")
    before = everything(one.root)
    one.run("intake", "Downloads", "--now")
    one.run("tidy", "--now")
    assert one.run("tidy", "--json").json["steps"] == []
    one.ok("scan")
    assert one.run("tidy", "--json").json["steps"] == []
    take_all_back(one)
    assert everything(one.root) == before
    shutil.rmtree(one.root)


def test_a_foreign_folder_of_ours_is_data(heap: Collection) -> None:
    put(heap, "Kits/Fennick Paper Co/Fog/.magpie/held/000001/1/p.jpg", "Kits/Fennick Paper Co/Fog/.magpie-view")
    put(heap, "Kits/Fennick Paper Co/Fog/p1.jpg")
    heap.ok("scan")
    found = {file["path"] for item in heap.ok("find", "--json").lines for file in item["files"]}
    assert "Kits/Fennick Paper Co/Fog/.magpie/held/000001/1/p.jpg" in found
    assert "Kits/Fennick Paper Co/Fog/p1.jpg" in found and not heap.ok("held", "--json").lines
    with zipfile.ZipFile(heap.root / "Downloads/x.zip", "w") as packed:
        packed.writestr("a.txt", "a")
    inner = Collection(heap.root / "Old/inner")
    inner.put("Heap/Kelp (2001).mkv")
    assert "one can't be inside another" in inner.ok("start", code=2).err
    (inner.root / "magpie.toml").write_text(CONFIG)
    inner.ok("scan")
    assert "is a collection of its own" in heap.run("scan").err
    assert not heap.ok("find", "kelp", "--json").lines


def test_a_scan_after_a_tidy_knows_what_a_full_scan_finds(tree: Callable[..., Collection]) -> None:
    paths = [
        "Old/Kinderserien/Wollewei/Staffel 1/Wollewei.S01E01.mkv",
        "Old/Kinderserien/Wollewei/Staffel 1/wollewei.s01.nfo",
        "Old/Quoll Designs/2013/MQ Sulky Possum 100mm.pes",
        "Old/Quoll Designs/2013/MQ Sulky Possum.xxx",
        "Old/Quoll Designs/Formats/Moth Study.pes",
        "Old/Quoll Designs/Formats/Moth Study.vp3",
        "Old/Films/A-L/Pit Pony Blues (1984) CD2.avi",
        "Old/Films/Pit Pony Blues (1984)/Pit Pony Blues (1984) - part 1.avi",
    ]
    collection = tree(paths, CONFIG)

    def known() -> dict[str, tuple[Any, ...]]:
        items = collection.ok("find", "--json").lines
        return {
            item["path"]: (item["kind"], item["state"], item["fields"], sorted(file["path"] for file in item["files"]))
            for item in items
        }

    collection.run("scan")
    collection.run("tidy", "--now")
    collection.run("scan")
    after = known()
    collection.run("scan", "--full")
    assert after and known() == after
