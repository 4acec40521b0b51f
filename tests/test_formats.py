"""Each format that is read: what its files say, and that damaged, empty, huge and lying ones cost nothing but facts."""

from __future__ import annotations

import gzip
import json
import os
import random
import sqlite3
import subprocess
import time
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from lazy_magpie import readers
from lazy_magpie.licences import short_name
from lazy_magpie.readers.signatures import is_lying, real_ending
from lazy_magpie.readers.worker_pool import read_all, read_one
from tests.conftest import Collection
from tests.samples import SAMPLES, vast_png


@pytest.mark.parametrize("name", SAMPLES)
def test_a_file_says_what_it_is(tmp_path: Path, name: str) -> None:
    (tmp_path / name).write_bytes(SAMPLES[name].data())
    assert json.loads(json.dumps(dict(read_one(str(tmp_path / name))))) == SAMPLES[name].facts


@pytest.mark.parametrize("name", SAMPLES)
def test_a_damaged_file_costs_its_own_facts(tmp_path: Path, name: str) -> None:
    data, chance = SAMPLES[name].data(), random.Random(name)
    damaged = {"empty": b"", "zeros": bytes(5000), "ones": b"\xff" * 5000, "other": b"kite " * 1000}
    damaged |= {f"cut {at}": data[:at] for at in (1, 7, 15, 40, len(data) // 3, len(data) - 1)}
    for number in range(12):  # numbers that lie: how many there are, how long, and where
        at = chance.randrange(max(1, min(len(data), 400)))
        damaged[f"lies {number}"] = data[:at] + chance.choice([b"\xff" * 4, bytes(4), b"\x7f" * 8]) + data[at + 4 :]
    names = {str(tmp_path / f"{case}{os.path.splitext(name)[1]}"): content for case, content in damaged.items()}
    for path, content in names.items():
        Path(path).write_bytes(content)
    start = time.monotonic()
    found = dict(read_all(names))
    assert found.keys() == names.keys()
    assert time.monotonic() - start < 60
    for case in ("empty", "zeros", "ones"):
        assert not set(found[str(tmp_path / f"{case}{os.path.splitext(name)[1]}")]) - {"unreadable", "real_type"}, case


@pytest.mark.parametrize(
    "drawing",
    [
        b'<svg width="1e999" height="-4"/>',
        b'<svg viewBox="0 0 nan inf"/>',
        b"<html/>",
        b'<!DOCTYPE svg [<!ENTITY a "b"><!ENTITY c "&a;&a;&a;">]><svg><title>&c;</title></svg>',
        b"<svg>" + b"<g>" * 100_000,
        gzip.compress(b"<svg>" + b" " * (80 << 20) + b"</svg>"),
    ],
    ids=["sizes", "box", "no drawing", "entities", "deep", "bomb"],
)
def test_a_drawing_that_lies_has_no_facts(tmp_path: Path, drawing: bytes) -> None:
    (tmp_path / "a.svg").write_bytes(drawing)
    assert read_one(str(tmp_path / "a.svg")) == {}


def test_a_module_that_never_ends_is_given_up(tmp_path: Path) -> None:
    data = bytearray(SAMPLES["b.mod"].data())
    for row, effect in ((0, 0x60), (5, 0x61), (9, 0x60), (12, 0x6F)):
        at = 1084 + row * 16
        data[at + 2 : at + 4] = bytes([0x0E, effect])
    (tmp_path / "a.mod").write_bytes(bytes(data))
    assert read_one(str(tmp_path / "a.mod"))["length"] == pytest.approx(64 * 0.12 + 6 * 0.12 + 15 * 4 * 0.12, abs=0.2)


_PACKAGE = """<?xml version="1.0"?><package xmlns="http://www.idpf.org/2007/opf" xmlns:dc="http://purl.org/dc/elements/1.1/">
<metadata><dc:title> The Kite   Maker </dc:title><dc:creator>Ida Marrow</dc:creator><dc:creator>T. Wrack</dc:creator>
</metadata></package>"""
_CONTAINER = """<container xmlns="urn:oasis:names:tc:opendocument:xmlns:container"><rootfiles>
<rootfile full-path="book/package.opf"/></rootfiles></container>"""


def _epub(path: Path, package: str = _PACKAGE) -> str:
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as packed:
        packed.writestr("mimetype", "application/epub+zip", zipfile.ZIP_STORED)
        packed.writestr("META-INF/container.xml", _CONTAINER)
        packed.writestr("book/package.opf", package)
    return str(path)


def test_a_book_says_its_title_and_who_wrote_it(tmp_path: Path) -> None:
    facts = read_one(_epub(tmp_path / "book.epub"))
    assert facts == {"title": "The Kite Maker", "author": "Ida Marrow, T. Wrack"}


@pytest.mark.parametrize(
    "package",
    [
        "",
        "<package/>",
        "no XML",
        '<!DOCTYPE a [<!ENTITY b "c"><!ENTITY d "&b;&b;">]><package>&d;</package>',
        "<package>" + " " * (40 << 20) + "</package>",
    ],
    ids=["empty", "bare", "text", "entities", "huge"],
)
def test_a_book_that_lies_or_is_too_large_has_no_facts(tmp_path: Path, package: str) -> None:
    assert read_one(_epub(tmp_path / "book.epub", package)) == {}
    (tmp_path / "cut.epub").write_bytes((tmp_path / "book.epub").read_bytes()[:80])
    assert read_one(str(tmp_path / "cut.epub")) == {}


def test_a_picture_beyond_every_decoder_has_its_size_from_its_head(tmp_path: Path) -> None:
    (tmp_path / "vast.png").write_bytes(vast_png(60_000, 40_000))
    facts = read_one(str(tmp_path / "vast.png"))
    assert (facts["width"], facts["height"]) == (60_000, 40_000)


def test_a_tag_in_front_does_not_hide_what_a_file_is() -> None:
    tag = b"ID3\x04\x00\x00" + bytes([0, 0, 1, 0]) + bytes(128)
    assert real_ending(tag + b"fLaC") == ".flac"
    assert real_ending(tag + b"\xff\xfb\x90") == ".mp3"
    assert is_lying(".flac", real_ending(tag + b"\xff\xfb\x90"))
    assert not is_lying(".tta", real_ending(tag + b"????"))


@pytest.mark.parametrize(
    ("text", "name"),
    [
        ("This Font Software is licensed under the SIL Open Font License, Version 1.1.", "OFL"),
        ("https://openfontlicense.org", "OFL"),
        ("Licensed under the Apache License, Version 2.0", "Apache"),
        ("GNU Lesser General Public License", "LGPL"),
        ("GPLv3 with font exception", "GPL"),
        ("https://creativecommons.org/licenses/by-sa/4.0/", "CC BY-SA"),
        ("CC-BY-NC 3.0", "CC BY-NC"),
        ("released under CC0", "CC0"),
        ("100% free for personal use. Commercial licence on request.", "free for personal use"),
        ("Free for personal and commercial projects", "free for any use"),
        ("All Rights Reserved.", "all rights reserved"),
        ("drawn on a windy day", ""),
        ("", ""),
    ],
)
def test_a_licence_has_a_short_name(text: str, name: str) -> None:
    assert short_name(text) == name


def test_what_is_read_can_be_found(tree: Callable[..., Collection]) -> None:
    collection = tree([])
    for name in ("a.svg", "f.it", "a.pfb", "a.dng", "a.m4b", "g.sid"):
        (collection.root / f"Kite {name}").write_bytes(SAMPLES[name].data())
    collection.ok("scan")
    for words, name in {
        "colours over 2": "a.svg",
        "length under 8 and kind is track and header_title has Kite": "f.it",
        "licence_name is OFL": "a.pfb",
        "camera_raw is yes": "a.dng",
        "chapters over 3": "a.m4b",
        "author has Marrow": "g.sid",
    }.items():
        found = collection.ok("--json", "find", *words.split()).lines
        assert [one["path"] for one in found] == [f"Kite {name}"], words


@pytest.mark.parametrize(
    ("albums", "artists", "tracks", "doubt"),
    [
        (["Kite Day", "Low Lights"], ["The Pierheads"], ["3"], "tags disagree: they say album: Kite Day / Low Lights"),
        (["Kite Day", "kite day"], ["The Pierheads"], ["3"], ""),
        (["Kite Day"], ["The Pierheads", "Ida Marrow"], ["3"], ""),
        (["Kite Day"], ["The Pierheads"], ["3", "4"], "tags disagree: they say track: 3 / 4"),
    ],
)
def test_values_of_a_tag_that_differ_are_a_doubt(
    tree: Callable[..., Collection], albums: list[str], artists: list[str], tracks: list[str], doubt: str
) -> None:
    from mutagen.flac import FLAC

    collection = tree([])
    path = collection.root / "The Pierheads - Slack Water.flac"
    path.write_bytes(SAMPLES["a.flac"].data())
    tags: Any = FLAC(path)  # type: ignore[no-untyped-call]
    tags.update({"title": ["Slack Water"], "artist": artists, "album": albums, "tracknumber": tracks})
    tags.save()
    collection.ok("scan")
    (song,) = collection.ok("--json", "find").lines
    assert (song["state"] == "doubtful") == bool(doubt)
    assert doubt in collection.run("show", song["path"]).out
    assert ("who is right, the name or the tags?" in collection.run("settle").out) == bool(doubt)


def test_what_an_earlier_way_of_reading_said_is_read_anew_once(tree: Callable[..., Collection]) -> None:
    collection = tree([])
    (collection.root / "Kite.pfb").write_bytes(SAMPLES["a.pfb"].data())
    collection.ok("scan")

    def licence() -> object:
        return collection.ok("--json", "find").lines[0]["facts"].get("licence_name")

    def told_otherwise(way: str) -> None:
        with sqlite3.connect(collection.root / ".magpie/catalogue.db") as db:
            db.execute("UPDATE told SET facts = '{}'")
            db.execute("UPDATE meta SET value = ? WHERE key LIKE 'readers of %'", (way,))

    assert licence() == "OFL"
    told_otherwise(str(readers.WAY - 1))
    collection.ok("scan")
    assert licence() == "OFL"
    told_otherwise(str(readers.WAY))
    collection.ok("scan")
    assert licence() == "OFL"  # nothing has changed: the item stands as it is
    collection.ok("scan", "--full")
    assert licence() is None  # what was told is believed, as long as it was told in this way


def test_metrics_go_with_their_font_and_packed_papers_are_none(tree: Callable[..., Collection]) -> None:
    collection = tree(["Fonts/lato/NEWS.gz", "Fonts/lato/changelog.Debian.gz", "Fonts/lato/Lato.ttf.gz"])
    (collection.root / "Fonts/GullwickSans-Bold.pfb").write_bytes(SAMPLES["a.pfb"].data())
    (collection.root / "Fonts/GullwickSans-Bold.afm").write_bytes(SAMPLES["a.afm"].data())
    collection.ok("scan")
    found = {one["path"]: one for one in collection.ok("--json", "find").lines}
    assert found["Fonts/lato/NEWS.gz"]["kind"] == found["Fonts/lato/changelog.Debian.gz"]["kind"] == "archive"
    assert found["Fonts/lato/Lato.ttf.gz"]["fields"]["family"] == "Lato"
    font = found["Fonts/GullwickSans-Bold.pfb"]
    assert {file["path"]: file["role"] for file in font["files"]} == {
        "Fonts/GullwickSans-Bold.pfb": "main",
        "Fonts/GullwickSans-Bold.afm": "metrics",
    }


def test_programs_are_listed_and_never_taken_apart(tree: Callable[..., Collection]) -> None:
    collection = tree([])
    (collection.root / "Inbox").mkdir(exist_ok=True)
    for name in ("a.jar", "a.deb", "a.whl"):
        (collection.root / "Inbox" / name).write_bytes(SAMPLES[name].data())
    collection.ok("scan")
    assert {one["facts"]["members"] for one in collection.ok("--json", "find", "kind", "is", "archive").lines} == {1}
    collection.ok("intake", "Inbox", "--now")
    assert {path.name for path in collection.root.rglob("a.*")} == {"a.jar", "a.deb", "a.whl"}
    assert not list(collection.root.rglob("*.class")) + list(collection.root.rglob("kite.*"))


needs_fontconfig = pytest.mark.skipif(
    subprocess.run(["sh", "-c", "command -v fc-scan"], capture_output=True, check=False).returncode != 0,
    reason="needs fontconfig, the independent reader of fonts",
)


@needs_fontconfig
def test_type_1_fonts_are_read_as_an_independent_reader_does() -> None:
    fonts = [path for folder in ("/usr/share/fonts", "/usr/share/texmf") for path in Path(folder).rglob("*.t1")]
    if not fonts:
        pytest.skip("no fonts of this sort on this machine")
    told = dict(read_all(map(str, fonts)))
    for path, facts in told.items():
        run = subprocess.run(
            ["fc-scan", "-f", "%{family[0]}|%{style[0]}", path], capture_output=True, text=True, check=True
        )
        assert f"{facts['family']}|{facts['style']}" == run.stdout
