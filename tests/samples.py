"""Small real files of formats that people have, made here from the formats' own descriptions, and what each says.

Where a well-known library writes the format, it does; the others are put together byte by byte.
"""

from __future__ import annotations

import io
import struct
import tarfile
import tempfile
import zipfile
import zlib
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path
from typing import Any, NamedTuple

import av
import numpy as np
from PIL import Image


class Sample(NamedTuple):
    """What a file holds, and the facts that it has to have, exactly."""

    data: Callable[[], bytes]
    facts: dict[str, Any]


def _picture() -> Image.Image:
    """Return a kite of two colours."""
    points = np.zeros((48, 64, 3), np.uint8)
    points[12:36, 16:48] = (200, 60, 40)
    return Image.fromarray(points)


def _saved(ending: str) -> Callable[[], bytes]:
    def data() -> bytes:
        if ending == "heic":
            from pillow_heif import register_heif_opener

            register_heif_opener()
        into = io.BytesIO()
        _picture().save(into, format={"jp2": "JPEG2000", "heic": "HEIF"}.get(ending, ending.upper()))
        return into.getvalue()

    return data


def vast_png(width: int, height: int) -> bytes:
    """Return a PNG that says to be of any size; of what it shows there is a line."""

    def chunk(name: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data))

    head = chunk(b"IHDR", struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0))
    body = chunk(b"IDAT", zlib.compress(bytes(3 * width)))
    return b"\x89PNG\r\n\x1a\n" + head + body + chunk(b"IEND", b"")


_XPM = b"""/* XPM */
static char *kite[] = {
"4 2 2 1",
"  c None",
"x c #C83C28",
"xx  ",
"  xx"
};
"""


def _psd() -> bytes:
    head = b"8BPS" + struct.pack(">H6xHIIHH", 1, 3, 48, 64, 8, 3)
    return head + struct.pack(">III", 0, 0, 0) + struct.pack(">H", 0) + bytes(3 * 48 * 64)


def _dng() -> bytes:
    """Return a picture of a camera as it was measured, point for point (TIFF 6.0, DNG 1.4)."""
    width, height = 64, 48
    texts = {306: b"2019:06:21 18:30:00\0", 271: b"Gullwick\0", 272: b"Box\0", 50708: b"Gullwick Box\0"}
    entries: list[tuple[int, int, int, bytes]] = [
        (254, 4, 1, struct.pack("<I", 0)), (256, 4, 1, struct.pack("<I", width)),
        (257, 4, 1, struct.pack("<I", height)), (258, 3, 1, struct.pack("<HH", 16, 0)),
        (259, 3, 1, struct.pack("<HH", 1, 0)), (262, 3, 1, struct.pack("<HH", 32803, 0)),
        (277, 3, 1, struct.pack("<HH", 1, 0)), (278, 4, 1, struct.pack("<I", height)),
        (279, 4, 1, struct.pack("<I", width * height * 2)), (33421, 3, 2, struct.pack("<HH", 2, 2)),
        (33422, 1, 4, bytes([0, 1, 1, 2])), (50706, 1, 4, bytes([1, 4, 0, 0])), (50707, 1, 4, bytes([1, 1, 0, 0])),
    ]  # fmt: skip
    entries += [(tag, 2, len(text), text) for tag, text in texts.items()]
    at = 8 + 2 + 12 * (len(entries) + 1) + 4
    behind, table = b"", []
    for tag, kind, count, value in sorted(entries):
        if len(value) > 4:
            table.append((tag, kind, count, struct.pack("<I", at + len(behind))))
            behind += value + bytes(len(value) % 2)
        else:
            table.append((tag, kind, count, value.ljust(4, b"\0")))
    table.append((273, 4, 1, struct.pack("<I", at + len(behind))))
    rows = b"".join(struct.pack("<HHI4s", *row) for row in sorted(table))
    points = np.arange(width * height, dtype="<u2").tobytes()
    return b"II*\0" + struct.pack("<IH", 8, len(table)) + rows + bytes(4) + behind + points


_SVG = b"""<?xml version="1.0"?>
<svg xmlns="http://www.w3.org/2000/svg" width="30mm" height="2cm" viewBox="0 0 300 200">
<title>Kite with
 a tail</title><style>.a { fill: #c83c28; }</style>
<g><title>inner</title><path class="a" style="stroke:navy;fill:none"/>
<rect fill="RGB(1, 2, 3)" stroke="none"/></g></svg>"""
_EPS = b"""%!PS-Adobe-3.0 EPSF-3.0
%%BoundingBox: 10 20 110 70
%%Title: (Kite Emblem)
%%For: Ida Marrow
%%CreationDate: 2011-09-27
%%EndComments
showpage
"""
_INDD = bytes.fromhex("0606edf5d81d46e5bd31efe7fe74b71d") + bytes(4080) + (
    b"<x:xmpmeta xmlns:x='adobe:ns:meta/'><r:RDF xmlns:r='http://www.w3.org/1999/02/22-rdf-syntax-ns#' "
    b"xmlns:dc='http://purl.org/dc/elements/1.1/'><r:Description><dc:title><r:Alt><r:li>Programme</r:li></r:Alt>"
    b"</dc:title></r:Description></r:RDF></x:xmpmeta>"
)  # fmt: skip


