"""Facts of audio files, through mutagen: the tags that say what a song is.

| fact | what it is |
|---|---|
| artist, album_artist, album, title, genre | text; the first value where a tag has several |
| track, disc, year | numbers; of "3/12" the first |

ID3 (id3.org, 2.2 to 2.4), Vorbis comments (xiph.org), MP4 and APE tags are read by the names of mutagen's "easy"
interface, which are the same for all of them.
"""

from __future__ import annotations

import re
from typing import Any

from lazy_magpie.model import Value

ENDINGS = frozenset(".mp3 .flac .ogg .oga .opus .m4a .aac .wav .wma .aif .aiff .ape .wv .mka".split())
_TEXTS = {"artist": "artist", "albumartist": "album_artist", "album": "album", "title": "title", "genre": "genre"}
_NUMBERS = {"tracknumber": "track", "discnumber": "disc"}


def read(path: str) -> dict[str, Value]:
    """Return the tags of the audio file at `path`; raises what mutagen does for a file that it can't read."""
    import mutagen

    file: Any = mutagen.File(path, easy=True)
    if file is None:
        raise ValueError("no audio format that is known")
    tags = file.tags or {}
    found: dict[str, Value] = {}
    for key, name in _TEXTS.items():
        if text := _first(tags, key):
            found[name] = text
    for key, name in _NUMBERS.items():
        if (match := re.match(r"\d+", _first(tags, key))) and int(match.group()):
            found[name] = int(match.group())
    if match := re.search(r"\b(\d{4})\b", _first(tags, "date")):
        found["year"] = int(match[1])
    return found


def _first(tags: Any, key: str) -> str:
    try:
        values = tags.get(key) or [""]
    except (KeyError, ValueError):
        return ""
    return str(values[0]).strip()
