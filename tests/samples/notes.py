"""Music from notes: MIDI, tracker modules, and what the chips of old machines play."""

from __future__ import annotations

import struct
from collections.abc import Callable, Mapping

from tests.samples.sample import Sample, gzipped


def _notes(title: bytes, mark: bytes, *, speed: int = 6, orders: bytes = b"\0") -> Callable[[], bytes]:
    """Return what makes a MOD: a pattern of 64 rows, whose first one sets the speed."""

    def data() -> bytes:
        channels = 4 if mark == b"M.K." else int(mark[:1])
        cells = bytearray(64 * channels * 4)
        cells[2:4] = bytes([0x0F, speed])
        head = title.ljust(20, b"\0") + bytes(930) + bytes([len(orders), 127]) + orders.ljust(128, b"\0") + mark
        return head + bytes(cells)

    return data


def _s3m() -> bytes:
    """Return an S3M of two orders; its pattern breaks off behind its 32nd row, at 100 beats a minute."""
    rows = b"\0" * 31 + bytes([0x80, 3, 0]) + b"\0" + b"\0" * 32
    head = bytearray(b"Low Lights".ljust(28, b"\0") + b"\x1a\x10" + bytes(66))
    struct.pack_into("<3H", head, 32, 4, 0, 1)
    head[44:48] = b"SCRM"
    head[49:51] = bytes([6, 100])
    head[64:96] = bytes([0, 8]) + b"\xff" * 30
    head[96:] = b""
    body = bytes(head[:96]) + bytes([0, 254, 0, 255]) + struct.pack("<H", 7)
    return body.ljust(112, b"\0") + struct.pack("<H", len(rows) + 2) + rows


def _xm() -> bytes:
    """Return an XM of a pattern of 16 rows, three times; the last one of it lasts four times as long."""
    cells = b"\x80" * 15 * 2 + bytes([0x98, 0xE, 0xE3, 0x80])
    head = b"Extended Module: " + b"Slack Water".ljust(20, b"\0") + b"\x1a" + b"maker".ljust(20) + b"\x04\x01"
    head += struct.pack("<I8H", 276, 3, 0, 2, 1, 0, 0, 4, 125) + bytes(256)
    return head + struct.pack("<IBHH", 9, 0, 16, len(cells)) + cells


def _it() -> bytes:
    """Return an IT of a pattern of 32 rows; a part of it is played three times."""
    rows = bytes([0x81, 8, 19, 0xB0, 0]) + b"\0" * 14 + bytes([0x81, 8, 19, 0xB2, 0]) + b"\0" * 16
    head = bytearray(192)
    head[:4] = b"IMPM"
    head[4:16] = b"Kite Evening"
    struct.pack_into("<4H", head, 32, 2, 0, 0, 1)
    head[50:52] = bytes([6, 125])
    at = 192 + 2 + 4
    return bytes(head) + bytes([0, 255]) + struct.pack("<I", at) + struct.pack("<HHI", len(rows), 32, 0) + rows


def _sid() -> bytes:
    texts = b"".join(text.ljust(32, b"\0") for text in (b"Kite Evening", b"Ida Marrow", b"1987 The Pierheads"))
    return b"PSID" + struct.pack(">HHHHHHHI", 2, 124, 0x1000, 0x1000, 0x1003, 3, 1, 0) + texts + bytes(100)


def _nsf() -> bytes:
    texts = b"".join(text.ljust(32, b"\0") for text in (b"Trawler Saga", b"<?>", b"1989 the club"))
    return b"NESM\x1a\x01" + bytes([5, 1]) + bytes(6) + texts + bytes(60)


def _spc() -> bytes:
    data = bytearray(0x200)
    data[:33] = b"SNES-SPC700 Sound File Data v0.30"
    data[0x21:0x24] = b"\x1a\x1a\x1a"
    data[0x2E:0x3A] = b"Kite Evening"
    data[0xA9:0xAC] = b"95\0"
    data[0xB1:0xBB] = b"Ida Marrow"
    return bytes(data)


def _vgm() -> bytes:
    texts = "\0".join(["Kite Evening", "", "Trawler Saga", "", "", "", "Ida Marrow", "", "1991/03", "", "", ""])
    told = texts.encode("utf-16-le")
    head = bytearray(0x40)
    head[:4] = b"Vgm "
    struct.pack_into("<I", head, 0x14, 0x40 - 0x14)
    struct.pack_into("<I", head, 0x18, 44_100 * 12)
    return bytes(head) + b"Gd3 " + struct.pack("<II", 0x100, len(told)) + told


def _midi(name: str = "Kite Song", tempo: int = 500_000) -> Callable[[], bytes]:
    """Return what makes a MIDI file of one track: its name, a tempo (microseconds a beat), a note of eight beats."""

    def data() -> bytes:
        text = name.encode()
        events = b"\x00\xff\x03" + bytes([len(text)]) + text
        events += b"\x00\xff\x51\x03" + tempo.to_bytes(3, "big")
        ticks = 96 * 8
        events += b"\x00\x90\x3c\x40" + bytes([ticks >> 7 | 0x80, ticks & 0x7F]) + b"\x80\x3c\x40\x00\xff\x2f\x00"
        return b"MThd" + struct.pack(">IHHH", 6, 0, 1, 96) + b"MTrk" + struct.pack(">I", len(events)) + events

    return data


SAMPLES: Mapping[str, Sample] = {
    "a.mid": Sample(_midi(), {"header_title": "Kite Song", "length": 4.0}),
    "slow.kar": Sample(_midi(tempo=1_000_000), {"header_title": "Kite Song", "length": 8.0}),
    "nameless.mid": Sample(_midi(name=""), {"length": 4.0}),
    "b.mod": Sample(
        _notes(b"tern in flight", b"M.K.", speed=3), {"header_title": "tern in flight", "channels": 4, "length": 3.8}
    ),
    "c.mod": Sample(_notes(b"  --  ", b"6CHN", orders=b"\0\0"), {"channels": 6, "length": 15.4}),
    "d.s3m": Sample(_s3m, {"header_title": "Low Lights", "channels": 2, "length": 9.6}),
    "e.xm": Sample(_xm, {"header_title": "Slack Water", "channels": 2, "length": 4.6}),
    "f.it": Sample(_it, {"header_title": "Kite Evening", "length": 7.7}),
    "g.sid": Sample(_sid, {"header_title": "Kite Evening", "author": "Ida Marrow", "year": 1987, "tracks": 3}),
    "h.nsf": Sample(_nsf, {"header_title": "Trawler Saga", "year": 1989, "tracks": 5}),
    "i.spc": Sample(_spc, {"header_title": "Kite Evening", "author": "Ida Marrow", "length": 95.0}),
    "j.vgm": Sample(_vgm, {"header_title": "Kite Evening", "author": "Ida Marrow", "year": 1991, "length": 12.0}),
    "k.vgz": Sample(
        gzipped(_vgm), {"header_title": "Kite Evening", "author": "Ida Marrow", "year": 1991, "length": 12.0}
    ),
}
