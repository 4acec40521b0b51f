"""RAR archives: samples of all sorts come out right, and what is hostile or not whole is refused with a sentence."""

from __future__ import annotations

import random
import shutil
import zlib
from collections.abc import Callable
from pathlib import Path

import pytest

from lazy_magpie.change import Filesystem, Skip, contents
from lazy_magpie.change.archives import extract, rar_format, typed_password
from lazy_magpie.passwords import PASSWORDS
from lazy_magpie.split_archives import Cut, cuts_in
from tests.conftest import Collection, picture

Tree = Callable[..., Collection]
SAMPLES = Path(__file__).parent / "data/rar"
needs_unar = pytest.mark.skipif(not shutil.which("unar"), reason="unpacks RAR")
BIG, SMALL = 1352324940, 3498712966
"""The checksums that the samples in volumes list."""


@pytest.fixture(autouse=True)
def _no_passwords() -> None:
    PASSWORDS.use("", None)


@pytest.fixture
def rars(tree: Tree) -> Collection:
    """All samples in one folder."""
    collection = tree([], "")
    shutil.copytree(SAMPLES, collection.root / "Heap")
    collection.ok("scan")
    return collection


@needs_unar
def test_every_sample_comes_out_right(rars: Collection) -> None:
    before = picture(rars.root)
    for name in ("rar3-vols.part3.rar", "rar3-solid.rar", "rar3-subdirs.rar", "rar5-blake.rar", "rar5-crc.rar"):
        rars.ok("unpack", f"Heap/{name}", "--now")
    for name, size, crc in (("bigfile.txt", 205000, BIG), ("smallfile.txt", 2050, SMALL)):
        data = (rars.root / "Heap/vols" / name).read_bytes()
        assert (len(data), zlib.crc32(data)) == (size, crc)
    for folder in ("rar3-solid", "rar5-blake", "rar5-crc"):
        data = (rars.root / "Heap" / folder / "stest1.txt").read_bytes()
        assert (len(data), zlib.crc32(data)) == (2048, 3317163682)
    assert (rars.root / "Heap/sub/üȵĩöḋè/file.txt").read_text() == "file\n"[:5]
    assert not list((rars.root / "Heap").glob("rar3-vols*"))
    for _ in range(5):
        rars.ok("undo")
    assert picture(rars.root) == before


@needs_unar
def test_volumes_in_the_old_way_are_one_archive(rars: Collection) -> None:
    (one,) = rars.ok("find", "Heap/rar3-old.rar", "--json").lines
    assert [file["path"] for file in one["files"]] == [f"Heap/rar3-old.{end}" for end in ("rar", "r00", "r01")]
    rars.ok("unpack", "Heap/rar3-old.r00", "--now")
    assert "Heap/vols/bigfile.txt" in rars.files() and not list((rars.root / "Heap").glob("rar3-old*"))


@needs_unar
def test_a_password_is_taken_from_a_file_alone(rars: Collection, monkeypatch: pytest.MonkeyPatch) -> None:
    assert "no password" in rars.ok("unpack", "Heap/rar5-psw.rar", code=1).out
    secret = rars.root.parent / "words.txt"
    secret.write_text("wrong\npassword\n")
    (rars.root / "magpie.toml").write_text(f'[intake]\npasswords = "{secret}"\n')
    started: list[list[str]] = []
    real = typed_password.run_with_password

    def watched(command: list[str], *more: object) -> bool:
        started.append(command)
        return real(command, *more)  # type: ignore[arg-type]

    monkeypatch.setattr(rar_format, "run_with_password", watched)
    rars.ok("unpack", "Heap/rar5-psw.rar", "--now")
    assert "Heap/rar5-psw.rar" not in rars.files()  # held: unpacked once more, and compared
    assert (rars.root / "Heap/rar5-psw/stest1.txt").read_text().startswith("000\n")
    assert started and not any(word in command for command in started for word in ("password", "wrong", "-p"))
    for path in (rars.root / ".magpie").rglob("*"):
        assert "held" in path.parts or not path.is_file() or b"password\n" not in path.read_bytes()


@pytest.mark.parametrize("gone", ["rar3-vols.part2.rar", "rar3-vols.part3.rar", "rar3-old.r00", "rar3-old.r01"])
def test_a_volume_that_is_missing_is_said(rars: Collection, gone: str) -> None:
    (rars.root / "Heap" / gone).unlink()
    rars.ok("scan")
    first = "Heap/rar3-vols.part1.rar" if "vols" in gone else "Heap/rar3-old.rar"
    assert "missing" in rars.ok("unpack", first, code=1).out


def test_a_link_in_a_rar_is_refused(rars: Collection) -> None:
    assert "is a link" in rars.ok("unpack", "Heap/rar3-symlink-unix.rar", code=1).out


def test_without_a_program_one_sentence_says_what_to_install(rars: Collection, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(shutil, "which", lambda name: None)
    answer = rars.ok("unpack", "Heap/rar5-crc.rar", "--now", code=1)
    assert "install unar" in answer.out + answer.err
    assert "Heap/rar5-crc.rar" in rars.files()


@pytest.mark.parametrize("name", ["rar3-solid.rar", "rar5-crc.rar", "rar5-blake.rar", "rar3-subdirs.rar"])
@pytest.mark.parametrize("seed", range(6))
def test_a_patched_rar_is_refused_or_right(tmp_path: Path, name: str, seed: int) -> None:
    """Bytes changed anywhere: what comes out has the checksum that the archive lists, and lies where it should."""
    chance = random.Random(seed)
    data = bytearray((SAMPLES / name).read_bytes())
    for _ in range(chance.randrange(1, 4)):
        data[chance.randrange(7, len(data))] = chance.randrange(256)
    (tmp_path / name).write_bytes(data[: chance.choice([len(data), len(data), len(data) // 2])])
    disk = Filesystem(str(tmp_path))
    try:
        listed = contents(disk, name)
        extract.unpack(disk, [extract.Part(name)], "out")
    except (Skip, OSError):
        assert {path.name for path in tmp_path.iterdir()} <= {name, "out"}
        return
    for member, size, crc in zip(*listed, strict=True):
        out = (tmp_path / "out" / member).read_bytes()
        assert len(out) == size and (crc is None or zlib.crc32(out) == crc)


def test_names_of_volumes() -> None:
    assert cuts_in(["K.part1.rar", "K.part2.rar", "K.part4.rar"]) == [
        Cut("K.part1.rar", ("K.part1.rar", "K.part2.rar", "K.part4.rar"), 3)
    ]
    assert cuts_in(["K.rar", "K.r00", "K.r02"]) == [Cut("K.rar", ("K.rar", "K.r00", "K.r02"), 3)]
    assert cuts_in(["K.r00", "K.r01"])[0].missing == 1
    assert cuts_in(["song.s07", "K.rar"]) == []
