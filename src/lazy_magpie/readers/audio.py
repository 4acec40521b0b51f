"""Facts of audio files, through mutagen.

| fact | what it is |
|---|---|
| artist, album_artist, album, title, genre | text; the first value where a tag has several |
| track, disc, year | numbers; of "3/12" the first |
| length | seconds |
| bitrate | bits a second |
| sample_rate, channels | Hz; how many |
| lossless | whether the coding keeps every sample |
| variable | whether the bit rate varies, where the format says so |
| keywords | words of the person's own, where the format has a place for them |
| said_twice | what the tags say twice, each time otherwise: "album: A / B" |
| sound_codec | how the sound is coded |
| chapters | how many chapters an MP4 says to have |

ID3 (id3.org, 2.2 to 2.4; in MP3, WAV, AIFF, DSF and DFF), Vorbis comments (xiph.org), MP4, APE and ASF tags.
"""

from __future__ import annotations

import os
from typing import Any

from lazy_magpie import embedded_keywords
from lazy_magpie.inner_tags import differing, said
from lazy_magpie.model import Value

ENDINGS = frozenset(
    (
        ".mp3 .mp2 .flac .ogg .oga .opus .spx .m4a .m4b .aac .wav .wma .aif .aiff .ape .wv .mka .mpc .tta .tak "
        ".dsf .dff .ac3 .dts"
    ).split()
)
TAGS = frozenset("artist album_artist album title genre track disc year said_twice".split())
"""The facts that say what a song is; the others are measured."""
_LOSSLESS = {
    "FLAC": "flac", "WAVE": "pcm", "AIFF": "pcm", "MonkeysAudio": "ape", "WavPack": "wavpack", "TAK": "tak",
    "DSF": "dsd", "DSDIFF": "dsd",
}  # fmt: skip
_LOSSY = {
    "MP3": "mp3", "EasyMP3": "mp3", "OggVorbis": "vorbis", "OggOpus": "opus", "ASF": "wma", "AAC": "aac",
    "Musepack": "musepack", "OggSpeex": "speex",
}  # fmt: skip
_STREAMS = (".dts", ".mka", ".ac3", ".tta")
"""Endings of what is read as a container of streams."""


def read(path: str) -> dict[str, Value]:
    """Return the facts of the audio file at `path`; raises what mutagen does for a file that it can't read."""
    import mutagen

    if path.lower().endswith(_STREAMS):
        return _streams(path)
    file: Any = mutagen.File(path, easy=True)
    if file is None:
        raise ValueError("no audio format that is known")
    tags = said(file.tags or {})
    if not tags and path.lower().endswith(".wav"):  # it may have its tags in a list of RIFF
        tags = {name: value for name, value in _streams(path).items() if name in TAGS}
    twice = differing(file.tags or {})
    tags |= {"said_twice": twice} if twice else {}
    return {**tags, **_measured(file), **_keywords(path), **_chapters(file)}


def _streams(path: str) -> dict[str, Value]:
    """Read the tags of a container of streams, and what its first sound is."""
    import av

    with av.open(path, metadata_errors="ignore") as container:
        sound = container.streams.audio[0].codec_context
        if not sound.sample_rate:
            raise ValueError("no sound in it")
        facts: dict[str, Value] = {"sound_codec": sound.name, "lossless": sound.name in _KEEPING}
        facts |= {"sample_rate": sound.sample_rate, "channels": sound.channels}
        if container.duration:
            facts["length"] = round(container.duration / av.time_base, 1)
        if container.bit_rate:
            facts["bitrate"] = int(container.bit_rate)
        return {**said({name.lower(): [text] for name, text in container.metadata.items()}), **facts}


_KEEPING = frozenset(["flac", "alac", "truehd", "tta", "wavpack", "ape"])
"""Codecs, as FFmpeg calls them, that keep every sample."""


def _chapters(file: Any) -> dict[str, Value]:
    chapters = getattr(file, "chapters", None)
    return {"chapters": len(chapters)} if chapters else {}


def _keywords(path: str) -> dict[str, Value]:
    ending = os.path.splitext(path)[1]
    words = embedded_keywords.of(path, ending) if embedded_keywords.can_hold(ending) else []
    return {"keywords": words} if words else {}


def _measured(file: Any) -> dict[str, Value]:
    info, sort = file.info, type(file).__name__
    codec = _LOSSLESS.get(sort) or _LOSSY.get(sort) or str(getattr(info, "codec", "")).partition(".")[0]
    found: dict[str, Value] = {"lossless": sort in _LOSSLESS or codec == "alac"}
    if codec:
        found["sound_codec"] = {"mp4a": "aac"}.get(codec, codec)
    for name, attribute in (("length", "length"), ("bitrate", "bitrate"), ("channels", "channels")):
        if value := getattr(info, attribute, 0):
            found[name] = round(value, 1) if name == "length" else int(value)
    if rate := getattr(info, "sample_rate", 0):
        found["sample_rate"] = int(rate)
    mode = str(getattr(info, "bitrate_mode", ""))
    if mode.endswith((".CBR", ".VBR", ".ABR")):
        found["variable"] = not mode.endswith(".CBR")
    return found
