"""What archives say of themselves at a glance, and archives in several volumes that are read as one."""

from __future__ import annotations

import io
import os
import random
import zipfile
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from lazy_magpie.change import Filesystem, Skip, contents, head_of
from lazy_magpie.change.archives.zip_directory import glance
from lazy_magpie.split_archives import Cut, JoinedVolumes, cuts_in, is_volume, whole_name
from tests.conftest import Collection
from tests.heaps import cut, put, repacked, split, zip_of

NAMES = st.lists(st.sampled_from(["a.jpg", "B.png", "Élan.txt", "маяк.dst", "x y", "ß", "."]), min_size=1, max_size=3)
MEMBERS = st.dictionaries(NAMES.map("/".join), st.binary(max_size=200), max_size=12)


def _zipped(members: dict[str, bytes], method: int = zipfile.ZIP_DEFLATED, comment: bytes = b"") -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", method) as packed:
        for name, data in members.items():
            packed.writestr(name, data)
        packed.comment = comment
    return out.getvalue()


@given(MEMBERS, st.sampled_from([zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED, zipfile.ZIP_BZIP2, zipfile.ZIP_LZMA]))
def test_a_glance_sees_what_the_package_sees(members: dict[str, bytes], method: int) -> None:
    data = _zipped(members, method)
    with zipfile.ZipFile(io.BytesIO(data)) as packed:
        seen = [(info.filename, info.file_size, info.CRC) for info in packed.infolist() if not info.is_dir()]
    listed = glance(io.BytesIO(data))
    assert (list(zip(*listed, strict=True)) if listed else []) == seen
    assert (listed is None) == (not members)


@given(MEMBERS.filter(bool), st.data())
def test_a_glance_at_what_is_damaged_never_fails(members: dict[str, bytes], draw: st.DataObject) -> None:
    data = bytearray(_zipped(members))
    for _ in range(draw.draw(st.integers(1, 4))):
        data[draw.draw(st.integers(0, len(data) - 1))] = draw.draw(st.integers(0, 255))
    glance(io.BytesIO(bytes(data[: draw.draw(st.integers(0, len(data)))])))
    glance(io.BytesIO(bytes(data)))


def _marked(data: bytes, at: int, *more: int) -> bytes:
    """Change bytes of the only member's row in a zip's directory."""
    start = data.rindex(b"PK\1\2") + at
    return data[:start] + bytes(more) + data[start + len(more) :]


PLAIN = _zipped({"a.jpg": b"a"})


@pytest.mark.parametrize(
    "data",
    [
        _zipped({"a.jpg": b"a"}, comment=b"bought on the pier"),
        b"#!/bin/sh\n" + PLAIN,
        _marked(PLAIN, 8, 1),
        _marked(PLAIN, 38, 0, 0, 0xFF, 0xA1),
        _marked(PLAIN, 24, 0xFF, 0xFF, 0xFF, 0xFF),
        _marked(PLAIN, 46, 0x81),
        _marked(PLAIN, 46, 0),
        PLAIN[:-1],
        b"",
        b"PK",
    ],
    ids="comment in-front encrypted link far encoding nul cut-off empty short".split(),
)
def test_what_is_not_plain_gets_a_closer_look(data: bytes) -> None:
    assert glance(io.BytesIO(data)) is None


def test_folders_in_an_archive_are_no_files(tmp_path: Path) -> None:
    (tmp_path / "kit.zip").write_bytes(_zipped({"Papers/": b"", "Papers/a.jpg": b"a", "Papers/More/": b""}))
    assert list(contents(Filesystem(str(tmp_path)), "kit.zip").names) == ["Papers/a.jpg"]


@pytest.mark.parametrize("name", ["../a.jpg", "/a.jpg", "C:\\a.jpg", "a/../../b.jpg", "..", "a\\..\\b.jpg"])
def test_a_glance_lets_nothing_pass_that_would_land_outside(tmp_path: Path, name: str) -> None:
    (tmp_path / "kit.zip").write_bytes(_zipped({"fine.jpg": b"a", name: b"b"}))
    with pytest.raises(Skip, match="would land outside"):
        contents(Filesystem(str(tmp_path)), "kit.zip")


def test_more_than_an_archive_of_its_size_holds_is_refused_at_a_glance(tmp_path: Path) -> None:
    data = _marked(_zipped({"a.jpg": b"a"}), 24, 0, 0, 0, 0x50)
    (tmp_path / "kit.zip").write_bytes(data)
    with pytest.raises(Skip, match="far more than its own size"):
        contents(Filesystem(str(tmp_path)), "kit.zip")


