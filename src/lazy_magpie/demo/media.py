"""Small real films and songs, made with PyAV and tagged with mutagen; the same bytes at every making."""

from __future__ import annotations

import math
import zlib
from collections.abc import Mapping
from pathlib import Path
from typing import Any

_FRAMES = 12
_RATE = 12
_SAMPLE_RATE = 48000


def seed_of(text: str) -> int:
    """Return a number that is always the same for a text, and another for most others."""
    return zlib.crc32(text.encode())


def film(path: Path, height: int = 72) -> None:
    """Write a film of one second: a kite of the title's own colour crosses the sky. `height` is in lines."""
    import av
    import numpy

    seed = seed_of(path.name)
    width = height * 16 // 9 // 2 * 2
    options = {"fflags": "+bitexact"}
    with av.open(str(path), "w", format=_container(path), options=options) as container:
        stream: Any = container.add_stream("mpeg4", rate=_RATE)
        stream.width, stream.height, stream.pix_fmt = width, height, "yuv420p"
        stream.codec_context.thread_count = 1
        stream.codec_context.flags |= 1 << 23  # bitexact
        rows, columns = numpy.mgrid[0:height, 0:width]
        for number in range(_FRAMES):
            picture = numpy.empty((height, width, 3), numpy.uint8)
            picture[:] = (90 + seed % 80, 150 + seed % 50, 200 + seed % 50)
            centre = width * (number + 1) // (_FRAMES + 1)
            kite = abs(columns - centre) + abs(rows - height // 2) < height // 4
            picture[kite] = (seed % 256, seed // 256 % 256, seed // 65536 % 256)
            for packet in stream.encode(av.VideoFrame.from_ndarray(picture, "rgb24")):
                container.mux(packet)
        for packet in stream.encode():
            container.mux(packet)


def _container(path: Path) -> str:
    return {".mkv": "matroska", ".mp4": "mp4", ".avi": "avi", ".vob": "vob"}[path.suffix.lower()]


_CODECS = {".flac": "flac", ".mp3": "libmp3lame", ".ogg": "libopus", ".m4a": "aac"}
_SOUND_CONTAINERS = {".flac": "flac", ".mp3": "mp3", ".ogg": "ogg", ".m4a": "mp4"}


def song(path: Path, kilobits: int) -> None:
    """Write a second of three notes in the format of the file's ending, at a bit rate in kbit/s (0: lossless)."""
    import av
    import numpy

    ending = path.suffix.lower()
    seed = seed_of(path.stem.split(" - ")[-1].lstrip("0123456789 -"))
    time = numpy.arange(_SAMPLE_RATE) / _SAMPLE_RATE
    notes = [220 * 2 ** ((seed >> shift) % 12 / 12) for shift in (0, 4, 8)]
    wave = numpy.sum([numpy.sin(2 * math.pi * note * time) for note in notes], axis=0) / 4
    samples = (wave * 32000).astype(numpy.int16).reshape(1, -1)
    options = {"fflags": "+bitexact"}
    with av.open(str(path), "w", format=_SOUND_CONTAINERS[ending], options=options) as container:
        stream: Any = container.add_stream(_CODECS[ending], rate=_SAMPLE_RATE)
        stream.codec_context.layout = "mono"
        stream.codec_context.flags |= 1 << 23  # bitexact
        if kilobits:
            stream.codec_context.bit_rate = kilobits * 1000
        frame = av.AudioFrame.from_ndarray(samples, format="s16", layout="mono")
        frame.sample_rate = _SAMPLE_RATE
        for packet in (*stream.encode(frame), *stream.encode()):
            container.mux(packet)
    _tag(path)


def retag(path: Path, tags: Mapping[str, str]) -> None:
    """Give a song other tags, by the names of mutagen's “easy” interface."""
    import mutagen

    audio = mutagen.File(path, easy=True)
    audio.update(tags)
    audio.save()


def _tag(path: Path) -> None:
    """Write artist, album, title and track number into a song, as its path has them."""
    import mutagen

    record = path.parent.parent if path.parent.name.startswith("Disc ") else path.parent
    artist, album = record.parent.name, record.name
    if " - " in path.stem and not path.stem[0].isdigit():
        artist, album = path.stem.split(" - ")[0], "Singles"
    title = path.stem.split(" - ")[-1].lstrip("0123456789 -")
    number = "".join(c for c in path.stem[:2] if c.isdigit())
    audio = mutagen.File(path, easy=True)
    if audio.tags is None:
        audio.add_tags()
    audio["artist"], audio["album"], audio["title"] = artist, album.split(" (")[0], title
    if number:
        audio["tracknumber"] = number
    audio.save()
