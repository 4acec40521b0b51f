"""Archives and other forms by hand: unpack (RAR, Zstandard, single files), pack, convert; hostile ones too."""

from __future__ import annotations

import bz2
import gzip
import io
import json
import os
import random
import shutil
import signal
import subprocess
import sys
import tarfile
import tempfile
import time
import zipfile
import zlib
from collections.abc import Callable
from pathlib import Path

import py7zr
import pytest
from backports import zstd
from hypothesis import given, settings
from hypothesis import strategies as st

from lazy_magpie.change import Filesystem, Skip, contents
from lazy_magpie.change.archives import extract, rar_format, typed_password
from lazy_magpie.change.archives.zip_writer import is_written_so, write_zip
from lazy_magpie.change.failpoints import VARIABLE
from lazy_magpie.passwords import PASSWORDS
from lazy_magpie.split_archives import Cut, cuts_in
from tests.conftest import KITS, Collection, picture, program

Tree = Callable[..., Collection]
SAMPLES = Path(__file__).parent / "data/rar"
needs_unar = pytest.mark.skipif(not shutil.which("unar"), reason="unpacks RAR")
BIG, SMALL = 1352324940, 3498712966
"""The checksums that the samples in volumes list."""
GAMES = '[shelf.games]\nkind = "game"\nfolder = "Games"\n'
DISCPACK = [sys.executable, "-m", "lazy_magpie.demo.disc_packer"]


def _quoted(words: list[str]) -> str:
    return "[" + ", ".join(f'"{word}"' for word in words) + "]"


CONVERT = (
    f'{GAMES}[convert.discs]\ntakes = ["cue"]\nmakes = "gdisc"\n'
    f"command = {_quoted([*DISCPACK, '{source}', '{result}'])}\n"
)
PROVED = CONVERT + f"back = {_quoted([*DISCPACK, '--extract', '{source}', '{result}'])}\n"


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


# --- RAR -------------------------------------------------------------------------------------------------------------


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


# --- converting ------------------------------------------------------------------------------------------------------


@pytest.fixture
def discs(tree: Tree) -> Collection:
    """Twenty discs in two parts, and a play list of two."""
    collection = tree([], PROVED)
    for number in range(20):
        parts = [f"Gull {number} (Track {track}).bin" for track in (1, 2)]
        for part in parts:
            collection.put(f"Games/{part}", text=part * 100)
        lines = [
            f'FILE "{part}" BINARY\n  TRACK 0{at} MODE1/2352\n    INDEX 01 00:00:00\n'
            for at, part in enumerate(parts, 1)
        ]
        collection.put(f"Games/Gull {number}.cue", text="".join(lines))
    collection.put("Games/all.m3u", text="Gull 0.cue\nGull 1.cue\n")
    collection.ok("scan")
    return collection


def _convert(collection: Collection, *words: str, code: int = 0) -> str:
    answer = collection.ok("convert", "kind", "is", "game", "--by", "discs", "--now", *words, code=code)
    return answer.out + answer.err


def test_discs_become_one_file_each_and_come_back(discs: Collection) -> None:
    before = picture(discs.root)
    _convert(discs)
    assert discs.files() == {"Games/all.m3u", *(f"Games/Gull {number}.gdisc" for number in range(20))}
    assert (discs.root / "Games/all.m3u").read_text() == "Gull 0.gdisc\nGull 1.gdisc\n"
    discs.ok("scan")
    assert "Nothing to convert" in _convert(discs)
    discs.ok("undo")
    assert picture(discs.root) == before


def test_a_game_on_several_discs_is_a_file_a_disc(tree: Tree) -> None:
    collection = tree([], PROVED)
    for disc in (1, 2, 3):
        collection.put(f"Games/Gull (Disc {disc}).bin")
        sheet = f'FILE "Gull (Disc {disc}).bin" BINARY\n  TRACK 01 MODE1/2352\n    INDEX 01 00:00:00\n'
        collection.put(f"Games/Gull (Disc {disc}).cue", text=sheet)
    collection.ok("scan")
    _convert(collection)
    assert collection.files() == {f"Games/Gull (Disc {disc}).gdisc" for disc in (1, 2, 3)}


def test_all_files_of_a_thing_become_one_where_the_program_takes_all(tree: Tree) -> None:
    collection = tree(["Games/Gull (Disc 1).bin", "Games/Gull (Disc 2).bin"], "")
    command = ["sh", "-c", 'out=$1; shift; cat "$@" > "$out"', "join", "{result}", "{sources}"]
    text = GAMES + f'[convert.discs]\ntakes = ["bin"]\nmakes = "all"\ncommand = {json.dumps(command)}\n'
    (collection.root / "magpie.toml").write_text(text)
    collection.ok("scan")
    _convert(collection, "--trust")
    (one,) = collection.files()
    assert (collection.root / one).read_text() == "Games/Gull (Disc 1).binGames/Gull (Disc 2).bin"


def test_a_sheet_that_is_named_besides_is_no_thing_of_its_own(discs: Collection) -> None:
    paths = sorted(path for path in discs.files() if "Gull 7" in path)
    plan = discs.ok("convert", *paths, "--by", "discs", "--json").json
    assert [step["do"] for step in plan["steps"]] == ["convert", "hold", "hold", "hold"]
    plan = discs.ok("pack", *paths, "--json").json
    assert [step["do"] for step in plan["steps"]] == ["pack", "hold", "hold", "hold"]