# --- volumes ---------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("names", "cuts"),
    [
        ("kit.zip notes.txt", []),
        ("kit.zip.001 kit.zip.002", [Cut("kit.zip.001", ("kit.zip.001", "kit.zip.002"))]),
        ("kit.zip.001", [Cut("kit.zip.001", ("kit.zip.001",))]),
        ("kit.7z.001 kit.7z.003", [Cut("kit.7z.001", ("kit.7z.001", "kit.7z.003"), 2)]),
        ("kit.tar.gz.002", [Cut("kit.tar.gz.002", ("kit.tar.gz.002",), 1)]),
        ("kit.z01 kit.z02 kit.zip", [Cut("kit.zip", ("kit.z01", "kit.z02", "kit.zip"))]),
        ("KIT.Z01 KIT.ZIP", [Cut("KIT.ZIP", ("KIT.Z01", "KIT.ZIP"))]),
        ("kit.z02 kit.zip", [Cut("kit.zip", ("kit.z02", "kit.zip"), 1)]),
        ("kit.z01 kit.z02", [Cut("kit.z01", ("kit.z01", "kit.z02"), 3)]),
        ("Gull Gambit.z64 Gull Gambit.zip", []),
        ("film.avi.001 film.avi.002 list.2019", []),
    ],
)
def test_volumes_are_known_by_their_names(names: str, cuts: list[Cut]) -> None:
    assert cuts_in(names.split() if "Gull" not in names else ["Gull Gambit.z64", "Gull Gambit.zip"]) == cuts


def test_a_volume_has_the_name_of_its_archive() -> None:
    names = ("kit.zip.002", "kit.z03", "kit.zip", "kit.z64")
    assert [whole_name(name) for name in names] == ["kit.zip", "kit.zip", "kit.zip", "kit.z64"]
    assert is_volume("a.tar.xz.001") and is_volume("a.z01") and not is_volume("a.zip") and not is_volume("a.z64")


@given(st.lists(st.binary(min_size=1, max_size=50), min_size=1, max_size=6), st.data())
def test_joined_files_are_read_as_one(parts: list[bytes], draw: st.DataObject) -> None:
    whole = b"".join(parts)
    joined = io.BufferedReader(JoinedVolumes([io.BytesIO(part) for part in parts]), 16)
    for _ in range(draw.draw(st.integers(1, 8))):
        at, size = draw.draw(st.integers(0, len(whole) + 5)), draw.draw(st.integers(-1, 80))
        joined.seek(at)
        assert joined.read(size) == whole[at : at + size if size >= 0 else None]
    assert joined.seek(-1, io.SEEK_END) == len(whole) - 1 and joined.read() == whole[-1:]


@pytest.mark.parametrize("size", [97, 400, 1000, 5000])
@pytest.mark.parametrize("how", ["cut", "split"])
def test_an_archive_in_volumes_of_any_size_holds_what_it_held(heap: Collection, size: int, how: str) -> None:
    chance = random.Random(size)
    members = {f"Papers/{number}.jpg": chance.randbytes(number * 40) for number in range(1, 9)}
    path = zip_of(heap, "kit.zip", members)
    if how == "split" and size < 100:
        size = 130  # the directory's end is in one volume
    volumes = cut(path, size) if how == "cut" else split(path, size)
    disk, lead = Filesystem(str(heap.root)), f"Downloads/{volumes[0 if how == 'cut' else -1].name}"
    assert list(contents(disk, lead).names) == list(members)
    assert {name: head_of(disk, lead, name, 1 << 20) for name in members} == members


def test_a_volume_that_the_directory_names_and_nobody_has_is_said(heap: Collection) -> None:
    volumes = split(zip_of(heap, "kit.zip", {f"{n}.jpg": bytes([n]) * 300 for n in range(9)}), 500)
    os.unlink(volumes[1])
    with pytest.raises(Skip, match=r"its volume “kit\.z02” is missing"):
        contents(Filesystem(str(heap.root)), "Downloads/kit.zip")


def test_volumes_are_one_item_in_the_catalogue_and_stay_together(heap: Collection) -> None:
    members = {f"{number}.jpg": bytes([number]) * 300 for number in range(9)}
    names = [volume.name for volume in split(zip_of(heap, "fpc_Fog_Papers.zip", members), 900)]
    put(heap, "Downloads/kit.7z.001", "Downloads/kit.7z.002", text="x")
    heap.ok("scan")
    found = {item["path"]: item for item in heap.ok("find", "kind", "is", "archive", "--json").lines}
    assert set(found) == {"Downloads/fpc_Fog_Papers.zip", "Downloads/kit.7z.001"}
    assert len(found["Downloads/fpc_Fog_Papers.zip"]["files"]) == len(names)
    assert "archive" in heap.ok("explain", "kit.7z.002").out
    assert not heap.ok("tidy", "--json").json["steps"]


def test_a_large_member_of_a_7z_is_not_unpacked_to_be_read(heap: Collection) -> None:
    path = repacked(zip_of(heap, "kit.zip", {"read me.txt": "by fpc", "large.txt": "x" * 5000}), "7z")
    disk, name = Filesystem(str(heap.root)), f"Downloads/{path.name}"
    assert head_of(disk, name, "read me.txt", 1000) == b"by fpc"
    assert head_of(disk, name, "large.txt", 1000) == b"" and head_of(disk, name, "no such", 1000) == b""
