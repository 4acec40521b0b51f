"""What files say of themselves: the demo's real files, files that lie, damaged ones, decoders that hang or crash."""

from __future__ import annotations

import contextlib
import functools
import io
import os
import shutil
import signal
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import av
import pytest
from mutagen.mp4 import MP4, MP4Cover
from PIL import Image

from lazy_magpie.readers import video
from lazy_magpie.readers.signatures import is_lying, real_ending
from lazy_magpie.readers.worker_pool import TELLING, Workers, read_all, read_one
from tests.conftest import Collection

FACTS: dict[str, dict[str, Any]] = {
    "Heap/Kelp Harvest (2001).mkv": {"resolution": "72p", "picture_codec": "mpeg4", "width": 128},
    "Music/Ida Marrow/Low Lights (2009)/01 - Slack Water.flac": {"lossless": True, "artist": "Ida Marrow", "track": 1},
    "Music/The Pierheads/Kite Day/01 Kite Day.mp3": {"bitrate": 320000, "lossless": False},
    "Fonts/Gullwick Sans/GullwickSans-Bold.ttf": {"family": "Gullwick Sans", "style": "Bold", "scripts": ["latin"]},
    "Fonts/Bunting-Regular.woff": {"family": "Bunting"},
    "Designs/Needle Jetty/Kite Emblem/Kite Emblem.pes": {"hoop": "100x100"},
    "Designs/Needle Jetty/Kite Emblem/Kite Emblem colour chart.pdf": {"pages": 1},
    "Designs/Needle Jetty/Kite Emblem/Kite Emblem.png": {"transparent": False},
    "Downloads/FennickPaperCo_HarbourLamps_Elements.zip": {"members": 4},
    "Games/lantern/Trawler Saga (Europe) (Disc 1).cue": {"tracks": 1},
    "Games/lantern/Trawler Saga (Europe) (Disc 1).bin": {"volume": "TRAWLER_SAGA_1"},
    "Club/README": {},
}


def test_the_demos_files_say_what_they_are(demo: Collection) -> None:
    paths = {str(demo.root / path): facts for path, facts in FACTS.items() if facts}
    for path, found in read_all(paths):
        for field, value in paths[path].items():
            assert found.get(field) == value or field == "width", (path, field, found)


def test_more_archives(tmp_path: Path) -> None:
    import tarfile

    import py7zr

    (tmp_path / "set").mkdir()
    for name in ("a.txt", "b.txt"):
        (tmp_path / "set" / name).write_text("x" * 1000)
    with tarfile.open(tmp_path / "set.tar.gz", "w:gz") as packed:
        packed.add(tmp_path / "set", "set")
    with py7zr.SevenZipFile(tmp_path / "set.7z", "w") as seven:
        seven.writeall(tmp_path / "set", "set")
    with py7zr.SevenZipFile(tmp_path / "locked.7z", "w", password="kite") as seven:
        seven.writeall(tmp_path / "set", "set")
    for name in ("set.tar.gz", "set.7z"):
        facts: dict[str, Any] = dict(read_one(str(tmp_path / name)))
        assert [member[:2] for member in facts.pop("contents")] == [["set/a.txt", 1000], ["set/b.txt", 1000]]
        assert facts == {"members": 2, "unpacked": 2000, "top": "set"}, name
    assert read_one(str(tmp_path / "locked.7z")).get("encrypted") is True


@pytest.mark.parametrize(
    ("ending", "real", "lies"),
    [(".jpg", ".png", True), (".jpeg", ".jpg", False), (".mkv", "", False), (".m4a", ".mp4", False)],
)
def test_an_ending_that_lies(ending: str, real: str, lies: bool) -> None:
    assert is_lying(ending, real) is lies


def test_the_real_type_is_found_from_the_contents(demo: Collection, tmp_path: Path) -> None:
    picture = next(demo.root.rglob("*.jpg"))
    disguised = tmp_path / "picture.png"
    disguised.write_bytes(picture.read_bytes())
    facts = read_one(str(disguised))
    assert facts["real_type"] == "jpg" and facts["width"]
    assert real_ending(picture.read_bytes()[:64]) == ".jpg"


SAMPLES = "mkv mp4 avi flac mp3 ogg m4a ttf otf woff dst pes jef exp vp3 zip png jpg pdf cue".split()


