"""Whatever was done, in whatever order: taken back, everything is as it was, to the byte, time and attribute."""

from __future__ import annotations

import csv
import os
import random
import shutil
from collections.abc import Callable
from pathlib import Path

import pytest
from PIL import Image

from tests.conftest import CONFIG, Collection
from tests.heaps import LONG_AGO, put, zip_of

Act = Callable[[Collection, random.Random], None]


def everything(root: Path) -> dict[str, tuple[object, ...]]:
    """Return all there is of a person's: bytes, blocks, times, modes, owners, attributes, names of one file."""
    found: dict[str, tuple[object, ...]] = {}
    firsts: dict[tuple[int, int], str] = {}
    for top, folders, files in os.walk(root):
        if top == str(root):
            folders.remove(".magpie")
        for name in sorted((*folders, *files)):
            path = os.path.join(top, name)
            status = os.lstat(path)
            about = (status.st_mtime_ns, status.st_mode, status.st_uid, status.st_gid, _attributes(path))
            if os.path.islink(path):
                found[path] = ("link", os.readlink(path))
            elif os.path.isdir(path):
                found[path] = ("folder", *about)
            else:
                first = firsts.setdefault((status.st_dev, status.st_ino), path)
                found[path] = ("file", Path(path).read_bytes(), status.st_blocks, first, status.st_nlink, *about)
    return found


def _attributes(path: str) -> dict[str, bytes]:
    names = os.listxattr(path, follow_symlinks=False)
    return {name: os.getxattr(path, name, follow_symlinks=False) for name in names}


def a_life(root: Path, extra: str = "") -> Collection:
    """Make a collection with downloads, things on their shelves and beside them, and much that is easily lost."""
    config = CONFIG + f"[tags]\ninside = true\n[field.note]\n[root.attic]\nfolder = '{root.parent}/attic'\n" + extra
    (root.parent / "attic").mkdir(parents=True)
    (root.parent / "attic/Far (1961).mkv").write_text("far")
    root.mkdir(parents=True)
    (root / "magpie.toml").write_text(config)
    one = Collection(root)
    for name, members in {
        "fpc_Fog_Papers.zip": ("p1.jpg", "p2.jpg"),
        "fpc_Fog_Alpha.zip": ("A.png", "B.png"),
        "njetty_Gulls.zip": ("PES/gull1.pes", "PES/gull2.pes", "gull1.jpg", "chart.pdf"),
        "njetty_Gulls (1).zip": ("PES/gull1.pes", "PES/gull2.pes", "gull1.jpg", "chart.pdf"),
        "Nobody_Thing.zip": ("a.png", "b.png"),
        **{f"{game} (Europe).zip": (f"{game} (Europe).gb",) for game in ("Trawler", "Racer", "Lamp", "Tide", "Kite")},
    }.items():
        zip_of(
            one,
            name,
            {member: f"{member} of {name.removesuffix(' (1).zip').removesuffix('.zip')}" for member in members},
        )
    put(one, "Downloads/Tern.1999.1080p.WEB.mkv", "Downloads/Tern.1999.1080p.WEB.en.srt", "Downloads/Gull S01E02.mkv")
    put(one, "Heap/Kelp (2001).mkv", "Heap/Kelp (2001).en.srt", "Heap/deep/er/Oar (1950).mkv", "Heap/Net S02E03.avi")
    put(one, "Films/Hob (1970)/Hob (1970).mkv", "Films/Hob (1970)/cover.jpg")
    put(one, "Heap/copy of Hob (1970).mkv", "Old/Hob (1970).mkv", text="Films/Hob (1970)/Hob (1970).mkv")
    (root / "Heap/empty/folder").mkdir(parents=True)
    os.link(root / "Heap/Kelp (2001).mkv", root / "Heap/second name.bin")
    os.symlink("Kelp (2001).mkv", root / "Heap/a link")
    Image.new("RGB", (8, 8), "red").save(root / "Heap/kite.jpg")
    with open(root / "Heap/Sparse (1980).mkv", "wb") as file:
        file.truncate(1 << 20)
        file.seek(1 << 19)
        file.write(b"in the middle")
    os.chmod(root / "Heap/deep/er", 0o2750)
    os.chown(root / "Heap/deep/er", 12, 34) if os.geteuid() == 0 else None
    os.setxattr(root / "Heap/deep/er", "user.note", b"of a folder \xff")
    os.setxattr(root / "Heap/Kelp (2001).mkv", "user.xdg.tags", b"seen , old,,seen")
    for top, folders, files in os.walk(root, topdown=False):
        for name in (*folders, *files):
            os.utime(os.path.join(top, name), (LONG_AGO, LONG_AGO), follow_symlinks=False)
    one.ok("scan")
    return one


def _planned(*words: str) -> Act:
    return lambda one, chance: _run(one, *words, "--now")


