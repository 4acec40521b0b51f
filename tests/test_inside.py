"""What is written into songs and films: title, artist, numbers, year, cover; nothing else in them changes."""

from __future__ import annotations

import hashlib
import io
import random
import shutil
import struct
import zlib
from collections.abc import Callable
from pathlib import Path
from typing import Any

import av
import mutagen
import pytest
from PIL import Image

from lazy_magpie import inner_tags
from lazy_magpie.inner_tags import matroska
from tests.conftest import CONFIG, Collection, picture
from tests.lists import put_bytes

Tree = Callable[..., Collection]
ENDINGS = ("mp3", "flac", "ogg", "m4a", "mp4", "mkv")


def _png() -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (60, 40), "teal").save(out, "png")
    return out.getvalue()


def _packets(path: Path) -> str:
    """Return a digest of all that is coded in a file, but for covers."""
    digest = hashlib.sha256()
    with av.open(str(path), metadata_errors="ignore") as container:
        kept = [one for one in container.streams if not one.disposition & av.stream.Disposition.attached_pic]
        for packet in container.demux(kept):
            digest.update(bytes(packet))
    return digest.hexdigest()


def _one(demo: Path, ending: str) -> Path:
    return min(path for path in demo.rglob(f"*.{ending}") if path.stat().st_size > 1000)


@pytest.mark.parametrize("ending", ENDINGS)
def test_fields_and_covers_go_in_and_all_else_stays(demo: Collection, tmp_path: Path, ending: str) -> None:
    path = tmp_path / f"one.{ending}"
    shutil.copy(_one(demo.root, ending), path)
    before, sound = inner_tags.read(str(path), f".{ending}"), _packets(path)
    takes = inner_tags.takes(f".{ending}")
    wanted: dict[str, Any] = {"title": "Kelp & <Tide> ☂", "artist": "Ida", "album": "Low", "track": 4, "year": 1987}
    tags = {name: value for name, value in wanted.items() if name in takes}
    inner_tags.put(str(path), f".{ending}", tags, _png() if "cover" in takes else b"")
    after = inner_tags.read(str(path), f".{ending}")
    assert {**before.tags, **tags} == after.tags
    assert after.has_cover == ("cover" in takes)
    assert _packets(path) == sound
    with av.open(str(path), metadata_errors="ignore") as container:
        said = {**container.metadata, **{k: v for one in container.streams for k, v in one.metadata.items()}}
        assert {key.lower(): value for key, value in said.items()}["title"] == "Kelp & <Tide> ☂"


def test_a_plan_writes_them_and_undo_brings_every_byte_back(tree: Tree, demo: Collection) -> None:
    here = tree([], CONFIG + '[player.lounge]\nart = { cover = "{stem}-cover" }\n')
    album = here.root / "Music/Ida Marrow/Low Tide (2001)"
    for number, ending in enumerate(("mp3", "flac", "ogg", "m4a"), start=1):
        file = album / f"{number:02} - Kelp {number}.{ending}"
        put_bytes(file, _one(demo.root, ending).read_bytes())
        song = mutagen.File(file)
        song.delete()
    put_bytes(album / "cover.png", _png())
    for ending in ("mp4", "mkv"):
        put_bytes(
            here.root / f"Films/Tern {ending} (1999)/Tern {ending} (1999).{ending}",
            _one(demo.root, ending).read_bytes(),
        )
    for ending in ("mp4", "mkv"):
        put_bytes(here.root / f"Films/Tern {ending} (1999)/folder.jpg", _png())
    here.ok("scan")
    here.run("settle", "kind", "is", "track", "--set", "artist=Ida Marrow", "album=Low Tide", "year=2001")
    before = picture(here.root)
    times = {path: path.stat().st_mtime_ns for path in here.root.rglob("*.*")}
    plan = here.run("companions", "--inside", "--json").json
    rewritten = [step for step in plan["steps"] if step["do"] == "replace"]
    assert len(rewritten) == 6
    applied = here.ok("apply", "--json").json
    assert applied["failed"] == applied["skipped"] == []
    for file in album.glob("*.[mfo]*"):
        inside = inner_tags.read(str(file), file.suffix)
        assert inside.has_cover
        assert inside.tags["artist"] == "Ida Marrow"
        assert inside.tags["track"] == int(file.name[:2])
        assert file.stat().st_mtime_ns == times[file]
    here.ok("scan")
    assert [
        step for step in here.run("companions", "--inside", "--json").json["steps"] if step["do"] == "replace"
    ] == []
    here.ok("undo")
    assert picture(here.root) == before


def test_what_is_damaged_or_lies_is_passed_by(tree: Tree) -> None:
    here = tree([], CONFIG)
    for ending in ENDINGS:
        for number, data in enumerate((b"", b"ID3" + b"\xff" * 50, b"\x1aE\xdf\xa3" + b"\xff" * 300, b"fLaC" * 40)):
            put_bytes(here.root / f"Music/Ida/Low (2001)/0{number + 1} - Kelp.{ending}", data)
    here.ok("scan")
    before = picture(here.root)
    here.run("companions", "--inside", "--now")
    assert picture(here.root) == before


def test_a_picture_that_goes_before_the_change_leaves_the_song_as_it_is(tree: Tree, demo: Collection) -> None:
    here = tree([], CONFIG)
    song = here.root / "Music/Ida Marrow/Low Tide/01 - Kelp.flac"
    put_bytes(song, _one(demo.root, "flac").read_bytes())
    mutagen.File(song).delete()
    put_bytes(song.with_name("cover.png"), _png())
    here.ok("scan")
    before = song.read_bytes()
    assert here.run("companions", "--inside", "--json").json["steps"]
    song.with_name("cover.png").unlink()
    assert here.run("apply", "--json").json["skipped"]
    assert song.read_bytes() == before