def _damaged(demo: Collection, folder: Path) -> int:
    """Write each format cut off at ten places, with flipped bytes, and as zeros; return how many files."""
    folder.mkdir()
    count = 0
    for ending in SAMPLES:
        data = next(path for path in sorted(demo.root.rglob(f"*.{ending}"))).read_bytes()
        cuts = {f"cut {n}": data[: len(data) * n // 10] for n in range(10)}
        flipped = bytearray(data)
        for at in range(0, len(data), 37):
            flipped[at] ^= 0xFF
        for name, damaged in {**cuts, "flipped": bytes(flipped), "zeros": bytes(len(data))}.items():
            (folder / f"{ending} {name}.{ending}").write_bytes(damaged)
            count += 1
    with open(folder / "huge.zip", "wb") as huge:
        huge.truncate(10 << 30)
    return count + 1


def test_damaged_files_cost_themselves_alone(demo: Collection, monkeypatch: pytest.MonkeyPatch) -> None:
    # one of them makes its decoder run for ever
    monkeypatch.setattr("lazy_magpie.scan.metadata.read_all", functools.partial(read_all, seconds=4.0))
    count = _damaged(demo, demo.root / "Damaged")
    demo.ok("start")
    answer = demo.ok("scan", "--json").json
    named = [one["path"] for one in answer["unreadable_paths"]]
    assert len(named) == len(set(named)) > len(SAMPLES) and "Damaged/huge.zip" in named
    known = demo.ok("find", "Damaged", "--json").lines
    assert sum(len(item["files"]) for item in known) == count
    assert demo.ok("scan", "--json").json["unreadable"] == 0  # read once, remembered
    assert all(item["facts"]["unreadable"] for item in demo.ok("find", "unreadable", "known", "--json").lines)


def _fake_worker(monkeypatch: pytest.MonkeyPatch, tmp_path: Path, body: str) -> None:
    """Make the pool start a worker that misbehaves for a path with “bad” in it and answers {} for others."""
    script = tmp_path / "worker.py"
    script.write_text(
        "import os, sys, time\n"
        "for line in sys.stdin:\n"
        f"    if 'bad' in line:\n        {body}\n"
        "    print('{\"lines\": 1}', flush=True)\n"
    )
    real = subprocess.Popen
    monkeypatch.setattr(
        "lazy_magpie.readers.worker_pool.subprocess.Popen",
        lambda command, **more: real([sys.executable, str(script)], **more),
    )


@pytest.mark.parametrize(
    ("body", "text"),
    [("time.sleep(60)", "took longer than"), ("os.abort()", "crashed"), ("os._exit(0)", "crashed")],
)
def test_a_decoder_that_hangs_or_crashes_costs_one_file(
    monkeypatch: pytest.MonkeyPatch, tmp_path: Path, body: str, text: str
) -> None:
    _fake_worker(monkeypatch, tmp_path, body)
    found = dict(read_all(["one", "bad", "two", "three"], jobs=1, seconds=0.7))
    assert text in str(found["bad"]["unreadable"])
    assert all(found[name] == {"lines": 1} for name in ("one", "two", "three"))


def test_workers_stay_from_question_to_question_and_start_anew_after_a_crash(tmp_path: Path) -> None:
    for name in ("a.txt", "b.txt"):
        (tmp_path / name).write_text("kite\n")
    files = [str(tmp_path / name) for name in ("a.txt", "b.txt")]
    with Workers(TELLING, jobs=1) as workers:
        assert dict(workers.ask(files)) == {0: {"lines": 1}, 1: {"lines": 1}}
        first = _children()
        assert dict(workers.ask(files[:1])) == {0: {"lines": 1}} and _children() == first and len(first) == 1
        os.kill(first[0], signal.SIGKILL)
        answers = dict(workers.ask(files))
        assert answers[0] == {"unreadable": "its decoder crashed"} and answers[1] == {"lines": 1}
        assert dict(workers.ask([])) == {}
        assert len(_children()) == 1 and _children() != first
    assert _children() == []


def _children() -> list[int]:
    """Return the workers of this process."""
    found = []
    for folder in Path("/proc").glob("[0-9]*"):
        with contextlib.suppress(OSError):
            parent = int((folder / "stat").read_text().rpartition(")")[2].split()[1])
            if parent == os.getpid() and b"lazy_magpie.readers.worker" in (folder / "cmdline").read_bytes():
                found.append(int(folder.name))
    return found


def test_a_cover_in_front_of_the_film_is_not_its_picture(demo: Collection, tmp_path: Path) -> None:
    film = tmp_path / "cover first.mp4"
    shutil.copy(max(demo.root.rglob("*.mp4"), key=lambda path: path.stat().st_size), film)
    before = video.read(str(film))
    tagged = MP4(film)  # type: ignore[no-untyped-call]
    cover = io.BytesIO()
    Image.new("RGB", (600, 900), "teal").save(cover, "jpeg")
    tagged["covr"] = [MP4Cover(cover.getvalue())]  # type: ignore[no-untyped-call]
    tagged.save()  # type: ignore[no-untyped-call]
    film.write_bytes(_tags_first(film.read_bytes()))
    with av.open(film) as container:
        assert container.streams.video[0].width == 600
    after = video.read(str(film))
    for name in ("width", "height", "resolution", "picture_codec"):
        assert after[name] == before[name]


def _tags_first(data: bytes) -> bytes:
    """Return an MP4 file with the tags in front of the tracks."""
    return b"".join(_sorted_moov(box) if kind == b"moov" else box for kind, box in _boxes(data))


def _sorted_moov(box: bytes) -> bytes:
    inner = sorted(_boxes(box[8:]), key=lambda one: (one[0] == b"trak", one[0]))
    return box[:8] + b"".join(one for _, one in inner)


def _boxes(data: bytes) -> Iterator[tuple[bytes, bytes]]:
    while data:
        size = int.from_bytes(data[:4], "big")
        yield data[4:8], data[:size]
        data = data[size:]
