"""Downloads that are hostile, damaged, in several volumes, called badly, or change meanwhile: nothing is lost."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import tarfile
import time
import zipfile
from collections.abc import Mapping
from pathlib import Path

import pytest

from lazy_magpie.change.failpoints import VARIABLE
from tests.conftest import CONFIG, Collection, picture, program
from tests.heaps import LONG_AGO, cut, paper, planned, put, split, taken_in, zip_of


def test_other_contents_under_one_name_are_shown_and_stay_in_their_archives(heap: Collection) -> None:
    zip_of(heap, "fpc_SeaMist_Papers1.zip", {"p.jpg": "one", "same.jpg": "same", "only.jpg": "1"})
    zip_of(heap, "fpc_SeaMist_Papers2.zip", {"p.jpg": "two!", "same.jpg": "same"})
    plan = planned(heap, code=1)
    (conflict,) = plan["conflicts"]
    assert conflict["to"] == "Kits/Fennick Paper Co/Sea Mist/p.jpg" and len(conflict["items"]) == 2
    files = taken_in(heap, code=1)
    assert {path for path in files if path.startswith("Kits")} == {
        "Kits/Fennick Paper Co/Sea Mist/same.jpg",
        "Kits/Fennick Paper Co/Sea Mist/only.jpg",
    }
    assert {"Downloads/fpc_SeaMist_Papers1.zip", "Downloads/fpc_SeaMist_Papers2.zip"} <= files


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
    path = zip_of(heap, "fpc_SeaMist_Papers.zip", HOSTILE.get(sort, {"p.png": "paper " * 99}))
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
        zip_of(heap, f"fpc_SeaMist_Papers{part}.zip", {f"p{part}-{n}.jpg": f"{part} {n}" for n in range(10)})
    before = picture(heap.root)
    number = planned(heap)["plan"]
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


@pytest.mark.parametrize("at", ["unpack-member:3", "step-done:4", "step-done:5", "step-done:6", "batch-done:2"])
def test_killed_between_the_volumes_of_an_archive_all_of_them_go_or_stay(heap: Collection, at: str) -> None:
    """Where only some volumes are held when it is killed, the next command and a redo bring all of them there."""
    (heap.root / "magpie.toml").write_text(CONFIG + '[intake]\narchives = "hold"\n')
    path = zip_of(heap, "fpc_SeaMist_Papers.zip", {f"p{n}.jpg": f"{n}" * 400 for n in range(6)})
    volumes = {f"Downloads/{volume.name}" for volume in split(path, 900)}
    before = picture(heap.root)
    number = planned(heap)["plan"]
    assert program("-C", str(heap.root), "apply", str(number), env={VARIABLE: at}).code == -9
    heap.ok("scan")
    heap.run("redo")
    kit = {path for path in heap.files() if path.startswith("Kits/Fennick Paper Co/Sea Mist/")}
    assert len(kit) == 6 and not volumes & heap.files()
    heap.ok("undo")
    assert picture(heap.root) == before


def test_no_more_is_unpacked_than_there_is_room_for(heap: Collection) -> None:
    small = heap.root / "Kits"
    small.mkdir()
    mounted = subprocess.run(["mount", "-t", "tmpfs", "-o", "size=2m", "tmpfs", str(small)], check=False)
    if mounted.returncode:
        pytest.skip("only root can mount a second file system")
    try:
        zip_of(heap, "fpc_SeaMist_Papers.zip", {"p.jpg": os.urandom(3 << 20)})
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
    path = zip_of(heap, "fpc_SeaMist_Papers.zip", {"x" * len(raw): "p"})
    path.write_bytes(path.read_bytes().replace(b"x" * len(raw), raw))
    os.utime(path, (LONG_AGO, LONG_AGO))
    assert f"Kits/Fennick Paper Co/Sea Mist/{name}" in taken_in(heap)


def test_a_damaged_document_or_one_of_an_unknown_maker_settles_nothing(heap: Collection, tmp_path: Path) -> None:
    zip_of(heap, "GustyDay_Papers.zip", {"p1.jpg": "1", "about.pdf": b"%PDF-1.4\nno more than that"})
    zip_of(heap, "FoggyDay_Papers.zip", {"p1.jpg": "1", "about.pdf": paper(tmp_path, author="Nobody in Particular")})
    files = taken_in(heap, code=1)
    assert {"Inbox/GustyDay_Papers.zip", "Inbox/FoggyDay_Papers.zip"} <= files


def test_downloads_with_hard_names_are_taken_or_left_with_a_reason_and_come_back(heap: Collection) -> None:
    pages = {"a.jpg": "a", "b.jpg": "b"}
    zip_of(heap, "fpc_Fog 🪁\nBank.zip", pages)
    zip_of(heap, "fpc_" + "x" * 247 + ".zip", pages)
    os.rename(
        zip_of(heap, "plain.zip", pages), os.path.join(os.fsencode(heap.root), b"Downloads", b"fpc_caf\xe9_Papers.zip")
    )
    (heap.root / "Downloads/fpc_Empty.zip").touch()
    os.utime(heap.root / "Downloads/fpc_Empty.zip", (LONG_AGO, LONG_AGO))
    before = picture(heap.root)
    plan = planned(heap, code=1)
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
        zip_of(heap, name, {"a.jpg": "a", "b.jpg": "b"})
    answer = heap.ok("intake", "Downloads", "--now")
    assert "2 files to unpack" in answer.out and "there twice" in answer.out
    maker = "Kits/Fennick Paper Co"
    (kept,) = {path for path in heap.files() if path.endswith(".zip")}
    assert kept.startswith(f"{maker}/fpc_GustyDay_Papers")
    assert heap.files() == {kept, f"{maker}/Gusty Day/a.jpg", f"{maker}/Gusty Day/b.jpg"}
    assert len(heap.ok("held", "--json").lines) == 1


def test_copies_in_two_folders_of_downloads_are_not_taken_for_one_another(heap: Collection) -> None:
    for folder in ("Downloads", "More"):
        put(heap, f"{folder}/The Gullwick Ferry (1974).mkv", text="film")
    heap.ok("scan")
    assert "there twice: “Downloads/The Gullwick" in heap.ok("intake", "Downloads", "More", "--now").out
    films = {path for path in heap.files() if path.startswith("Films/")}
    assert len(films) == 1 and "More/The Gullwick Ferry (1974).mkv" in heap.files()
    answer = heap.ok("intake", "More")
    assert f"already there: “{films.pop()}”" in answer.out


def test_an_archive_that_changes_after_the_plan_stays_and_nothing_of_it_is_taken(heap: Collection) -> None:
    zip_of(heap, "fpc_GustyDay_Papers.zip", {"a.jpg": "a", "b.jpg": "b"})
    zip_of(heap, "fpc_Fog_Papers.zip", {"c.jpg": "c"})
    planned(heap)
    zip_of(heap, "fpc_GustyDay_Papers.zip", {"a.jpg": "another", "b.jpg": "b"})
    answer = heap.ok("apply", code=1)
    assert "it has changed since the plan was made" in answer.out
    files = heap.files()
    assert "Downloads/fpc_GustyDay_Papers.zip" in files and "Kits/Fennick Paper Co/Fog/c.jpg" in files
    assert not any("Gusty Day" in path for path in files)
    assert "Kits/Fennick Paper Co/Gusty Day/a.jpg" in taken_in(heap)


def test_one_that_watches_lets_others_work_and_ends_with_ctrl_c(heap: Collection) -> None:
    zip_of(heap, "fpc_Fog_Papers.zip", {"c.jpg": "c"})
    command = [str(Path(sys.executable).with_name("magpie")), "intake", "Downloads", "--now", "--watch"]
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
    assert "exclude each other" in heap.ok("intake", "Downloads", "--watch", "--now", "--save", "x.csv", code=2).err


def test_two_films_that_want_one_name_both_stay_with_what_is_theirs(heap: Collection) -> None:
    for folder, text in (("Downloads", "one film"), ("More", "another film")):
        put(heap, f"{folder}/The Gullwick Ferry (1974).mkv", text=text)
        put(heap, f"{folder}/The Gullwick Ferry (1974).en.srt", text=text)
    put(heap, "Downloads/Slack Water (1951).mkv", text="film")
    before = heap.files()
    plan = heap.ok("intake", "Downloads", "More", "--json", code=1).json
    (conflict,) = plan["conflicts"]
    assert len(conflict["items"]) == 2 and conflict["why"] == "their contents differ"
    moved = [step["from"] for step in plan["steps"] if step["do"] == "move"]
    assert moved == ["Downloads/Slack Water (1951).mkv"]
    heap.ok("apply")
    assert len(heap.files() - before) == 1


def test_a_volume_that_changes_after_the_plan_keeps_the_archive_packed(heap: Collection) -> None:
    volumes = cut(zip_of(heap, "fpc_GustyDay_Papers.zip", {"a.jpg": "a" * 900, "b.jpg": "b" * 900}), 800)
    planned(heap)
    volumes[1].write_bytes(b"other")
    assert "it has changed since the plan was made" in heap.ok("apply", code=1).out
    assert heap.files() == {f"Downloads/{volume.name}" for volume in volumes}


def test_a_directory_that_says_otherwise_than_its_members_takes_nothing(heap: Collection) -> None:
    """An archive whose directory was changed after the fact: what it lists is there, or it stays as it is."""
    path = zip_of(heap, "fpc_GustyDay_Papers.zip", {"a.jpg": "a" * 50, "b.jpg": "b" * 50})
    data = path.read_bytes()
    at = data.rindex(b"b.jpg")
    path.write_bytes(data[:at] + b"c.jpg" + data[at + 5 :])
    os.utime(path, (LONG_AGO, LONG_AGO))
    heap.ok("intake", "Downloads", "--now", code=1)
    assert heap.files() == {"Downloads/fpc_GustyDay_Papers.zip"}