def _run(one: Collection, *words: str) -> None:
    answer = one.run(*words)
    assert answer.code in (0, 1, 2), (words, answer)
    assert "Something went wrong" not in answer.err, (words, answer)


def _by_csv(one: Collection, chance: random.Random) -> None:
    path = one.root.parent / f"plan-{chance.random()}.csv"
    _run(one, chance.choice(["tidy", "intake"]), "--save", str(path))
    if path.exists():
        _run(one, "apply", str(path))


def _restored(one: Collection, chance: random.Random) -> None:
    if held := one.ok("held", "--json").lines:
        _run(one, "held", "restore", chance.choice(held)["from"])


def _settled(one: Collection, chance: random.Random) -> None:
    found = one.ok("find", "--json").lines
    item = chance.choice(found)
    _run(one, "settle", item["path"], "--set", chance.choice(["year=1985", "title=Other", "maker=Needle Jetty"]))


def _tagged(one: Collection, chance: random.Random) -> None:
    item = chance.choice(one.ok("find", "--json").lines)
    _run(one, "tag", chance.choice(["put", "drop"]), chance.choice(["seen", "kites", "old"]), item["path"])


def _sheet(one: Collection, chance: random.Random) -> None:
    path = one.root.parent / f"sheet-{chance.random()}.csv"
    _run(one, "sheet", "make", str(path))
    with open(path, newline="", encoding="utf-8-sig") as file:
        head, *rows = list(csv.reader(file))
    row = chance.choice(rows)
    row[head.index("note")] = chance.choice(["mended", "lent"])
    with open(path, "w", newline="", encoding="utf-8") as file:
        csv.writer(file).writerows([head, *rows])
    _run(one, "sheet", "take", str(path), "--now")


def _away(one: Collection, chance: random.Random) -> None:
    """Pull a drive out, or put it back in."""
    here, away = one.root.parent / "attic", one.root.parent / "in a drawer"
    (here if here.exists() else away).rename(away if here.exists() else here)
    _run(one, "scan")


ACTS: dict[str, Act] = {
    "sheet": _sheet,
    "drive": _away,
    "intake": _planned("intake", "Downloads"),
    "intake of the inbox": _planned("intake", "Inbox"),
    "tidy": _planned("tidy"),
    "hold": _planned("copies", "--hold", "--keep", "folder:Films,shelved,older"),
    "link": _planned("copies", "--link", "--keep", "folder:Films,shelved,older"),
    "tag": _tagged,
    "settle": _settled,
    "view": _planned("view", "make", "films", "kind", "is", "movie"),
    "hard view": lambda one, chance: _run(
        one, "view", "make", "games", "kind", "is", "game", "--links", "hard", "--now"
    ),
    "refresh": _planned("view", "refresh"),
    "drop view": lambda one, chance: _run(one, "view", "drop", chance.choice(["films", "games"]), "--now"),
    "csv": _by_csv,
    "restore": _restored,
    "scan": lambda one, chance: _run(one, "scan"),
    "undo": lambda one, chance: _run(one, "undo"),
    "redo": lambda one, chance: _run(one, "redo"),
}


def take_all_back(one: Collection) -> None:
    """Undo whatever is in effect, and expect that every step of it comes back."""
    for _ in range(60):
        answer = one.run("undo", "--json")
        if answer.code == 2:
            return
        assert answer.code == 0, answer
    raise AssertionError("there was no end of it")


@pytest.mark.parametrize("archives", ["beside", "aside", "hold", "hold all"])
def test_two_archives_intake_tidy_undo_undo(tmp_path: Path, archives: str) -> None:
    one = a_life(tmp_path / "one", f'[intake]\narchives = "{archives}"\n')
    before = everything(one.root)
    one.run("intake", "Downloads", "--now")
    one.run("tidy", "--now")
    assert not one.run("tidy", "--json").json["steps"]
    take_all_back(one)
    assert everything(one.root) == before


@pytest.mark.parametrize("seed", range(8))
def test_whatever_was_done_all_comes_back(tmp_path: Path, seed: int) -> None:
    assert whatever(tmp_path / str(seed), seed) == []


def whatever(root: Path, seed: int, most: int = 8) -> list[str]:
    """Do random things in random order, take all back; return what is not as it was."""
    chance = random.Random(seed)
    one = a_life(root / "one", f'[intake]\narchives = "{chance.choice(["beside", "aside", "hold", "hold all"])}"\n')
    before = everything(one.root)
    done = [chance.choice(list(ACTS)) for _ in range(chance.randrange(2, most))]
    for name in done:
        ACTS[name](one, chance)
    take_all_back(one)
    after = everything(one.root)
    wrong = [path for path in before.keys() | after.keys() if before.get(path) != after.get(path)]
    shutil.rmtree(root)
    return [f"{done}: {path}: {before.get(path)} now {after.get(path)}" for path in sorted(wrong)]
