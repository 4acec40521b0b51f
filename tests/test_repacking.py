"""Unpacking and packing by hand: streams, locked archives, names in old encodings; zips always written the same way."""

from __future__ import annotations

import bz2
import gzip
import io
import os
import random
import tarfile
import tempfile
import zipfile
from collections.abc import Callable
from pathlib import Path

import py7zr
import pytest
from backports import zstd
from hypothesis import given, settings
from hypothesis import strategies as st

from lazy_magpie.change.archives.zip_writer import is_written_so, write_zip
from lazy_magpie.passwords import PASSWORDS
from tests.conftest import KITS, Collection, picture

Tree = Callable[..., Collection]
GAMES = '[shelf.games]\nkind = "game"\nfolder = "Games"\n'


@pytest.fixture(autouse=True)
def _no_passwords() -> None:
    PASSWORDS.use("", None)


# --- other forms -----------------------------------------------------------------------------------------------------


def _tar(members: dict[str, bytes], *, link: str = "") -> bytes:
    out = io.BytesIO()
    with tarfile.open(fileobj=out, mode="w") as packed:
        for name, data in members.items():
            info = tarfile.TarInfo(name)
            info.size = len(data)
            packed.addfile(info, io.BytesIO(data))
        if link:
            info = tarfile.TarInfo("link")
            info.type, info.linkname = tarfile.SYMTYPE, link
            packed.addfile(info)
    return out.getvalue()


def _zst(data: bytes) -> bytes:
    return zstd.compress(data)


def test_single_files_and_packed_tars(tree: Tree) -> None:
    collection = tree([], "")
    heap = collection.root / "Heap"
    heap.mkdir()
    for ending, pack in (("gz", gzip.compress), ("bz2", bz2.compress), ("zst", _zst)):
        (heap / f"{ending} notes.txt.{ending}").write_bytes(pack(b"tide " * 1000))
        (heap / f"set {ending}.tar.{ending}").write_bytes(pack(_tar({"a.txt": b"a", "in/b.txt": b"b" * 3_000_000})))
    collection.ok("scan")
    before = picture(collection.root)
    collection.ok("unpack", "Heap", "--now")
    assert collection.files() == {
        *(f"Heap/{ending} notes.txt" for ending in ("gz", "bz2", "zst")),
        *(f"Heap/set {ending}/{name}" for ending in ("gz", "bz2", "zst") for name in ("a.txt", "in/b.txt")),
    }
    assert (heap / "set zst/in/b.txt").read_bytes() == b"b" * 3_000_000
    collection.ok("undo")
    assert picture(collection.root) == before


@pytest.mark.parametrize(
    ("name", "data", "said"),
    [
        ("up.tar.zst", _zst(_tar({"../up.txt": b"x"})), "would land outside"),
        ("abs.tar.zst", _zst(_tar({"/tmp/abs.txt": b"x"})), "would land outside"),
        ("link.tar.zst", _zst(_tar({"a": b"x"}, link="/etc")), "is a link"),
        ("bomb.zst", _zst(b"\0" * (70 << 20)), "far more than its own size"),
        ("bomb.tar.zst", _zst(_tar({"a": b"\0" * (70 << 20)})), "far more than its own size"),
        ("cut.tar.zst", _zst(_tar({"a": os.urandom(200_000)}))[:-50_000], "damaged"),
        ("cut.txt.zst", _zst(os.urandom(200_000))[:-50_000], "damaged"),
        ("none.zst", b"\x28\xb5\x2f\xfd" + b"nothing", "damaged"),
        ("twice.tar", _tar({"a": b"1", "A": b"2"}), "two members"),
    ],
)
def test_hostile_streams_are_refused(tree: Tree, name: str, data: bytes, said: str) -> None:
    collection = tree([], "")
    (collection.root / name).write_bytes(data)
    collection.ok("scan")
    before = picture(collection.root)
    answer = collection.ok("unpack", name, "--now", code=1)
    assert said in answer.out and picture(collection.root) == before


