"""Sounds with their tags, coded by a well-known library where it can, else put together."""

from __future__ import annotations

import struct
import tempfile
from collections.abc import Callable, Mapping
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np

from tests.samples.sample import Sample

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


def _heard(
    codec: str, length: float, rate: int, channels: int, *, lossless: bool = False, bitrate: int = 0
) -> dict[str, Any]:
    facts = {"lossless": lossless, "sound_codec": codec, "length": length, "sample_rate": rate}
    return facts | {name: value for name, value in (("channels", channels), ("bitrate", bitrate)) if value}


SAMPLES: Mapping[str, Sample] = {
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
    "a.spx": Sample(_speex, TOLD | _heard("speex", 2.0, 32_000, 1)),
    "a.mpc": Sample(_musepack, _heard("musepack", 2.6, 44_100, 2, bitrate=1_317)),
}
