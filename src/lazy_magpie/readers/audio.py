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
| sound_codec | how the sound is coded |

ID3 (id3.org, 2.2 to 2.4), Vorbis comments (xiph.org), MP4 and APE tags are read by the names of mutagen's "easy"
interface, which are the same for all of them.
"""

from __future__ import annotations

import os
from typing import Any

from lazy_magpie import embedded_keywords
from lazy_magpie.inner_tags import said
from lazy_magpie.model import Value

ENDINGS = frozenset(".mp3 .mp2 .flac .ogg .oga .opus .m4a .aac .wav .wma .aif .aiff .ape .wv .mka".split())
TAGS = frozenset("artist album_artist album title genre track disc year".split())
"""The facts that say what a song is; the others are measured."""
_LOSSLESS = {"FLAC": "flac", "WAVE": "pcm", "AIFF": "pcm", "MonkeysAudio": "ape", "WavPack": "wavpack"}
_LOSSY = {"MP3": "mp3", "EasyMP3": "mp3", "OggVorbis": "vorbis", "OggOpus": "opus", "ASF": "wma", "AAC": "aac"}


def read(path: str) -> dict[str, Value]:
    """Return the facts of the audio file at `path`; raises what mutagen does for a file that it can't read."""
    import mutagen

    file: Any = mutagen.File(path, easy=True)
    if file is None:
        raise ValueError("no audio format that is known")
    return {**said(file.tags or {}), **_measured(file), **_keywords(path)}


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