def test_a_stream_that_lies_about_its_size(tree: Tree) -> None:
    """The frame says ten bytes, and holds more: what it says is not believed."""
    collection = tree([], "")
    data = bytearray(_zst(b"tide " * 50_000))
    at = data.index((250_000 - 0).to_bytes(4, "little"))
    data[at : at + 4] = (10).to_bytes(4, "little")
    (collection.root / "notes.txt.zst").write_bytes(data)
    collection.ok("scan")
    assert "damaged" in collection.ok("unpack", "notes.txt.zst", "--now", code=1).out
    assert collection.files() == {"notes.txt.zst"}


def test_encrypted_zip_and_7z_open_with_the_password(tree: Tree) -> None:
    collection = tree(["a.txt"], "")
    with py7zr.SevenZipFile(collection.root / "set.7z", "w", password="kite") as seven:
        seven.write(collection.root / "a.txt", "b.txt")
    collection.ok("scan")
    assert "no password" in collection.ok("unpack", "set.7z", code=1).out
    (collection.root / "words").write_text("wrong\nkite\n")
    (collection.root / "magpie.toml").write_text('[intake]\npasswords = "words"\n')
    collection.ok("unpack", "set.7z", "--now")
    assert (collection.root / "b.txt").read_text() == "a.txt"


def _old_zip(path: Path, names: list[str], encoding: str) -> None:
    """Write a zip whose names are bytes of an old encoding, and not marked as anything."""
    with zipfile.ZipFile(path, "w") as packed:
        for number, name in enumerate(names):
            packed.writestr(f"{number:03}{'x' * (len(name.encode(encoding)) - 3)}", name)
    data = path.read_bytes()
    for number, name in enumerate(names):
        raw = name.encode(encoding)
        data = data.replace(f"{number:03}{'x' * (len(raw) - 3)}".encode(), raw)
    path.write_bytes(data)


@pytest.mark.parametrize(
    ("encoding", "names"),
    [
        ("cp866", ["Змей над гаванью.txt", "Вечер фильмов.txt", "Список гостей клуба.txt"]),
        ("cp932", ["港の凧.txt", "映画の夕べ.txt", "会員名簿と規約.txt", "古いゲームの棚.txt"]),
        ("cp850", ["Ägypten.txt", "Über Öl.txt"]),
    ],
)
def test_names_in_an_old_encoding(tree: Tree, encoding: str, names: list[str]) -> None:
    collection = tree([], "")
    _old_zip(collection.root / "old.zip", names, encoding)
    collection.ok("scan")
    shown = collection.ok("unpack", "old.zip", "--names", encoding).out
    assert all(name in shown for name in names)  # seen before anything is done
    collection.ok("apply")
    assert collection.files() == {f"old/{name}" for name in names}
    collection.ok("undo")
    assert collection.files() == {"old.zip"}
    assert "There is no encoding" in collection.ok("unpack", "old.zip", "--names", "cp0", code=2).err
    if encoding == "cp866":
        assert all(name in collection.ok("unpack", "old.zip").out for name in names)  # and told by themselves


# --- packing ---------------------------------------------------------------------------------------------------------

PART = st.text(st.sampled_from("abÉ ."), min_size=1, max_size=4).map(lambda text: f"x{text}x")
MEMBERS = st.dictionaries(
    st.lists(PART, min_size=1, max_size=3).map("/".join),
    st.binary(max_size=300),
    min_size=1,
    max_size=6,
)  # fmt: skip


