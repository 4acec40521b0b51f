"""Laws of bringing in: whatever a heap holds, nothing of it is lost, nothing that is there is touched, all returns."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from pathlib import Path
from typing import Any, NamedTuple

from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import CONFIG, Collection, picture
from tests.heaps import LONG_AGO, cut, put, repacked, split, zip_of

CONTENTS = (b"one", b"two", b"ten", b"a longer text", b"")
MEMBERS = st.dictionaries(
    st.sampled_from(
        "a.jpg b.jpg Papers/a.jpg Papers/b.jpg Alpha/A.png preview.jpg folder.jpg|read me.txt|Fog/a.jpg|Fog/Fog/b.jpg|"
        "rose.pes|rose.dst|rose chart.pdf|A.dst|Kelp (1950).mkv|Kelp (1950).en.srt|Gull S01E02.mkv|Thumbs.db|"
        "__MACOSX/._a.jpg|inside.zip|x7f3.bin|Élan.png".replace(" ", "\0", 6)
        .replace("|", "\0")
        .split("\0")
    ),
    st.sampled_from(CONTENTS),
    min_size=1,
    max_size=6,
)
NAMES = (
    "fpc_Fog_Papers fpc_Fog_Elements fpc_Fog_Alpha FPC_Fog_Papers_2 fpc_Gale_Templates njetty_Rose stuff 99812 "
    "Nobody_Fog_Papers Kelp.1950.720p"
).split()
LOOSE = (
    "Kelp (1950).mkv|Kelp (1950).en.srt|Tern.1999.1080p.WEB.mkv|Gull S01E02.mkv|no year.mkv|fpc_Fog_free.jpg|"
    "njetty_Rose.pes|notes.txt|More/Kelp (1950).mkv|More/deep/a.jpg|half.mkv.part|cover.jpg"
).split("|")
THERE = (
    "Films/Kelp (1950)/Kelp (1950).mkv|Kits/Fennick Paper Co/Fog/a.jpg|Kits/Fennick Paper Co/Fog/Alphabets/A.png|"
    "Kits/Fennick Paper Co/fpc_Fog_Papers.zip|Inbox/stuff.zip|Designs/Needle Jetty/Rose/rose.pes"
).split("|")


class Packed(NamedTuple):
    """An archive among the downloads: how it is called, of what sort, in what volumes, with which members."""

    name: str
    sort: str
    volumes: str
    members: Mapping[str, bytes]


ARCHIVE = st.builds(
    Packed,
    st.sampled_from(NAMES),
    st.sampled_from(["zip", "zip", "tar.gz", "7z"]),
    st.sampled_from(["", "", "cut", "split"]),
    MEMBERS,
)
HEAP = st.tuples(
    st.lists(ARCHIVE, max_size=4, unique_by=lambda one: one.name),
    st.dictionaries(st.sampled_from(LOOSE), st.sampled_from(CONTENTS), max_size=5),
    st.dictionaries(st.sampled_from(THERE), st.sampled_from(CONTENTS), max_size=3),
)
SETTINGS = st.tuples(st.sampled_from(["beside", "aside", "hold"]), st.sampled_from(["move", "copy"]))


@contextmanager
def _heap(heap: Any, how: tuple[str, str]) -> Iterator[tuple[Collection, list[tuple[list[bytes], set[bytes]]]]]:
    """Make a collection with downloads; yield it with the volumes of each archive and what its members hold."""
    archives, loose, there = heap
    with tempfile.TemporaryDirectory() as folder:
        collection = Collection(Path(folder) / "collection")
        (collection.root / "Downloads").mkdir(parents=True)
        text = CONFIG + '[intake]\narchives = "{}"\ntake = "{}"\naside = "Bought"\n'.format(*how)
        (collection.root / "magpie.toml").write_text(text)
        packed = []
        for name, sort, volumes, members in archives:
            path = repacked(zip_of(collection, f"{name}.zip", members), sort)
            pieces = [path]
            if volumes == "split" and sort == "zip":
                pieces = split(path, max(path.stat().st_size // 2, 120))
            elif volumes:
                pieces = cut(path, path.stat().st_size // 3 + 1)
            packed.append(([piece.read_bytes() for piece in pieces], {data for data in members.values() if data}))
        for where, files in (("Downloads/", loose), ("", there)):
            for path, data in files.items():
                put(collection, where + path)
                (collection.root / where / path).write_bytes(data)
                os.utime(collection.root / where / path, (LONG_AGO, LONG_AGO))
        collection.run("scan")
        yield collection, packed


def _held_and_there(collection: Collection) -> set[bytes]:
    """Return what all files of a collection hold, those in the holding area, too."""
    found = set()
    for folder, _, names in os.walk(collection.root):
        if ".magpie" not in folder or "/held" in folder:
            found |= {Path(folder, name).read_bytes() for name in names}
    return found


@settings(max_examples=25)
@given(HEAP, SETTINGS)
def test_nothing_of_a_heap_is_lost_and_all_of_it_comes_back(heap: Any, how: tuple[str, str]) -> None:
    _, loose, there = heap
    with _heap(heap, how) as (collection, packed):
        before, files = picture(collection.root), collection.files()
        collection.run("intake", "Downloads", "--now")
        after = _held_and_there(collection)
        assert set(loose.values()) <= after
        for volumes, members in packed:
            assert set(volumes) <= after or members <= after
        for path, data in there.items():
            assert (collection.root / path).read_bytes() == data
        once = collection.files()
        collection.run("intake", "Downloads", "--now")
        assert set(loose.values()) <= _held_and_there(collection)
        if collection.files() != once:
            collection.ok("undo")
        assert collection.files() == once
        if once != files:
            collection.ok("undo")
        assert picture(collection.root) == before


@settings(max_examples=20)
@given(HEAP, SETTINGS)
def test_a_plan_says_of_each_file_what_becomes_of_it_and_takes_no_name_twice(heap: Any, how: tuple[str, str]) -> None:
    with _heap(heap, how) as (collection, _):
        before = picture(collection.root)
        plan = collection.run("intake", "Downloads", "--json").json
        assert picture(collection.root) == before
        targets = [step["to"].lower() for step in plan["steps"] if step["to"]]
        assert len(targets) == len(set(targets))
        assert not {path.lower() for path in collection.files()} & set(targets)
        said = {step["from"] for step in plan["steps"]} | {left["path"] for left in plan["left"]}
        said |= {part for conflict in plan["conflicts"] for part in conflict["items"]}
        for path in collection.files():
            stays = how[1] == "copy" and path.endswith(("zip", ".7z", ".gz"))  # archives, where files are copied
            volume = path.rsplit(".", 1)[-1].lstrip("z").isdigit()
            if path.startswith("Downloads/") and not stays and not volume:
                assert any(one == path or one.startswith(f"{path}/") for one in said), path


@settings(max_examples=10)
@given(HEAP, SETTINGS)
def test_a_heap_that_is_taken_in_again_brings_nothing_twice(heap: Any, how: tuple[str, str]) -> None:
    """The same downloads once more, after the first were taken in: what came is there, and nothing comes again."""
    with _heap(heap, how) as (collection, _):
        collection.run("intake", "Downloads", "--now")
        files = {path: (collection.root / path).read_bytes() for path in collection.files()}
        again = collection.run("intake", "Downloads", "--json").json
        brought = [step for step in again["steps"] if step["do"] == "unpack"]
        for step in brought:
            assert step["to"] not in {os.path.dirname(path) for path in files}
        assert {path: (collection.root / path).read_bytes() for path in collection.files()} == files


def test_the_dates_of_what_comes_in_stay(heap: Collection) -> None:
    put(heap, "Downloads/Kelp (1950).mkv", text="film")
    heap.ok("intake", "Downloads", "--now")
    assert int((heap.root / "Films/Kelp (1950)/Kelp (1950).mkv").stat().st_mtime) == LONG_AGO