def _ai() -> bytes:
    from pypdf import PdfWriter

    into = io.BytesIO()
    writer = PdfWriter()
    writer.add_blank_page(300, 200)
    writer.add_metadata({"/Title": "Kite Emblem", "/Author": "Ida Marrow"})
    writer.write(into)
    return into.getvalue()


_PFA = rb"""%!PS-AdobeFont-1.0: GullwickSans-BoldItalic 1.2
/FontInfo 9 dict dup begin
/version (1.2) readonly def
/Notice (Copyright \(c\) 2011 the kite club. SIL Open Font License.) readonly def
/FullName (Gullwick Sans Bold Italic) readonly def
/FamilyName (Gullwick Sans) readonly def
/Weight (Bold) readonly def
end readonly def
/FontName /GullwickSans-BoldItalic def
currentfile eexec
"""
_PFB = b"\x80\x01" + struct.pack("<I", len(_PFA)) + _PFA + b"\x80\x02" + struct.pack("<I", 32) + bytes(32) + b"\x80\x03"
_AFM = b"""StartFontMetrics 4.1
FontName GullwickSans-Light
FullName Gullwick Sans Light
FamilyName Gullwick Sans
Weight Light
Version 001.005
Notice Free for personal use only.
StartCharMetrics 229
"""
_OFL = r"Copyright (c) 2011 the kite club. SIL Open Font License."


def _pfm() -> bytes:
    head = bytearray(117)
    struct.pack_into("<HI", head, 0, 0x100, 117 + 14)
    struct.pack_into("<H", head, 83, 700)
    struct.pack_into("<I", head, 105, 117)
    return bytes(head) + b"Gullwick Sans\0"


def _deb() -> bytes:
    def tar(name: str, text: bytes) -> bytes:
        into = io.BytesIO()
        with tarfile.open(fileobj=into, mode="w:xz") as packed:
            entry = tarfile.TarInfo(name)
            entry.size = len(text)
            packed.addfile(entry, io.BytesIO(text))
        return into.getvalue()

    data = b"!<arch>\n"
    members = (("debian-binary", b"2.0\n"), ("control.tar.xz", tar("./control", b"Package: kite\n")))
    for name, text in (*members, ("data.tar.xz", tar("./usr/share/kite.txt", b"kite" * 100))):
        data += (
            f"{name:<16}{0:<12}{0:<6}{0:<6}{'100644':<8}{len(text):<10}`\n".encode() + text + b"\n" * (len(text) % 2)
        )
    return data


def _zip(name: str) -> Callable[[], bytes]:
    def data() -> bytes:
        into = io.BytesIO()
        with zipfile.ZipFile(into, "w") as packed:
            packed.writestr(name, b"x" * 400)
        return into.getvalue()

    return data


_MILLISECONDS = Fraction(1, 1000)
_TAGS = {"title": "Slack Water", "artist": "The Pierheads", "album": "Kite Day", "track": "3", "date": "2011"}
TOLD = {"title": "Slack Water", "artist": "The Pierheads", "album": "Kite Day", "track": 3, "year": 2011}


def _sound(codec: str, form: str, *, rate: int = 44_100, chapters: int = 0, bit_rate: int = 0) -> Callable[[], bytes]:
    """Return what makes two seconds of a tone, tagged, in a codec and a container."""

    def data() -> bytes:
        with tempfile.TemporaryDirectory() as folder:
            path = str(Path(folder, "tone"))
            with av.open(path, "w", format=form) as container:
                container.metadata.update(_TAGS)
                if chapters:
                    container.set_chapters([
                        {"id": at, "start": at * 500, "end": (at + 1) * 500, "time_base": _MILLISECONDS, "metadata": {}}
                        for at in range(chapters)
                    ])  # fmt: skip
                stream: Any = container.add_stream(codec, rate=rate)
                stream.layout = "mono"
                if bit_rate:
                    stream.bit_rate = bit_rate
                tone = (np.sin(2 * np.pi * 440 * np.arange(rate * 2) / rate) * 8000).astype(np.int16)
                frame = av.AudioFrame.from_ndarray(tone.reshape(1, -1), format="s16", layout="mono")
                frame.sample_rate = rate
                size = stream.codec_context.frame_size or None
                resampler = av.AudioResampler(stream.codec_context.format, "mono", rate, frame_size=size)
                for part in (*resampler.resample(frame), *resampler.resample(None)):
                    container.mux(stream.encode(part))
                container.mux(stream.encode(None))
            return Path(path).read_bytes()

    return data