def _configured(collection: Collection, command: list[str], more: str = "") -> None:
    text = f'{GAMES}[convert.discs]\ntakes = ["cue"]\nmakes = "gdisc"\ncommand = {_quoted(command)}\n{more}'
    (collection.root / "magpie.toml").write_text(text)


@pytest.mark.parametrize(
    ("command", "more", "said"),
    [
        (["no-such-program", "{source}", "{result}"], "", "there is no program “no-such-program”"),
        (["false", "{source}", "{result}"], "", "failed"),
        (["true", "{source}", "{result}"], "", "made nothing"),
        (["cp", "{source}", "{result}"], f"back = {_quoted(['cp', '{source}', '{result}'])}\n", "is not what it was"),
        (["cp", "{source}", "{result}"], 'check = ["false", "{result}"]\n', "failed"),
        (["sh", "-c", "sleep 600", "{source}", "{result}"], 'minutes = "1"\n', "stopped"),
    ],
)
def test_what_fails_or_is_not_proved_changes_nothing(
    discs: Collection, command: list[str], more: str, said: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    _configured(discs, command, more)
    before = picture(discs.root)
    if said == "stopped":
        monkeypatch.setattr(time, "monotonic", _quick(time.monotonic))
        said = "took longer"
    assert said in _convert(discs, code=1)
    assert picture(discs.root) == before
    assert not list((discs.root / ".magpie").glob("work/*"))


def _quick(real: Callable[[], float]) -> Callable[[], float]:
    """Return a clock that runs a thousand times too fast."""
    start = real()
    return lambda: start + (real() - start) * 1000


def test_without_a_proof_the_original_stays_unless_it_is_trusted(discs: Collection) -> None:
    (discs.root / "magpie.toml").write_text(CONVERT)
    assert "which nothing proves" in _convert(discs)
    assert "Games/Gull 0.cue" in discs.files() and "Games/Gull 0.gdisc" in discs.files()
    discs.ok("undo")
    _convert(discs, "--trust")
    assert "Games/Gull 0.cue" not in discs.files()


@pytest.mark.parametrize("point", ["convert-made", "placing:3", "batch-done", "steps-written", "pack-written"])
def test_killed_in_the_middle_the_next_command_puts_it_right(discs: Collection, point: str) -> None:
    before = picture(discs.root)
    words = ["pack", "kind", "is", "game"] if "pack" in point else ["convert", "kind", "is", "game", "--by", "discs"]
    killed = program("-C", str(discs.root), *words, "--now", env={VARIABLE: point})
    assert killed.code == -9
    for _ in range(50):  # a program that was just being started may hold the lock for a moment
        if "is at work" not in (found := discs.run("scan")).err and found.code != 3:
            break
        time.sleep(0.1)
    assert not list((discs.root / ".magpie").glob("work/*")), found
    if discs.ok("history", "--json").lines:
        discs.run("redo")
        discs.ok("undo")
    assert picture(discs.root) == before


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ('takes = ["a"]\nmakes = "b"\n', "has no “command”"),
        ('takes = ["a"]\nmakes = "b"\ncommand = ["x", "{source}"]\n', "needs {source}"),
        ('takes = ["a"]\nmakes = "b"\ncommand = ["x", "-i={sources}", "{result}"]\n', "a word of its own"),
        ('takes = ["a"]\nmakes = "b"\nminutes = "soon"\ncommand = ["x", "{source}", "{result}"]\n', "“minutes”"),
    ],
)
def test_a_wrong_declaration_is_named_with_its_line(tree: Tree, text: str, said: str) -> None:
    collection = tree([], f"[convert.one]\n{text}")
    answer = collection.ok("scan", code=2)
    assert said in answer.err and "line " in answer.err


def test_stopped_by_the_keyboard_nothing_is_left_half_done(discs: Collection) -> None:
    slow = ["sh", "-c", 'sleep 0.3; cp "$1" "$2"', "slow", "{source}", "{result}"]
    more = 'check = ["true", "{result}"]\n'
    text = f'{GAMES}[convert.discs]\ntakes = ["cue"]\nmakes = "gdisc"\ncommand = {json.dumps(slow)}\n{more}'
    (discs.root / "magpie.toml").write_text(text)
    before = picture(discs.root)
    words = [str(Path(sys.executable).with_name("magpie")), "-C", str(discs.root), "convert", "kind", "is", "game"]
    running = subprocess.Popen([*words, "--by", "discs", "--now"], stdout=subprocess.PIPE, stderr=subprocess.STDOUT)
    until = time.monotonic() + 60
    while time.monotonic() < until and not list((discs.root / "Games").glob("*.gdisc")):
        time.sleep(0.05)
    running.send_signal(signal.SIGINT)
    out, _ = running.communicate(timeout=60)
    assert running.returncode == 1 and b"stopped" in out.lower()
    assert not list((discs.root / ".magpie").glob("work/*"))
    assert 0 < len(list((discs.root / "Games").glob("*.gdisc"))) < 20
    discs.ok("undo")
    assert picture(discs.root) == before
