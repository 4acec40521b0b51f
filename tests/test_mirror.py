"""Mirrors: every difference has its state, refreshing leaves none, undo brings the mirror back, rot is mended."""

from __future__ import annotations

import html
import os
import random
import shutil
import subprocess
from collections.abc import Callable
from pathlib import Path

import bagit
import pytest

from lazy_magpie.model.stamps import is_kept_time
from tests.conftest import CONFIG, Collection, picture

Tree = Callable[..., Collection]


def _states(here: Collection, mirror: Path, *words: str) -> dict[str, str]:
    lines = here.run("mirror", str(mirror), "--json", *words).lines
    return {one["path"]: one["state"] for one in lines}


def _files(root: Path) -> dict[str, object]:
    """Return contents, times and modes of all files and links, without those of the collection itself."""
    return {path: what for path, what in picture(root).items() if what[0] != "folder" and path != "magpie.toml"}


def _rot(file: Path) -> None:
    """Flip a bit, and put the time back."""
    status = file.stat()
    data = bytearray(file.read_bytes())
    data[len(data) // 2] ^= 4
    file.write_bytes(data)
    os.utime(file, ns=(status.st_atime_ns, status.st_mtime_ns))


@pytest.fixture
def pair(tree: Tree, tmp_path: Path) -> tuple[Collection, Path]:
    here = tree([f"Films/Kelp {number} (2001)/Kelp {number} (2001).mkv" for number in range(5)], CONFIG)
    (here.root / "Films/link").symlink_to("Kelp 1 (2001)")
    here.ok("scan")
    mirror = tmp_path / "backup"
    shutil.copytree(here.root, mirror, symlinks=True, ignore=shutil.ignore_patterns(".magpie"))
    return here, mirror


def test_each_difference_has_its_state(pair: tuple[Collection, Path]) -> None:
    here, mirror = pair
    assert _states(here, mirror) == {}
    assert "The same on both sides: 7 files" in here.ok("mirror", str(mirror)).out
    (mirror / "Films/Kelp 0 (2001)/Kelp 0 (2001).mkv").unlink()
    (mirror / "Films/extra.txt").write_text("only there")
    (mirror / "Films/Kelp 1 (2001)").rename(mirror / "Films/Kelp one")
    (here.root / "Films/Kelp 2 (2001)/Kelp 2 (2001).mkv").write_text("a newer one, of another size")
    assert _states(here, mirror) == {
        "Films/Kelp 0 (2001)/Kelp 0 (2001).mkv": "missing there",
        "Films/Kelp 1 (2001)/Kelp 1 (2001).mkv": "renamed",
        "Films/Kelp 2 (2001)/Kelp 2 (2001).mkv": "differs",
        "Films/extra.txt": "extra there",
    }
    rows = here.ok("mirror", str(mirror), "--csv", code=1).out.splitlines()
    assert rows[0] == "state,path,other,why"
    assert "differs,Films/Kelp 2 (2001)/Kelp 2 (2001).mkv,,the one here is newer" in rows
    page = mirror.parent / "mirror.html"
    here.ok("mirror", str(mirror), "--page", str(page), code=1)
    assert all(html.escape(path) in page.read_text() for path in _states(here, mirror))
    assert "A page is HTML" in here.ok("mirror", str(mirror), "--page", "page.txt", code=2).err
    assert "There is no mirror" in here.ok("mirror", "nowhere", code=2).err
    assert "its own mirror" in here.ok("mirror", str(here.root), code=2).err


def test_what_is_written_anew_within_a_second_is_refreshed(pair: tuple[Collection, Path]) -> None:
    """By size and time alone: the sizes are the same, and the times a tenth of a second apart."""
    here, mirror = pair
    path = "Films/Kelp 1 (2001)/Kelp 1 (2001).mkv"
    time = 1_600_000_000_123_456_789
    for root, text, moment in ((mirror, "first", time), (here.root, "again", time + 100_000_000)):
        (root / path).write_text(text)
        os.utime(root / path, ns=(moment, moment))
    here.ok("scan")
    assert _states(here, mirror) == {path: "differs"}
    here.ok("mirror", str(mirror), "--refresh", "--now")
    assert (mirror / path).read_text() == "again" and _states(here, mirror) == {}


@pytest.mark.parametrize(
    ("kept", "apart", "same"),
    [
        (1_600_000_000_000_000_000, 1_999_999_999, True),  # FAT
        (1_600_000_000_000_000_000, 3_600_000_000_000 - 5, True),  # FAT, in summer
        (1_600_000_000_000_000_000, 2_000_000_001, False),
        (1_600_000_001_000_000_000, 900_000_000, True),  # a drive that keeps seconds
        (1_600_000_001_000_000_000, 3_600_000_000_000, False),
        (1_600_000_000_130_000_000, 9_999_999, True),  # exFAT
        (1_600_000_000_130_000_000, 20_000_000, False),
        (1_600_000_000_123_456_700, 89, True),  # NTFS
        (1_600_000_000_123_456_789, 1, False),
        (1_600_000_000_123_456_789, 0, True),
    ],
)
def test_times_are_one_as_coarsely_as_the_drive_keeps_them(kept: int, apart: int, same: bool) -> None:
    assert is_kept_time(kept + apart, kept) is same
    assert is_kept_time(kept - apart, kept) is same


@pytest.mark.parametrize("seed", range(25))
def test_after_refreshing_nothing_differs_and_undo_brings_the_mirror_back(
    tree: Tree, tmp_path: Path, seed: int
) -> None:
    chosen = random.Random(seed)
    names = [
        f"{folder}/{name}" for folder in ("a", "a/b", "c", "d e") for name in ("one.mkv", "two.srt", "drei ü.mp3", "x")
    ]
    here = tree([], CONFIG)
    for name in names:
        here.put(name, text=f"{name} {chosen.random()}" * chosen.randint(1, 30))
    mirror = tmp_path / "backup"
    shutil.copytree(here.root, mirror, ignore=shutil.ignore_patterns(".magpie"))
    for top in (here.root, mirror):
        _edit(top, chosen)
    here.ok("scan")
    before, wanted = picture(mirror), _files(here.root)
    here.run("mirror", str(mirror), "--refresh", "--now")
    assert _states(here, mirror) == {}
    assert _files(mirror) == wanted
    assert _files(here.root) == wanted
    if picture(mirror) != before:
        here.ok("undo")
    assert picture(mirror) == before


def _edit(top: Path, chosen: random.Random) -> None:
    """Change a tree at random: new, changed, gone, renamed files, names that change places, folders that move."""
    for _ in range(chosen.randint(0, 6)):
        files = sorted(path for path in top.rglob("*") if path.is_file() and ".magpie" not in path.parts
                       and path.name != "magpie.toml")  # fmt: skip
        if not files:
            return
        file, other = chosen.choice(files), chosen.choice(files)
        match chosen.randrange(7):
            case 0:
                (file.parent / f"new {chosen.random()}").write_text(f"new {chosen.random()}")
            case 1:
                file.write_text(f"changed {chosen.random()}")
            case 2:
                file.unlink()
            case 3:
                file.rename(file.with_name(f"renamed {chosen.randrange(99)}"))
            case 4 if file != other:
                aside = file.with_name("aside")
                file.rename(aside)
                other.rename(file)
                aside.rename(other)
            case 5:
                folder = chosen.choice(sorted({path.parent for path in files} - {top}))
                folder.rename(folder.with_name(f"folder {chosen.randrange(99)}"))
            case _:
                target = file.parent / f"link {chosen.randrange(99)}"
                if not target.is_symlink():
                    target.symlink_to(file.name)


def test_a_rename_copies_nothing(pair: tuple[Collection, Path]) -> None:
    here, mirror = pair
    (here.root / "Films").rename(here.root / "Movies")
    here.ok("scan")
    plan = here.ok("mirror", str(mirror), "--refresh", "--json").json
    assert {step["do"] for step in plan["steps"]} <= {"make", "move", "drop", "send", "hold"}
    copied = [step for step in plan["steps"] if step["do"] == "send"]
    assert [Path(step["from"]).name for step in copied] == ["link"]  # a link has no contents to know it by
    here.ok("apply")
    assert _states(here, mirror) == {}


def test_rot_on_either_side_is_found_by_contents_and_mended(pair: tuple[Collection, Path]) -> None:
    here, mirror = pair
    assert _states(here, mirror, "--contents") == {}
    films = [f"Films/Kelp {number} (2001)/Kelp {number} (2001).mkv" for number in range(5)]
    good = (here.root / films[0]).read_bytes()
    _rot(here.root / films[0])
    _rot(mirror / films[1])
    for top in (here.root, mirror):
        _rot(top / films[2])
    (here.root / films[3]).unlink()
    assert _states(here, mirror) == {films[3]: "extra there"}
    assert _states(here, mirror, "--contents") == {
        films[0]: "rotten here", films[1]: "rotten there", films[3]: "extra there",
    }  # fmt: skip
    assert here.ok("check", "--contents", "--rule", "rotten", "--json", code=1).lines[0]["path"] == films[0]
    plan = here.ok("mirror", str(mirror), "--restore", "Films", "--json", code=1).json
    assert [one["path"] for one in plan["left"]] == [films[2]]
    here.ok("apply")
    assert (here.root / films[0]).read_bytes() == good
    assert (here.root / films[3]).read_text() == films[3]
    here.ok("undo")
    assert (here.root / films[0]).read_bytes() != good
    here.ok("redo")
    here.run("mirror", str(mirror), "--contents", "--refresh", "--now")
    assert (mirror / films[1]).read_bytes() == (here.root / films[1]).read_bytes()


def test_what_is_rotten_here_never_goes_to_the_mirror(pair: tuple[Collection, Path]) -> None:
    here, mirror = pair
    here.ok("mirror", str(mirror), "--contents")
    film = "Films/Kelp 0 (2001)/Kelp 0 (2001).mkv"
    before = (mirror / film).read_bytes()
    _rot(here.root / film)
    plan = here.ok("mirror", str(mirror), "--contents", "--refresh", "--json", code=1).json
    assert plan["steps"] == []
    assert (mirror / film).read_bytes() == before


def test_a_mirror_may_hold_a_part_and_keep_what_is_extra(tree: Tree, tmp_path: Path) -> None:
    mirror = tmp_path / "backup"
    mirror.mkdir()
    config = f'{CONFIG}[mirror.small]\nfolder = "{mirror}"\nitems = "kind is game"\n'
    here = tree(["Games/gb/Gull (World).gb", "Films/Kelp (2001)/Kelp (2001).mkv"], config)
    (mirror / "letter.txt").write_text("kept")
    here.ok("scan")
    here.ok("mirror", "small", "--refresh", "--keep-extra", "--now")
    assert set(_files(mirror)) == {"Games/gb/Gull (World).gb", "letter.txt"}
    here.run("check", "--contents")
    shutil.copytree(here.root / "Films", mirror / "Films")
    assert here.ok("mirror", "small", "--restore", "Films", "Games", "--json").json["steps"] == []  # all is here
    shutil.rmtree(mirror / "Films")
    mirror.rename(tmp_path / "elsewhere")
    assert _states(here, mirror) == {"letter.txt": "extra there"}  # known wherever it is
    shutil.rmtree(tmp_path / "elsewhere")
    assert "is away" in here.ok("mirror", "small", code=2).err


def test_a_folder_left_alone_in_the_collection_can_be_a_mirror(tree: Tree) -> None:
    here = tree(["Films/Kelp (2001)/Kelp (2001).mkv"], CONFIG + '[mirror.own]\nfolder = "Backup old"\n')
    (here.root / "Backup old").mkdir()
    here.ok("scan")
    here.ok("mirror", "own", "--refresh", "--now")
    assert (here.root / "Backup old/Films/Kelp (2001)/Kelp (2001).mkv").exists()
    assert _states(here, here.root / "Backup old") == {}


def test_what_is_written_for_life_without_magpie_is_read_by_others(tree: Tree, tmp_path: Path) -> None:
    names = ("Kelp (2001)/Kelp (2001).mkv", "Tern [1999]/100 % ü.mkv", "a\nb.mkv", "b\\c.mkv")
    here = tree([f"Films/{name}" for name in names], CONFIG)
    here.ok("scan")
    out = tmp_path / "kites.sha256"
    here.ok("mirror", str(out), "--write", "sha256")
    command = ["sha256sum", "-c", "--strict", str(out)]
    run = subprocess.run(command, cwd=here.root, capture_output=True, text=True, check=False)
    assert run.returncode == 0, run.stderr
    assert run.stdout.count(": OK") == 4
    shutil.copy(out, here.root / "kites.sha256")
    assert "4 files, 0 not as listed" in here.ok("mirror", str(here.root / "kites.sha256"), "--verify").out
    assert "is there already" in here.ok("mirror", str(out), "--write", "sha256", code=2).err
    bag = tmp_path / "bag"
    here.ok("mirror", str(bag), "--write", "bagit")
    assert bagit.Bag(str(bag)).is_valid()
    assert "4 files, 0 not as listed" in here.ok("mirror", str(bag), "--verify").out
    _rot(bag / "data/Films/Kelp (2001)/Kelp (2001).mkv")
    assert not bagit.Bag(str(bag)).is_valid()
    assert "Kelp (2001).mkv: is not what the list has" in here.ok("mirror", str(bag), "--verify", code=1).out
    assert "is there already" in here.ok("mirror", str(bag), "--write", "bagit", code=2).err
    some = tmp_path / "some"
    here.ok("mirror", str(some), "--write", "bagit", "--items", "kelp")
    assert {path.name for path in (some / "data").rglob("*.mkv")} == {"Kelp (2001).mkv"}


def test_times_modes_attributes_links_and_holes_are_as_they_are(tree: Tree, tmp_path: Path) -> None:
    here = tree([], CONFIG)
    mirror = tmp_path / "backup"
    mirror.mkdir()
    film = here.root / "Films/Kelp (2001).mkv"
    film.parent.mkdir()
    with film.open("wb") as file:
        file.seek(8 << 20)
        file.write(b"the end")
        file.truncate(20 << 20)
    film.chmod(0o640)
    os.utime(film, ns=(10**18, 10**18 + 123_456_789))
    (here.root / "Films/link").symlink_to("nowhere")
    here.ok("scan")
    here.ok("mirror", str(mirror), "--refresh", "--now")
    copied = mirror / "Films/Kelp (2001).mkv"
    assert copied.read_bytes() == film.read_bytes()
    assert (copied.stat().st_mode, copied.stat().st_mtime_ns) == (film.stat().st_mode, film.stat().st_mtime_ns)
    if film.stat().st_blocks * 512 < film.stat().st_size:  # this drive has holes
        assert copied.stat().st_blocks * 512 < 4 << 20
    assert os.readlink(mirror / "Films/link") == "nowhere"
    assert (mirror / "Films/link").lstat().st_mtime_ns == (here.root / "Films/link").lstat().st_mtime_ns


def test_what_does_not_decode_is_found_at_the_first_reading(demo: Collection) -> None:
    demo.ok("start")
    film = next(demo.root.rglob("Kelp Harvest (2001).mkv"))
    data = bytearray(film.read_bytes())
    data[len(data) // 2 : len(data) // 2 + 300] = bytes(300)
    film.write_bytes(data)
    kit = next(demo.root.rglob("*Elements.zip"))
    packed = bytearray(kit.read_bytes())
    packed[200] ^= 255
    kit.write_bytes(packed)
    demo.ok("scan")
    assert demo.run("check", "--contents", "--rule", "rotten", "--json").lines == []
    lines = demo.run("check", "--contents", "--decode", "--rule", "rotten", "--json").lines
    found = {Path(one["path"]).name for one in lines}
    assert {film.name, kit.name} <= found
    assert all("can't be decoded whole" in one["text"] for one in lines)