def _with_id3(data: Callable[[], bytes], ending: str) -> Callable[[], bytes]:
    """Return what makes a file with an ID3 tag in it."""

    def tagged() -> bytes:
        import mutagen
        from mutagen.id3 import TALB, TDRC, TIT2, TPE1, TRCK

        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder, f"tone{ending}")
            path.write_bytes(data())
            file: Any = mutagen.File(str(path))
            if file.tags is None:
                file.add_tags()
            tags: Any = file.tags
            for frame, text in ((TIT2, "title"), (TPE1, "artist"), (TALB, "album"), (TRCK, "track"), (TDRC, "date")):
                tags.add(frame(encoding=3, text=[_TAGS[text]]))
            file.save()
            return path.read_bytes()

    return tagged


def _dsf() -> bytes:
    """Return a second of silence of one bit, 2.8224 million times a second (DSF 1.01)."""
    samples = 2_822_400
    body = b"\x69" * 4096
    form = struct.pack("<4sQIIIIIIQII", b"fmt ", 52, 1, 0, 2, 2, samples, 1, samples, 4096, 0)
    data = struct.pack("<4sQ", b"data", 12 + len(body)) + body
    return struct.pack("<4sQQQ", b"DSD ", 28, 28 + len(form) + len(data), 0) + form + data


