"""Music from notes, books, and pictures that are too large to be decoded: what these say of themselves."""

from __future__ import annotations

import struct
import zipfile
import zlib
from pathlib import Path
from typing import Any

import pytest

from lazy_magpie.readers.worker_pool import read_one


def _midi(name: str = "Kite Song", beats: int = 8, tempo: int = 500_000) -> bytes:
    """Return a MIDI file of one track: its name, a tempo (microseconds a beat), a note of so many beats."""
    text = name.encode()
    events = b"\x00\xff\x03" + bytes([len(text)]) + text
    events += b"\x00\xff\x51\x03" + tempo.to_bytes(3, "big")
    ticks = 96 * beats
    events += b"\x00\x90\x3c\x40" + bytes([ticks >> 7 | 0x80, ticks & 0x7F]) + b"\x80\x3c\x40\x00\xff\x2f\x00"
    return b"MThd" + struct.pack(">IHHH", 6, 0, 1, 96) + b"MTrk" + struct.pack(">I", len(events)) + events


def _mod(title: bytes, mark: bytes) -> bytes:
    return title.ljust(20, b"\0") + bytes(1060) + mark + bytes(2048)


def _xm(title: bytes, channels: int) -> bytes:
    head = b"Extended Module: " + title.ljust(20, b"\0") + b"\x1a" + b"maker".ljust(20) + b"\x04\x01"
    return head + struct.pack("<I", 276) + struct.pack("<HHHH", 1, 0, channels, 1) + bytes(300)


_SCORES: dict[str, tuple[bytes, dict[str, Any]]] = {
    "a.mid": (_midi(), {"header_title": "Kite Song", "length": 4.0}),
    "slow.mid": (_midi(tempo=1_000_000), {"header_title": "Kite Song", "length": 8.0}),
    "nameless.mid": (_midi(name=""), {"length": 4.0}),
    "b.mod": (_mod(b"tern in flight", b"M.K."), {"header_title": "tern in flight", "channels": 4}),
    "c.mod": (_mod(b"  --  ", b"6CHN"), {"channels": 6}),
    "d.s3m": (b"Low Lights".ljust(28, b"\0") + bytes(16) + b"SCRM" + bytes(60), {"header_title": "Low Lights"}),
    "e.xm": (_xm(b"Slack Water", 8), {"header_title": "Slack Water", "channels": 8}),
}


@pytest.mark.parametrize("name", _SCORES)
def test_scores_say_what_they_are(tmp_path: Path, name: str) -> None:
    data, wanted = _SCORES[name]
    (tmp_path / name).write_bytes(data)
    assert dict(read_one(str(tmp_path / name))) == wanted


@pytest.mark.parametrize("name", _SCORES)
def test_damaged_scores_cost_nothing_but_their_facts(tmp_path: Path, name: str) -> None:
    data, _ = _SCORES[name]
    for cut in (0, 1, 10, 30, len(data) // 2):
        (tmp_path / name).write_bytes(data[:cut])
        assert isinstance(read_one(str(tmp_path / name)), dict)
    (tmp_path / name).write_bytes(b"\xff" * 5000)
    assert read_one(str(tmp_path / name)) == {}
    (tmp_path / name).write_bytes(data[:14] + b"\xff" * 3000)
    assert isinstance(read_one(str(tmp_path / name)), dict)


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
    def chunk(name: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data))

    head = chunk(b"IHDR", struct.pack(">IIBBBBB", 60_000, 40_000, 8, 2, 0, 0, 0))
    body = chunk(b"IDAT", zlib.compress(bytes(3 * 60_000)))
    (tmp_path / "vast.png").write_bytes(b"\x89PNG\r\n\x1a\n" + head + body + chunk(b"IEND", b""))
    facts = read_one(str(tmp_path / "vast.png"))
    assert (facts["width"], facts["height"]) == (60_000, 40_000)