@given(MEMBERS, st.booleans(), st.randoms())
def test_the_same_files_make_the_same_zip(members: dict[str, bytes], store: bool, chance: random.Random) -> None:
    def zipped(names: list[str]) -> bytes:
        out = io.BytesIO()
        write_zip(out, [(name, lambda name=name: io.BytesIO(members[name])) for name in names], store=store)  # type: ignore[misc]
        return out.getvalue()

    names = list(members)
    first = zipped(names)
    chance.shuffle(names)
    assert zipped(names) == first and is_written_so(io.BytesIO(first), store=store)
    with zipfile.ZipFile(io.BytesIO(first)) as packed:
        assert {name: packed.read(name) for name in packed.namelist()} == members


@settings(max_examples=20)
@given(MEMBERS)
def test_packed_and_unpacked_is_what_it_was(members: dict[str, bytes]) -> None:
    clean = {}
    for name, data in members.items():
        if not any(
            other != name and (other.startswith(f"{name}/") or other.lower() == name.lower()) for other in members
        ):
            clean[name] = data
    with tempfile.TemporaryDirectory() as folder:
        collection = Collection(Path(folder))
        collection.put("magpie.toml", text="[collection]\n")
        for name, data in clean.items():
            file = collection.root / "Owl" / name
            file.parent.mkdir(parents=True, exist_ok=True)
            file.write_bytes(data)
        (collection.root / "Owl/empty").mkdir(parents=True, exist_ok=True)
        collection.ok("scan")
        before = {path: what[:2] for path, what in picture(collection.root).items()}
        collection.ok("pack", "Owl", "--now")
        assert collection.files() == {"Owl.zip"}
        collection.ok("undo")
        assert {path: what[:2] for path, what in picture(collection.root).items()} == before


def test_games_are_packed_one_by_one_and_again(tree: Tree) -> None:
    collection = tree([], GAMES)
    sheet = 'FILE "Gull (Track 1).bin" BINARY\n  TRACK 01 MODE1/2352\n    INDEX 01 00:00:00\n'
    collection.put("Games/Tern.gb", text="tern" * 500)
    collection.put("Games/Gull (Track 1).bin", "Games/Gull (Track 2).bin")
    collection.put("Games/Gull.cue", text=sheet)
    collection.ok("scan")
    before = picture(collection.root)
    collection.ok("pack", "kind", "is", "game", "--now")
    assert collection.files() == {"Games/Tern.zip", "Games/Gull.zip"}
    with zipfile.ZipFile(collection.root / "Games/Gull.zip") as packed:
        assert packed.namelist() == ["Gull (Track 1).bin", "Gull (Track 2).bin", "Gull.cue"]
    collection.ok("scan")
    assert "packed so already" in collection.ok("pack", "--again", "Games").out
    collection.ok("undo")
    assert picture(collection.root) == before


def test_archives_are_packed_again(tree: Tree) -> None:
    collection = tree([], "")
    with zipfile.ZipFile(collection.root / "Owl.zip", "w") as packed:
        packed.writestr("b.txt", "b" * 100)
        packed.writestr("a.txt", "a" * 100)
    with py7zr.SevenZipFile(collection.root / "Tern.7z", "w") as seven:
        seven.writestr("c" * 100, "c.txt")
    collection.ok("scan")
    before = picture(collection.root)
    collection.ok("pack", "--again", "Owl.zip", "Tern.7z", "--now")
    assert collection.files() == {"Owl.zip", "Tern.zip"}
    for name, members in (("Owl.zip", ["a.txt", "b.txt"]), ("Tern.zip", ["c.txt"])):
        with (collection.root / name).open("rb") as file, zipfile.ZipFile(file) as again:
            assert again.namelist() == members and is_written_so(file, store=False)
    collection.ok("undo")
    assert picture(collection.root) == before


def test_what_changed_since_the_plan_is_not_packed(tree: Tree) -> None:
    collection = tree(["Owl/a.txt", "Owl/b.txt"], KITS)
    collection.ok("scan")
    collection.ok("pack", "Owl")
    (collection.root / "Owl/a.txt").write_text("changed since")
    collection.ok("apply", code=1)
    assert collection.files() == {"Owl/a.txt", "Owl/b.txt"}