def _dff() -> bytes:
    """Return half a second of silence of one bit (DSDIFF 1.5)."""
    samples = 2_822_400
    prop = b"SND " + b"FS  " + struct.pack(">QI", 4, samples) + b"CHNL" + struct.pack(">QH", 10, 2) + b"SLFTSRGT"
    prop += b"CMPR" + struct.pack(">Q", 20) + b"DSD \x0enot compressed\0"
    body = b"\x69" * (samples // 8)
    chunks = b"FVER" + struct.pack(">QI", 4, 0x01050000) + b"PROP" + struct.pack(">Q", len(prop)) + prop
    chunks += b"DSD " + struct.pack(">Q", len(body)) + body
    return b"FRM8" + struct.pack(">Q", len(chunks) + 4) + b"DSD " + chunks


def _speex() -> bytes:
    """Return the two headers of a Speex stream, and a page that says how long it is."""
    from mutagen.ogg import OggPage

    new_page: Any = OggPage

    head = struct.pack("<8s20s13i", b"Speex   ", b"1.2", 1, 80, 32_000, 2, 4, 1, -1, 640, 0, 1, 0, 0, 0)
    fields = [f"{name}={_TAGS[tag]}".encode() for name, tag in _VORBIS.items()]
    notes = struct.pack("<I", 4) + b"kite" + struct.pack("<I", len(fields))
    notes += b"".join(struct.pack("<I", len(one)) + one for one in fields)
    pages = []
    for number, (packet, position) in enumerate(((head, 0), (notes, 0), (bytes(60), 64_000))):
        page: Any = new_page()
        page.packets, page.position, page.sequence, page.serial = [packet], position, number, 7
        page.first, page.last = number == 0, number == 2
        pages.append(page.write())
    return b"".join(pages)


_VORBIS = {"TITLE": "title", "ARTIST": "artist", "ALBUM": "album", "TRACKNUMBER": "track", "DATE": "date"}


def _musepack() -> bytes:
    """Return the header of a Musepack stream of version 7, of 100 frames at 44,100 Hz."""
    return b"MP+\x07" + struct.pack("<II", 100, 0) + bytes(16) + bytes(400)


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


def _gzip(data: Callable[[], bytes]) -> Callable[[], bytes]:
    def packed() -> bytes:
        import gzip

        return gzip.compress(data(), mtime=0)

    return packed


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


def _heard(
    codec: str, length: float, rate: int, channels: int, *, lossless: bool = False, bitrate: int = 0
) -> dict[str, Any]:
    facts = {"lossless": lossless, "sound_codec": codec, "length": length, "sample_rate": rate}
    return facts | {name: value for name, value in (("channels", channels), ("bitrate", bitrate)) if value}


_SIZE = {"width": 64, "height": 48}
_SANS = {"family": "Gullwick Sans"}
_CRC = 0x6ECB3F72
SAMPLES: dict[str, Sample] = {
    "a.heic": Sample(_saved("heic"), _SIZE | {"colour_mode": "RGB", "transparent": False}),
    "a.avif": Sample(_saved("avif"), _SIZE | {"colour_mode": "RGB", "transparent": False}),
    "a.jp2": Sample(_saved("jp2"), _SIZE | {"colour_mode": "RGB", "transparent": False}),
    "a.tga": Sample(_saved("tga"), _SIZE | {"colour_mode": "RGB", "transparent": False}),
    "a.pcx": Sample(_saved("pcx"), _SIZE | {"colour_mode": "RGB", "transparent": False}),
    "a.psd": Sample(_psd, _SIZE | {"colour_mode": "RGB", "transparent": False}),
    "a.xpm": Sample(lambda: _XPM, {"width": 4, "height": 2, "colour_mode": "P", "transparent": True}),
    "a.dng": Sample(_dng, _SIZE | {"camera_raw": True, "taken": "2019-06-21"}),
    "a.svg": Sample(lambda: _SVG, {"width": 113, "height": 76, "title": "Kite with a tail", "colours": 3}),
    "a.svgz": Sample(_gzip(lambda: _SVG), {"width": 113, "height": 76, "title": "Kite with a tail", "colours": 3}),
    "a.eps": Sample(
        lambda: _EPS,
        {"width": 100, "height": 50, "title": "Kite Emblem", "author": "Ida Marrow", "created": "2011-09-27"},
    ),
    "a.ai": Sample(_ai, {"pages": 1, "width": 300, "height": 200, "title": "Kite Emblem", "author": "Ida Marrow"}),
    "a.indd": Sample(lambda: _INDD, {"title": "Programme"}),
    "a.pfa": Sample(
        lambda: _PFA,
        _SANS
        | {"style": "Bold Italic", "weight": 700, "version": "1.2", "licence": _OFL, "licence_name": "OFL"},
    ),
    "a.pfb": Sample(
        lambda: _PFB,
        _SANS
        | {"style": "Bold Italic", "weight": 700, "version": "1.2", "licence": _OFL, "licence_name": "OFL"},
    ),
    "a.afm": Sample(
        lambda: _AFM,
        _SANS
        | {"style": "Light", "weight": 300, "version": "001.005", "glyphs": 229}
        | {"licence": "Free for personal use only.", "licence_name": "free for personal use"},
    ),
    "a.pfm": Sample(_pfm, _SANS | {"weight": 700}),
    "a.deb": Sample(
        _deb, {"members": 1, "unpacked": 400, "top": "usr", "contents": [["usr/share/kite.txt", 400, None]]}
    ),
    "a.jar": Sample(
        _zip("kite/Kite.class"),
        {"members": 1, "unpacked": 400, "holds": ".class", "top": "kite"}
        | {"contents": [["kite/Kite.class", 400, _CRC]]},
    ),
    "a.whl": Sample(
        _zip("kite.py"),
        {"members": 1, "unpacked": 400, "holds": ".py", "contents": [["kite.py", 400, _CRC]]},
    ),
    "a.m4b": Sample(
        _sound("aac", "mp4", chapters=4),
        TOLD | _heard("aac", 2.0, 44_100, 1, bitrate=69_821) | {"chapters": 4},
    ),
    "a.tta": Sample(
        _sound("tta", "tta"),
        TOLD | _heard("tta", 2.0, 44_100, 1, lossless=True, bitrate=75_192),
    ),
    "list.wav": Sample(
        _sound("pcm_s16le", "wav"),
        TOLD | _heard("pcm", 2.0, 44_100, 1, lossless=True, bitrate=705_600),
    ),
    "a.flac": Sample(
        _sound("flac", "flac"),
        TOLD | _heard("flac", 2.0, 44_100, 1, lossless=True, bitrate=100_112),
    ),
    "a.ac3": Sample(
        _sound("ac3", "ac3", rate=48_000, bit_rate=96_000),
        _heard("ac3", 2.0, 48_000, 1, bitrate=96_000),
    ),
    "a.wma": Sample(
        _sound("wmav2", "asf", bit_rate=64_000),
        TOLD | _heard("wma", 2.0, 44_100, 1, bitrate=64_000),
    ),
    "a.wav": Sample(
        _with_id3(_sound("pcm_s16le", "wav"), ".wav"),
        TOLD | _heard("pcm", 2.0, 44_100, 1, lossless=True, bitrate=705_600),
    ),
    "a.dsf": Sample(
        _with_id3(_dsf, ".dsf"),
        TOLD | _heard("dsd", 1.0, 2_822_400, 2, lossless=True, bitrate=5_644_800),
    ),
    "a.dff": Sample(_dff, _heard("dsd", 0.5, 2_822_400, 2, lossless=True, bitrate=5_644_800)),
    "a.spx": Sample(
        _speex, TOLD | _heard("speex", 2.0, 32_000, 1)
    ),
    "a.mpc": Sample(
        _musepack, _heard("musepack", 2.6, 44_100, 2, bitrate=1_317)
    ),
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
        _gzip(_vgm), {"header_title": "Kite Evening", "author": "Ida Marrow", "year": 1991, "length": 12.0}
    ),
}  # fmt: skip