# --- Matroska ---------------------------------------------------------------------------------------------------------


def _size(number: int, width: int) -> bytes:
    return (number | 1 << 7 * width).to_bytes(width, "big")


def _made(id: int, body: bytes, width: int = 8) -> bytes:
    return id.to_bytes((id.bit_length() + 7) // 8, "big") + _size(len(body), width) + body


def _film(before: int, after: int, title: str, *, sealed: bool) -> bytes:
    """Return a small Matroska: an index, Void elements of these sizes round Info (0: none), a cluster."""
    info = _made(0x2AD7B1, b"\x0f\x42\x40", 1) + (_made(matroska.TITLE, title.encode(), 2) if title else b"")
    voids = [_made(matroska.VOID, bytes(size - 9)) if size else b"" for size in (before, after)]
    entry_size = len(_index(0, sealed=sealed))
    place = entry_size + len(voids[0])
    cluster = _made(matroska.CLUSTER, b"\xe7\x81\x00" + b"pictures" * 20)
    body = _index(place, sealed=sealed) + voids[0] + _made(matroska.INFO, info) + voids[1] + cluster
    return _made(matroska.EBML, b"\x42\x82\x88matroska", 1) + _made(matroska.SEGMENT, body)


def _index(place: int, *, sealed: bool) -> bytes:
    seek = _made(matroska.SEEK_ID, struct.pack(">I", matroska.INFO), 1)
    body = _made(matroska.SEEK, seek + _made(matroska.SEEK_POSITION, struct.pack(">H", place), 1), 1)
    crc = _made(matroska.CRC, struct.pack("<I", zlib.crc32(body)), 1) if sealed else b""
    return _made(matroska.SEEK_HEAD, crc + body, 1)


def test_a_title_goes_into_any_matroska_that_has_room_and_into_no_other() -> None:
    chosen = random.Random(5)
    fitted = 0
    for _ in range(3000):
        before, after = (chosen.choice((0, 9, 10, 20, 130, 200)) for _ in range(2))
        old, new = ("t" * chosen.choice((0, 1, 5, 30)), "ü" * chosen.choice((1, 2, 14, 15, 16, 40, 100)))
        data = _film(before, after, old, sealed=chosen.random() < 0.5)
        file = io.BytesIO(data)
        try:
            matroska.put_title(file, new)
        except ValueError:
            assert file.getvalue() == data
            assert len(new.encode()) + 9 > before + after + len(old)
            continue
        fitted += 1
        now = file.getvalue()
        assert len(now) == len(data)
        assert matroska.title_of(io.BytesIO(now)) == new
        assert now[now.index(b"pictures") - 12 :] == data[data.index(b"pictures") - 12 :]
        _check_index(now)
    assert fitted > 1500


def test_a_cover_goes_into_any_matroska_whose_index_has_room_and_other_readers_find_it(
    demo: Collection, tmp_path: Path
) -> None:
    fitted = 0
    for room in range(9, 70):
        data = _film(room, 0, "t", sealed=bool(room % 2))
        file = io.BytesIO(data)
        fits = matroska.takes_cover(io.BytesIO(data))
        try:
            matroska.put_cover(file, _png(), "image/png")
        except ValueError:
            assert file.getvalue() == data and not fits
            continue
        fitted += 1
        now = file.getvalue()
        head = next(matroska._top(io.BytesIO(now)))
        entries = [
            now[head.body + one.start : head.body + one.end] for one in matroska._elements(now[head.body : head.end])
        ]
        place = head.start + int.from_bytes(entries[-1][-8:], "big")
        found = matroska._read(io.BytesIO(now), place)
        assert found is not None and found.id == matroska.ATTACHMENTS and found.end == len(now) and fits
        assert now[now.index(b"pictures") - 12 : place] == data[data.index(b"pictures") - 12 :]
        assert matroska.title_of(io.BytesIO(now)) == "t" and not matroska.takes_cover(io.BytesIO(now))
    assert fitted > 20
    path = tmp_path / "one.mkv"
    shutil.copy(_one(demo.root, "mkv"), path)
    inner_tags.put(str(path), ".mkv", {}, _png())
    with av.open(str(path)) as container:
        covers = [one for one in container.streams if one.disposition & av.stream.Disposition.attached_pic]
        assert [bytes(packet) for packet in container.demux(covers)][:1] == [_png()]


def test_a_matroska_that_can_take_no_cover_stays_as_it_is() -> None:
    whole = _film(120, 0, "t", sealed=False)
    open_ended = whole.replace(_size(len(whole) - whole.index(b"\x18\x53\x80\x67") - 12, 8), b"\x01" + b"\xff" * 7)
    cut_off = whole[:-5]
    full = io.BytesIO(whole)
    matroska.put_cover(full, _png(), "image/png")
    for data in (open_ended, cut_off, full.getvalue()):
        file = io.BytesIO(data)
        assert not matroska.takes_cover(file)
        with pytest.raises(ValueError, match="no room for a cover"):
            matroska.put_cover(file, _png(), "image/png")
        assert file.getvalue() == data


def _check_index(data: bytes) -> None:
    """Hold the index against where Info is, and its checksum against its contents."""
    top = list(matroska._top(io.BytesIO(data)))
    head, info = (next(one for one in top if one.id == id) for id in (matroska.SEEK_HEAD, matroska.INFO))
    body = data[head.body : head.end]
    if body[0] == matroska.CRC:
        assert struct.unpack("<I", body[2:6])[0] == zlib.crc32(body[6:])
    assert struct.unpack(">H", body[-2:])[0] == info.start - head.start
    assert sum(one.end - one.start for one in top) == top[-1].end - top[0].start
